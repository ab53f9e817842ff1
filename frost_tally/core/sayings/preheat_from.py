"""“Warm the car only from so many kilometres on.”"""

from .known import Warming
from .said import Said, Turn, Verdict

LONGEST_KM = 150.0


def said(warming: Warming) -> Said:
    """Where a warm pack begins to pay tomorrow, one way."""
    at = warming.pack_from_km
    verdict = Verdict.NOT_HERE if at is None else Verdict.TURNS
    numbers = {"km": warming.km, "air_c": warming.air_c, **({} if at is None else {"from_km": at})}
    return Said(
        verdict=verdict,
        room="warm",
        numbers=numbers,
        turn=Turn(axis="distance", at=at, xs=(2.0, LONGEST_KM), own=min(warming.km, LONGEST_KM)),
        rests_on=("comfort.", "warm_up."),
    )
