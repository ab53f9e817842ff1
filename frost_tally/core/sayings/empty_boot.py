"""“Empty the boot.”"""

from .known import BASE, Driving, Here
from .over_air import LOAD_KG
from .said import Said, about


def said(here: Here, driving: Driving) -> Said:
    """Fifty kilograms more all year."""
    kwh = -driving.by_day(here, "loaded")
    money = about("money", float(kwh.sum()) * here.a_year * here.price, here.car.factors.sigma[BASE])
    return Said(
        verdict=here.judged(money),
        room="day",
        yearly=(money,),
        numbers={"load_kg": LOAD_KG, "kwh": float(kwh.sum()) * here.a_year},
        rests_on=("road.", "tyres."),
        logged=driving.logged(here, kwh),
    )
