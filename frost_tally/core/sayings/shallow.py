"""“Plug in every night and charge a little”, or “seldom, and then much”."""

from ..basis import Basis
from .known import Here, Limits
from .said import EITHER_WAY, Said, Side, Verdict, about


def said(here: Here, limits: Limits) -> Said:
    """The cable in every night against every so many that the pack carries: what is left of it after the years."""
    often, seldom = limits.own, limits.at(limits.own.limit, limits.seldom)
    if limits.apart < 2:
        return Said(verdict=Verdict.NOT_HERE, room="schools", rests_on=("wear.",), source=Basis.PUBLISHED, numbers={"apart": 1.0})
    gain = (often.left[0] - seldom.left[0]) / limits.years
    yearly = (about("health", gain, EITHER_WAY),)
    sides = (
        Side(key="every_night", numbers={"left": often.left[0], "nights": 365.0}),
        Side(key="seldom", numbers={"left": seldom.left[0], "nights": 365.0 / limits.apart}),
    )
    small = here.weight(yearly) < here.little
    return Said(
        verdict=Verdict.LITTLE if small else Verdict.HOLDS if gain > 0 else Verdict.NOT_HERE,
        room="schools",
        yearly=yearly,
        sides=sides,
        numbers={"apart": float(limits.apart), "points": gain * limits.years, "years": float(limits.years)},
        rests_on=("wear.",),
        source=Basis.PUBLISHED,
    )
