"""Past days driven again by today's model, each in its own weather: what a log can be held against."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..car import Car
from ..heat.warm import WarmUpChoice, warm_ups
from ..units import Array
from .air import USUAL_HUMIDITY
from .batch import Pass, outcome_of
from .day import Outcome, Start, Trip
from .road import Conditions
from .trip import cases, side_by_side

AMPLE_KW = 22.0
WARMED = (*WarmUpChoice, "pack")
"""How a car may have been warmed: as it is planned, and the pack alone."""


@dataclass(frozen=True, kw_only=True)
class Days:
    """Logged days; arrays of shape (days,): km, air °C, level used (0 to 1, observed), wind (m/s; calm when None), cold tyre
    pressure (kPa gauge; placard when None), air around the parked car before departure (°C; the air when None), and pack and
    cabin at departure as they were planned (°C; not a number where nobody knows: then as a soaked car was warmed). `kwh` is what
    the car said that it took from the pack, not a number where nobody noted it.

    `warmed` (a number of `WARMED`), `set_c` (°C of the cabin) and `load_kg` are of days that were driven otherwise than by the habit, or
    of which it was noted; not a number for all others.
    """

    km: Array
    air_c: Array
    soc_used: Array
    wind_mps: Array | None = None
    gauge_kpa: Array | None = None
    soak_c: Array | None = None
    pack_c: Array | None = None
    cabin_c: Array | None = None
    kwh: Array | None = None
    warmed: Array | None = None
    set_c: Array | None = None
    load_kg: Array | None = None


@dataclass(frozen=True)
class Habit:
    """How a car is used every day: the warm-up, cabin °C, load beyond the driver (kg), altitude (m)."""

    choice: WarmUpChoice
    cabin_c: float = 20.0
    load_kg: float = 0.0
    altitude_m: float = 0.0

    def conditions(self, air_c: float, wind_mps: float = 0.0, gauge_kpa: float | None = None) -> Conditions:
        """The conditions of a day in some weather."""
        at = Conditions(
            ambient_c=air_c,
            relative_humidity=USUAL_HUMIDITY,
            altitude_m=self.altitude_m,
            wind_mps=wind_mps,
            tyre_gauge_kpa=gauge_kpa,
            load_kg=self.load_kg,
            cabin_set_c=self.cabin_c,
        )
        return at.seats_only() if self.choice is WarmUpChoice.SEATS else at


def replayed(car: Car, trip: Trip, days: Days, habit: Habit) -> Array:
    """Level (0 to 1) that the model takes for each day, shape (days,). Raises: as `replay`.

    Source: the day's own model (`drive.day`), one case for each day.
    """
    return replay(car, trip, days, habit).soc_used


def replay(car: Car, trip: Trip, days: Days, habit: Habit) -> Outcome:
    """Each day driven again: the trip's mix of roads over its kilometres, a case for each day.

    Every day sets off with the temperatures that are known of it, from a level at which a full pack does not limit braking.
    Raises: OutOfRange for a trip without kilometres, or weather out of range.
    """
    usual = habit.conditions(0.0)
    habits = _habits(habit, days)
    pack_c, cabin_c = _mornings(car, habits, days)
    rows = []
    for i, (of_day, _) in enumerate(habits):
        at = of_day.conditions(
            float(days.air_c[i]),
            0.0 if days.wind_mps is None else float(days.wind_mps[i]),
            None if days.gauge_kpa is None else float(days.gauge_kpa[i]),
        )
        row = cases(car, at, Start(0.9, float(pack_c[i]), float(cabin_c[i])))
        rows.append(replace(row, cooler_k=habit.cabin_c - of_day.cabin_c, seats=at.seats - usual.seats))
    stretch = np.asarray(days.km) / trip.distance_km
    inputs = replace(side_by_side(rows), town_stretch=stretch, country_stretch=stretch, motorway_stretch=stretch)
    return outcome_of(Pass(car, trip, usual, inputs))


def _habits(habit: Habit, days: Days) -> list[tuple[Habit, str]]:
    """How the car was used on each day, and what was warmed."""
    found = []
    for i in range(len(days.km)):
        warmed, set_c, load = (
            None if each is None or np.isnan(each[i]) else each[i] for each in (days.warmed, days.set_c, days.load_kg)
        )
        how = habit.choice if warmed is None else WARMED[int(warmed)]
        choice = how if isinstance(how, WarmUpChoice) else WarmUpChoice.CABIN_AND_PACK
        found.append(
            (
                replace(
                    habit,
                    choice=choice,
                    cabin_c=habit.cabin_c if set_c is None else float(set_c),
                    load_kg=habit.load_kg if load is None else float(load),
                ),
                str(how),
            )
        )
    return found


def _mornings(car: Car, habits: Sequence[tuple[Habit, str]], days: Days) -> tuple[Array, Array]:
    """Pack and cabin temperatures at departure: as planned, else as a car was warmed that soaked in the air around it."""
    soaked = days.air_c if days.soak_c is None else days.soak_c
    usual = np.empty((2, len(habits)))
    kinds = [(each.choice, each.cabin_c, how) for each, how in habits]
    for choice, cabin_c, how in dict.fromkeys(kinds):
        these = [i for i, kind in enumerate(kinds) if kind == (choice, cabin_c, how)]
        air_c = soaked[these]
        warm = warm_ups(car, choice, cabin_c=air_c, pack_c=air_c, ambient_c=air_c, set_c=cabin_c, wall_kw=AMPLE_KW)
        usual[0, these], usual[1, these] = warm.pack_c, air_c if how == "pack" else warm.cabin_c
    return _as_known(usual[0], days.pack_c), _as_known(usual[1], days.cabin_c)


def _as_known(usual: Array, own: Array | None) -> Array:
    """The days' own values, the usual ones where there are none."""
    return usual if own is None else np.where(np.isnan(own), usual, own)


def errors_of(car: Car, trip: Trip, days: Days, habit: Habit) -> Array:
    """Level used ÷ the model's − 1 on each day, shape (days,)."""
    return np.asarray(days.soc_used / np.maximum(replayed(car, trip, days, habit), 1e-6) - 1)
