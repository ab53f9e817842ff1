"""Battery, limit schools: each everyday limit lived for years on this car's own days, what it keeps and what it leaves short."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from sqlalchemy.orm import Session

from ..core.battery.ageing import PER_EURO, pack_price
from ..core.battery.cold import Chemistry
from ..core.battery.schools import SCHOOLS, STOP_MIN, STOP_WORTH, WAY_PRICE, WEEK, Schools, kept_money, side_by_side, stored
from ..core.battery.trend import Z90
from ..core.drive.regen_lost import regen_lost
from ..core.errors import Refusal
from ..core.units import Array
from ..household.home import Home
from ..household.models import CarRow
from ..household.parts import cars, household, place_of, tariff_of, trip_of
from ..standins.weather import TypicalYear
from .battery_life import Battery, battery_of, own_year
from .car_year import car_year
from .clock import minute_of
from .evening import NotSetUp
from .log_entry import car_row
from .remembered import once

HOT = TypicalYear(14.0, 34.0)
STORED_SOC = (0.3, 0.5, 0.7, 0.8, 1.0)
STORED_C = (-5.0, 5.0, 15.0, 25.0, 35.0)


@dataclass(frozen=True, kw_only=True)
class SchoolLevers:
    """What can be pulled: the owner's limit, when it is charged, where it stands (`stands` "own" or a kind of garage; heated to °C), the
    climate ("own", "hot"), years, a weekly full charge, what a new pack costs per kWh and a stop on the way is worth, weeks of storage.
    """

    limit: float
    late: bool
    stands: str
    heated_c: float
    climate: str
    years: int
    weekly_full: bool
    pack_price: float
    stop_worth: float
    weeks: float


@dataclass(frozen=True, eq=False, kw_only=True)
class School:
    """One limit: what is left of new after the years (likely, band), points kept against the dearest limit (likely, band), money, days a
    year not covered and kWh of them, hours a day at the limit, kWh of braking lost a year.
    """

    limit: float
    left: tuple[float, float, float]
    kept: tuple[float, float, float]
    money: float
    short_days: float
    short_kwh: float
    way_money: float
    full_h: float
    regen_kwh: float

    @property
    def net(self) -> float:
        """Money kept less what the way costs, over all years."""
        return self.money - self.way_money


@dataclass(frozen=True, eq=False, kw_only=True)
class SchoolsRoom:
    """The room: levers, the schools in order of their limits, the owner's among them, the one that is worth most, storage by level and
    temperature (points lost, shape (levels, temperatures)), from how many logged days.
    """

    car_id: int
    name: str
    cars: tuple[tuple[int, str], ...]
    battery: Battery
    levers: SchoolLevers
    usual: SchoolLevers
    schools: tuple[School, ...]
    own: School
    best: School
    stored: Array
    logged: int
    way_price: float
    way_known: bool
    home_price: float
    currency: str

    @property
    def stop_min(self) -> float:
        """What a stop on the way takes, min."""
        return STOP_MIN

    @property
    def worst(self) -> School:
        """The school that keeps least."""
        return min(self.schools, key=lambda each: each.left[0])


def schools_room(home: Home, now: datetime, car_id: int | None, pull: Callable[[SchoolLevers], SchoolLevers]) -> SchoolsRoom:
    """The schools of a car (the first when None) under its levers. Raises: NotSetUp; Refusal for a pulled lever."""
    now = minute_of(now)
    with home.reading() as session:
        rows = cars(session)
        row = next((each for each in rows if car_id in (None, each.id)), None)
        if row is None:
            raise NotSetUp
        usual = _usual(session, row)
    levers = pull(usual)

    def work() -> SchoolsRoom:
        with home.reading() as session:
            return _lived(session, row, now, levers, usual)

    return once(home, ("schools", now, row.id, levers), work)


def _usual(session: Session, row: CarRow) -> SchoolLevers:
    place, cell = place_of(row, session), Chemistry(row.chemistry)
    currency = household(session).currency
    return SchoolLevers(
        limit=row.habit.limit, late=True, stands="own", heated_c=place.garage_heated_c, climate="own", years=8,
        weekly_full=cell is Chemistry.LFP, pack_price=pack_price(cell, currency), stop_worth=STOP_WORTH * PER_EURO.get(currency, 1.0),
        weeks=6.0,
    )  # fmt: skip


def _lived(session: Session, row: CarRow, now: datetime, levers: SchoolLevers, usual: SchoolLevers) -> SchoolsRoom:
    """Everything worked out."""
    battery = battery_of(session, row, now)
    garage = None if levers.stands == "own" else (levers.stands, levers.heated_c)
    made = car_year(session, row, now, garage=garage, weather=HOT if levers.climate == "hot" else None)
    year, pack = own_year(row, made), battery.car.pack
    limits = tuple(sorted({*SCHOOLS, round(levers.limit, 3)}))
    before, health, (scale, scale_sigma) = battery.life.whole, battery.trend.health, battery.trend.scale
    lived = side_by_side(
        pack.chemistry, pack.usable_kwh_new, year, limits=limits, health=health, scale=scale, before=before, years=levers.years,
        late=levers.late, weekly_full=levers.weekly_full,
    )  # fmt: skip
    currency = household(session).currency
    home_price, (way_price, way_known) = _home_price(session, row, now), _way_price(battery, currency)
    regen = regen_lost(battery.car, trip_of(row.habit), limits)
    driven = float(np.count_nonzero(year.use_kwh > 0)) * 365.25 / len(year.use_kwh)
    schools = tuple(
        _school(
            i,
            lived,
            levers,
            health,
            (scale, scale_sigma),
            pack.usable_kwh_new,
            max(0.0, way_price - home_price),
            regen[i] * driven,
        )
        for i in range(len(limits))
    )
    own = next(each for each in schools if abs(each.limit - levers.limit) < 1e-3)
    temp_c, soc = np.meshgrid(STORED_C, STORED_SOC)
    return SchoolsRoom(
        car_id=row.id, name=row.name, cars=tuple((each.id, each.name) for each in cars(session)), battery=battery, levers=levers,
        usual=usual, schools=schools, own=own, best=max(schools, key=lambda each: (each.net, -each.limit)),
        stored=scale * stored(pack.chemistry, before, temp_c, soc, 7.0 * levers.weeks),
        logged=made.logged, way_price=way_price, way_known=way_known, home_price=home_price, currency=currency,
    )  # fmt: skip


def _school(
    i: int,
    lived: Schools,
    levers: SchoolLevers,
    health: float,
    scale: tuple[float, float],
    new_kwh: float,
    dearer: float,
    regen_kwh: float,
) -> School:
    """One limit's result on the owner's scale, with the band of that scale."""
    lost = lived.lost[:, -1]
    spread = [max(0.0, scale[0] + z * scale[1]) for z in (0.0, -Z90, Z90)]
    kept = float(lost.max() - lost[i])
    stops = float(lived.short_days[i]) * levers.years
    return School(
        limit=lived.limits[i],
        left=(health - spread[0] * float(lost[i]), health - spread[2] * float(lost[i]), health - spread[1] * float(lost[i])),
        kept=(spread[0] * kept, spread[1] * kept, spread[2] * kept),
        money=float(kept_money(scale[0] * lost[i], scale[0] * float(lost.max()), new_kwh, levers.pack_price)),
        short_days=float(lived.short_days[i]),
        short_kwh=float(lived.short_kwh[i]),
        way_money=float(lived.short_kwh[i]) * levers.years * dearer + stops * levers.stop_worth,
        full_h=float(lived.full_h[i]),
        regen_kwh=regen_kwh,
    )


def _home_price(session: Session, row: CarRow, now: datetime) -> float:
    """The cheapest hours of the coming week at home, per kWh; 0 without a tariff."""
    if row.habit.tariff is None:
        return 0.0
    span = now, now + timedelta(days=WEEK)
    tariff = tariff_of(session, row.habit.tariff, household(session).currency, place_of(row, session).zone, span)
    return float(tariff.cells(*span).price_per_kwh.min())


def _way_price(battery: Battery, currency: str) -> tuple[float, bool]:
    """What a kWh on the way costs: as this car's fast charges did, else from memory."""
    sums = battery.sums
    if sums.fast_kwh > 0 and sums.fast_cost > 0:
        return sums.fast_cost / sums.fast_kwh, True
    return WAY_PRICE * PER_EURO.get(currency, 1.0), False


def keep_limit(home: Home, car_id: int, limit: float, words: str, seen_revision: int) -> int:
    """Make a limit the habit's; returns the number to undo it by. Raises: Refusal; Stale."""
    if not 0.3 <= limit <= 1.0:
        raise Refusal("The everyday limit must lie between 30 and 100 %.", "limit")
    with home.deciding(words, seen_revision) as session:
        car_row(session, car_id).habit.limit = limit
    return session.number
