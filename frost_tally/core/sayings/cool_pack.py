"""“Heat ages a pack, cold does not.”"""

from ..basis import Basis
from .known import Here, Limits
from .said import Said, Turn, Verdict


def said(here: Here, limits: Limits) -> Said:
    """The same weeks of standing at the same level, from frost to summer."""
    line = tuple(limits.lost(0.7, each) for each in limits.stored_c)
    numbers = {"cold": limits.lost(0.7, 5.0), "warm": limits.lost(0.7, 35.0), "weeks": limits.weeks}
    hot = float((here.air_c > 25.0).sum()) * here.a_year
    return Said(
        verdict=Verdict.HOLDS if line[-1] > line[0] else Verdict.NOT_HERE,
        room="schools",
        numbers={**numbers, "days": hot},
        turn=Turn(axis="temperature", at=None, xs=limits.stored_c, lines={"lost": line}, unit="percent"),
        rests_on=("wear.",),
        source=Basis.PUBLISHED,
    )
