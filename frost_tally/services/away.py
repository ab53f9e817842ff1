"""Parked: a stand of days or weeks, what it takes, what to leave with, and what each switch saves."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.car import Car
from ..core.heat.around import parked_c
from ..core.log.stands import stands
from ..core.park.standby import (
    CAMERAS_H,
    POLLS_A_DAY,
    STORAGE_SOC,
    SWITCHES,
    Advice,
    Away,
    Idle,
    Stood,
    advise,
    own_idle,
    project,
    without,
)
from ..core.park.twelve_volt import Judged
from ..core.units import Array
from ..household.facts import known_by, level_now
from ..household.home import Home
from ..household.log_facts import facts
from ..household.models import CarRow
from ..household.parts import car_of, cars, place_of
from .climate import climate_of
from .clock import minute_of
from .log_quick import model_use
from .remembered import once
from .small_battery import battery_now, first_or

LOG_DAYS = 400
LEAST_H = 6.0


@dataclass(frozen=True, kw_only=True)
class AwayLevers:
    """What can be pulled: level it is left at, days, a typed temperature (None: the weather of the place), whether it stands at home,
    plugged in and to which limit, cameras and polling by their codes, hours of climate a day, keep-warm, km to the next charger (0: there).
    """

    soc: float
    days: int
    out_c: float | None
    at_home: bool
    plugged: bool
    limit: float
    cameras: str
    polls: str
    climate_h: float
    keep_warm: bool
    charger_km: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Saving:
    """What switching something off brings back: level, kilometres, and days it could stand longer (None: as long as you like)."""

    name: str
    soc: float
    km: float
    days: float | None


@dataclass(frozen=True, eq=False, kw_only=True)
class AwayRoom:
    """The room: levers, the stand as it is and with the advised things off, advice, savings by switch, the level that is needed on return
    (the way to the charger, and the reserve), the idle drain and its days, the 12 V battery, the days' temperatures.
    """

    car_id: int
    name: str
    cars: tuple[tuple[int, str], ...]
    car: Car
    levers: AwayLevers
    usual: AwayLevers
    now: datetime
    away: Away
    stood: Stood
    advised: Stood
    advice: Advice
    savings: tuple[Saving, ...]
    need_soc: float
    way_soc: float
    reserve: float
    idle: Idle
    judged: Judged
    typed: bool

    @property
    def air(self) -> tuple[float, float]:
        """The coldest and the mean day, °C."""
        return float(self.away.air_c.min()), float(self.away.air_c.mean())


def away_room(home: Home, now: datetime, car_id: int | None, pull: Callable[[AwayLevers], AwayLevers]) -> AwayRoom:
    """The stand of a car (the first when None) under its levers. Raises: NotSetUp; OutOfRange for a pulled lever."""
    now = minute_of(now)
    with home.reading() as session:
        row = first_or(session, car_id)
        usual = AwayLevers(
            soc=round(level_now(session, row.id), 2), days=14, out_c=None, at_home=False, plugged=False, limit=STORAGE_SOC, cameras="off",
            polls="never", climate_h=0.0, keep_warm=False, charger_km=20.0,
        )  # fmt: skip
    levers = pull(usual)

    def work() -> AwayRoom:
        with home.reading() as session:
            return _stood(session, row, now, levers, usual)

    return once(home, ("away", now, row.id, levers), work)


def _stood(session: Session, row: CarRow, now: datetime, levers: AwayLevers, usual: AwayLevers) -> AwayRoom:
    """Everything worked out."""
    car, idle = car_of(row), idle_of(session, row, now) or Idle()
    air = _air(session, row, now, levers)
    cameras_h = 0.0 if levers.at_home and levers.cameras == "not_home" else CAMERAS_H[levers.cameras]
    away = Away(
        soc=levers.soc, air_c=air, cameras_h=cameras_h, polls=POLLS_A_DAY[levers.polls], climate_h=levers.climate_h,
        cabin_c=row.habit.cabin_c, keep_warm=levers.keep_warm, plugged=levers.plugged, limit=levers.limit,
    )  # fmt: skip
    stood, back = project(car, away, idle), now + timedelta(days=levers.days)
    way = model_use(session, row, levers.charger_km, back) if levers.charger_km > 0 else 0.0
    reserve = row.habit.reserve if levers.charger_km > 0 else row.habit.floor / 2
    need = reserve + way
    advice = advise(car, away, need, idle)
    advised = project(car, without(away, *advice.off), idle)
    return AwayRoom(
        car_id=row.id, name=row.name, cars=tuple((each.id, each.name) for each in cars(session)), car=car, levers=levers, usual=usual,
        now=now, away=away, stood=stood, advised=advised, advice=advice,
        savings=tuple(_savings(session, row, car, away, idle, stood, back)), need_soc=need, way_soc=way, reserve=reserve, idle=idle,
        judged=battery_now(session, row, now).judged, typed=levers.out_c is not None,
    )  # fmt: skip


def _savings(session: Session, row: CarRow, car: Car, away: Away, idle: Idle, stood: Stood, back: datetime) -> list[Saving]:
    """Each switch that is on, alone, the biggest first."""
    found = []
    per_km = model_use(session, row, 50.0, back) / 50.0
    for name in SWITCHES:
        saved = stood.parts[name]
        if saved <= 1e-9:
            continue
        a_day = project(car, without(away, name), idle).drain[0] / len(away.air_c)
        found.append(Saving(name=name, soc=saved, km=saved / per_km, days=saved / a_day if a_day > 1e-9 else None))
    return sorted(found, key=lambda each: -each.soc)


def _air(session: Session, row: CarRow, now: datetime, levers: AwayLevers) -> Array:
    """Mean temperature around the car on each day: as typed, else the weather of the place; at home in its garage."""
    if levers.out_c is not None:
        return np.full(levers.days, levers.out_c)
    place = place_of(row, session)
    weather = climate_of(session, place)
    garage = (place.garage, place.garage_heated_c) if levers.at_home else ("outdoor", 0.0)
    hours = [now + timedelta(days=d, hours=h) for d in range(levers.days) for h in (0, 6, 12, 18)]
    return np.asarray(np.array([parked_c(weather.temperature_c, at, *garage) for at in hours]).reshape(-1, 4).mean(axis=1))


def idle_of(session: Session, row: CarRow, now: datetime) -> Idle | None:
    """The idle drain of a car from its own log, by the temperature that it stood in; None for too few days."""
    place = place_of(row, session)
    weather, zone = climate_of(session, place), ZoneInfo(place.zone)
    known = [
        each
        for each in stands(facts(session, row.id, now - timedelta(days=LOG_DAYS), known_by(now)))
        if each.days * 24 >= LEAST_H and not each.rose and not each.fell
    ]
    middle = [datetime.fromtimestamp((each.before.ended_s + each.after.begun_s) / 2, zone) for each in known]
    air = np.array([parked_c(weather.temperature_c, at, place.garage, place.garage_heated_c) for at in middle])
    return own_idle(np.array([each.days for each in known]), np.array([each.was - each.now for each in known]), air)
