"""“Empty and fill it once a month for the display”, or “never mind”."""

from .known import Winter
from .said import Said, Verdict


def said(winter: Winter) -> Said:
    """Only where the log says that the display may have drifted."""
    return Said(verdict=Verdict.HOLDS if winter.drifts else Verdict.NOT_HERE, room="battery", numbers={}, rests_on=("display.",))
