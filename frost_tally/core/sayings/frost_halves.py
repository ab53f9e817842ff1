"""“Frost halves the range.”"""

import numpy as np

from .known import Driving, Here
from .said import Said, Verdict, turn_of

HALF = 0.5


def said(here: Here, driving: Driving) -> Said:
    """How much of the mild day’s range these days leave, by the air; where half is gone."""
    per_km = driving.used_kwh / driving.km
    own = int(np.argmin(np.abs(driving.airs_c - driving.situation.conditions.ambient_c)))
    now = 1.0 if driving.tally is None else driving.tally.expected_km / driving.tally.mild_km
    left = now * per_km[own] / per_km  # tomorrow’s is that of the tally, its causes besides the air with it
    cold = driving.airs_c <= 20.0
    turn = turn_of(
        "temperature", driving.airs_c[cold].tolist(), {"range": left[cold].tolist(), "half": [HALF] * int(cold.sum())}, "percent"
    )
    numbers = {"least": float(left[0]), "coldest_c": float(driving.airs_c[0])}
    if driving.tally is not None:
        numbers |= {"tomorrow": now}
    verdict = Verdict.TURNS if turn.at is not None else Verdict.NOT_HERE
    return Said(
        verdict=verdict,
        room="day",
        numbers=numbers,
        turn=turn,
        rests_on=("climate.", "pack.", "tyres."),
        measured=here.car.factors.days > 0,
    )
