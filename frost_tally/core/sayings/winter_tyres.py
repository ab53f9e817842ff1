"""“Winter tyres by seven degrees.”"""

from ..drive.tyres import WINTER_FACTOR
from ..park.season import TYRES_C
from .known import Here, Winter
from .said import Said, Verdict, about

ROLLING_SHARE = 0.3


def said(here: Here, winter: Winter) -> Said:
    """On how many driven days the air is under it; they are about grip, and what harder rolling takes is small beside that."""
    cold = here.driven & (here.air_c < TYRES_C)
    days = float(cold.sum()) * here.a_year
    numbers = {"days": days, "more": WINTER_FACTOR - 1.0}
    return Said(
        verdict=Verdict.HOLDS if winter.tyres_on is not None and days >= 1 else Verdict.NOT_HERE,
        room="season",
        numbers=numbers,
        rests_on=("season.winter_tyres", "tyres.winter_factor"),
        yearly=(
            about(
                "money", -float(here.use_kwh[cold].sum()) * here.a_year * here.price * ROLLING_SHARE * (WINTER_FACTOR - 1.0), 0.3
            ),
        ),
    )
