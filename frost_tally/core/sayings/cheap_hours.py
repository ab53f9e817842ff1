"""“Charge in the cheap hours.”"""

from ..charge.control import How
from .known import Here, Outlets
from .said import Said, Side, about


def said(here: Here, outlets: Outlets) -> Said:
    """What the year costs as it is started by hand, by a timer and linked, on the own outlet."""
    own = outlets.entries[outlets.own]
    sides = tuple(Side(key=f"by_{how.value}", numbers={"money": cost}) for how, cost in own.by_control.items())
    spared = own.by_control.get(How.HAND, 0.0) - own.by_control.get(How.LINKED, 0.0)
    money = about("money", spared, here.car.factors.sigma[0])
    return Said(
        verdict=here.judged(money),
        room="outlets",
        yearly=(money,),
        sides=sides,
        numbers={"spared": spared},
        rests_on=("supply.",),
    )
