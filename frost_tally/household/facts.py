"""What happened, as the rooms ask for it: the level and the tyres as last read, and the days that were driven."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from .models import CarRow, DriveRow, ReadingRow

LEVEL, TYRE = "level", "tyre"
UNKNOWN_SOC = 0.5


@dataclass(frozen=True)
class TyreReading:
    """A cold reading of the softest wheel: gauge pressure (kPa) and the temperature it was read at (°C)."""

    kpa: float
    read_c: float


def level_now(session: Session, car_id: int) -> float:
    """The level that was read or noted last, 0 to 1; half full before anybody read one."""
    read = select(ReadingRow.read_at, ReadingRow.value).where(ReadingRow.car_id == car_id, ReadingRow.kind == LEVEL)
    home = select(func.coalesce(DriveRow.home_at, DriveRow.noted_at), DriveRow.soc_end).where(DriveRow.car_id == car_id)
    found = [
        session.execute(read.order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1)).first(),
        session.execute(home.order_by(DriveRow.left_at.desc()).limit(1)).first(),
    ]
    known = [(_plain(at), soc) for at, soc in (row for row in found if row is not None)]
    return float(max(known)[1]) if known else UNKNOWN_SOC


def _plain(moment: datetime) -> datetime:
    """A moment as the file has it, UTC without saying so."""
    return moment.replace(tzinfo=None)


def tyres_now(session: Session, car: CarRow) -> TyreReading:
    """The latest cold look; the placard at 20 °C before anybody looked."""
    cold = select(ReadingRow).where(ReadingRow.car_id == car.id, ReadingRow.kind == TYRE, ReadingRow.warm.is_(False))
    last = session.scalars(cold.order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1)).first()
    if last is None:
        return TyreReading(car.placard_kpa, 20.0)
    softest = session.scalar(cold.where(ReadingRow.read_at == last.read_at).with_only_columns(func.min(ReadingRow.value)))
    return TyreReading(float(softest or last.value), 20.0 if last.temp_c is None else last.temp_c)


def level_read(car_id: int, at: datetime, soc: float) -> ReadingRow:
    """A level (0 to 1) that the owner read off."""
    return ReadingRow(car_id=car_id, read_at=at, kind=LEVEL, value=soc, unit="1")


def tyres_read(car_id: int, at: datetime, kpa: float, temp_c: float) -> ReadingRow:
    """One cold pressure (kPa) for all four wheels."""
    return ReadingRow(car_id=car_id, read_at=at, kind=TYRE, value=kpa, unit="kPa", temp_c=temp_c)


@dataclass(frozen=True, kw_only=True)
class DrivenDay:
    """A day that was driven: when it left, km, level used (0 to 1), pack and cabin when it left (°C, None when nobody knows), and what
    was typed of the air: when, now and the low of the morning (°C).
    """

    left_at: datetime
    km: float
    soc_used: float
    pack_c: float | None
    cabin_c: float | None
    typed: tuple[datetime, float, float] | None


def driven_days(session: Session, car_id: int, limit: int) -> list[DrivenDay]:
    """The latest days driven, the earliest first."""
    row = DriveRow
    columns = (
        row.left_at, row.km, row.soc_start - row.soc_end, row.start_pack_c, row.start_cabin_c, row.typed_at, row.typed_now_c,
        row.typed_low_c,
    )  # fmt: skip
    found = session.execute(select(*columns).where(row.car_id == car_id).order_by(row.left_at.desc()).limit(limit)).all()
    return [
        DrivenDay(left_at=left_at, km=km, soc_used=used, pack_c=pack_c, cabin_c=cabin_c, typed=_typed(at, now_c, low_c))
        for left_at, km, used, pack_c, cabin_c, at, now_c, low_c in reversed(found)
    ]


def _typed(at: datetime | None, now_c: float | None, low_c: float | None) -> tuple[datetime, float, float] | None:
    return None if at is None or now_c is None or low_c is None else (at, now_c, low_c)


def driven_count(session: Session, car_id: int) -> int:
    """How many days were driven and noted."""
    return session.scalar(select(func.count()).select_from(DriveRow).where(DriveRow.car_id == car_id)) or 0
