"""A car's noted days as facts: kilometres, weather, what they took; and how the latest went against today's model."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.car import Car
from ..core.drive.again import Days, Habit, driven_again
from ..core.drive.air import pressure_at
from ..core.drive.day import Trip
from ..core.drive.tyres import gauge_at
from ..core.heat.warm import WarmUpChoice
from ..core.units import Array
from ..household.home import car_of, household, place_of, trip_of
from ..household.home import noted_days as noted
from ..household.models import CarRow
from ..standins.weather import Weather
from .car_year import PERSON_KG, climate_of

RECENT = 30
LEARNT_FROM = 1000


def habit_of(row: CarRow, altitude_m: float) -> Habit:
    """How a car is used every day."""
    return Habit(WarmUpChoice(row.warm_up), row.cabin_c, PERSON_KG * (row.people - 1), altitude_m)


def days_of(row: CarRow, departures: Sequence[datetime], km: Array, soc_used: Array, weather: Weather, altitude_m: float) -> Days:
    """Days in their weather: the mean air of the hours of departure and return, the wind, the tyres cold at that air."""
    home_again = timedelta(hours=row.parked_h + 1)
    air_c = np.array([(weather.temperature_c(each) + weather.temperature_c(each + home_again)) / 2 for each in departures])
    outside_kpa = pressure_at(altitude_m) / 1000.0
    gauge = np.array([max(80.0, gauge_at(row.tyre_kpa, row.tyre_read_c, each, outside_kpa)) for each in air_c.tolist()])
    return Days(km, air_c, soc_used, np.array([weather.wind_mps(each) for each in departures]), gauge)


def noted_days(session: Session, row: CarRow, limit: int) -> Days:
    """The latest noted days, the earliest first; where the owner types the weather, the day's typed temperature counts."""
    house, place = household(session), place_of(row, session)
    facts = noted(session, row.id, limit)
    zone = ZoneInfo(place.zone)
    days = days_of(
        row,
        [each.departure.astimezone(zone) for each in facts],
        np.array([each.km for each in facts]),
        np.array([each.soc_used for each in facts]),
        climate_of(house, place),
        place.altitude_m,
    )
    if house.weather != "village":
        typed = [_typed_c(each.levers, float(air)) for each, air in zip(facts, days.air_c, strict=True)]
        days = Days(days.km, np.array(typed), days.soc_used, np.zeros(len(typed)), days.gauge_kpa)
    return days


def _typed_c(levers: Mapping[str, object], otherwise: float) -> float:
    typed = levers.get("out_low_c")
    return otherwise if typed is None else float(str(typed))


@dataclass(frozen=True)
class _Rows:
    """Days as plain numbers, so that what was driven again is remembered."""

    rows: tuple[tuple[float, ...], ...]


def recent_errors(session: Session, row: CarRow) -> tuple[float, ...]:
    """Level used ÷ the model's − 1 on the latest noted days, by the car as it is now (the earliest first)."""
    days = noted_days(session, row, RECENT)
    if not len(days.km):
        return ()
    columns = (days.km, days.air_c, days.soc_used, days.wind_mps, days.gauge_kpa)
    rows = tuple(zip(*(np.asarray(each).tolist() for each in columns), strict=True))
    return _errors(car_of(row), trip_of(row), _Rows(rows), habit_of(row, place_of(row, session).altitude_m))


@lru_cache(maxsize=16)
def _errors(car: Car, trip: Trip, days: _Rows, habit: Habit) -> tuple[float, ...]:
    columns = [np.array(each) for each in zip(*days.rows, strict=True)]
    model = driven_again(car, trip, Days(*columns), habit)
    return tuple((columns[2] / np.maximum(model, 1e-6) - 1).tolist())
