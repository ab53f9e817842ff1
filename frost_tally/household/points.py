"""What charge points reported and what the runner decided, in the store; and the charges that they counted, in the log."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any, NamedTuple

from sqlalchemy import ColumnElement, delete, func, insert, select
from sqlalchemy.orm import Session

from ..core.live.heard import Counted, Heard, Socket
from ..core.live.lines import Line, State
from .models import ChargeRow, NightLineRow, PointReportRow

SOURCE = "point"
REPORTS_KEPT, LINES_KEPT = timedelta(days=30), timedelta(days=400)
LEAST_KWH = 0.05
"""A charge of less is none: somebody tried the plug."""
MOMENTS = ("at", "begun", "metered_at")
FRESH = timedelta(minutes=30)
"""A point that was heard so lately still tells what is so."""


@dataclass(frozen=True, kw_only=True)
class Report:
    """What a point told at a time: of which car on its cable (None: of none), whether it is heard, what this car got of it since it is
    known (shares of its pack), and the level that the runner reckons with.
    """

    at: datetime
    car_id: int | None
    online: bool
    heard: Heard
    added: float = 0.0
    level: float | None = None


def last_report(session: Session, outlet_id: int) -> Report | None:
    """What an outlet's point told last."""
    wanted = select(PointReportRow).where(PointReportRow.outlet_id == outlet_id)
    row = session.scalars(wanted.order_by(PointReportRow.id.desc()).limit(1)).first()
    return None if row is None else _report(row)


class Flow(NamedTuple):
    """What was so at a moment of a car's time on the cable: kW, the level that the runner reckoned with, and the point's count (kWh)."""

    at: datetime
    kw: float
    level: float | None
    kwh: float


def stay_of(session: Session, car_id: int, since: datetime) -> Sequence[Flow]:
    """What was told since a car's cable went in last, at most since a time, the earliest first."""
    row = PointReportRow
    own = row.car_id == car_id
    pulled = session.scalar(select(func.max(row.at)).where(own, row.at >= since, row.told["plugged"].as_boolean().is_(False)))
    wanted = select(row.at, row.kw, row.level, row.told["kwh"].as_float()).where(own, row.at >= since)
    if pulled is not None:
        wanted = wanted.where(row.at > pulled)
    return [Flow(*each) for each in session.execute(wanted.order_by(row.id))]


def level_told_at(session: Session, car_id: int) -> datetime | None:
    """When a car told its level at a point last."""
    row = PointReportRow
    wanted = select(row.at).where(row.car_id == car_id, row.soc.is_not(None)).order_by(row.at.desc())
    return session.scalar(wanted.limit(1))


def heard_at(session: Session) -> datetime | None:
    """When any point of the home told anything last."""
    return session.scalar(select(func.max(PointReportRow.at)))


def last_added(session: Session, car_id: int) -> float:
    """What a car had got of points when one told of it last, in shares of its pack."""
    return _added(session, PointReportRow.car_id == car_id) or 0.0


def counted_between(session: Session, outlet_id: int, car_id: int, since: datetime, until: datetime) -> float | None:
    """What an outlet's point gave a car between two times, in shares of its pack; None where it was not heard all the time.

    A time in which it was not heard is no gap where the car was on its cable before and after: its register went on.
    """
    row, own = PointReportRow, PointReportRow.car_id == car_id
    wanted = select(row.at, row.car_id).where(row.outlet_id == outlet_id, row.at >= since, row.at <= until, row.online)
    heard = [(at, car) for at, car in session.execute(wanted.order_by(row.at, row.id))]
    edges = [(since, None), *heard, (until, None)]
    for (begin, was), (end, then) in pairwise(edges):
        if end - begin > FRESH and not was == then == car_id:
            return None
    last, first = _added(session, own, row.at <= until), _added(session, own, row.at <= since)
    if first is None:
        first = session.scalar(select(row.added).where(own, row.at >= since).order_by(row.at, row.id).limit(1))
    return max(0.0, (last or 0.0) - (first or 0.0)) if last is not None else 0.0


def counted_unheard(since: datetime, until: datetime) -> float | None:
    """What `counted_between` says of two times where no point told anything from the first on."""
    return None if until - since > FRESH else 0.0


def _added(session: Session, *where: ColumnElement[bool]) -> float | None:
    row = PointReportRow
    return session.scalar(select(row.added).where(*where).order_by(row.at.desc(), row.id.desc()).limit(1))


def on_cable_at(session: Session, outlet_id: int, at: datetime) -> int | None:
    """The car that was on an outlet's cable at a time, as far as its point told (0: none); None where it was not heard shortly before."""
    row = PointReportRow
    told = select(row.car_id, row.at, row.told["plugged"].as_boolean().label("plugged"))
    found = session.execute(
        told.where(row.outlet_id == outlet_id, row.at <= at).order_by(row.at.desc(), row.id.desc()).limit(1)
    ).first()
    if found is None or at - found.at > FRESH:
        return None
    return (found.car_id or 0) if found.plugged else 0


def currents_seen(session: Session, car_id: int) -> Sequence[tuple[datetime, float]]:
    """When the runner saw another current than planned, and which (A), the latest first."""
    row = NightLineRow
    wanted = select(row.at, row.values).where(row.car_id == car_id, row.code.in_(("less_current", "more_current")))
    found = session.execute(wanted.order_by(row.id.desc()).limit(20))
    return [(at, float(values["amps"])) for at, values in found if "amps" in values]


def write_report(session: Session, outlet_id: int, report: Report) -> None:
    """Write down what was told; what is too old goes."""
    heard = report.heard
    row = {
        "outlet_id": outlet_id, "car_id": report.car_id, "at": report.at, "online": report.online, "kw": min(heard.kw, 1000.0),
        "soc": heard.soc, "added": report.added, "level": report.level, "told": _as_json(heard),
    }  # fmt: skip
    session.connection().execute(insert(PointReportRow).values(**row))
    old = (PointReportRow.outlet_id == outlet_id, PointReportRow.at < report.at - REPORTS_KEPT)
    session.connection().execute(delete(PointReportRow).where(*old))


def write_lines(session: Session, outlet_id: int, car_id: int, departure: datetime, lines: Sequence[Line]) -> None:
    """Write down what the runner decided; what is too old goes."""
    rows = [
        {
            "outlet_id": outlet_id, "car_id": car_id, "departure": departure, "at": each.at, "state": each.state.value,
            "code": each.code, "values": dict(each.values),
        }
        for each in lines
    ]  # fmt: skip
    session.connection().execute(insert(NightLineRow), rows)
    old = NightLineRow.departure < departure - LINES_KEPT
    session.connection().execute(delete(NightLineRow).where(NightLineRow.car_id == car_id, old))


def lines_of(session: Session, car_id: int, departure: datetime) -> list[Line]:
    """What the runner decided in the night before a departure."""
    wanted = select(NightLineRow).where(NightLineRow.car_id == car_id, NightLineRow.departure == departure)
    return [_line(each) for each in session.scalars(wanted.order_by(NightLineRow.id))]


def lines_since(session: Session, car_id: int, since: datetime) -> list[Line]:
    """What the runner decided for a car since a time, of whichever night."""
    wanted = select(NightLineRow).where(NightLineRow.car_id == car_id, NightLineRow.at >= since)
    return [_line(each) for each in session.scalars(wanted.order_by(NightLineRow.id))]


def latest(session: Session, car_id: int, outlet_id: int) -> tuple[int, int]:
    """The numbers of the last report and line: what is shown changes with them."""
    lines = select(func.max(NightLineRow.id)).where(NightLineRow.car_id == car_id).scalar_subquery()
    reports = select(func.max(PointReportRow.id)).where(PointReportRow.outlet_id == outlet_id).scalar_subquery()
    return tuple(each or 0 for each in session.execute(select(reports, lines)).one())  # type: ignore[return-value]


def log_charge(session: Session, outlet_id: int, car_id: int, counted: Counted) -> bool:
    """Enter a charge that a point counted, once; returns whether there was something to enter. Levels are those that the car told."""
    there = select(ChargeRow.id).where(
        ChargeRow.outlet_id == outlet_id, ChargeRow.source == SOURCE, ChargeRow.begun_at == counted.begun
    )
    if counted.wall_kwh < LEAST_KWH or session.scalar(there.limit(1)) is not None:
        return False
    rose = counted.soc_start is not None and counted.soc_end is not None and counted.soc_end > counted.soc_start
    session.add(
        ChargeRow(
            car_id=car_id, outlet_id=outlet_id, site="home", begun_at=counted.begun, ended_at=counted.ended,
            wall_kwh=round(min(counted.wall_kwh, 500.0), 3), soc_start=counted.soc_start if rose else None,
            soc_end=counted.soc_end if rose else None, source=SOURCE,
        )
    )  # fmt: skip
    return True


def _line(row: NightLineRow) -> Line:
    return Line(at=row.at, state=State(row.state), code=row.code, values=row.values)


def _report(row: PointReportRow) -> Report:
    return Report(
        at=row.at, car_id=row.car_id, online=row.online, heard=_from_json(row.told, row.at), added=row.added, level=row.level
    )


def _as_json(heard: Heard) -> dict[str, Any]:
    plain = asdict(heard)
    return plain | {name: None if plain[name] is None else plain[name].isoformat() for name in MOMENTS}


def _from_json(told: dict[str, Any], at: datetime) -> Heard:
    """A point as it was written; of a store that was changed by hand, what is known of it: when it was heard."""
    try:
        known = {each.name: told[each.name] for each in fields(Heard)}
        moments = {name: None if known[name] is None else datetime.fromisoformat(known[name]) for name in MOMENTS}
        return Heard(**{**known, **moments, "socket": Socket(known["socket"])})
    except (KeyError, ValueError, TypeError):
        return Heard(at=at)
