"""What goes on while a car stands, on every day of a year."""

from .known import Here, Standing
from .said import ROUGH, Said, about


def of_a_day(here: Here, standing: Standing, part: str) -> Said:
    """A cause of the drain: level and kilometres of a day, money of a year."""
    a_day = standing.parts[part]
    kwh = a_day * here.car.pack.usable_kwh
    per_km = max(1e-9, float(here.use_kwh.sum()) / max(1e-9, float(here.km.sum())))
    money = about("money", kwh * 365.0 * here.price, ROUGH)
    numbers = {"a_day": a_day, "kwh": kwh, "km": kwh / per_km}
    return Said(verdict=here.judged(money), room="parked", yearly=(money,), numbers=numbers, rests_on=("parked.",))
