"""“At a fast post leave at 80 %.”"""

from .known import LongWay
from .said import Said, Side, Verdict


def said(long: LongWay) -> Said:
    """The minutes of the same fifth of the pack: from 60 to 80, and from 80 to 100."""
    below, above = long.beyond_min
    sides = (Side(key="to_80", numbers={"minutes": below}), Side(key="to_100", numbers={"minutes": above}))
    verdict = Verdict.HOLDS if above > below else Verdict.NOT_HERE
    return Said(verdict=verdict, room="long", sides=sides, numbers={"times": above / max(below, 1e-9)}, rests_on=("fast.",))
