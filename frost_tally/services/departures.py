"""Departures that repeat or happen once: the list, what became of each, and which comes next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from uuid import uuid4
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from ..core.heat.schedule import Departure, next_at
from ..household.calendar import holidays_of, kept_holidays
from ..household.home import Home
from ..household.models import CarRow, DepartureRow, LeavingRow
from ..household.parts import cars, place_of, rows_in_order

AHEAD_DAYS, WITHIN = 7, timedelta(days=370)
MOST_LISTED = 40
Listing = DepartureRow
"""A departure as it is listed."""
ADVISED = "advised"


@dataclass(frozen=True, kw_only=True)
class TypedDeparture:
    """A departure as it was typed; `km` is one way, `day_id` a kept day in its place, `region` names the holidays it skips, "" for none."""

    name: str
    at: time
    days: frozenset[int]
    on_date: date | None
    region: str
    warm_up: str
    km: float
    day_id: int | None = None


@dataclass(frozen=True)
class Due:
    """One time a departure comes round."""

    row: DepartureRow
    at: datetime

    @property
    def uid(self) -> str:
        """Its name in calendars, the same whenever it is written."""
        return f"{self.row.uid}-{self.at:%Y%m%d}"


@dataclass(frozen=True)
class DepartureList:
    """The room's list: rows with the next time each comes, and the latest leavings."""

    rows: tuple[tuple[DepartureRow, datetime | None], ...]
    leavings: tuple[LeavingRow, ...]
    open: Due | None
    zone: ZoneInfo
    car: CarRow


def rows_of(session: Session, car_id: int) -> list[DepartureRow]:
    """A car's departures in the order they were entered."""
    return [row for row in rows_in_order(session, DepartureRow) if row.car_id == car_id]


def schedule_of(row: DepartureRow, zone: str) -> Departure:
    """The core's departure."""
    return Departure(row.at, zone, frozenset(int(d) for d in row.days), row.on_date, kept_holidays(row.region))


def due_between(session: Session, car_id: int, zone: str, start: datetime, end: datetime) -> list[Due]:
    """All departures of a car in a span of time, in order; of two at one moment the first entered."""
    found: dict[datetime, Due] = {}
    for row in rows_of(session, car_id):
        for moment in schedule_of(row, zone).between(start, end):
            found.setdefault(moment, Due(row, moment))
    return [found[moment] for moment in sorted(found)]


def following(rows: Sequence[DepartureRow], zone: str, now: datetime) -> list[datetime | None]:
    """When each departure next comes round within a year, None when it does not."""
    return [next(schedule_of(row, zone).between(now, now + WITHIN), None) for row in rows]


def next_departure(session: Session, car: CarRow, now: datetime) -> datetime | None:
    """When a car's next listed departure is, None without any within a year."""
    found = following(rows_of(session, car.id), place_of(car, session).zone, now)
    return min((each for each in found if each is not None), default=None)


def next_outing(session: Session, car: CarRow, now: datetime) -> tuple[Due, ...]:
    """The listed departures of a car until it is plugged in again, on the clock of `now`: none without any in the coming week."""
    zone = place_of(car, session).zone
    coming = due_between(session, car.id, zone, now + timedelta(seconds=1), now + timedelta(days=AHEAD_DAYS))
    here = [Due(each.row, each.at.astimezone(now.tzinfo)) for each in coming]
    return tuple(each for each in here if each.at < next_at(here[0].at, car.habit.plug_in)) if here else ()


def departures(home: Home, now: datetime, car_id: int | None = None) -> DepartureList:
    """The list of a car (the first when None), its leavings and the departure that nobody has said anything of yet."""
    with home.reading() as session:
        everyone = cars(session)
        car = next((each for each in everyone if car_id in (None, each.id)), None)
        if car is None:
            raise Refusal("There is no such car.")
        zone = place_of(car, session).zone
        rows = rows_of(session, car.id)
        nexts = following(rows, zone, now)
        wanted = select(LeavingRow).where(LeavingRow.car_id == car.id).order_by(LeavingRow.due_at.desc()).limit(14)
        leavings = tuple(session.scalars(wanted))
        past = due_between(session, car.id, zone, now - timedelta(hours=20), now)
        known = {each.due_at.timestamp() for each in leavings}
        unsaid = [due for due in past if due.at.timestamp() not in known and _there(due)]
    return DepartureList(tuple(zip(rows, nexts, strict=True)), leavings, unsaid[-1] if unsaid else None, ZoneInfo(zone), car)


def keep_departure(
    home: Home, now: datetime, car_id: int, typed: TypedDeparture, number: int | None = None, seen_revision: int | None = None
) -> int:
    """Enter a departure, or change one; returns the number to undo it by. Raises: Refusal with its field; Stale."""
    if not 1 <= len(typed.name.strip()) <= 40:
        raise Refusal("A departure needs a name of up to 40 letters.", "name")
    region = typed.region.strip().upper()
    holidays = holidays_of(region) if region else frozenset()
    Departure(typed.at, "UTC", typed.days, typed.on_date, holidays).checked()
    if typed.on_date is not None and typed.on_date < now.date():
        raise Refusal("That day has passed.", "on_date")
    days = "".join(str(day) for day in sorted(typed.days))
    values: Mapping[str, object] = {
        "name": typed.name.strip(), "at": typed.at, "days": days, "on_date": typed.on_date, "region": region,
        "warm_up": typed.warm_up, "km": typed.km, "day_id": typed.day_id, "entered_at": now,
    }  # fmt: skip
    with home.deciding(
        f"Departure “{typed.name.strip()}” {'entered' if number is None else 'changed'}", seen_revision
    ) as session:
        mine = rows_of(session, car_id)
        if number is None:
            if len(mine) >= MOST_LISTED:
                raise Refusal(f"{MOST_LISTED} departures are enough: put one away first.", "name")
            session.add(DepartureRow(car_id=car_id, uid=uuid4().hex, since=now.date(), **values))
        else:
            found = next((each for each in mine if each.id == number), None)
            if found is None:
                raise Refusal("There is no such departure.")
            for name, value in values.items():
                setattr(found, name, value)
    return session.number


def drop_departure(home: Home, number: int, seen_revision: int | None = None) -> int:
    """Put a departure away; returns the number to undo it by. Raises: Refusal when there is none; Stale."""
    with home.deciding("Departure put away", seen_revision) as session:
        row = session.get(DepartureRow, number)
        if row is None or row.withdrawn:
            raise Refusal("There is no such departure.")
        session.words = f"Departure “{row.name}” put away"
        row.withdrawn = True
    return session.number


def write_leaving(session: Session, car_id: int, due: datetime, outcome: str, name: str, kwh: float, source: str) -> None:
    """Write what became of a departure, in place of what was noted before. Raises: Refusal for anything but left or missed."""
    if outcome not in ("left", "missed"):
        raise Refusal("Left, or stayed.")
    row = session.scalars(select(LeavingRow).where(LeavingRow.car_id == car_id, LeavingRow.due_at == due)).first()
    if row is None:
        row = LeavingRow(car_id=car_id, due_at=due)
        session.add(row)
    row.name, row.outcome, row.kwh, row.source = name, outcome, kwh, source


def leavings(home: Home, car_id: int | None) -> Sequence[LeavingRow]:
    """All that became of a car's departures, the oldest first; of all cars when None."""
    with home.reading() as session:
        wanted = select(LeavingRow).order_by(LeavingRow.due_at)
        return list(session.scalars(wanted if car_id is None else wanted.where(LeavingRow.car_id == car_id)))


def unsettled(session: Session, car: CarRow, now: datetime, off_after: timedelta) -> Sequence[Due]:
    """Departures of the last fortnight that are past their switch-off and not noted yet."""
    zone, start = place_of(car, session).zone, now - timedelta(days=14)
    noted = session.scalars(select(LeavingRow.due_at).where(LeavingRow.car_id == car.id, LeavingRow.due_at >= start))
    known = {each.timestamp() for each in noted}
    due = due_between(session, car.id, zone, start, now - off_after)
    return [each for each in due if each.at.timestamp() not in known and _there(each)]


def _there(due: Due) -> bool:
    """Whether the departure was on the list before it was due; one that was changed since is as new."""
    return due.row.since <= due.at.date() and (due.row.entered_at is None or due.row.entered_at < due.at)
