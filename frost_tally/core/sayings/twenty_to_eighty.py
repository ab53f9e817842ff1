"""“Keep it between 20 and 80.”"""

from ..basis import Basis
from .eighty import kept
from .known import Here, Limits
from .said import Said, Verdict

FLOOR = 0.2


def said(here: Here, limits: Limits) -> Said:
    """The upper end is the limit’s saying; of the lower one only the days that would pass it are known: no cell wears faster low, but weak
    cells show only there, and who arrives with little has no way round a closed road.
    """
    left = 0.8 - here.use_kwh / here.car.pack.usable_kwh
    under = float((here.driven & (left < FLOOR)).sum()) * here.a_year
    at = limits.at(0.8)
    verdict = Verdict.HOLDS if under < 1 else Verdict.TURNS
    return Said(
        verdict=verdict,
        room="schools",
        yearly=(kept(at, limits.at(1.0), limits.years),),
        numbers={"days": under, "points": at.kept[0]},
        rests_on=("schools.", "wear."),
        source=Basis.PUBLISHED,
    )
