"""What a usual day takes over a whole year: the day's simulation tabulated by distance and air temperature."""

from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from functools import cached_property, lru_cache

import numpy as np

from ..car import PARKED_W_PER_K, Car
from ..grid import Grid
from ..heat.around import AirAt
from ..heat.lumped import relax
from ..heat.warm import WarmUpChoice, pack_target_c, warm_up
from ..units import Array
from .batch import Pass, outcome_of
from .day import Scenarios, Start, Trip
from .replay import AMPLE_KW
from .road import Conditions
from .trip import cases, run, side_by_side

AIRS_C = (-40.0, -25.0, -15.0, -8.0, 0.0, 8.0, 16.0, 24.0, 35.0, 45.0)
EVERY_C = tuple(np.arange(-44.0, 49.0).tolist())
SHARES = (0.1, 0.5, 1.0, 2.0)
COLD_PACKS_C = (-40.0, -25.0, -15.0, -8.0, -4.0, 0.0, 5.0, 10.0, 15.0)


@dataclass(frozen=True)
class DayTable:
    """Pack energy (kWh of usable capacity when warm) and pack temperature at the end of a day, by km and °C."""

    both: Grid
    most_km: float

    def ask(self, km: Array, air_c: Array) -> tuple[Array, Array]:
        """Energy and end temperature of days; arrays of one shape; a day of 0 km takes nothing."""
        km = np.asarray(km, dtype=float)
        kwh, end_pack_c = np.moveaxis(self.both.at(np.clip(km, 0.0, self.most_km), np.clip(air_c, AIRS_C[0], AIRS_C[-1])), -1, 0)
        return kwh, end_pack_c


@lru_cache(maxsize=32)
def day_table(
    car: Car,
    trip: Trip,
    most_km: float,
    choice: WarmUpChoice,
    cabin_c: float = 20.0,
    *,
    load_kg: float = 0.0,
    altitude_m: float = 0.0,
) -> DayTable:
    """Simulate a day's mix of roads over the grid (a case for each temperature), setting off soaked or warmed up as chosen.

    `most_km` is the longest day wanted. Raises: OutOfRange for a trip without kilometres.
    """
    kilometres = sorted({0.0, *(min(most_km, share * trip.distance_km) for share in SHARES), most_km})
    kwh = np.zeros((len(kilometres), len(AIRS_C)))
    ends = np.tile(np.array(AIRS_C), (len(kilometres), 1))
    mornings = [_morning(car, air_c, choice, cabin_c=cabin_c, load_kg=load_kg, altitude_m=altitude_m) for air_c in AIRS_C]
    inputs = side_by_side(mornings)
    conditions = Conditions(cabin_set_c=cabin_c)
    for i, km in enumerate(kilometres[1:], 1):
        done = run(car, trip.scaled_to(max(km, 0.1)), conditions, inputs)
        kwh[i], ends[i] = done.soc_used * car.pack.usable_kwh, done.end_pack_c
    return DayTable(Grid(np.array(kilometres), np.array(AIRS_C), np.stack([kwh, ends], axis=-1)), most_km)


def _morning(car: Car, air_c: float, choice: WarmUpChoice, *, cabin_c: float, load_kg: float, altitude_m: float) -> Scenarios:
    """One case: a day that sets off at one air temperature, soaked or warmed up."""
    warm = warm_up(car, choice, cabin_c=air_c, pack_c=air_c, ambient_c=air_c, set_c=cabin_c, wall_kw=AMPLE_KW)
    at = Conditions(ambient_c=air_c, altitude_m=altitude_m, load_kg=load_kg, cabin_set_c=cabin_c)
    return cases(car, at.seats_only() if choice is WarmUpChoice.SEATS else at, Start(1.0, warm.pack_c, warm.cabin_c))


def ended(car: Car, trip: Trip, air_c: float) -> tuple[float, float]:
    """Pack temperature (°C) at the end of a day that began soaked in some air, and the day’s hours: linear between days in every
    degree of −44 to 48 °C, which lies within about a tenth of a degree of the day itself.
    """
    end_c, hours = _ended(car, trip)
    return float(np.interp(air_c, EVERY_C, end_c)), float(np.interp(air_c, EVERY_C, hours))


@lru_cache(maxsize=16)
def _ended(car: Car, trip: Trip) -> tuple[Array, Array]:
    """What `ended` looks up, a case for each temperature."""
    days = [cases(car, Conditions(ambient_c=air_c), Start(1.0, air_c, air_c)) for air_c in EVERY_C]
    done = run(car, trip, Conditions(), side_by_side(days))
    return done.end_pack_c, done.ends[-1].hours


@lru_cache(maxsize=256)
def soaked_c(car: Car, trip: Trip, outside_c: AirAt, around_c: AirAt, plugged: datetime, *, left: time) -> float:
    """The pack (°C) when the cable goes in (local): soaked in the air of the morning, driven through the usual day from the time it `left`,
    then cooled since it stopped in the air `around_c` it.
    """
    ended_c, hours = ended(car, trip, outside_c(plugged))
    begun = plugged.replace(hour=left.hour, minute=left.minute, second=0, microsecond=0)
    if begun > plugged:
        begun -= timedelta(days=1)
    stood_s = max(0.0, (plugged - begun).total_seconds() - 3600.0 * hours)
    return float(
        relax(ended_c, around_c(plugged), 0.0, conductance=PARKED_W_PER_K, capacity=car.pack.capacity_j_per_k, seconds=stood_s)
    )


@dataclass(frozen=True)
class MoreWhenCold:
    """What a day takes more from the pack (kWh) when it sets off at some pack temperature (°C) than at the warm-up's target.

    The day is driven once, a case for each temperature, when a colder pack is first asked for. `start` has level and cabin.
    """

    car: Car
    trip: Trip
    conditions: Conditions
    start: Start

    def __call__(self, pack_c: float) -> float:
        """How much more (kWh) with the pack at a temperature (°C)."""
        return float(self.of_many(np.array([pack_c]))[0])

    def of_many(self, pack_c: Array) -> Array:
        """The same for many temperatures (°C) at once, array of the same shape."""
        target_c = pack_target_c(self.car.pack)
        if (pack_c >= target_c - 0.01).all():
            return np.zeros_like(pack_c)
        return np.where(pack_c >= target_c - 0.01, 0.0, np.interp(pack_c, *self._table))

    @cached_property
    def _table(self) -> tuple[Array, Array]:
        target_c = pack_target_c(self.car.pack)
        packs = np.array([*(each for each in COLD_PACKS_C if each < target_c), target_c])
        inputs = replace(cases(self.car, self.conditions, self.start), pack_c=packs)
        done = outcome_of(Pass(self.car, self.trip, self.conditions, inputs))
        return packs, done.energy_kwh - done.energy_kwh[-1]


def rested_c(car: Car, end_c: Array, around_c: Array, hours: float = 1.0) -> Array:
    """Pack temperature after standing at home before the cable is in. Source: the equation of `heat.lumped.relax`."""
    return relax(end_c, around_c, 0.0, conductance=PARKED_W_PER_K, capacity=car.pack.capacity_j_per_k, seconds=3600.0 * hours)
