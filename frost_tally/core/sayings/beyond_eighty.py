"""“At a fast post leave at 80 %.”"""

import numpy as np

from ..car import Car
from ..charge.fast import WARM_TO_C, stops
from .known import LongWay
from .said import Said, Side, Verdict

FIFTH = 0.19


def fifths_min(car: Car, post_kw: float, air_c: float) -> tuple[float, float]:
    """Minutes of a warm pack at a post from 60 to 79 %, and from 80 to 99 %."""
    begin = np.array([0.6, 0.8])
    below, above = stops(car, begin, np.full(2, float(WARM_TO_C)), post_kw, air_c).minutes_to(begin + FIFTH).tolist()
    return below, above


def said(long: LongWay) -> Said:
    """The minutes of the same fifth of the pack: from 60 to 80, and from 80 to 100."""
    below, above = long.beyond_min
    sides = (Side(key="to_80", numbers={"minutes": below}), Side(key="to_100", numbers={"minutes": above}))
    verdict = Verdict.HOLDS if above > below else Verdict.NOT_HERE
    return Said(verdict=verdict, room="long", sides=sides, numbers={"times": above / max(below, 1e-9)}, rests_on=("fast.",))
