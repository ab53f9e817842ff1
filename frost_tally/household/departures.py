"""A car's list of departures and its kept days, written; and what became of departures."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Missing, Refusal
from ..core.heat.schedule import ADVISED, BY_HABIT, ListedDeparture
from .models import DayRow, DepartureRow, LeavingRow
from .parts import car_row
from .reader import as_value

MOST_LISTED = 40


@dataclass(frozen=True, kw_only=True)
class Leaving:
    """What became of a departure: "left", or "missed" and switched off after warming for nothing (kWh); who told ("owner", "car")."""

    name: str
    due_at: datetime
    outcome: str
    kwh: float
    source: str


def leavings(session: Session, car_id: int | None, most: int | None = None) -> tuple[Leaving, ...]:
    """What became of a car's departures, the latest first; of all cars when None."""
    wanted = select(LeavingRow).order_by(LeavingRow.due_at.desc()).limit(most)
    rows = session.scalars(wanted if car_id is None else wanted.where(LeavingRow.car_id == car_id))
    return tuple(as_value(Leaving, each) for each in rows)


def write_leaving(session: Session, car_id: int, made: Leaving) -> None:
    """Write what became of a departure, in place of what was noted before."""
    row = session.scalars(select(LeavingRow).where(LeavingRow.car_id == car_id, LeavingRow.due_at == made.due_at)).first()
    if row is None:
        row = LeavingRow(car_id=car_id)
        session.add(row)
    for name, value in vars(made).items():
        setattr(row, name, value)


def _mine(session: Session, car_id: int) -> list[DepartureRow]:
    return list(session.scalars(select(DepartureRow).where(DepartureRow.car_id == car_id, DepartureRow.withdrawn.is_(False))))


def write_departure(session: Session, car_id: int, made: ListedDeparture) -> None:
    """Enter a departure (number 0), or change one. Raises: Refusal."""
    mine, schedule = _mine(session, car_id), made.schedule
    row = next((each for each in mine if each.id == made.id), None)
    if made.id and row is None:
        raise Missing("There is no such departure.")
    if row is None:
        car_row(session, car_id)
        if len(mine) >= MOST_LISTED:
            raise Refusal(f"{MOST_LISTED} departures are enough: put one away first.", "name")
        row = DepartureRow(car_id=car_id, uid=uuid4().hex, since=made.since)
        session.add(row)
    row.name, row.at, row.on_date = made.name, schedule.at, schedule.on_date
    row.days = "".join(str(day) for day in sorted(schedule.days))
    row.region, row.warm_up, row.km, row.day_id, row.entered_at = made.region, made.warm_up, made.km, made.day_id, made.entered_at
    row.nights, row.place_id = made.nights, made.place_id


def put_departure_away(session: Session, number: int) -> str:
    """Put a departure away; returns its name. Raises: Refusal when there is none."""
    row = session.get(DepartureRow, number)
    if row is None or row.withdrawn:
        raise Missing("There is no such departure.")
    row.withdrawn = True
    return row.name


def change_departure(session: Session, number: int, **columns: object) -> None:
    """Change some columns of a departure, nothing else of it."""
    row = session.get_one(DepartureRow, number)
    for name, value in columns.items():
        setattr(row, name, value)


def warm_by_habit(session: Session, car_id: int) -> None:
    """Let all of a car's departures that took what is advised be warmed up as usual."""
    for row in _mine(session, car_id):
        row.warm_up = BY_HABIT if row.warm_up == ADVISED else row.warm_up


def write_day(session: Session, car_id: int, name: str, values: Mapping[str, object]) -> int:
    """Keep a day to start from, in place of one of the same name; returns its number."""
    same = (DayRow.car_id == car_id, DayRow.name == name, DayRow.withdrawn.is_(False))
    row = session.scalars(select(DayRow).where(*same)).first()
    if row is None:
        row = DayRow(car_id=car_id, name=name)
        session.add(row)
    row.levers = dict(values)
    session.flush()
    return row.id


def put_day_away(session: Session, number: int) -> str:
    """Put a kept day away; returns its name. Raises: Refusal when there is none."""
    row = session.get(DayRow, number)
    if row is None or row.withdrawn:
        raise Refusal("There is no such day.")
    row.withdrawn = True
    return row.name
