"""“Half and half is enough for the washer.”"""

from ..park.washer import Alcohol, freeze_point_c
from .known import Winter
from .said import Said, Turn, Verdict

SHARES = (0.1, 0.15, 0.2, 0.25, 0.3, 0.35, 0.4, 0.5)
HALF = 0.20
"""Alcohol by mass of half water and half of a concentrate of 40 %, as it is usually sold (common practice)."""


def said(winter: Winter) -> Said:
    """Where half water and half of a usual concentrate freezes, against the coldest that is expected here."""
    freezes = float(freeze_point_c(Alcohol.ETHANOL, HALF))
    line = tuple(float(freeze_point_c(Alcohol.ETHANOL, each)) for each in SHARES)
    turn = Turn(
        axis="percent",
        at=None,
        xs=SHARES,
        lines={"freezes": line, "coldest": (winter.coldest_c,) * len(SHARES)},
        unit="temperature",
    )
    verdict = Verdict.HOLDS if freezes <= winter.coldest_c else Verdict.NOT_HERE
    return Said(
        verdict=verdict,
        room="washer",
        numbers={"freezes_c": freezes, "coldest_c": winter.coldest_c, "share": HALF},
        turn=turn,
        rests_on=("washer.",),
    )
