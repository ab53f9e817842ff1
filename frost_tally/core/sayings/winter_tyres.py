"""“Winter tyres by seven degrees.”"""

from ..drive.tyres import WINTER_FACTOR
from ..park.season import TYRES_C
from .known import BASE, Driving, Here, Winter
from .said import Said, Verdict, about


def said(here: Here, driving: Driving, winter: Winter) -> Said:
    """On how many driven days the air is under it; they are about grip, and what their tread takes more on those days is the price."""
    cold = here.driven & (here.air_c < TYRES_C)
    days = float(cold.sum()) * here.a_year
    kwh = float(abs(driving.by_day(here, "other_tread")[cold]).sum()) * here.a_year
    return Said(
        verdict=Verdict.HOLDS if winter.tyres_on is not None and days >= 1 else Verdict.NOT_HERE,
        room="season",
        numbers={"days": days, "more": WINTER_FACTOR - 1.0, "kwh": kwh},
        rests_on=("season.winter_tyres", "tyres.winter_factor"),
        yearly=(about("money", -kwh * here.price, here.car.factors.sigma[BASE]),),
    )
