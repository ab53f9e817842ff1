"""“In frost fewer and longer stops”, or “many short ones”."""

from .known import LongWay
from .said import ROUGH, Said, Turn, Verdict, about


def said(long: LongWay) -> Said:
    """Door to door by number of stops, in frost and in summer: the trade’s short stops are for warm packs."""
    frost = {n: each for n, each in enumerate(long.frost) if each is not None}
    summer = {n: each for n, each in enumerate(long.summer) if each is not None}
    if len(frost) < 2 or len(summer) < 2:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="long", rests_on=("fast.", "long_day."))
    cold, warm = (min(each, key=lambda n: (each[n], n)) for each in (frost, summer))
    both = sorted(set(frost) & set(summer))
    one_more = frost.get(cold + 1, frost[cold]) - frost[cold]
    lines = {"frost": tuple(frost[n] for n in both), "summer": tuple(summer[n] for n in both)}
    turn = Turn(axis="count", at=float(cold), xs=tuple(float(n) for n in both), lines=lines, unit="minutes") if both else None
    numbers = {"cold": float(cold), "warm": float(warm), "one_more": one_more, "km": long.km, "days": float(long.days)}
    yearly = (about("minutes", one_more * long.days, ROUGH),) if long.days else ()
    return Said(
        verdict=Verdict.HOLDS if one_more > 0 else Verdict.NOT_HERE,
        room="long",
        yearly=yearly,
        numbers=numbers,
        turn=turn,
        rests_on=("fast.", "long_day."),
    )
