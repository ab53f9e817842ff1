"""“Slow down before you turn anything off.”"""

from .known import BASE, Driving, Here
from .said import Said, Side, Verdict, about

SLOWEST_KMH = 70.0


def said(here: Here, driving: Driving) -> Said:
    """Ten km/h less on the motorway, beside five: energy, money, and the minutes that it takes."""
    if "slower_10" not in driving.remedies and not driving.gains_kwh["slower_10"].any():
        return Said(verdict=Verdict.NOT_HERE, room="day", rests_on=("road.",))
    made = driving.saving(here, "slower_10", BASE, rests_on=("road.", "air."))
    sides = tuple(_side(here, driving, key) for key in ("slower_5", "slower_10"))
    minutes = about("minutes", -60.0 * sides[-1].numbers["hours"])
    kmh = here.owned.habit.motorway_kmh - 10.0
    act = ("motorway_kmh", kmh) if kmh >= SLOWEST_KMH and here.owned.habit.motorway_km > 0 else None
    return Said(**{**vars(made), "yearly": (*made.yearly, minutes), "sides": sides, "act": act})


def _side(here: Here, driving: Driving, key: str) -> Side:
    """A speed: what it spares in a year, the hours that it takes, and what it gives tomorrow."""
    now = driving.remedies.get(key)
    kwh = float(driving.by_day(here, key).sum()) * here.a_year
    a_km = 0.0 if now is None else now.minutes / 60.0 / driving.km
    hours = a_km * float(here.km.sum()) * here.a_year
    return Side(
        key=key, numbers={"kwh": kwh, "money": kwh * here.price, "hours": hours, "km": 0.0 if now is None else now.gain_km}
    )
