"""Plans that were kept, and what was driven on them."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from .models import DriveRow, PlanRow


def _kept(car_id: int) -> Select[PlanRow]:
    """A car's kept plans that were not withdrawn, the latest departure first."""
    kept = select(PlanRow).where(PlanRow.car_id == car_id, PlanRow.withdrawn.is_(False))
    return kept.order_by(PlanRow.departure.desc(), PlanRow.id.desc())


def coming_plan(session: Session, car_id: int, now: datetime) -> PlanRow | None:
    """The kept plan of a car whose departure is still to come, whenever it is."""
    return session.scalars(_kept(car_id).where(PlanRow.departure > now).limit(1)).first()


def open_plan(session: Session, car_id: int, now: datetime) -> PlanRow | None:
    """The latest kept plan whose departure has passed, while nobody has noted what was driven on it."""
    last = session.scalars(_kept(car_id).where(PlanRow.departure <= now).limit(1)).first()
    driven = last is not None and session.scalar(select(DriveRow.id).where(DriveRow.plan_id == last.id).limit(1)) is not None
    return None if driven else last


@dataclass(frozen=True)
class PlanAndDrive:
    """A plan, and what was driven on it."""

    plan: PlanRow
    drive: DriveRow


def plans_driven(session: Session, car_id: int, limit: int = 7) -> tuple[PlanAndDrive, ...]:
    """The latest plans with what was driven on them, the latest first."""
    wanted = _kept(car_id).join(DriveRow, DriveRow.plan_id == PlanRow.id).add_columns(DriveRow).limit(limit)
    return tuple(PlanAndDrive(plan, drive) for plan, drive in session.execute(wanted))
