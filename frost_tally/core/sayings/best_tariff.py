"""“Take the tariff with the cheap night.”"""

from ..basis import Basis
from .known import Here, Tariffs
from .said import PRICED, Said, Side, Verdict, about


def said(here: Here, tariffs: Tariffs) -> Said:
    """The year of cars and house under each tariff that the home has."""
    sides = tuple(
        Side(key=f"={name}", numbers={"money": total}) for name, total in sorted(tariffs.totals.items(), key=lambda each: each[1])
    )
    spared = tariffs.totals[tariffs.now] - tariffs.totals[tariffs.best]
    money = about("money", spared, PRICED)
    small = spared < here.little
    verdict = Verdict.NOBODY_KNOWS if len(sides) < 2 else Verdict.NOT_HERE if small else Verdict.HOLDS
    return Said(verdict=verdict, room="compare", yearly=(money,), sides=sides, numbers={"spared": spared}, source=Basis.ENTERED)
