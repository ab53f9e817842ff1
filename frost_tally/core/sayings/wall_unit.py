"""“You need a wall unit.”"""

from ..basis import Basis, figure
from .known import Here, Outlets
from .said import MODELLED, Said, Side, Verdict, about

NIGHT_H = figure("sayings.night", 10.0, "h", Basis.COMMON_PRACTICE, "a usual night at home")
LASTS_YEARS = figure("sayings.wall_unit_lasts", 15.0, "years", Basis.FROM_MEMORY, "a wall unit")


def said(here: Here, outlets: Outlets) -> Said:
    """The strongest outlet against the one that costs least to have: hours for a frosty day, money, and when it has paid for itself."""
    able = {name: each for name, each in outlets.entries.items() if each.rate is not None}
    by_power = sorted(able.values(), key=lambda each: each.rate.wall_kw if each.rate else 0.0)
    sides = tuple(Side(key=f"={name}", numbers={"hours": each.cold_h, "money": each.year_cost}) for name, each in able.items())
    if len(able) < 2:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="outlets", sides=sides, rests_on=("bench.",))
    weak, strong = by_power[0], by_power[-1]
    money = about("money", weak.year_cost - strong.year_cost, MODELLED)
    years = strong.payback_years
    numbers = {"weak_h": weak.cold_h, "strong_h": strong.cold_h, **({} if years is None else {"years": years})}
    enough = weak.cold_h <= NIGHT_H
    verdict = Verdict.HOLDS if not enough else Verdict.NOT_HERE if years is None or years > LASTS_YEARS else Verdict.TURNS
    return Said(
        verdict=verdict,
        room="outlets",
        yearly=(money,),
        sides=sides,
        numbers=numbers,
        rests_on=("bench.", "supply.", "sayings.night", "sayings.wall_unit"),
    )
