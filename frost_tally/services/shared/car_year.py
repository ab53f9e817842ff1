"""A car's year as the outlets bench and the comparison of tariffs ask for it: nights, days driven, temperatures."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np

from ...core.car import Car
from ...core.charge.control import Control
from ...core.charge.supply import charge_rate
from ...core.charge.year import Charger, Nights, YearPlan, charger, plan_year
from ...core.drive.usual import DayTable, day_table, rested_c
from ...core.heat.around import driven_c, parked_c
from ...core.home import Home, OwnedCar
from ...core.parts import Place
from ...core.units import Array
from ...household.facts import km_by_day
from ...household.prices import with_prices
from ...household.snapshot import Snapshot
from ...world import Weather
from .climate import climate_of
from .past import own_car

NIGHTS = 365
ENOUGH_LOGGED = 60


@dataclass(frozen=True, eq=False, kw_only=True)
class CarYear:
    """A car with its year: `km` by night (driven after it) and the air of those drives (°C), from how many days of the log (0: the usual
    day, so many days a week), and whether the year's weather is the world's (else it is one from the place's January and July).
    """

    owned: OwnedCar
    car: Car
    nights: Nights
    km: np.ndarray
    out_c: np.ndarray
    table: DayTable
    logged: int
    days_a_week: int
    weather_known: bool
    first: date

    @property
    def place(self) -> Place:
        """Where it stands."""
        return self.owned.place

    @property
    def total_km(self) -> float:
        """Kilometres of the year."""
        return float(self.km.sum())


READS = frozenset(("drive", "charge", "weather", "reading"))
"""The tables that a car's year is read from; the car itself is a value."""


def year_of(now: datetime, zones: Iterable[str]) -> tuple[date, ...]:
    """What of a moment a year depends on: the day that it is in each zone."""
    return tuple(now.astimezone(ZoneInfo(each)).date() for each in sorted(set(zones)))


def first_evening(now: datetime) -> date:
    """The first evening of the year that ends with last night."""
    return (now - timedelta(days=NIGHTS)).date()


def car_year(
    snapshot: Snapshot,
    owned: OwnedCar,
    trips: str = "log",
    *,
    garage: tuple[str, float] | None = None,
    weather: Weather | None = None,
    car: Car | None = None,
) -> CarYear:
    """The year up to last night: days from the log when it has at least 60 (and `trips` is "log"), else the usual day.

    `garage` (its kind, °C when heated) and `weather` are the place's own when None; `car` is the one that the log knows.
    """
    habit, trip, first = owned.habit, owned.habit.trip, first_evening(snapshot.now.astimezone(owned.zone))
    weather, car = weather or climate_of(snapshot, owned.place), car or own_car(snapshot, owned)[1]
    days = [first + timedelta(days=i) for i in range(NIGHTS)]
    evenings, mornings = _clocks(days, habit.plug_in, habit.depart, owned.zone)
    driven, logged = round(habit.days_a_week), dict[date, float]()
    if trips == "log":
        half_a_day = timedelta(hours=12)
        logged = km_by_day(snapshot.log, owned.id, mornings[0] - half_a_day, mornings[-1] + half_a_day, owned.zone)
    if len(logged) >= ENOUGH_LOGGED:
        km = np.array([logged.get(each.date(), 0.0) for each in mornings])
    else:
        logged = {}
        km = np.array([trip.distance_km if each.weekday() < driven else 0.0 for each in mornings])
    longest = max(float(km.max()), trip.distance_km) + 1.0
    table = day_table(
        car, trip, round(longest, 1), habit.warm_up, habit.cabin_c, load_kg=habit.load_kg, altitude_m=owned.place.altitude_m
    )
    around, late, out_c = _air(weather, tuple(evenings), tuple(mornings), garage or owned.place.standing, habit.parked_h)
    nights = nights_of(car, evenings, mornings, days=table.ask(km, out_c), around=around, late=late)
    return CarYear(
        owned=owned,
        car=car,
        nights=nights,
        km=km,
        out_c=out_c,
        table=table,
        logged=len(logged),
        days_a_week=driven,
        weather_known=snapshot.world.weather is not None,
        first=first,
    )


def on_outlet(year: CarYear, home: Home) -> Charger:
    """The car of a year on its outlet with its habits. Raises: NotSetUp without one."""
    at, habit, car = year.owned.at, year.owned.habit, year.car
    return charger(
        car,
        charge_rate(at.supply, car),
        habit.limit,
        habit.warm_up,
        habit.cabin_c,
        control=habit.control,
        held=at.held,
        pack_price=home.pack_price(car.pack.chemistry),
    )


def planned(snapshot: Snapshot, year: CarYear, control: Control | None = None) -> YearPlan | None:
    """The nights of a car's year on its outlet, with its tariff's prices, carried out by its own control (None); None without outlet or
    tariff.
    """
    owned = year.owned
    if owned.outlet is None or owned.contract is None:
        return None
    here = snapshot.now.astimezone(owned.zone)
    span = here - timedelta(days=370), here + timedelta(days=3)
    hung = on_outlet(year, snapshot.home)
    hung = hung if control is None else replace(hung, control=control)
    return plan_year(hung, year.nights, with_prices(snapshot.log, owned.contract, span).cells(*span))


def nights_of(
    car: Car, evenings: Sequence[datetime], mornings: Sequence[datetime], *, days: tuple[Array, Array], around: Array, late: Array
) -> Nights:
    """A row of nights: plugging in and departure, what the days after take (kWh) and the pack after each (°C), and the air (°C) around the
    parked car in the evenings and in the mornings. Each evening's pack is the one of the day before, after an hour's rest.
    """
    use, end_c = days
    return Nights(
        plug_in_s=np.array([each.timestamp() for each in evenings]),
        departure_s=np.array([each.timestamp() for each in mornings]),
        use_kwh=use,
        pack_c=rested_c(car, np.concatenate([end_c[:1], end_c[:-1]]), around),
        air_c=(around + late) / 2,
        morning_c=late,
    )


@lru_cache(maxsize=16)
def _air(
    weather: Weather, evenings: tuple[datetime, ...], mornings: tuple[datetime, ...], standing: tuple[str, float], parked_h: float
) -> tuple[Array, Array, Array]:
    """Air (°C) around the parked car in the evenings and in the mornings, and on the drives of each day; kept until the year is another."""
    air_c = weather.temperature_c
    return (
        np.array([parked_c(air_c, each, *standing) for each in evenings]),
        np.array([parked_c(air_c, each, *standing) for each in mornings]),
        np.array([driven_c(air_c, each, parked_h) for each in mornings]),
    )


def _clocks(days: list[date], plug_in: time, depart: time, zone: ZoneInfo) -> tuple[list[datetime], list[datetime]]:
    """Plugging in on each day, and the departure that follows."""
    later = timedelta(days=0 if depart > plug_in else 1)
    evenings = [datetime.combine(day, plug_in, zone) for day in days]
    return evenings, [datetime.combine(day + later, depart, zone) for day in days]
