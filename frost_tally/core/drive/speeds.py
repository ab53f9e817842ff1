"""The same day at other motorway speeds: consumption, arrival level, and the minutes lost or won."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..car import Car
from ..errors import OutOfRange
from ..units import Array
from .batch import Driving, Pass, alone, kept
from .day import Road, Start, Trip
from .road import Conditions
from .trip import cases


@dataclass(frozen=True)
class SpeedView:
    """Arrays of shape (speeds,): motorway speed (km/h), the day's consumption (Wh/km), arrival level, minutes against now."""

    speed_kmh: Array
    wh_per_km: Array
    arrival_soc: Array
    minutes: Array
    now_kmh: float


def speed_view(car: Car, trip: Trip, conditions: Conditions, start: Start, speeds_kmh: Sequence[float]) -> SpeedView:
    """Drive the day at each motorway speed (50 to 160 km/h), everything else equal: one case for each.

    Raises: OutOfRange for a day without motorway.
    """
    return alone(by_speed(car, trip, conditions, start, tuple(speeds_kmh)))


@kept
def by_speed(car: Car, trip: Trip, conditions: Conditions, start: Start, speeds_kmh: tuple[float, ...]) -> Driving[SpeedView]:
    """`speed_view` as a work that can be driven together with others."""
    legs = [leg for leg in trip.drives if leg.road is Road.MOTORWAY and leg.distance_km > 0]
    if not legs:
        raise OutOfRange("The day has no motorway, so there is no speed to choose.", "motorway_kmh")
    now_kmh = legs[0].speed_kmh or 100.0
    speeds = np.clip(np.asarray(speeds_kmh, dtype=float), 50.0, 160.0)
    inputs = replace(cases(car, conditions, start), motorway=np.append(speeds, now_kmh) / now_kmh)
    done = yield Pass(car, trip, conditions, inputs)
    minutes = 60.0 * (done.hours[:-1] - done.hours[-1])
    per_km = 1000.0 * done.energy_kwh[:-1] / trip.distance_km
    return SpeedView(speeds, per_km, start.soc - done.soc_used[:-1], minutes, now_kmh)
