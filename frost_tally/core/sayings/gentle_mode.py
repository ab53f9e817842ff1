"""“The gentle mode saves”, or “it is only the foot”."""

from .known import BASE, Driving, Here
from .said import Said, Side, about


def said(here: Here, driving: Driving) -> Said:
    """What a gentle foot gives and a brisk one takes, on a year of such days: the button itself does nothing that a foot does not."""
    share = float(here.use_kwh.sum()) * here.a_year / max(driving.km, 1e-9)
    money = {
        key: about("money", km * share * here.price, here.car.factors.sigma[BASE])
        for key, km in (("gentle", driving.habits.gentle_km), ("brisk", -driving.habits.brisk_km))
    }
    sides = (
        Side(key="gentle_foot", numbers={"km": driving.habits.gentle_km, "money": money["gentle"].likely}),
        Side(key="brisk_foot", numbers={"km": -driving.habits.brisk_km, "money": money["brisk"].likely}),
        Side(key="gentle_button", numbers={"km": 0.0, "money": 0.0}),
    )
    return Said(
        verdict=here.judged(money["gentle"]),
        room="habits",
        yearly=(money["gentle"],),
        sides=sides,
        rests_on=("style.",),
        best="gentle_foot",
    )
