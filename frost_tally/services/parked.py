"""Parked: a stand of days or weeks, what it takes, what to leave with, and what each switch saves."""

from bisect import bisect
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

import numpy as np

from ..core.car import Car
from ..core.errors import Refusal
from ..core.heat.around import parked_c
from ..core.home import OfCar, OwnedCar
from ..core.log.idle_intervals import idle_intervals
from ..core.park.standby import (
    CAMERAS_H,
    POLLS_A_DAY,
    READ_SIGMA,
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
from ..household.facts import EVER, known_by
from ..household.log_facts import facts
from ..household.snapshot import Snapshot
from .shared.climate import climate_of
from .shared.derived import derived, in_this_minute
from .shared.now import level_ahead
from .shared.past import model_uses
from .winter.twelve_volt import twelve_volt

LOG_DAYS, SOME_KM = 400, 50.0
LEAST_H = 6.0
MOST_DAYS = 365
LEAVES_AT = time(12)
"""When it leaves on a later day, which nobody says to the hour."""
Z80 = 1.2816
"""A level's band holds 80 %."""


@dataclass(frozen=True, kw_only=True)
class ParkedInputs:
    """What can be set: level it is left at, the day it leaves, for how many days or until which day, a typed temperature (None: the
    weather of the place), whether it stands at home, plugged in and to which limit, cameras and polling by their codes, hours of
    climate a day, keep-warm, km to the next charger (0: there).
    """

    soc: float
    leaves_on: date
    days: int
    back_on: date | None
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
class ParkedRoom(OfCar):
    """The room: inputs, the stand as it is and with the advised things off, advice, savings by switch, the level that is needed on return
    (the way to the charger, and the reserve), the idle drain and its days, the 12 V battery, the days' temperatures.
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: ParkedInputs
    defaults: ParkedInputs
    begin: datetime
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

    @property
    def car(self) -> Car:
        """The car."""
        return self.owned.car

    @property
    def typed(self) -> bool:
        """Whether somebody typed the temperature."""
        return self.inputs.out_c is not None

    @property
    def air(self) -> tuple[float, float]:
        """The coldest and the mean day, °C."""
        return float(self.away.air_c.min()), float(self.away.air_c.mean())


def parked_room(snapshot: Snapshot, car_id: int | None, override: Callable[[ParkedInputs], ParkedInputs]) -> ParkedRoom:
    """The stand of a car (the first when None) under its inputs. Raises: NotSetUp; OutOfRange for an input that cannot be."""
    owned, today = snapshot.home.car(car_id), snapshot.minute.astimezone(snapshot.home.car(car_id).zone).date()
    level = level_ahead(snapshot, owned)
    defaults = ParkedInputs(
        soc=round(level.likely, 2), leaves_on=today, days=14, back_on=None, out_c=None, at_home=False, plugged=False,
        limit=STORAGE_SOC, cameras="off", polls="never", climate_h=0.0, keep_warm=False, charger_km=20.0,
    )  # fmt: skip
    inputs = override(defaults)
    if not today <= inputs.leaves_on <= today + timedelta(days=MOST_DAYS):
        raise Refusal("A stand begins today or within a year.", "leaves_on")
    if inputs.back_on is not None:
        inputs = replace(inputs, days=(inputs.back_on - inputs.leaves_on).days)
        if not 1 <= inputs.days <= MOST_DAYS:
            raise Refusal("It comes back after the day it leaves, within a year.", "back_on")
    as_known = inputs.soc == defaults.soc and inputs.leaves_on == today
    known = (level.high - level.low) / 2 / Z80 if as_known else READ_SIGMA
    return in_this_minute(snapshot, ("parked", owned.id, inputs), lambda: _stood(snapshot, owned, inputs, defaults, known))


def _stood(snapshot: Snapshot, owned: OwnedCar, inputs: ParkedInputs, defaults: ParkedInputs, soc_sigma: float) -> ParkedRoom:
    """Everything worked out; `soc_sigma` is what is not known of the level it is left at."""
    car, habit, idle = owned.car, owned.habit, idle_of(snapshot, owned) or Idle()
    begin = snapshot.minute
    if inputs.leaves_on > defaults.leaves_on:
        begin = datetime.combine(inputs.leaves_on, LEAVES_AT, owned.zone)
    cameras_h = 0.0 if inputs.at_home and inputs.cameras == "not_home" else CAMERAS_H[inputs.cameras]
    away = Away(
        soc=inputs.soc, soc_sigma=soc_sigma, air_c=_air(snapshot, owned, inputs, begin), cameras_h=cameras_h,
        polls=POLLS_A_DAY[inputs.polls], climate_h=inputs.climate_h, cabin_c=habit.cabin_c, keep_warm=inputs.keep_warm,
        plugged=inputs.plugged, limit=inputs.limit,
    )  # fmt: skip
    stood, back = project(car, away, idle), begin + timedelta(days=inputs.days)
    way, some = model_uses(snapshot, owned, (max(inputs.charger_km, 0.1), SOME_KM), back)
    way = way if inputs.charger_km > 0 else 0.0
    reserve = habit.reserve if inputs.charger_km > 0 else habit.floor / 2
    need = reserve + way
    advice = advise(car, away, need, idle)
    return ParkedRoom(
        owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, begin=begin, away=away, stood=stood,
        advised=project(car, without(away, *advice.off), idle), advice=advice,
        savings=tuple(_savings(car, away, idle, stood, some / SOME_KM)), need_soc=need, way_soc=way, reserve=reserve, idle=idle,
        judged=twelve_volt(snapshot, owned.id).judged,
    )  # fmt: skip


def _savings(car: Car, away: Away, idle: Idle, stood: Stood, per_km: float) -> list[Saving]:
    """Each switch that is on, alone, the biggest first."""
    found = []
    for name in SWITCHES:
        saved = stood.parts[name]
        if saved <= 1e-9:
            continue
        a_day = project(car, without(away, name), idle).drain[0] / len(away.air_c)
        found.append(Saving(name=name, soc=saved, km=saved / per_km, days=saved / a_day if a_day > 1e-9 else None))
    return sorted(found, key=lambda each: -each.soc)


def _air(snapshot: Snapshot, owned: OwnedCar, inputs: ParkedInputs, begin: datetime) -> Array:
    """Mean temperature around the car on each day: as typed, else the weather of the place; at home in its garage."""
    if inputs.out_c is not None:
        return np.full(inputs.days, inputs.out_c)
    weather = climate_of(snapshot, owned.place)
    garage = owned.place.standing if inputs.at_home else ("outdoor", 0.0)
    hours = [begin + timedelta(days=d, hours=h) for d in range(inputs.days) for h in (0, 6, 12, 18)]
    return np.asarray(np.array([parked_c(weather.temperature_c, at, *garage) for at in hours]).reshape(-1, 4).mean(axis=1))


def idle_of(snapshot: Snapshot, owned: OwnedCar) -> Idle | None:
    """The idle drain of a car from its own log, by the temperature that it stood in; None for too few days."""
    since = (snapshot.minute - timedelta(days=LOG_DAYS)).replace(hour=0, minute=0)
    what, reads = (owned.id, since), ("drive", "charge", "reading")
    begun_s = derived(
        snapshot, ("begun", *what), lambda: [each.begun_s for each in facts(snapshot.log, owned.id, since, EVER)], reads
    )
    known = bisect(begun_s, known_by(snapshot.minute).timestamp())  # another minute brings nothing new, but for what begins in it
    of_them = ("idle", *what, known, owned.place)
    return derived(snapshot, of_them, lambda: _idle(snapshot, owned, since), (*reads, "weather"))


def _idle(snapshot: Snapshot, owned: OwnedCar, since: datetime) -> Idle | None:
    """See `idle_of`, from what was noted since a moment and is known."""
    weather, noted = climate_of(snapshot, owned.place), facts(snapshot.log, owned.id, since, known_by(snapshot.minute))
    known = [each for each in idle_intervals(noted) if each.days * 24 >= LEAST_H and not each.rose and not each.fell]
    middle = [datetime.fromtimestamp((each.before.ended_s + each.after.begun_s) / 2, owned.zone) for each in known]
    air = np.array([parked_c(weather.temperature_c, at, *owned.place.standing) for at in middle])
    return own_idle(np.array([each.days for each in known]), np.array([each.was - each.now for each in known]), air)
