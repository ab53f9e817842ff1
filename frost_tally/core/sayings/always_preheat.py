"""“Always warm cabin and pack before you leave”, “the cabin alone”, or “the seats instead”."""

from ..heat.warm import WarmUpChoice
from .known import HEAT, Here, Warming
from .said import Said, Side, Verdict, about


def said(here: Here, warming: Warming) -> Said:
    """The five choices of the Warm-up room side by side, and what all frosty days with the whole one cost against the best."""
    days, options = float(here.frosty.sum()) * here.a_year, warming.options
    sides = tuple(Side(key=key, numbers={"money": cost, "km": km, "worth": -total}) for key, (cost, km, total) in options.items())
    both, best = options[WarmUpChoice.CABIN_AND_PACK.value][2], options[warming.best][2]
    money = about("money", (both - best) * days, here.car.factors.sigma[HEAT])
    near = here.weight((money,)) < here.little
    verdict = (
        Verdict.NOT_HERE if days < 1 else Verdict.HOLDS if near else Verdict.TURNS if warming.pack_from_km else Verdict.NOT_HERE
    )
    numbers = {"days": days, "more": both - best}
    return Said(
        verdict=verdict,
        room="warm",
        yearly=(money,),
        sides=sides,
        numbers=numbers,
        best=warming.best,
        rests_on=("warm_up.", "comfort."),
    )
