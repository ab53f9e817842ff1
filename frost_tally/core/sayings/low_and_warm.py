"""“Arrive low and warm at the fast post.”"""

from .known import Here, LongWay
from .said import MODELLED, Said, Side, Verdict, about


def said(here: Here, long: LongWay) -> Said:
    """The same energy at one post, from a low warm pack and from a half full cold one."""
    both = long.low
    if both is None:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="long", rests_on=("fast.",))
    spared = both.half_min - both.low_min
    sides = (Side(key="low_warm", numbers={"minutes": both.low_min}), Side(key="half_cold", numbers={"minutes": both.half_min}))
    yearly = (about("minutes", spared * long.days, MODELLED),) if long.days else ()
    return Said(
        verdict=Verdict.HOLDS if spared > 0 else Verdict.NOT_HERE,
        room="long",
        yearly=yearly,
        sides=sides,
        numbers={"kwh": both.kwh, "kw": both.post_kw, "spared": spared, "days": float(long.days)},
        rests_on=("fast.",),
    )
