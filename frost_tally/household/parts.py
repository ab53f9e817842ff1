"""The parts of a home: their rows, and the core objects that these stand for."""

from collections.abc import Callable, Hashable
from dataclasses import replace
from datetime import datetime, time
from typing import TypeVar

import numpy as np
from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from ..core.car import DAY_SIGMA, FACTOR_SIGMA, FIELDS, Car, Factors, preset
from ..core.charge.control import Control, How
from ..core.charge.night_clock import HeldHours
from ..core.charge.prices import Series
from ..core.charge.supply import Code, Supply
from ..core.charge.tariff import Band, Season, Tariff
from ..core.drive.day import Drive, Park, Road, Trip
from .calendar import kept_holidays
from .models import (
    CarRow,
    DayRow,
    DepartureRow,
    HabitRow,
    HouseholdRow,
    OutletRow,
    PersonRow,
    PlaceRow,
    PriceRow,
    SeasonRow,
    TariffRow,
)

Found = TypeVar("Found")
Part = TypeVar("Part", PlaceRow, PersonRow, OutletRow, TariffRow, CarRow, DayRow, DepartureRow)


def settled(session: Session, what: Hashable, load: Callable[[], Found]) -> Found:
    """What only a decision changes: kept while nobody decides, for sessions that only read; their rows are nobody's to write to."""
    kept = session.info.get("settled")
    if kept is None:
        return load()
    if what not in kept:
        kept[what] = load()
    found: Found = kept[what]
    return found


def rows_in_order(session: Session, kind: type[Part]) -> list[Part]:
    """All rows of a kind that were not put away, in the order they were entered."""

    def load() -> tuple[Part, ...]:
        return tuple(session.scalars(select(kind).where(kind.withdrawn.is_(False)).order_by(kind.id)))

    return list(settled(session, kind, load))


def household(session: Session) -> HouseholdRow:
    """The household's row; an empty one, not stored, before the first change."""
    return settled(session, HouseholdRow, lambda: session.get(HouseholdRow, 1)) or HouseholdRow(
        id=1, currency="EUR", out_now_c=0.0, out_low_c=-5.0, complete=False, house_kwh=[], house_shape="evening", shift=0.0
    )


def places(session: Session) -> list[PlaceRow]:
    """All places in the order they were entered; the first is home."""
    return rows_in_order(session, PlaceRow)


def home_place(session: Session) -> PlaceRow:
    """Home; an empty one, not stored, before the first change."""
    found = places(session)
    return (
        found[0]
        if found
        else PlaceRow(
            id=0, name="", zone="UTC", altitude_m=0.0, garage="outdoor", garage_heated_c=10.0, january_c=-4.0, july_c=16.0
        )
    )


def people(session: Session) -> list[PersonRow]:
    """Everybody's units; one with the usual ones, not stored, before the first change."""
    found = rows_in_order(session, PersonRow)
    nobody = PersonRow(
        id=0,
        name="Everyone",
        distance_unit="km",
        temperature_unit="C",
        pressure_unit="kPa",
        currency="EUR",
        per_contract=1.0,
        weight_unit="kg",
        hours="24",
        week_start="mon",
        decimal_mark=".",
    )
    return found or [nobody]


def outlets(session: Session) -> list[OutletRow]:
    """All outlets in the order they were entered."""
    return rows_in_order(session, OutletRow)


def tariffs(session: Session) -> list[TariffRow]:
    """All tariffs in the order they were entered."""
    return rows_in_order(session, TariffRow)


def names_of(session: Session, kind: type[Part]) -> dict[int, str]:
    """The names of all rows of a kind by number, those that were put away first: what was noted of them stays theirs."""

    def load() -> dict[int, str]:
        found = session.execute(select(kind.id, kind.name).order_by(kind.withdrawn.desc(), kind.id))
        return {row.id: row.name for row in found}

    return dict(settled(session, ("names", kind), load))


def days_kept(session: Session, car_id: int) -> list[DayRow]:
    """The days kept for a car, in the order they were entered."""
    return [row for row in rows_in_order(session, DayRow) if row.car_id == car_id]


def cars(session: Session) -> list[CarRow]:
    """All cars in the order they were entered."""
    return rows_in_order(session, CarRow)


def car_of(row: CarRow) -> Car:
    """The core's car."""
    curve = tuple((level, kw) for level, kw in row.fast_points or [])
    base = replace(preset(row.preset, row.name), factors=_factors_of(row), fast_points=curve)
    return base.with_values({column: getattr(row, column) for column in FIELDS})


def _factors_of(row: CarRow) -> Factors:
    """The car's own factors with their doubt: what learning left, else the spread among cars and days."""
    own = row.learnt
    if own is None:
        return Factors(base=1.0, heat=1.0, cold=1.0, sigma=FACTOR_SIGMA, day_sigma=DAY_SIGMA, days=0)
    left = (own.base_sigma, own.heat_sigma, own.cold_sigma)
    base, heat, cold = (prior if each is None else each for each, prior in zip(left, FACTOR_SIGMA, strict=True))
    day = DAY_SIGMA if own.day_sigma is None else own.day_sigma
    return Factors(base=own.base, heat=own.heat, cold=own.cold, sigma=(base, heat, cold), day_sigma=day, days=own.days)


def supply_of(row: OutletRow) -> Supply:
    """The core's supply."""
    return Supply(
        name=row.name,
        voltage_v=row.voltage_v,
        phases=row.phases,
        breaker_a=row.breaker_a,
        code=Code(row.code),
        cable_a=row.cable_a,
        selector_a=row.selector_a,
        car_setting_a=row.car_setting_a,
        shared_a=row.shared_a,
    )


def held_of(row: OutletRow) -> HeldHours:
    """When the house leaves an outlet less."""
    return HeldHours(row.held_from, row.held_until, row.held_a)


def control_of(habit: HabitRow) -> Control:
    """How a car's nights are carried out."""
    return Control(how=How(habit.control), step_min=habit.timer_step, awake_from=habit.awake_from, awake_until=habit.awake_until)


def place_of(row: CarRow, session: Session) -> PlaceRow:
    """Where the car's outlet is; home without one."""
    outlet = row.habit.outlet
    return outlet.place if outlet is not None and outlet.place is not None else home_place(session)


def tariff_of(
    session: Session, row: TariffRow, currency: str, zone: str, span: tuple[datetime, datetime] | None = None
) -> Tariff:
    """The core's tariff on a place's clock, with its follower; `span` says which dated prices are wanted, none for None."""
    following = None
    if row.following_id is not None:
        after = session.get(TariffRow, row.following_id)
        following = None if after is None or after.withdrawn else tariff_of(session, after, currency, zone, span)
    return Tariff(
        name=row.name,
        zone=zone,
        bands=tuple(Band(b.name, b.price_per_kwh, b.start, b.end, frozenset(int(d) for d in b.days)) for b in row.bands),
        currency=currency,
        standing_per_day=row.standing_per_day,
        seasons=tuple(season_of(each) for each in row.seasons),
        holidays=kept_holidays(row.holiday_region) or None,
        series=dated_prices(session, row.id, *span) if span else None,
        valid_from=row.valid_from,
        valid_to=row.valid_to,
        following=following,
    )


def season_of(row: SeasonRow) -> Season:
    """The core's season."""
    bands = tuple(
        Band(
            str(name),
            float(str(price)),
            time.fromisoformat(str(start)),
            time.fromisoformat(str(end)),
            frozenset(int(d) for d in str(days)),
        )
        for name, price, start, end, days in row.bands
    )
    return Season(row.name, (row.first[0], row.first[1]), (row.last[0], row.last[1]), bands)


_PRICES = (
    select(PriceRow.start_s, PriceRow.minutes, PriceRow.price_per_kwh)
    .where(
        PriceRow.tariff_id == bindparam("tariff_id"),
        PriceRow.start_s > bindparam("after_s"),
        PriceRow.start_s < bindparam("before_s"),
    )
    .order_by(PriceRow.start_s)
)


def dated_prices(session: Session, tariff_id: int, start: datetime, end: datetime) -> Series | None:
    """A tariff's dated prices that touch a span of time; None without any."""
    span = {"after_s": int(start.timestamp()) - 3600, "before_s": int(end.timestamp())}
    found = session.execute(_PRICES, {"tariff_id": tariff_id, **span}).all()
    if not found:
        return None
    table = np.array([tuple(row) for row in found], dtype=float)
    starts = table[:, 0].astype(np.int64)
    return Series(starts, starts + 60 * table[:, 1].astype(np.int64), table[:, 2])


def trip_of(habit: HabitRow) -> Trip:
    """The usual day: half of each road out, parked, and the same way home."""
    out = [
        Drive(Road.TOWN, habit.town_km / 2),
        Drive(Road.COUNTRY, habit.country_km / 2),
        Drive(Road.MOTORWAY, habit.motorway_km / 2, habit.motorway_kmh),
    ]
    out = [leg for leg in out if leg.distance_km > 0]
    return Trip((*out, Park(habit.parked_h), *reversed(out)))
