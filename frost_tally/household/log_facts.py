"""The log as the core's rules see it: plain facts in the order of time, and what was known last before a moment."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session

from ..core.log.doubts import Fact
from .models import ChargeRow, DriveRow, ReadingRow


def facts(session: Session, car_id: int, since: datetime, until: datetime) -> list[Fact]:
    """A car's drives, charges, levels and looks at the clock that began between two times."""
    drives = select(
        DriveRow.id, DriveRow.left_at, DriveRow.home_at, DriveRow.km, DriveRow.soc_start, DriveRow.soc_end, DriveRow.sure
    ).where(DriveRow.car_id == car_id, DriveRow.left_at.between(since, until))
    charges = select(
        ChargeRow.id, ChargeRow.begun_at, ChargeRow.ended_at, ChargeRow.soc_start, ChargeRow.soc_end, ChargeRow.sure
    ).where(ChargeRow.car_id == car_id, ChargeRow.begun_at.between(since, until))
    readings = select(ReadingRow.id, ReadingRow.kind, ReadingRow.read_at, ReadingRow.value, ReadingRow.sure).where(
        ReadingRow.car_id == car_id, ReadingRow.kind.in_(("level", "odometer")), ReadingRow.read_at.between(since, until)
    )
    found = []
    for number, begun, ended, km, start, end, sure in session.execute(drives):
        found.append(_fact("drive", number, begun, ended, sure, km=km, soc_start=start, soc_end=end))
    for number, begun, ended, low, high, sure in session.execute(charges):
        found.append(_fact("charge", number, begun, ended, sure, soc_start=low, soc_end=high))
    for number, kind, at, value, sure in session.execute(readings):
        what = {"soc_start": value, "soc_end": value} if kind == "level" else {"odometer_km": value}
        found.append(_fact(kind, number, at, None, sure, **what))
    return sorted(found, key=lambda each: (each.begun_s, each.ended_s))


def _fact(kind: str, number: int, begun: datetime, ended: datetime | None, sure: list[str], **what: float | None) -> Fact:
    begun_s = begun.timestamp()
    ended_s = begun_s if ended is None else max(begun_s, ended.timestamp())
    return Fact(kind=kind, number=number, begun_s=begun_s, ended_s=ended_s, sure=frozenset(sure), **what)


def last_odometer(session: Session, car_id: int, before: datetime) -> ReadingRow | None:
    """The last look at the clock's kilometres before a time."""
    of_car = (ReadingRow.car_id == car_id, ReadingRow.kind == "odometer", ReadingRow.read_at < before)
    return session.scalars(
        select(ReadingRow).where(*of_car).order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1)
    ).first()


@dataclass(frozen=True, kw_only=True)
class Charged:
    """A charge as sums and measurements ask for it: levels 0 to 1, kWh, money; None for what nobody knows."""

    begun_at: datetime
    ended_at: datetime | None
    soc_start: float | None
    soc_end: float | None
    wall_kwh: float | None
    pack_kwh: float | None
    cost: float | None
    out_c: float | None
    site: str
    outlet_id: int | None
    assumed: frozenset[str]


_CHARGED = (
    select(
        ChargeRow.begun_at, ChargeRow.ended_at, ChargeRow.soc_start, ChargeRow.soc_end, ChargeRow.wall_kwh, ChargeRow.pack_kwh,
        ChargeRow.cost, ChargeRow.out_c, ChargeRow.site, ChargeRow.outlet_id, ChargeRow.assumed,
    )
    .where(ChargeRow.car_id == bindparam("car_id"), ChargeRow.begun_at >= bindparam("since"), ChargeRow.begun_at < bindparam("until"))
    .order_by(ChargeRow.begun_at.desc())
    .limit(bindparam("most"))
)  # fmt: skip
_HOME = func.coalesce(DriveRow.home_at, DriveRow.left_at)
_DRIVEN = (
    select(DriveRow.id, DriveRow.left_at, _HOME, DriveRow.km, DriveRow.soc_start, DriveRow.soc_end)
    .where(DriveRow.car_id == bindparam("car_id"), DriveRow.left_at >= bindparam("since"), DriveRow.left_at < bindparam("until"))
    .order_by(DriveRow.left_at)
)


def charges(session: Session, car_id: int, since: datetime, until: datetime, most: int = 100_000) -> list[Charged]:
    """A car's charges that began in a span, the earliest first; the latest ones where there are more than `most`."""
    found = session.execute(_CHARGED, {"car_id": car_id, "since": since, "until": until, "most": most}).all()
    return [
        Charged(
            begun_at=begun, ended_at=ended, soc_start=start, soc_end=end, wall_kwh=wall, pack_kwh=pack, cost=cost, out_c=out, site=site,
            outlet_id=outlet, assumed=frozenset(assumed),
        )
        for begun, ended, start, end, wall, pack, cost, out, site, outlet, assumed in reversed(found)
    ]  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Driven:
    """A drive: its number, when it left and came home, km, levels (0 to 1)."""

    number: int
    left_at: datetime
    home_at: datetime
    km: float
    soc_start: float
    soc_end: float


def drives(session: Session, car_id: int, since: datetime, until: datetime) -> list[Driven]:
    """A car's drives that began in a span, the earliest first."""
    return [
        Driven(number=number, left_at=left, home_at=home, km=km, soc_start=start, soc_end=end)
        for number, left, home, km, start, end in session.execute(_DRIVEN, {"car_id": car_id, "since": since, "until": until})
    ]
