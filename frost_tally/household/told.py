"""What people were reminded of: written before it is sent, so that nobody hears of one thing twice."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, insert, select, update
from sqlalchemy.orm import Session

from .models import ReminderRow

KEPT = 200


@dataclass(frozen=True, kw_only=True)
class Told:
    """A reminder of a car for a departure: its kind, when it was told, and what went wrong with sending it ("": nothing)."""

    car_id: int
    kind: str
    departure: datetime
    told_at: datetime
    problem: str


def claim(session: Session, car_id: int, kind: str, departure: datetime, now: datetime) -> bool:
    """Whether it is this one's to tell: nobody was told of it yet. Written down at once."""
    row = {"car_id": car_id, "kind": kind, "departure": departure, "told_at": now, "problem": ""}
    made = session.connection().execute(insert(ReminderRow).prefix_with("OR IGNORE").values(**row))
    if made.rowcount:
        kept = select(ReminderRow.id).order_by(ReminderRow.id.desc()).limit(KEPT)
        session.connection().execute(delete(ReminderRow).where(ReminderRow.id.not_in(kept)))
    return bool(made.rowcount)


def went_wrong(session: Session, car_id: int, kind: str, departure: datetime, problem: str) -> None:
    """Write down why it did not go out; it is not tried again."""
    this = (ReminderRow.car_id == car_id, ReminderRow.kind == kind, ReminderRow.departure == departure)
    session.connection().execute(update(ReminderRow).where(*this).values(problem=problem[:200]))


def lately(session: Session, most: int = 6) -> Sequence[Told]:
    """The latest, the latest first."""
    rows = session.scalars(select(ReminderRow).order_by(ReminderRow.id.desc()).limit(most))
    return [
        Told(car_id=each.car_id, kind=each.kind, departure=each.departure, told_at=each.told_at, problem=each.problem)
        for each in rows
    ]
