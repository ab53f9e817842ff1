"""What the log has of a car's battery: the course of its levels, its everyday sessions, its tests, its events, and its guides."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from datetime import UTC, datetime

import numpy as np
from sqlalchemy import bindparam, select, text
from sqlalchemy.orm import Session

from ..core.battery.own_tests import CapacityTest
from ..core.errors import Refusal
from ..core.log.battery import Sessions, Sums
from .log_facts import seconds
from .models import CapacityRow, EventRow, GuideRow, Moment
from .reader import as_value

_SESSIONS = text(
    f"""
    SELECT {seconds("left_at")}, {seconds("coalesce(home_at, left_at)")}, soc_start, soc_end, NULL, kwh, out_c, km,
           0, assumed = '[]'
    FROM drive WHERE car_id = :car AND left_at < :until
    UNION ALL
    SELECT {seconds("begun_at")}, {seconds("coalesce(ended_at, begun_at)")}, soc_start, soc_end, wall_kwh, pack_kwh,
           out_c, NULL, CASE site WHEN 'fast' THEN 2 ELSE 1 END, assumed = '[]'
    FROM charge WHERE car_id = :car AND begun_at < :until AND soc_start IS NOT NULL AND soc_end IS NOT NULL
    UNION ALL
    SELECT {seconds("read_at")}, NULL, value, value, NULL, NULL, NULL, NULL, 3, 1
    FROM reading WHERE car_id = :car AND kind = 'level' AND read_at < :until
    """  # noqa: S608 - our names
).bindparams(bindparam("until", type_=Moment()))
_SUMS = text(
    f"""
    SELECT total(km), {seconds("min(left_at)")}, {seconds("max(left_at)")}, 0, 0
    FROM drive WHERE car_id = :car
    UNION ALL
    SELECT total(wall_kwh), total(wall_kwh) FILTER (WHERE site = 'fast'), count(*) FILTER (WHERE site = 'fast'),
           total(cost) FILTER (WHERE site = 'fast'), count(*)
    FROM charge WHERE car_id = :car
    """  # noqa: S608 - our names
)
_FIRST_CLOCK = text(
    f"SELECT {seconds('read_at')}, value FROM reading WHERE car_id = :car AND kind = 'odometer' ORDER BY read_at LIMIT 1"  # noqa: S608
)


def sessions_of(session: Session, car_id: int, until_s: float) -> Sessions:
    """Everything with levels that began before a time (s since 1970)."""
    told = session.execute(_SESSIONS, {"car": car_id, "until": datetime.fromtimestamp(until_s, UTC)}).all()
    table = np.array([tuple(each) for each in told], dtype=float).reshape(-1, 10)
    table = table[np.argsort(table[:, 0], kind="stable")]
    return Sessions(**{each.name: table[:, i] for i, each in enumerate(fields(Sessions))})


def sums_of(session: Session, car_id: int) -> Sums:
    """The sums of a car's log."""
    drives, charges = session.execute(_SUMS, {"car": car_id}).all()
    clock = session.execute(_FIRST_CLOCK, {"car": car_id}).first() or (None, None)
    return Sums(
        km=drives[0], first_s=drives[1], last_s=drives[2], clock_s=clock[0], clock_km=clock[1],
        wall_kwh=charges[0], fast_kwh=charges[1], fast_times=charges[2], fast_cost=charges[3], times=charges[4],
    )  # fmt: skip


def tests_of(session: Session, car_id: int) -> list[CapacityTest]:
    """A car's capacity tests, the earliest first."""
    rows = session.scalars(select(CapacityRow).where(CapacityRow.car_id == car_id).order_by(CapacityRow.at, CapacityRow.id))
    return [as_value(CapacityTest, each) for each in rows]


@dataclass(frozen=True, kw_only=True)
class DisplayEvent:
    """What may have stepped a car's display ("update", "repair", "warranty"), or where it was marked that it did ("step")."""

    id: int
    at: datetime
    kind: str
    note: str


def events_of(session: Session, car_id: int) -> list[DisplayEvent]:
    """What may have stepped a car's display, and where it was marked: software updates, repairs, warranty work; the earliest first."""
    kinds = ("update", "repair", "warranty", "step")
    rows = session.scalars(select(EventRow).where(EventRow.car_id == car_id, EventRow.kind.in_(kinds)).order_by(EventRow.at))
    return [as_value(DisplayEvent, each) for each in rows]


def turn_step(session: Session, car_id: int, event_id: int) -> None:
    """Mark that the display reads differently since an event; what marks it already goes. Raises: Refusal for one that is gone."""
    row = session.get(EventRow, event_id)
    if row is None or row.car_id != car_id:
        raise Refusal("This entry is no longer there.")
    if row.kind == "step":
        session.delete(row)
    else:
        session.add(EventRow(car_id=car_id, at=row.at, kind="step", note=row.note))


@dataclass(frozen=True, kw_only=True)
class OpenGuide:
    """A guide under way: its kind, when it was begun, the step it is at (from 0), and what was said at each (values in SI by name)."""

    kind: str
    begun_at: datetime
    step: int
    said: Mapping[str, object]


def _open(session: Session, car_id: int) -> GuideRow | None:
    under_way = (GuideRow.car_id == car_id, GuideRow.ended_at.is_(None))
    return session.scalars(select(GuideRow).where(*under_way).order_by(GuideRow.begun_at.desc()).limit(1)).first()


def open_guide(session: Session, car_id: int) -> OpenGuide | None:
    """The guide that is under way for a car."""
    row = _open(session, car_id)
    return None if row is None else as_value(OpenGuide, row)


def begin_guide(session: Session, car_id: int, kind: str, now: datetime) -> None:
    """Begin a guide; one that is under way goes on instead."""
    if _open(session, car_id) is None:
        session.add(GuideRow(car_id=car_id, kind=kind, begun_at=now, step=0, said={}))


def move_guide(session: Session, car_id: int, **columns: object) -> None:
    """Change where the guide under way is: its step, what was said, when it ended."""
    row = _open(session, car_id)
    for name, value in columns.items():
        setattr(row, name, value)


def drop_guide(session: Session, car_id: int) -> None:
    """Leave the guide that is under way; nothing of it is kept."""
    session.delete(_open(session, car_id))


def last_calibrated(session: Session, car_id: int) -> datetime | None:
    """When a calibration of the display was led to its end last."""
    done = (GuideRow.car_id == car_id, GuideRow.kind == "calibrate", GuideRow.ended_at.is_not(None), GuideRow.step > 0)
    return session.scalars(select(GuideRow.ended_at).where(*done).order_by(GuideRow.ended_at.desc()).limit(1)).first()
