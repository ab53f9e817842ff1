"""Small things on a year of days, by the kilometres that they take of one."""

from .known import Driving, Here
from .said import Said, about


def small(here: Here, driving: Driving, keys: tuple[str, ...], rests_on: tuple[str, ...] = ("small.",)) -> Said:
    """What they take in a year, as a share of what the days take."""
    km = sum(each.km for each in driving.habits.small if each.key in keys)
    watts = sum(each.watts for each in driving.habits.small if each.key in keys)
    kwh = km / driving.km * here.use_kwh
    money = about("money", float(kwh.sum()) * here.a_year * here.price, 0.3)
    return Said(
        verdict=here.judged(money),
        room="habits",
        yearly=(money,),
        numbers={"km": km, "watts": watts, "kwh": float(kwh.sum()) * here.a_year},
        rests_on=rests_on,
        logged=None,
    )
