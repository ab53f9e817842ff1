"""A car's battery from its log: its life month by month, its tests and everyday estimates, and the trend through them."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache

import numpy as np

from ...core.battery.ageing import S_PER_DAY
from ...core.battery.capacity import Capacity
from ...core.battery.everyday import Everyday
from ...core.battery.life import MONTH_DAYS, Lived, lived
from ...core.battery.limit_policies import OwnYear, side_by_side
from ...core.battery.own_tests import SHARED, CapacityTest, month_tested, tested, typed
from ...core.battery.trend import DAYS_PER_YEAR, Trend, fit
from ...core.car import Car
from ...core.charge.supply import charge_rate
from ...core.errors import OutOfRange
from ...core.heat.around import parked_c
from ...core.home import OwnedCar
from ...core.log.battery import MONTH_S, Sums, everyday_of
from ...core.units import Array
from ...household.battery import DisplayEvent, events_of, sessions_of, sums_of, tests_of
from ...household.snapshot import Snapshot
from ...world import Weather
from ..shared.car_year import CarYear, car_year
from ..shared.climate import climate_of
from ..shared.derived import derived

SAMPLE_S = 42 * 3600
ENOUGH_DAYS = 180.0
AHEAD_YEARS = 30


@dataclass(frozen=True, kw_only=True)
class OwnTest:
    """A test of the log with what it measured, and how much of its say it kept among all others (0 to 1)."""

    test: CapacityTest
    capacity: Capacity
    weight: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Battery:
    """A car's battery: when it was new (`guessed`: nobody entered that), the life so far and a mean day of it, its tests and everyday
    estimates with their healths' errors, the trend through them all, the ages (days) of marked steps, how far it goes, the
    sums of its log.

    `logged_days` of the life are the log's own; the rest is lived like them, or like the usual day when there are fewer than 180.
    """

    owned: OwnedCar
    new_on: date
    guessed: bool
    age_days: float
    life: Lived
    day: Lived
    logged_days: float
    tests: tuple[OwnTest, ...]
    everyday: Mapping[str, tuple[Everyday, ...]]
    events: tuple[DisplayEvent, ...]
    trend: Trend
    alone: Trend
    sums: Sums

    @property
    def car(self) -> Car:
        """The car."""
        return self.owned.car

    @property
    def km(self) -> float:
        """About what the odometer shows."""
        return self.sums.odometer_km(self.age_days)

    @property
    def km_a_year(self) -> float:
        """Kilometres a year."""
        return self.sums.km_a_day * DAYS_PER_YEAR

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


def battery_of(snapshot: Snapshot, owned: OwnedCar) -> Battery:
    """Everything that the log says of a car's battery, as of the end of this day: no minute of it makes another battery."""
    today = snapshot.minute.astimezone(owned.zone).date()
    begins, ends = (datetime.combine(each, time(), owned.zone).astimezone(UTC) for each in (today, today + timedelta(days=1)))
    return derived(snapshot, ("battery of", owned, ends), lambda: _battery(snapshot, owned, begins, ends))


def _battery(snapshot: Snapshot, owned: OwnedCar, begins: datetime, now: datetime) -> Battery:
    log, car = snapshot.log, owned.car
    sums = derived(snapshot, ("sums", owned.id), lambda: sums_of(log, owned.id), ("drive", "charge", "reading"))
    past = _past(snapshot, owned, begins)
    new_on = owned.battery.new_on or sums.new_on(now, car.pack.chemistry, owned.health_told)
    age = max(1.0, _age(new_on, now))
    day = usual_day(snapshot, owned) if past.whole is None else past.whole.last(12).per_day()
    life = _life(past, day, age, now)
    course = life.then(day.months_of(MONTH_DAYS), 12 * AHEAD_YEARS).course(car.pack.chemistry)
    tests = derived(snapshot, ("tests", owned.id), lambda: tests_of(log, owned.id), ("capacity_test",))
    events = derived(snapshot, ("display events", owned.id), lambda: events_of(log, owned.id), ("event",))
    measured, new_kwh = [each.measured(car, _air_c(snapshot, owned, each)) for each in tests], car.pack.usable_kwh_new
    own = [tested(_age(new_on, each.at), found, each.group, new_kwh) for each, found in zip(tests, measured, strict=True)]
    small = [
        month_tested(_middle(new_on, each.month), each, kind, new_kwh) for kind, found in past.everyday.items() for each in found
    ]
    steps = [max(0.0, _age(new_on, each.at)) for each in events if each.kind == "step"]
    known = [each for each in own if each is not None]
    told = [] if owned.health_told is None else [typed(_age(new_on, owned.health_told[0]), owned.health_told[1])]
    trend, alone = (
        fit(these, course=course, now_days=age, steps=steps, shared=SHARED)
        for these in ([*known, *(each for each in small if each is not None), *told], [*known, *told])
    )
    weights = iter(trend.weights.tolist())
    return Battery(
        owned=owned, new_on=new_on, guessed=owned.battery.new_on is None, age_days=age, life=life, day=day, logged_days=past.days,
        tests=tuple(
            OwnTest(test=each, capacity=found, weight=0.0 if one is None else next(weights))
            for each, found, one in zip(tests, measured, own, strict=True)
        ),
        everyday=past.everyday, events=tuple(events), trend=trend, alone=alone, sums=sums,
    )  # fmt: skip


def _air_c(snapshot: Snapshot, owned: OwnedCar, test: CapacityTest) -> float | None:
    """The air around the car at a test whose pack nobody read, °C."""
    if test.pack_c is not None or test.how == "car":
        return None
    return parked_c(climate_of(snapshot, owned.place).temperature_c, test.at, *owned.place.standing)


def _past(snapshot: Snapshot, owned: OwnedCar, begins: datetime) -> Past:
    """The log by whole months, kept for as long as nothing in it or of the car is another: a month that is over seldom changes."""
    car, until_s = owned.car, begins.timestamp() // MONTH_S * MONTH_S

    def work() -> Past:
        weather, c_rate = climate_of(snapshot, owned.place), _pack_kw(owned, car) / car.pack.usable_kwh_new
        sessions = sessions_of(snapshot.log, owned.id, until_s)
        at_s, soc = sessions.course
        first = float(at_s[0]) if len(at_s) else until_s
        around = _around(weather, *owned.place.standing, first - S_PER_DAY, until_s)
        everyday = everyday_of(sessions, car, around, owned.habit.trip, owned.driven)
        days = (until_s - first) / S_PER_DAY
        if days < ENOUGH_DAYS:
            return Past(until_s=until_s, days=0.0, whole=None, everyday=everyday)
        edges = np.arange(first // MONTH_S * MONTH_S, until_s + 1.0, MONTH_S)
        edges[0] = first
        return Past(
            until_s=until_s,
            days=days,
            whole=lived(car.pack.chemistry, at_s, soc, around, edges, c_rate=c_rate),
            everyday=everyday,
        )

    what = ("battery", owned.id, car, owned.outlet, owned.place, owned.habit.trip, owned.driven, until_s)
    return derived(snapshot, what, work, ("drive", "charge", "reading", "weather"))


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


def _pack_kw(owned: OwnedCar, car: Car) -> float:
    if owned.outlet is None:
        return 3.0
    try:
        return max(0.5, charge_rate(owned.outlet.supply, car).pack_kw)
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


def own_year(made: CarYear, weekdays: frozenset[int] | None = None) -> OwnYear:
    """A car's year as the everyday limits are lived in; it has the cable on the nights that begin on some weekdays (None: on all)."""
    habit = made.owned.habit
    return OwnYear(
        use_kwh=made.nights.use_kwh,
        stand_c=made.nights.air_c,
        away_h=min(23.0, habit.parked_h + habit.trip.distance_km / 50.0),
        pack_kw=_pack_kw(made.owned, made.car),
        reserve=habit.reserve,
        plugged=None if weekdays is None else np.isin((made.first.weekday() + np.arange(len(made.km))) % 7, list(weekdays)),
    )


def usual_day(snapshot: Snapshot, owned: OwnedCar) -> Lived:
    """A mean day of the usual year at the usual limit, for a log that is short."""
    pack, limits = owned.car.pack, (owned.habit.limit,)
    year = side_by_side(pack.chemistry, pack.usable_kwh_new, own_year(car_year(snapshot, owned)), limits=limits, years=1).yearly
    at = {name: getattr(year, name)[0] for name in ("calendar", "cycling", "cold")}
    one = type(year)(**at)
    return Lived(days=np.array([DAYS_PER_YEAR]), own=one, mild=one, middle=one).per_day()


def _middle(new_on: date, month: int) -> float:
    return _age(new_on, datetime.fromtimestamp((month + 0.5) * MONTH_S, UTC))
