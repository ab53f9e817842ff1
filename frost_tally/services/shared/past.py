"""A car's noted days as facts: kilometres, weather, what they took; and how the latest went against today's model."""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from datetime import datetime
from functools import cached_property, lru_cache
from math import isnan
from zoneinfo import ZoneInfo

import numpy as np

from ...core.car import Car
from ...core.coming.weather import Fading, TypedNight, miss_k
from ...core.drive.air import pressure_at
from ...core.drive.certainty import OwnDays, own_days
from ...core.drive.day import Trip
from ...core.drive.replay import WARMED, Days, Habit, errors_of, replayed
from ...core.drive.tyre_log import TyreReading
from ...core.drive.tyres import FLAT_KPA, gauge_at
from ...core.heat.around import driven_c, parked_c
from ...core.heat.warm import WarmUpChoice
from ...core.home import OwnedCar
from ...core.units import Array
from ...household.facts import DrivenDay, driven_days
from ...household.snapshot import Snapshot
from ...world import Weather
from .climate import HoursOfFiles, climate_of
from .derived import derived, made_of
from .facts import tyres_now
from .measured import charging_car

RECENT = 30
LEARNT_FROM = 1000


def days_of(
    owned: OwnedCar, tyres: TyreReading, departures: Sequence[datetime], km: Array, soc_used: Array, *, weather: Sequence[Weather]
) -> Days:
    """Days, each in its weather: the mean air of the hours of departure and return, the wind, the tyres cold at that air, and the
    air around the car where it stood.
    """
    outside_kpa, parked_h, standing = pressure_at(owned.place.altitude_m) / 1000.0, owned.habit.parked_h, owned.place.standing
    found = [_weathered(outside, at, parked_h, *standing) for at, outside in zip(departures, weather, strict=True)]
    air_c, wind_mps, soak_c = (np.array(each) for each in zip(*found, strict=True))
    gauge = [max(FLAT_KPA, gauge_at(tyres.kpa, tyres.read_c, each, outside_kpa)) for each in air_c.tolist()]
    return Days(km=km, air_c=air_c, soc_used=soc_used, wind_mps=wind_mps, gauge_kpa=np.array(gauge), soak_c=soak_c)


@lru_cache(maxsize=4096)
def _weathered(outside: Weather, at: datetime, parked_h: float, garage: str, heated_c: float) -> tuple[float, float, float]:
    """Air of the drives (°C), wind (m/s) and air around the parked car (°C) of a day: what is past does not change."""
    air = outside.temperature_c
    return driven_c(air, at, parked_h), outside.wind_mps(at), parked_c(air, at, garage, heated_c)


def noted_days(snapshot: Snapshot, owned: OwnedCar, limit: int, tyres: TyreReading | None = None) -> Days:
    """The latest days driven, the earliest first, in the weather of the place, or as it was typed for them; kept while the log stands."""
    read = tyres or tyres_now(snapshot, owned)
    what = ("noted days", owned.id, owned.place, owned.habit.parked_h, owned.before, read, limit)
    return derived(snapshot, what, lambda: _noted(snapshot, owned, limit, read), ("drive", "weather"))


def _noted(snapshot: Snapshot, owned: OwnedCar, limit: int, tyres: TyreReading) -> Days:
    facts, climate = driven_days(snapshot.log, owned.id, limit), climate_of(snapshot, owned.place)
    if not facts:
        return Days(**{each.name: np.zeros(0) for each in fields(Days)})
    days = days_of(
        owned,
        tyres,
        [each.left_at.astimezone(owned.zone) for each in facts],
        np.array([each.km for each in facts]),
        np.array([each.soc_used for each in facts]),
        weather=[
            _as_noted(each, owned, climate if snapshot.world.weather is not None else _as_typed(each, owned.zone, climate))
            for each in facts
        ],
    )
    known = np.array([(each.pack_c, each.cabin_c, each.kwh, *_used(owned, each)) for each in facts], dtype=float)
    names = ("pack_c", "cabin_c", "kwh", "warmed", "set_c", "load_kg")
    return replace(days, **dict(zip(names, known.T, strict=True)))


def _used(owned: OwnedCar, day: DrivenDay) -> tuple[float | None, float | None, float | None]:
    """What was warmed (a number of `WARMED`), the cabin's °C and the load (kg) of a day, as they were noted, or as the habit was then; None
    for what is as it is now (docs/decisions/0063).
    """
    before = owned.driven_before(day.left_at)
    warmed = day.warmed or (None if before is None else before.choice.value)
    return (
        None if warmed is None else [str(each) for each in WARMED].index(warmed),
        None if before is None else before.cabin_c,
        day.load_kg if day.load_kg is not None or before is None else before.load_kg,
    )


@dataclass(frozen=True)
class Noted:
    """The air of a day of which somebody noted it: the course that is known otherwise, shifted to that."""

    out_c: float
    left_at: datetime
    parked_h: float
    otherwise: Weather

    @cached_property
    def _off_k(self) -> float:
        return self.out_c - driven_c(self.otherwise.temperature_c, self.left_at, self.parked_h)

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C."""
        return self.otherwise.temperature_c(moment) + self._off_k

    def wind_mps(self, moment: datetime) -> float:
        """Wind speed, m/s: what else is known of it."""
        return self.otherwise.wind_mps(moment)

    def knows(self, _moment: datetime) -> bool:
        """It was seen."""
        return True


def _as_noted(day: DrivenDay, owned: OwnedCar, otherwise: Weather) -> Weather:
    """The weather of a day: its air as it was noted with the drive, where it was."""
    return (
        otherwise if day.out_c is None else Noted(day.out_c, day.left_at.astimezone(owned.zone), owned.habit.parked_h, otherwise)
    )


def _as_typed(day: DrivenDay, zone: ZoneInfo, otherwise: Weather) -> Weather:
    """The weather that was typed for a day: the same two temperatures that its plan went by."""
    if isinstance(otherwise, HoursOfFiles) and otherwise.has(day.left_at):
        return otherwise
    if day.typed is None:
        return otherwise
    return _typed(day.typed, day.left_at.astimezone(zone), otherwise)


def _typed(told: tuple[datetime, float, float], left_at: datetime, normal: Weather) -> Fading:
    """What was typed of the air (when, then and the low of the morning), until a departure on its local clock, fading to the normal."""
    return Fading(TypedNight(told[0].astimezone(left_at.tzinfo), *told[1:]), left_at, normal)


def past_misses_k(snapshot: Snapshot, owned: OwnedCar) -> tuple[float, ...]:
    """By how many kelvins the air that was typed for the latest days missed the one that came, where files have that."""
    climate = climate_of(snapshot, owned.place)
    if not isinstance(climate, HoursOfFiles):
        return ()
    what = ("misses", owned.id, owned.place, owned.habit.parked_h, climate)
    return derived(snapshot, what, lambda: _misses_k(snapshot, owned, climate), ("drive", "weather"))


def _misses_k(snapshot: Snapshot, owned: OwnedCar, climate: HoursOfFiles) -> tuple[float, ...]:
    found, parked_h = list[float](), owned.habit.parked_h
    for day in driven_days(snapshot.log, owned.id, RECENT):
        if day.typed is not None and (day.out_c is not None or climate.has(day.left_at)):
            at = day.left_at.astimezone(owned.zone)
            typed = _typed(day.typed, at, climate.otherwise)
            came_c = driven_c(climate.temperature_c, at, parked_h) if day.out_c is None else day.out_c
            found.append(driven_c(typed.temperature_c, at, parked_h) - came_c)
    return tuple(found)


def counted_miss_k(snapshot: Snapshot, owned: OwnedCar, forecast_k: float) -> float:
    """How far the air of the latest noted days was off the one that came (K, root mean square): none where that is known, a forecast's
    miss where it was typed, else that of the normal. So much of a miss is in the days' errors, and counts once.
    """
    if snapshot.world.weather is not None:
        return 0.0
    climate = climate_of(snapshot, owned.place)
    what = ("counted miss", owned.id, owned.place, climate, forecast_k)
    return derived(snapshot, what, lambda: _counted_k(snapshot, owned, climate, forecast_k), ("drive", "weather"))


def _counted_k(snapshot: Snapshot, owned: OwnedCar, climate: Weather, forecast_k: float) -> float:
    def off_k(day: DrivenDay) -> float:
        if day.out_c is not None or climate.knows(day.left_at):
            return 0.0
        return miss_k(climate, day.left_at, 1.0) if day.typed is None else forecast_k

    off = [off_k(each) for each in driven_days(snapshot.log, owned.id, RECENT)]
    return float(np.sqrt(np.mean(np.square(off)))) if off else 0.0


def recent_errors(snapshot: Snapshot, owned: OwnedCar, tyres: TyreReading) -> tuple[float, ...]:
    """Level used ÷ the model's − 1 on the latest noted days, by the car as it is now (the earliest first)."""
    days = noted_days(snapshot, owned, RECENT, tyres)
    if not len(days.km):
        return ()
    return _errors(owned.car, owned.habit.trip, made_of(days, "columns", lambda: _columns(days)), owned.driven)


def _columns(days: Days) -> tuple[tuple[float | None, ...], ...]:
    """The days as plain numbers."""
    kept = (getattr(days, each.name).tolist() for each in fields(Days))
    return tuple(tuple(None if isnan(each) else each for each in column) for column in kept)


@lru_cache(maxsize=16)
def _errors(car: Car, trip: Trip, columns: tuple[tuple[float | None, ...], ...], habit: Habit) -> tuple[float, ...]:
    """Remembered by the days as plain numbers; what nobody knows of a start is None in them, for no NaN equals another."""
    named = zip((each.name for each in fields(Days)), columns, strict=True)
    days = Days(**{name: np.array(column, dtype=float) for name, column in named})
    return tuple(errors_of(car, trip, days, habit).tolist())


def own_car(snapshot: Snapshot, owned: OwnedCar, tyres: TyreReading | None = None) -> tuple[OwnDays, Car]:
    """How a car's latest days went against the model, and the car as it drove on them and charges on its outlet."""
    errors = own_days(recent_errors(snapshot, owned, tyres or tyres_now(snapshot, owned)), owned.car.factors)
    return errors, errors.of(charging_car(snapshot, owned))


def model_use(
    snapshot: Snapshot, owned: OwnedCar, km: float, left_at: datetime, *, cold: bool = False, trip: Trip | None = None
) -> float:
    """What the model takes for some kilometres on the roads of a trip (the usual one when None) in the weather of a time, by the car as it
    drove lately, level 0 to 1; `cold`: not warmed up.
    """
    return model_uses(snapshot, owned, (km,), left_at, cold=cold, trip=trip)[0]


def model_uses(
    snapshot: Snapshot, owned: OwnedCar, km: Sequence[float], left_at: datetime, *, cold: bool = False, trip: Trip | None = None
) -> list[float]:
    """`model_use` of several distances at once."""
    count, at, weather = len(km), left_at.astimezone(owned.zone), climate_of(snapshot, owned.place)
    days = days_of(owned, tyres_now(snapshot, owned), [at] * count, np.array(km), np.zeros(count), weather=[weather] * count)
    driven = replace(owned.driven, choice=WarmUpChoice.NOTHING) if cold else owned.driven
    return [float(each) for each in replayed(own_car(snapshot, owned)[1], trip or owned.habit.trip, days, driven)]
