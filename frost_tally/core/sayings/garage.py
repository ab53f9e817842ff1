"""“A garage saves charge.”"""

from .known import Here, Others
from .said import MODELLED, Said, Side, about


def said(here: Here, others: Others) -> Said:
    """The same year outdoors, in a garage and in a heated one: electricity of the car; what heats the garage is not in it."""
    sides = tuple(Side(key=key, numbers={"money": each.cost, "kwh": each.wall_kwh}) for key, each in others.garages.items())
    spared = others.garages["outdoor"].cost - others.garages["unheated"].cost
    money = about("money", spared, MODELLED)
    return Said(
        verdict=here.judged(money),
        room="another",
        yearly=(money,),
        sides=sides,
        numbers={"spared": spared},
        rests_on=("pack.", "climate."),
    )
