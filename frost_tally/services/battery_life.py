"""A car's battery from its log: its life month by month, its tests and everyday estimates, and the trend through them."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from math import hypot

import numpy as np
from sqlalchemy.orm import Session

from ..core.battery.ageing import S_PER_DAY
from ..core.battery.capacity import COUNTED, EFFICIENCY, OWN_FIGURE, Capacity, from_car, from_charge, from_discharge
from ..core.battery.cold import usable_fraction
from ..core.battery.everyday import Everyday, Ordinary, monthly
from ..core.battery.life import MONTH_DAYS, Lived, lived
from ..core.battery.schools import OwnYear, side_by_side
from ..core.battery.trend import DAYS_PER_YEAR, Tested, Trend, fit, own_sigma
from ..core.car import Car
from ..core.charge.supply import charge_rate
from ..core.errors import OutOfRange
from ..core.heat.around import parked_c
from ..core.log.efficiency import MILD_C
from ..core.units import Array
from ..household.battery import CHARGE, DRIVE, Sessions, Sums, events_of, sessions_of, sums_of, tests_of
from ..household.models import CapacityRow, CarRow, EventRow, PlaceRow
from ..household.parts import car_of, place_of, supply_of, trip_of
from ..world import Weather
from .car_year import CarYear, car_year
from .climate import climate_of
from .remembered import kept

SAMPLE_S, MONTH_S = 42 * 3600, MONTH_DAYS * S_PER_DAY
ENOUGH_DAYS = 180.0
USUAL_KM_PER_DAY = 40.0
AHEAD_YEARS = 30
WALL, COUNTER, FIGURE = "wall", "counter", "figure"
GROUPS = {"wall": WALL, "car": FIGURE}
SHARED = {WALL: EFFICIENCY, COUNTER: COUNTED, FIGURE: OWN_FIGURE}
"""What the estimates of one kind have in common: charging efficiency, the car's own counting, its own health test."""


@dataclass(frozen=True, kw_only=True)
class OwnTest:
    """A test of the log with what it measured, and how much of its say it kept among all others (0 to 1)."""

    row: CapacityRow
    capacity: Capacity
    weight: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Battery:
    """A car's battery: when it was new (`guessed`: nobody entered that), the life so far and a mean day of it, its tests and everyday
    estimates with their healths' errors, the trend through them all, the ages (days) of marked steps, how far it goes, the
    sums of its log.

    `logged_days` of the life are the log's own; the rest is lived like them, or like the usual day when there are fewer than 180.
    """

    row: CarRow
    car: Car
    place: PlaceRow
    new_on: date
    guessed: bool
    age_days: float
    life: Lived
    day: Lived
    logged_days: float
    tests: tuple[OwnTest, ...]
    everyday: Mapping[str, tuple[Everyday, ...]]
    events: tuple[EventRow, ...]
    trend: Trend
    alone: Trend
    km: float
    km_a_year: float
    sums: Sums

    def age_at(self, moment: datetime) -> float:
        """Age in days at a moment."""
        return _age(self.new_on, moment)

    def date_at(self, days: float) -> date:
        """The day of an age."""
        return self.new_on + timedelta(days=int(days))

    def month_of(self, each: Everyday) -> date:
        """The middle of the month of an everyday estimate."""
        return datetime.fromtimestamp((each.month + 0.5) * MONTH_S, UTC).date()

    @property
    def health_kwh(self) -> float:
        """Usable capacity now."""
        return self.trend.health * self.car.pack.usable_kwh_new


@dataclass(frozen=True, eq=False, kw_only=True)
class Past:
    """What the log says up to the first of a month (s since 1970): the life in it, so many days (0: too few to tell), and its estimates."""

    until_s: float
    days: float
    whole: Lived | None
    everyday: Mapping[str, tuple[Everyday, ...]]


def battery_of(session: Session, row: CarRow, now: datetime) -> Battery:
    """Everything that the log says of a car's battery."""
    car, place, until_s = car_of(row), place_of(row, session), now.timestamp() // MONTH_S * MONTH_S
    sums = sums_of(session, row.id, until_s)
    new_on, guessed = _new_on(row, sums, now)
    age = max(1.0, _age(new_on, now))
    past = _past(session, row, car, place, until_s, sums.depends)
    day = usual_day(session, row, now) if past.whole is None else past.whole.last(12).per_day()
    life = _life(past, day, age, now)
    course = life.then(day.months_of(MONTH_DAYS), 12 * AHEAD_YEARS).course(car.pack.chemistry)
    tests, events = tests_of(session, row.id), events_of(session, row.id)
    measured, new_kwh = [capacity_of(each, car) for each in tests], car.pack.usable_kwh_new
    own = [
        _tested(_age(new_on, each.at), found.kwh, found.sigma_kwh, GROUPS.get(each.how, ""), new_kwh)
        for each, found in zip(tests, measured, strict=True)
    ]
    small = [
        _tested(_middle(new_on, each.month), each.kwh, hypot(each.sigma_kwh, SHARED[kind] * each.kwh), kind, new_kwh)
        for kind, found in past.everyday.items()
        for each in found
    ]
    steps = [max(0.0, _age(new_on, each.at)) for each in events if each.kind == "step"]
    known = [each for each in own if each is not None]
    trend, alone = (
        fit(these, course=course, now_days=age, steps=steps, shared=SHARED)
        for these in ([*known, *(each for each in small if each is not None)], known)
    )
    weights = iter(trend.weights.tolist())
    odometer, a_year = _kilometres(sums, age)
    return Battery(
        row=row, car=car, place=place, new_on=new_on, guessed=guessed, age_days=age, life=life, day=day, logged_days=past.days,
        tests=tuple(
            OwnTest(row=each, capacity=found, weight=0.0 if one is None else next(weights))
            for each, found, one in zip(tests, measured, own, strict=True)
        ),
        everyday=past.everyday, events=tuple(events), trend=trend, alone=alone, km=odometer, km_a_year=a_year, sums=sums,
    )  # fmt: skip


def _past(session: Session, row: CarRow, car: Car, place: PlaceRow, until_s: float, depends: Hashable) -> Past:
    """The log by whole months, kept for as long as nothing in it or of the car is another: a month that is over seldom changes."""
    weather, c_rate = climate_of(session, place), _pack_kw(row, car) / car.pack.usable_kwh_new
    standing = (place.garage, place.garage_heated_c)

    def work() -> Past:
        sessions = sessions_of(session, row.id, until_s)
        at_s, soc = sessions.course
        first = float(at_s[0]) if len(at_s) else until_s
        around = _around(weather, *standing, first - S_PER_DAY, until_s)
        everyday, days = _everyday(sessions, car, around), (until_s - first) / S_PER_DAY
        if days < ENOUGH_DAYS:
            return Past(until_s=until_s, days=0.0, whole=None, everyday=everyday)
        edges = np.arange(first // MONTH_S * MONTH_S, until_s + 1.0, MONTH_S)
        edges[0] = first
        return Past(
            until_s=until_s, days=days, whole=lived(car.pack.chemistry, at_s, soc, around, edges, c_rate), everyday=everyday
        )

    own = (car.pack.chemistry, car.charger, c_rate, standing, weather)
    return kept(("battery", str(session.get_bind().engine.url), row.id, until_s, own, depends), work)


def _life(past: Past, day: Lived, age: float, now: datetime) -> Lived:
    """From new until now: before the log and in this month like a mean day of it."""
    if past.whole is None:
        return day.months_of(age)
    since = (now.timestamp() - past.until_s) / S_PER_DAY
    before, life = age - since - past.days, past.whole
    if before > 1:
        life = day.months_of(before).then(life)
    return life.then(day.months_of(since)) if since > 0 else life


def _age(new_on: date, moment: datetime) -> float:
    return (moment - datetime(new_on.year, new_on.month, new_on.day, tzinfo=UTC)).total_seconds() / S_PER_DAY


def _new_on(row: CarRow, km: Sums, now: datetime) -> tuple[date, bool]:
    """The car's first day as entered, else as far before the log as its kilometres need at the log's pace."""
    if row.battery is not None and row.battery.new_on is not None:
        return row.battery.new_on, False
    first = now.timestamp() if km.first_s is None else km.first_s
    before = 0.0
    if km.clock_s is not None and km.clock_km is not None:
        before = km.clock_km / (_pace(km) or USUAL_KM_PER_DAY)
        first = km.clock_s
    return (datetime.fromtimestamp(first, UTC) - timedelta(days=min(before, 20 * DAYS_PER_YEAR))).date(), True


def _pace(km: Sums) -> float | None:
    """Kilometres a day in the log."""
    if km.first_s is None or km.last_s is None or km.last_s - km.first_s < 30 * S_PER_DAY:
        return None
    return max(1.0, km.km / ((km.last_s - km.first_s) / S_PER_DAY))


def _kilometres(km: Sums, age: float) -> tuple[float, float]:
    """About what the odometer shows, and kilometres a year."""
    pace = _pace(km) or USUAL_KM_PER_DAY
    if km.clock_km is not None and km.clock_s is not None and km.last_s is not None:
        return km.clock_km + max(0.0, km.last_s - km.clock_s) / S_PER_DAY * pace, pace * DAYS_PER_YEAR
    return pace * age, pace * DAYS_PER_YEAR


def _pack_kw(row: CarRow, car: Car) -> float:
    if row.habit.outlet is None:
        return 3.0
    try:
        return max(0.5, charge_rate(supply_of(row.habit.outlet), car).pack_kw)
    except OutOfRange:
        return 3.0


def _around(weather: Weather, garage: str, heated_c: float, since_s: float, until_s: float) -> Callable[[Array], Array]:
    """The pack's temperature where it stands, linear between samples 42 hours apart, which come by all hours of the day."""
    numbers = range(int(since_s // SAMPLE_S), int(until_s // SAMPLE_S) + 2)
    at, warmth = np.array(numbers) * float(SAMPLE_S), np.array([_sample(weather, each, garage, heated_c) for each in numbers])
    return lambda times: np.asarray(np.interp(times, at, warmth))


@lru_cache(maxsize=1 << 14)
def _sample(weather: Weather, number: int, garage: str, heated_c: float) -> float:
    """Air around the parked car at a moment; what is past does not change."""
    return parked_c(weather.temperature_c, datetime.fromtimestamp(number * SAMPLE_S, UTC), garage, heated_c)


def own_year(row: CarRow, made: CarYear) -> OwnYear:
    """A car's year as the schools live it."""
    trip = trip_of(row.habit)
    return OwnYear(
        use_kwh=made.nights.use_kwh,
        stand_c=made.nights.air_c,
        away_h=min(23.0, row.habit.parked_h + trip.distance_km / 50.0),
        pack_kw=_pack_kw(row, made.car),
        reserve=row.habit.reserve,
    )


def usual_day(session: Session, row: CarRow, now: datetime) -> Lived:
    """A mean day of the usual year at the usual limit, for a log that is short."""
    made, pack = car_year(session, row, now), car_of(row).pack
    year = side_by_side(pack.chemistry, pack.usable_kwh_new, own_year(row, made), limits=(row.habit.limit,), years=1).yearly
    at = {name: getattr(year, name)[0] for name in ("calendar", "cycling", "cold")}
    one = type(year)(**at)
    return Lived(days=np.array([DAYS_PER_YEAR]), own=one, mild=one, middle=one).per_day()


def capacity_of(row: CapacityRow, car: Car) -> Capacity:
    """What a test of the log measured."""
    cell, new_kwh = car.pack.chemistry, car.pack.usable_kwh_new
    if row.how == "car":
        return from_car(min(1.05, max(0.4, row.kwh / (row.soc_from - row.soc_to) / new_kwh)), new_kwh)
    if row.how == "discharge":
        return from_discharge(row.kwh, row.soc_from, row.soc_to, chemistry=cell, pack_c=row.pack_c)
    at_wall = {"efficiency": car.charger.efficiency, "efficiency_sigma": EFFICIENCY} if row.how == "wall" else {}
    return from_charge(row.kwh, row.soc_from, row.soc_to, chemistry=cell, pack_c=row.pack_c, **at_wall)


def _tested(days: float, kwh: float, sigma_kwh: float, group: str, new_kwh: float) -> Tested | None:
    """A measurement as the fit takes it: its own error without what it shares with its group; None for what no pack can have."""
    health, whole = kwh / new_kwh, sigma_kwh / new_kwh
    if not 0.2 <= health <= 1.3:
        return None
    return Tested(days=max(0.0, days), health=health, sigma=own_sigma(whole, SHARED.get(group, 0.0)), group=group)


def _middle(new_on: date, month: int) -> float:
    return _age(new_on, datetime.fromtimestamp((month + 0.5) * MONTH_S, UTC))


def _everyday(sessions: Sessions, car: Car, around: Callable[[Array], Array]) -> dict[str, tuple[Everyday, ...]]:
    """What ordinary charges and drives say by month: at the wall only where it was mild, for a cold pack is warmed on the way."""
    known = sessions.at((sessions.read > 0) & (sessions.kind <= CHARGE))
    air = np.where(np.isnan(known.out_c), around(known.begun_s), known.out_c)
    counted, drives = ~np.isnan(known.pack_kwh), known.kind == DRIVE
    hours = (known.ended_s - known.begun_s) / 3600.0
    arrived = (known.wall_kwh - car.charger.overhead_kw * hours) * car.charger.efficiency
    share = np.where(drives, usable_fraction(air, car.pack.chemistry), 1.0)
    rows = {WALL: ~counted & ~drives & (air >= MILD_C), COUNTER: counted}
    kwh = {WALL: arrived, COUNTER: known.pack_kwh / share}
    month = (known.begun_s / MONTH_S).astype(np.int64)
    found = {}
    for kind, which in rows.items():
        ordinary = Ordinary(
            month=month[which], soc_one=known.soc_start[which], soc_other=known.soc_end[which], kwh=kwh[kind][which]
        )
        if of_kind := monthly(ordinary):
            found[kind] = of_kind
    return found
