"""“Set the braking to strong”, or “to weak, and roll”."""

from .known import Driving, Here
from .said import Said, Side, Verdict, about


def said(here: Here, driving: Driving) -> Said:
    """The same either way as long as the motor brakes: what comes back of a stop, and what the friction brakes would keep."""
    ways = driving.habits
    share = ways.returned_wh_per_km / ways.put_in_wh_per_km if ways.put_in_wh_per_km else 0.0
    sides = tuple(Side(key=key, numbers={"wh": ways.returned_wh_per_km}) for key in ("strong", "weak"))
    lost = float(driving.by_day(here, "motor_brakes").sum()) * here.a_year * here.price
    return Said(
        verdict=Verdict.LITTLE if lost < here.little else Verdict.HOLDS,
        room="habits",
        sides=sides,
        yearly=(about("money", lost),),
        numbers={"share": share, "put_in_wh": ways.put_in_wh_per_km, "lost": lost},
        rests_on=("road.regen",),
    )
