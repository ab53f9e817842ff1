"""Plans that were kept, and what was driven on them."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import bindparam, exists, select
from sqlalchemy.orm import Session, selectinload

from ..core.charge.start_check import StartCheck, read
from .facts import level_known
from .models import DriveRow, PlanRow, StartCheckRow

_KEPT = (
    select(PlanRow)
    .where(PlanRow.car_id == bindparam("car_id"), PlanRow.withdrawn.is_(False))
    .order_by(PlanRow.departure.desc(), PlanRow.id.desc())
)
"""A car's kept plans that were not withdrawn, the latest departure first. These statements are built once."""
_COMING = _KEPT.where(PlanRow.departure > bindparam("now")).options(selectinload(PlanRow.blocks)).limit(1)
_LAST = (
    _KEPT.where(PlanRow.departure <= bindparam("now"))
    .add_columns(exists().where(DriveRow.plan_id == PlanRow.id).label("driven"))
    .limit(1)
)
_DRIVEN = _KEPT.join(DriveRow, DriveRow.plan_id == PlanRow.id).add_columns(DriveRow).limit(bindparam("most"))


def coming_plan(session: Session, car_id: int, now: datetime) -> PlanRow | None:
    """The kept plan of a car whose departure is still to come, whenever it is."""
    return session.scalars(_COMING, {"car_id": car_id, "now": now}).first()


@dataclass(frozen=True)
class NotedStart:
    """What was seen when the cable went in, and when."""

    at: datetime
    check: StartCheck


_STARTED = (
    select(StartCheckRow)
    .where(StartCheckRow.car_id == bindparam("car_id"), StartCheckRow.at.between(bindparam("since"), bindparam("now")))
    .order_by(StartCheckRow.at.desc(), StartCheckRow.id.desc())
    .limit(1)
)


def start_noted(session: Session, car_id: int, since: datetime, now: datetime) -> NotedStart | None:
    """The latest check of a start between two times."""
    row = session.scalars(_STARTED, {"car_id": car_id, "since": since, "now": now}).first()
    return None if row is None else NotedStart(row.at, read(row.troubles, row.amps))


def plan_before(session: Session, car_id: int, now: datetime) -> PlanRow | None:
    """The latest kept plan whose departure has passed, whether or not it was driven."""
    last = session.execute(_LAST, {"car_id": car_id, "now": now}).first()
    return None if last is None else last[0]


def open_plan(session: Session, car_id: int, now: datetime) -> PlanRow | None:
    """The latest kept plan whose departure has passed, while nobody has noted what was driven on it."""
    last = session.execute(_LAST, {"car_id": car_id, "now": now}).first()
    return None if last is None or last.driven else last[0]


def level_ahead(session: Session, car_id: int, now: datetime) -> tuple[datetime, float] | None:
    """When the level of the coming night was known last, and which (0 to 1): as read or noted; after a kept plan's departure that nobody
    has noted yet, as that plan brings the car home.
    """
    known, plan = level_known(session, car_id), open_plan(session, car_id, now)
    if plan is not None and (known is None or known[0] <= plan.departure):
        return known[0] if known else plan.kept_at, min(1.0, max(0.0, plan.arrival_likely))
    return known


_ERRORS = (
    select(
        PlanRow.departure,
        DriveRow.soc_end - PlanRow.arrival_likely - DriveRow.soc_start + PlanRow.soc_departure,
        (PlanRow.arrival_high - PlanRow.arrival_low) / 2,
    )
    .join(DriveRow, DriveRow.plan_id == PlanRow.id)
    .where(PlanRow.car_id == bindparam("car_id"), PlanRow.withdrawn.is_(False))
    .order_by(PlanRow.departure.desc())
    .limit(bindparam("most"))
)


def plan_errors(session: Session, car_id: int, most: int) -> list[tuple[float, float, float]]:
    """The latest plans that were driven, the earliest first: when they left (seconds since 1970), the level at arrival against what was
    likely from the level that it left with (0 to 1), half the width of the planned band.
    """
    found = session.execute(_ERRORS, {"car_id": car_id, "most": most}).all()
    return [(departure.timestamp(), error, width) for departure, error, width in reversed(found)]


@dataclass(frozen=True)
class PlanAndDrive:
    """A plan, and what was driven on it."""

    plan: PlanRow
    drive: DriveRow


def plans_driven(session: Session, car_id: int, limit: int = 7) -> tuple[PlanAndDrive, ...]:
    """The latest plans with what was driven on them, the latest first."""
    return tuple(PlanAndDrive(plan, drive) for plan, drive in session.execute(_DRIVEN, {"car_id": car_id, "most": limit}))
