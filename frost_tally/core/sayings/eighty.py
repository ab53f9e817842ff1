"""“Charge to 80 % and no further.”"""

from ..basis import Basis
from ..battery.limit_policies import LimitPolicy
from .known import Here, Limits
from .said import Said, Side, Turn, Verdict, Yearly

EIGHTY = 0.8


def said(here: Here, limits: Limits) -> Said:
    """Every limit lived on these days: what it keeps of the pack, and what it asks for; where the best one lies."""
    at = limits.at(EIGHTY)
    least = min(each.net for each in limits.policies)
    xs = tuple(each.limit for each in limits.policies)
    turn = Turn(
        axis="percent",
        at=limits.best.limit,
        xs=xs,
        lines={"net": tuple(each.net - least for each in limits.policies)},
        unit="money",
    )
    near = at.net >= limits.best.net - here.little * limits.years
    better = at.net - limits.at(1.0).net
    verdict = Verdict.LITTLE if abs(better) < here.little * limits.years else Verdict.HOLDS if near else Verdict.TURNS
    sides = tuple(
        side(key, limits.at(level))
        for key, level in (("limit_50", 0.5), ("limit_70", 0.7), ("limit_80", EIGHTY), ("limit_90", 0.9), ("limit_100", 1.0))
    )
    return Said(
        verdict=verdict,
        room="schools",
        yearly=(kept(at, limits.at(1.0), limits.years),),
        sides=sides,
        turn=turn,
        numbers={
            "points": at.kept[0],
            "low": at.kept[1],
            "high": at.kept[2],
            "best": limits.best.limit,
            "years": float(limits.years),
        },
        rests_on=("schools.", "wear."),
        source=Basis.PUBLISHED,
        act=None if here.owned.habit.limit == limits.best.limit else ("limit", limits.best.limit),
    )


def kept(policy: LimitPolicy, other: LimitPolicy, years: int) -> Yearly:
    """What a limit keeps of the pack more than another, of each year."""
    least = other.kept[0]
    return Yearly(
        of="health",
        likely=(policy.kept[0] - least) / years,
        low=(policy.kept[1] - least) / years,
        high=(policy.kept[2] - least) / years,
    )


def side(key: str, policy: LimitPolicy) -> Side:
    """A limit as one side."""
    return Side(
        key=key, numbers={"points": policy.kept[0], "raised": policy.raised, "short_days": policy.short_days, "money": policy.net}
    )
