"""“Iron phosphate wants 100 % once a week.”"""

from ..basis import Basis
from .known import Here, Limits
from .said import GUESSED, Said, Verdict, about


def said(here: Here, limits: Limits) -> Said:
    """What the weekly full charge takes of an iron phosphate pack: it is for the display, which finds the level nowhere else."""
    if not here.lfp:
        return Said(verdict=Verdict.NOT_HERE, room="schools", rests_on=("schools.",), source=Basis.PUBLISHED)
    other = limits.at(limits.own.limit, limits.other_weekly)
    lost = (other.left[0] - limits.own.left[0]) / limits.years
    yearly = (about("health", -lost, GUESSED),)
    return Said(
        verdict=Verdict.HOLDS,
        room="schools",
        yearly=yearly,
        numbers={"points": lost * limits.years, "years": float(limits.years)},
        rests_on=("wear.",),
        source=Basis.PUBLISHED,
    )
