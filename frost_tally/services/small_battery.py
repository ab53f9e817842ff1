"""The 12 V battery of a car: what was entered and read of it, and the verdict."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from ..core.park.twelve_volt import Judged, Rested, judge
from ..household.facts import known_by
from ..household.home import Home
from ..household.models import CarRow, ReadingRow, SmallBatteryRow
from ..household.parts import cars, place_of
from .climate import climate_of, lowest_of
from .clock import minute_of
from .evening import NotSetUp
from .log_entry import car_row
from .remembered import once


def first_or(session: Session, car_id: int | None) -> CarRow:
    """A car, the first when None. Raises: NotSetUp without it."""
    row = next((each for each in cars(session) if car_id in (None, each.id)), None)
    if row is None:
        raise NotSetUp
    return row


@dataclass(frozen=True, kw_only=True)
class SmallBattery:
    """The 12 V battery of a car: what was entered (`with_car`: its age is taken to be the car's), its readings (when, V, °C), the verdict,
    the lowest temperature ahead (°C).
    """

    car_id: int
    name: str
    cars: tuple[tuple[int, str], ...]
    fitted_on: date | None
    with_car: bool
    tops_up: str
    boot: str
    tank_l: float | None
    readings: tuple[tuple[datetime, float, float | None], ...]
    judged: Judged
    lowest_c: float
    age_years: float | None
    zone: ZoneInfo


AHEAD_DAYS = 60


def small_battery(home: Home, now: datetime, car_id: int | None = None) -> SmallBattery:
    """The 12 V battery of a car (the first when None). Raises: NotSetUp."""
    now = minute_of(now)

    def work() -> SmallBattery:
        with home.reading() as session:
            return battery_now(session, first_or(session, car_id), now)

    return once(home, ("twelve volt", now, car_id), work)


def battery_now(session: Session, row: CarRow, now: datetime) -> SmallBattery:
    """The 12 V battery of a car, judged."""
    entered = row.small_battery
    with_car = row.battery.new_on if row.battery else None
    fitted = (entered.fitted_on if entered else None) or with_car
    wanted = select(ReadingRow.read_at, ReadingRow.value, ReadingRow.temp_c).where(
        ReadingRow.car_id == row.id, ReadingRow.kind == "twelve_volt", ReadingRow.read_at < known_by(now)
    )
    readings = [(at, volt, temp_c) for at, volt, temp_c in session.execute(wanted.order_by(ReadingRow.read_at))]
    own = [each for each in readings if fitted is None or each[0].date() >= fitted]
    place = place_of(row, session)
    lowest = lowest_of(climate_of(session, place), now, AHEAD_DAYS)
    tops_up = entered.tops_up if entered else "unknown"
    age = None if fitted is None else (now.date() - fitted).days / 365.25
    rested = [Rested(volt, temp_c, (now - at).total_seconds() / 86400.0) for at, volt, temp_c in own]
    return SmallBattery(
        car_id=row.id, name=row.name, cars=tuple((each.id, each.name) for each in cars(session)),
        fitted_on=entered.fitted_on if entered else None, with_car=entered is None or entered.fitted_on is None, tops_up=tops_up,
        boot=entered.boot if entered else "unknown", tank_l=entered.tank_l if entered else None, readings=tuple(own),
        judged=judge(age, rested, {"yes": True, "no": False}.get(tops_up), lowest), lowest_c=lowest, age_years=age,
        zone=ZoneInfo(place.zone),
    )  # fmt: skip


def keep_small_battery(
    home: Home, now: datetime, car_id: int, values: Mapping[str, object], words: str, seen_revision: int
) -> int:
    """Keep what was entered of the 12 V battery and the tank (only the given fields); returns the undo number. Raises: Refusal; Stale."""
    fitted = values.get("fitted_on")
    if isinstance(fitted, date) and fitted > now.date():
        raise Refusal("This day is still to come.", "fitted_on")
    with home.deciding(words, seen_revision) as session:
        row = car_row(session, car_id)
        if row.small_battery is None:
            row.small_battery = SmallBatteryRow(tops_up="unknown", boot="unknown")
        for name, value in values.items():
            setattr(row.small_battery, name, value)
    return session.number
