"""What a full pack loses of the braking."""

from functools import lru_cache

from ..basis import Basis, figure
from ..battery.cold import REGEN_FADES_SOC
from ..car import Car
from .day import Start, Trip
from .road import Conditions
from .trip import cases, run, side_by_side

MILD_C = figure("schools.mild", 8.0, "°C", Basis.COMMON_PRACTICE, "air of a usual day over the year")
UNDER = 0.05
"""So far under the level from which braking fades nothing is lost."""


@lru_cache(maxsize=32)
def regen_lost(car: Car, trip: Trip, limits: tuple[float, ...]) -> tuple[float, ...]:
    """What a full pack cannot take of the braking on a usual day, kWh, by the level it sets off with, in mild air."""
    mild = Conditions(ambient_c=MILD_C)
    starts = [cases(car, mild, Start(level, 15.0, 15.0)) for level in (REGEN_FADES_SOC - UNDER, *limits)]
    used = run(car, trip, mild, side_by_side(starts)).energy_kwh
    return tuple(max(0.0, float(each)) for each in used[1:] - used[0])
