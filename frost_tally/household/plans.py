"""Plans that were kept, what was driven on them, and what was seen when the cable went in."""

from collections.abc import Sequence
from dataclasses import fields
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, selectinload

from ..core.charge.saved_plan import DrivenPlan, SavedBlock, SavedPlan
from ..core.charge.start_check import NotedStart, read
from ..core.coming.level import NightTold
from ..core.coming.weather import TypedNight
from ..core.errors import Refusal
from .models import BlockRow, DriveRow, NightCheckRow, PlanRow, StartCheckRow
from .reader import as_value

_KEPT = (
    select(PlanRow)
    .where(PlanRow.car_id == bindparam("car_id"), PlanRow.withdrawn.is_(False))
    .order_by(PlanRow.departure.desc(), PlanRow.id.desc())
)
"""A car's kept plans that were not withdrawn, the latest departure first. These statements are built once."""
_COMING = _KEPT.where(PlanRow.departure > bindparam("now")).options(selectinload(PlanRow.blocks)).limit(1)
_NOTED = select(DriveRow.plan_id).where(DriveRow.car_id == bindparam("car_id"), DriveRow.plan_id.is_not(None))
_DRIVEN = _KEPT.join(DriveRow, DriveRow.plan_id == PlanRow.id).add_columns(DriveRow.soc_start, DriveRow.soc_end)
_DRIVEN = _DRIVEN.limit(bindparam("most"))


def _saved(row: PlanRow, blocks: Sequence[BlockRow] = ()) -> SavedPlan:
    own = tuple(as_value(SavedBlock, each) for each in blocks)
    return as_value(SavedPlan, row, inputs=row.levers, overrides=tuple(row.pulled), blocks=own)


def kept_plans(session: Session, car_id: int, most: int = 24) -> tuple[SavedPlan, ...]:
    """A car's kept plans, the latest departure first."""
    rows = session.scalars(_KEPT.options(selectinload(PlanRow.blocks)).limit(most), {"car_id": car_id}).all()
    return tuple(_saved(row, row.blocks) for row in rows)


_STARTED = (
    select(StartCheckRow)
    .where(StartCheckRow.car_id == bindparam("car_id"))
    .order_by(StartCheckRow.at.desc(), StartCheckRow.id.desc())
    .limit(bindparam("most"))
)


def starts_noted(session: Session, car_id: int, most: int = 8) -> tuple[NotedStart, ...]:
    """The latest checks of a start, the latest first."""
    rows = session.scalars(_STARTED, {"car_id": car_id, "most": most})
    return tuple(NotedStart(each.at, read(each.troubles, each.amps)) for each in rows)


def plans_noted(session: Session, car_id: int) -> frozenset[int]:
    """The numbers of a car's plans of which somebody noted what was driven on them."""
    return frozenset(session.scalars(_NOTED, {"car_id": car_id}))


_MISSED = (
    select(PlanRow.departure, PlanRow.soc_start, PlanRow.soc_departure, DriveRow.soc_start.label("left_with"))
    .join(DriveRow, DriveRow.plan_id == PlanRow.id)
    .where(PlanRow.car_id == bindparam("car_id"), PlanRow.withdrawn.is_(False))
    .order_by(PlanRow.departure.desc())
    .limit(60)
)


def nights_kept(session: Session, car_id: int) -> list[tuple[datetime, float, float, float]]:
    """The latest kept plans that were driven: when each left, the level that it began with, the one planned, and the one it left with."""
    return [(at, float(a), float(b), float(c)) for at, a, b, c in session.execute(_MISSED, {"car_id": car_id})]


_CHECKED = (
    select(NightCheckRow.ended_at, NightCheckRow.kept, NightCheckRow.charged, NightCheckRow.noted_at)
    .where(NightCheckRow.car_id == bindparam("car_id"))
    .order_by(NightCheckRow.noted_at.desc(), NightCheckRow.id.desc())
    .limit(60)
)


def nights_checked(session: Session, car_id: int) -> list[tuple[datetime, bool, bool, datetime]]:
    """The latest nights that somebody knows of: when each ended, whether a plan was kept for it, whether it charged, when it was noted."""
    return [row._tuple() for row in session.execute(_CHECKED, {"car_id": car_id})]


def note_night(session: Session, car_id: int, night: NightTold, now: datetime, *, charged: bool, told: bool) -> None:
    """Note whether a night charged: as its owner `told`, or as a level shows."""
    row = NightCheckRow(car_id=car_id, ended_at=night.ends, noted_at=now, kept=night.kept, charged=charged, told=told)
    session.add(row)


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


def plans_driven(session: Session, car_id: int, limit: int = 5) -> tuple[DrivenPlan, ...]:
    """The latest plans with what was driven on them, the latest first."""
    return tuple(DrivenPlan(_saved(row), *levels) for row, *levels in session.execute(_DRIVEN, {"car_id": car_id, "most": limit}))


def save_plan(session: Session, plan: SavedPlan) -> None:
    """Keep a plan for the coming night, in place of one kept before."""
    withdraw_plan(session, plan.car_id, plan.kept_at)
    named: dict[str, Any] = {each.name: getattr(plan, each.name) for each in fields(SavedPlan)}
    for name in ("id", "inputs", "overrides", "blocks"):
        del named[name]
    blocks = [BlockRow(**vars(each)) for each in plan.blocks]
    session.add(PlanRow(**named, levers=dict(plan.inputs), pulled=list(plan.overrides), blocks=blocks))


def withdraw_plan(session: Session, car_id: int, now: datetime) -> None:
    """Leave the plan that is kept for the coming night, if any."""
    row = session.scalars(_COMING, {"car_id": car_id, "now": now}).first()
    if row is not None:
        row.withdrawn = True


def plan_of(session: Session, number: int) -> SavedPlan:
    """A plan by its number. Raises: Refusal when there is none."""
    row = session.get(PlanRow, number)
    if row is None:
        raise Refusal("There is no such plan.")
    return _saved(row)


def note_drive(session: Session, plan: SavedPlan, levels: tuple[float, float], now: datetime, typed: TypedNight | None) -> None:
    """Note the levels (0 to 1) that a plan's day began and ended with, in place of what was noted before; `typed` are the outside
    temperatures that it was planned by, where they were typed.
    """
    row = session.scalars(select(DriveRow).where(DriveRow.plan_id == plan.id)).first() or DriveRow(plan_id=plan.id)
    row.car_id, row.left_at, row.km, row.noted_at = plan.car_id, plan.departure, plan.km, now
    row.soc_start, row.soc_end = levels
    row.start_pack_c, row.start_cabin_c = plan.start_pack_c, plan.start_cabin_c
    row.assumed = ["left_at", "km", "start_pack_c", "start_cabin_c"]
    if typed is not None:
        row.typed_at, row.typed_now_c, row.typed_low_c = typed.now, typed.now_c, typed.low_c
    session.add(row)


def note_start_check(session: Session, car_id: int, now: datetime, troubles: Sequence[str], amps: float | None) -> None:
    """Note what was seen when the cable went in: codes of troubles, and the amperes that the car showed."""
    session.add(StartCheckRow(car_id=car_id, at=now, amps=amps, troubles=list(troubles)))
