"""The month and the year: what they add up to by car, what that would have cost otherwise, the best and the worst day and why."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import reduce
from operator import add
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.battery.cold import usable_fraction
from ..core.charge.supply import charge_rate
from ..core.drive.air import pressure_at
from ..core.drive.day import Start
from ..core.drive.tally import Tally, fair_tally
from ..core.drive.tyres import FLAT_KPA, gauge_at
from ..core.errors import OutOfRange
from ..core.heat.around import parked_c
from ..core.heat.warm import WarmUpChoice, warm_up
from ..core.log.bill import Cells, priced
from ..core.log.doubts import doubts
from ..core.log.sums import Charges, Sums, summed
from ..core.units import Array
from ..household.facts import tyres_now
from ..household.home import Home, world_of
from ..household.log_facts import Charged, Driven, charges, drives, facts
from ..household.models import CarRow
from ..household.parts import car_of, cars, home_place, household, place_of, supply_of, tariff_of, trip_of
from .climate import climate_of
from .measured import charging_car, measured
from .past import habit_of
from .remembered import once

LEAST_DAY_KM = 15.0
AROUND = timedelta(days=3)
AMPLE_KW = 7.0
ENOUGH_DAYS, SLIP_SIGMAS, SLIP_SHARE = 6, 4.0, 0.25


@dataclass(frozen=True, kw_only=True)
class NotableDay:
    """A day with what it took: Wh/km, the air, and the tally of its causes."""

    car: str
    kind: str
    number: int
    left_at: datetime
    km: float
    wh_per_km: float
    air_c: float
    tally: Tally | None


@dataclass(frozen=True, kw_only=True)
class CarMonth:
    """One car's sums; `guessed` is how many charges had no energy read, `mean_price` the mean of its tariff over all hours."""

    name: str
    sums: Sums
    guessed: int
    mean_price: float | None


@dataclass(frozen=True, kw_only=True)
class Month:
    """A month of the household, by car and in all, with its best and worst day (None without any to compare).

    `days` are kWh from the wall by day: at home in cheap and in dear hours, and elsewhere.
    """

    first: date
    cars: tuple[CarMonth, ...]
    best: NotableDay | None
    worst: NotableDay | None
    currency: str
    zone: ZoneInfo
    over: bool
    days: Mapping[int, tuple[float, float, float]]

    @property
    def length(self) -> int:
        """Days of the month."""
        return (month_after(self.first) - self.first).days

    @property
    def sums(self) -> Sums:
        """All cars together."""
        return reduce(add, (each.sums for each in self.cars), Sums())


def month_after(first: date, months: int = 1) -> date:
    """The first day of another month."""
    at = first.year * 12 + first.month - 1 + months
    return date(at // 12, at % 12 + 1, 1)


def month(home: Home, now: datetime, first: date, car_id: int | None = None) -> Month:
    """A month, of one car or of all."""

    def work() -> Month:
        with home.reading() as session:
            zone = ZoneInfo(home_place(session).zone)
            rows = [row for row in cars(session) if car_id in (None, row.id)]
            since, until = _start(first, zone), _start(month_after(first), zone)
            notable = [each for row in rows for each in _days(session, row, since, until)]
            best = min(notable, key=lambda each: each[1].wh_per_km, default=None)
            worst = max(notable, key=lambda each: each[1].wh_per_km, default=None)
            return Month(
                first=first,
                cars=tuple(_car_month(session, row, since, until) for row in rows),
                best=_with_tally(session, *best) if best else None,
                worst=_with_tally(session, *worst) if worst and worst is not best else None,
                currency=household(session).currency,
                zone=zone,
                over=until <= now,
                days=_by_day(session, rows, since, until, zone),
            )

    return once(home, ("month", now.date(), first, car_id), work)


def _by_day(
    session: Session, rows: list[CarRow], since: datetime, until: datetime, zone: ZoneInfo
) -> dict[int, tuple[float, float, float]]:
    """Energy of the days on which a charge began: cheap and dear at home, elsewhere."""
    found: dict[int, tuple[float, float, float]] = {}
    for row in rows:
        charged, cells = charges(session, row.id, since, until), _cells(session, row, since, until)
        columns = _columns(session, row, charged, [])
        for i, each in enumerate(charged):
            kwh, home = float(columns.wall_kwh[i]), bool(columns.at_home[i])
            dear = cells.dear_share(columns.begun_s[i], columns.ended_s[i]) if cells and home else 0.0
            was = found.get(day := each.begun_at.astimezone(zone).day, (0.0, 0.0, 0.0))
            found[day] = (was[0] + home * kwh * (1 - dear), was[1] + home * kwh * dear, was[2] + (not home) * kwh)
    return found


def _start(first: date, zone: ZoneInfo) -> datetime:
    return datetime(first.year, first.month, 1, tzinfo=zone)


@dataclass(frozen=True, kw_only=True)
class Year:
    """Twelve months of sums, and those of the year before; by month."""

    year: int
    months: tuple[Sums, ...]
    before: tuple[Sums, ...]
    currency: str


def year(home: Home, now: datetime, number: int, car_id: int | None = None) -> Year:
    """A year beside the year before, of one car or of all."""

    def work() -> Year:
        with home.reading() as session:
            zone = ZoneInfo(home_place(session).zone)
            rows = [row for row in cars(session) if car_id in (None, row.id)]
            firsts = [month_after(date(number - 1, 1, 1), i) for i in range(25)]
            by_car = [_months(session, row, [_start(each, zone) for each in firsts]) for row in rows]
            sums = tuple(reduce(add, each, Sums()) for each in zip(*by_car, strict=True)) if by_car else (Sums(),) * 24
            return Year(year=number, months=sums[12:], before=sums[:12], currency=household(session).currency)

    return once(home, ("year", now.date(), number, car_id), work)


def _car_month(session: Session, row: CarRow, since: datetime, until: datetime) -> CarMonth:
    found = charges(session, row.id, since, until)
    (sums,) = _months(session, row, [since, until])
    cells = _cells(session, row, since, until)
    mean = cells.mean(since.timestamp(), until.timestamp()) if cells else None
    return CarMonth(name=row.name, sums=sums, guessed=sum(each.wall_kwh is None for each in found), mean_price=mean)


def _months(session: Session, row: CarRow, edges: list[datetime]) -> list[Sums]:
    """Sums of a car between each two edges."""
    charged = charges(session, row.id, edges[0], edges[-1])
    driven = drives(session, row.id, edges[0] - AROUND, edges[-1])
    cells = _cells(session, row, edges[0], edges[-1])
    car = charging_car(session, row)
    columns = _columns(session, row, charged, driven)
    wall_kw = _wall_kw(session, row)
    found = []
    for since, until in zip(edges, edges[1:], strict=False):
        low, high = since.timestamp(), until.timestamp()
        here = (columns.begun_s >= low) & (columns.begun_s < high)
        part = Charges(**{name: getattr(columns, name)[here] for name in Charges.__dataclass_fields__})
        days = [each for each in driven if since <= each.left_at < until]
        used = sum(each.soc_start - each.soc_end for each in days) * car.pack.usable_kwh
        mean = cells.mean(low, high) if cells else 0.0
        km = sum(each.km for each in days)
        found.append(summed(part, cells or _free(low), wall_kw, mean, km, used, len(days)))
    return found


def _free(start_s: float) -> Cells:
    """No tariff: nothing costs anything."""
    return Cells(int(start_s), np.zeros(1), np.zeros(1, dtype=bool))


def _cells(session: Session, row: CarRow, since: datetime, until: datetime) -> Cells | None:
    """The prices of a car's tariff over a span and some days around it; None without one."""
    if row.habit.tariff is None:
        return None
    span = since - AROUND, until + AROUND
    return priced(
        tariff_of(session, row.habit.tariff, household(session).currency, place_of(row, session).zone, span).cells(*span)
    )


def _wall_kw(session: Session, row: CarRow) -> float:
    """What the car draws at home, kW."""
    if row.habit.outlet is None:
        return AMPLE_KW
    try:
        return charge_rate(supply_of(row.habit.outlet), charging_car(session, row)).wall_kw
    except OutOfRange:
        return AMPLE_KW


def _columns(session: Session, row: CarRow, charged: list[Charged], driven: list[Driven]) -> Charges:
    """Charges as columns; energy that nobody read follows from the levels and the efficiency of the outlet."""
    car, own = car_of(row), measured(session, row)
    homes = np.array([each.home_at.timestamp() for each in driven])
    rows = []
    for each in charged:
        begun = each.begun_at.timestamp()
        ended = (each.ended_at or each.begun_at).timestamp()
        known = own.get(each.outlet_id)
        share = known.value if known is not None and known.enough else car.charger.efficiency
        pack = each.pack_kwh
        if pack is None and each.soc_start is not None and each.soc_end is not None:
            pack = (each.soc_end - each.soc_start) * car.pack.usable_kwh
        wall = each.wall_kwh if each.wall_kwh is not None else (pack or 0.0) / share
        pack = wall * share if pack is None else min(pack, wall)
        before = homes[homes <= begun]
        plugged = max(before.max() if len(before) else begun, begun - AROUND.total_seconds())
        cost = np.nan if each.cost is None else each.cost
        rows.append((begun, ended, wall, pack, cost, each.site == "home", min(plugged, begun)))
    table: Array = np.array(rows, dtype=float).reshape(-1, 7)
    return Charges(
        begun_s=table[:, 0], ended_s=table[:, 1], wall_kwh=table[:, 2], pack_kwh=table[:, 3], cost=table[:, 4],
        at_home=table[:, 5] > 0, plugged_s=table[:, 6],
    )  # fmt: skip


def _days(session: Session, row: CarRow, since: datetime, until: datetime) -> list[tuple[CarRow, NotableDay]]:
    """The days of a car that can be compared: long enough, and going together with the others."""
    car, zone = car_of(row), ZoneInfo(place_of(row, session).zone)
    odd = {d.fact.number for d in doubts(facts(session, row.id, since - AROUND, until + AROUND), car) if d.fact.kind == "drive"}
    air = climate_of(world_of(session), place_of(row, session))
    found = []
    for each in drives(session, row.id, since, until):
        if each.km < LEAST_DAY_KM or each.number in odd or each.soc_end >= each.soc_start:
            continue
        left = each.left_at.astimezone(zone)
        wh = 1000 * (each.soc_start - each.soc_end) * car.pack.usable_kwh / each.km
        told = {"car": row.name, "kind": "drive", "number": each.number, "left_at": left, "km": each.km}
        found.append((row, NotableDay(**told, wh_per_km=wh, air_c=air.temperature_c(left), tally=None)))  # type: ignore[arg-type]
    return _without_slips(found)


def _without_slips(found: list[tuple[CarRow, NotableDay]]) -> list[tuple[CarRow, NotableDay]]:
    """Without days so far from the others that a level was read wrongly: four robust standard deviations from the middle."""
    if len(found) < ENOUGH_DAYS:
        return found
    use = np.array([day.wh_per_km for _, day in found])
    middle = float(np.median(use))
    most = max(SLIP_SIGMAS * 1.4826 * float(np.median(np.abs(use - middle))), SLIP_SHARE * middle)
    return [each for each in found if abs(each[1].wh_per_km - middle) <= most]


def _with_tally(session: Session, row: CarRow, day: NotableDay) -> NotableDay:
    """The day's causes: driven again in its weather on the car's usual roads, warmed by habit."""
    place, car, habit = place_of(row, session), car_of(row), row.habit
    weather = climate_of(world_of(session), place)
    kept = habit_of(habit, place.altitude_m)
    soak = parked_c(weather.temperature_c, day.left_at, place.garage, place.garage_heated_c)
    tyres = tyres_now(session, row)
    gauge = max(FLAT_KPA, gauge_at(tyres.kpa, tyres.read_c, day.air_c, pressure_at(place.altitude_m) / 1000.0))
    conditions = kept.conditions(day.air_c, weather.wind_mps(day.left_at.astimezone(UTC)), gauge)
    warm = warm_up(
        car, WarmUpChoice(habit.warm_up), cabin_c=soak, pack_c=soak, ambient_c=day.air_c, set_c=habit.cabin_c, wall_kw=AMPLE_KW
    )
    start = Start(max(0.5, habit.limit * float(usable_fraction(warm.pack_c, car.pack.chemistry))), warm.pack_c, warm.cabin_c)
    return replace(day, tally=fair_tally(car, trip_of(habit).scaled_to(day.km), conditions, start))
