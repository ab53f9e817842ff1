"""“The small battery dies first in the cold.”"""

from .known import Winter
from .said import Said, Verdict


def said(winter: Winter) -> Said:
    """What the 12 V battery’s room says of it."""
    known = winter.small_age is not None or winter.twelve_volt != ""
    verdict = (
        Verdict.NOBODY_KNOWS if not known else Verdict.HOLDS if winter.twelve_volt in ("charge", "replace") else Verdict.NOT_HERE
    )
    numbers = {} if winter.small_age is None else {"age": winter.small_age}
    return Said(verdict=verdict, room="twelve_volt", numbers=numbers, rests_on=("twelve_volt.",))
