"""“Full only just before leaving.”"""

from ..basis import Basis
from .known import Here, Limits
from .said import GUESSED, Said, about


def said(here: Here, limits: Limits) -> Said:
    """The same limit reached at departure against reached at once: what the waiting takes of the pack."""
    late, early = limits.own, limits.at(limits.own.limit, limits.early)
    points = late.left[0] - early.left[0]
    gain = points / limits.years
    yearly = (about("health", gain, GUESSED),)
    return Said(
        verdict=here.judged(*yearly),
        room="schools",
        yearly=yearly,
        numbers={
            "points": points,
            "limit": late.limit,
            "late_h": late.full_h,
            "early_h": early.full_h,
            "years": float(limits.years),
        },
        source=Basis.PUBLISHED,
        rests_on=("wear.",),
        act=None if here.owned.habit.tie_break == "late" else ("tie_break", "late"),
    )
