"""“Slow charging is kind”, or “it wastes”."""

from .known import Here, Outlets
from .said import ROUGH, Said, Side, Verdict, about


def said(here: Here, outlets: Outlets) -> Said:
    """What charging loses in a year on each outlet, for a car is awake as long as it charges, beside what the rate wears."""
    able = {name: each for name, each in outlets.entries.items() if each.rate is not None and each.year is not None}
    sides = tuple(
        Side(
            key=f"={name}",
            numbers={
                "kw": each.rate.wall_kw if each.rate else 0.0,
                "kwh": each.year_lost_kwh,
                "wear": float(each.year.wear.sum()) if each.year else 0.0,
            },
        )
        for name, each in able.items()
    )
    if len(able) < 2:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="outlets", sides=sides, rests_on=("supply.",))
    weak, strong = (pick(sides, key=lambda each: each.numbers["kw"]) for pick in (min, max))
    lost = weak.numbers["kwh"] - strong.numbers["kwh"]
    worn = strong.numbers["wear"] - weak.numbers["wear"]
    money = about("money", lost * here.price - worn, ROUGH)
    small = here.weight((money,)) < here.little
    return Said(
        verdict=Verdict.LITTLE if small else Verdict.NOT_HERE if money.likely > 0 else Verdict.HOLDS,
        room="outlets",
        yearly=(money,),
        sides=sides,
        numbers={"kwh": lost, "wear": worn},
        rests_on=("supply.", "wear."),
        best=strong.key if money.likely > 0 else weak.key,
    )
