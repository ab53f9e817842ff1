"""“Buy the larger pack”, or “the smaller one will do”."""

from ..advice.another_car import YearOn
from .known import Here, Others
from .said import PRICED, Said, Side, Verdict, about


def said(here: Here, others: Others) -> Said:
    """The same year with a fifth less and a quarter more in the pack: days that its nights do not carry, and what they cost."""
    sides = tuple(
        _side(key, each) for key, each in (("smaller", others.smaller), ("as_it_is", others.own), ("larger", others.larger))
    )
    spared = others.own.cost - others.larger.cost
    fewer = others.smaller.short_days - others.own.short_days, others.own.short_days - others.larger.short_days
    verdict = Verdict.HOLDS if fewer[1] > 0 else Verdict.NOT_HERE if fewer[0] <= 0 else Verdict.TURNS
    return Said(
        verdict=verdict,
        room="another",
        yearly=(about("money", spared, PRICED),),
        sides=sides,
        rests_on=("long_day.stop_share",),
        numbers={
            "fewer": float(fewer[1]),
            "more": float(fewer[0]),
            "extra": (others.larger.usable_kwh - others.own.usable_kwh) * here.pack_price,
        },
    )


def _side(key: str, year: YearOn) -> Side:
    return Side(
        key=key,
        numbers={"capacity": year.usable_kwh, "short_days": float(year.short_days), "money": year.cost, "cold_km": year.cold_km},
    )
