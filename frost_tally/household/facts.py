"""What happened, as the rooms ask for it: the level and the tyres as last read, and the days that were driven.

Why: docs/decisions/0026.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from sqlalchemy import BindParameter, Select, bindparam, func, null, select, union_all
from sqlalchemy.orm import Session

from ..core.advice.limit import CHARGED_FULL
from ..core.drive.tyre_log import Reading, TyreReading
from ..core.home import OwnedCar
from .models import ChargeRow, DriveRow, Moment, PointReportRow, ReadingRow

LEVEL, TYRE = "level", "tyre"
UNKNOWN_SOC = 0.5
EVER = datetime(9999, 1, 1, tzinfo=UTC)


def _level_now() -> Select[datetime, float, int | None]:
    at_home = func.coalesce(DriveRow.home_at, DriveRow.noted_at)
    over = func.coalesce(ChargeRow.ended_at, ChargeRow.begun_at)
    car: BindParameter[int] = bindparam("car_id")
    before: BindParameter[datetime] = bindparam("before", type_=Moment)
    read = select(ReadingRow.read_at.label("at"), ReadingRow.value.label("soc"), ReadingRow.id.label("reading")).where(
        ReadingRow.car_id == car, ReadingRow.kind == LEVEL, ReadingRow.read_at < before
    )
    home = select(at_home.label("at"), DriveRow.soc_end.label("soc"), null().label("reading")).where(
        DriveRow.car_id == car, at_home < before
    )
    charged = select(over.label("at"), ChargeRow.soc_end.label("soc"), null().label("reading")).where(
        ChargeRow.car_id == car, ChargeRow.soc_end.is_not(None), over < before
    )
    told = select(PointReportRow.at.label("at"), PointReportRow.soc.label("soc"), null().label("reading")).where(
        PointReportRow.car_id == car, PointReportRow.soc.is_not(None), PointReportRow.at < before
    )
    last = (
        select(told.order_by(PointReportRow.at.desc()).limit(1).subquery()),
        select(read.order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1).subquery()),
        select(home.order_by(DriveRow.left_at.desc()).limit(1).subquery()),
        select(charged.order_by(ChargeRow.begun_at.desc()).limit(1).subquery()),
    )
    known = union_all(*last).subquery()
    return select(known.c.at, known.c.soc, known.c.reading).order_by(known.c.at.desc(), known.c.soc.desc()).limit(1)


def _tyres_now() -> Select[float, float | None]:
    cold = (ReadingRow.car_id == bindparam("car_id"), ReadingRow.kind == TYRE, ReadingRow.warm.is_(False))
    last = select(func.max(ReadingRow.read_at)).where(*cold).scalar_subquery()
    return select(ReadingRow.value, ReadingRow.temp_c).where(*cold, ReadingRow.read_at == last).order_by(ReadingRow.id.desc())


# Built once: putting a statement together takes longer than the store takes to answer it.
_LEVEL_NOW, _TYRES_NOW = _level_now(), _tyres_now()
_WHEELS_NOW = (
    select(ReadingRow.part, ReadingRow.value, ReadingRow.temp_c, ReadingRow.warm, ReadingRow.read_at)
    .where(ReadingRow.car_id == bindparam("car_id"), ReadingRow.kind == TYRE)
    .order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc())
    .limit(16)
)
_DRIVEN = (
    select(
        DriveRow.left_at,
        DriveRow.km,
        DriveRow.soc_start - DriveRow.soc_end,
        DriveRow.start_pack_c,
        DriveRow.start_cabin_c,
        DriveRow.typed_at,
        DriveRow.typed_now_c,
        DriveRow.typed_low_c,
        DriveRow.kwh,
        DriveRow.out_c,
        DriveRow.load_kg,
        DriveRow.preheated,
        DriveRow.assumed,
    )
    .where(DriveRow.car_id == bindparam("car_id"), DriveRow.source != "assumed")
    .order_by(DriveRow.left_at.desc())
    .limit(bindparam("most"))
)


def level_known(session: Session, car_id: int, before: datetime = EVER) -> tuple[datetime, float] | None:
    """When a level was read or noted last, or last before a time, and which (0 to 1)."""
    found = session.execute(_LEVEL_NOW, {"car_id": car_id, "before": before}).first()
    return None if found is None else (found[0], float(found[1]))


SAME = timedelta(seconds=30)


def level_noted(session: Session, car_id: int, at: datetime, soc: float) -> bool:
    """Whether this level (0 to 1) was noted for half a minute about a moment: by a reading, or by a drive that came home then."""
    span = at - SAME, at + SAME
    read = select(ReadingRow.value).where(
        ReadingRow.car_id == car_id, ReadingRow.kind == LEVEL, ReadingRow.read_at.between(*span)
    )
    home = select(DriveRow.soc_end).where(DriveRow.car_id == car_id, DriveRow.home_at.between(*span))
    return any(abs(each - soc) < 1e-6 for each in (*session.scalars(read), *session.scalars(home)) if each is not None)


def level_read(session: Session, car_id: int) -> tuple[datetime, float, int] | None:
    """The same where that is a reading by itself, with its number; None where the level is known from a drive or a charge."""
    found = session.execute(_LEVEL_NOW, {"car_id": car_id, "before": EVER}).first()
    return None if found is None or found[2] is None else (found[0], float(found[1]), int(found[2]))


def level_now(session: Session, car_id: int) -> float:
    """The level that was read or noted last, 0 to 1; half full before anybody read one."""
    found = level_known(session, car_id)
    return UNKNOWN_SOC if found is None else found[1]


def tyres_now(session: Session, owned: OwnedCar) -> TyreReading:
    """The latest cold look; the placard at 20 °C before anybody looked."""
    found = session.execute(_TYRES_NOW, {"car_id": owned.id}).all()
    if not found:
        return TyreReading(owned.car.tyres.placard_kpa, 20.0)
    read_c = found[0].temp_c
    return TyreReading(float(min(value for value, _ in found)), 20.0 if read_c is None else read_c)


def wheels_now(session: Session, car_id: int) -> list[Reading]:
    """The latest reading of each wheel; of the softest of all four (wheel "") where that was read last."""
    rows = session.execute(_WHEELS_NOW, {"car_id": car_id}).all()
    found: dict[str, Reading] = {}
    for part, value, temp_c, warm, read_at in rows:
        if part == "" and found:
            break  # older than every wheel that was read by itself
        reading = Reading(part, read_at.timestamp(), value, 20.0 if temp_c is None else temp_c, warm)
        found.setdefault(part, reading)
        if part == "":
            break
    return list(found.values())


def note_level(session: Session, car_id: int, at: datetime, soc: float) -> None:
    """Note a level (0 to 1) that the owner read off."""
    session.add(ReadingRow(car_id=car_id, read_at=at, kind=LEVEL, value=soc, unit="1"))


def note_tyres(session: Session, car_id: int, at: datetime, kpa: float, temp_c: float) -> None:
    """Note one cold pressure (kPa) for all four wheels."""
    session.add(ReadingRow(car_id=car_id, read_at=at, kind=TYRE, value=kpa, unit="kPa", temp_c=temp_c))


@dataclass(frozen=True, kw_only=True)
class WheelLook:
    """A pressure (kPa, gauge) of one wheel as it was read: when, the tyre's temperature (°C), whether it was warm from driving, by whom."""

    wheel: str
    at: datetime
    kpa: float
    tyre_c: float
    warm: bool
    source: str


def wheel_looks(session: Session, car_id: int, since: datetime) -> list[WheelLook]:
    """All looks at single wheels after a time, the earliest first."""
    of_wheels = (ReadingRow.car_id == car_id, ReadingRow.kind == TYRE, ReadingRow.part != "", ReadingRow.read_at > since)
    columns = ReadingRow.part, ReadingRow.read_at, ReadingRow.value, ReadingRow.temp_c, ReadingRow.warm, ReadingRow.source
    rows = session.execute(select(*columns).where(*of_wheels).order_by(ReadingRow.read_at, ReadingRow.id))
    return [
        WheelLook(wheel=wheel, at=at, kpa=kpa, tyre_c=tyre_c or 0.0, warm=warm, source=source)
        for wheel, at, kpa, tyre_c, warm, source in rows
    ]


def note_wheels(session: Session, car_id: int, looks: Iterable[WheelLook]) -> None:
    """Note looks at wheels."""
    for each in looks:
        row = ReadingRow(
            car_id=car_id, read_at=each.at, kind=TYRE, part=each.wheel, value=each.kpa, unit="kPa", temp_c=each.tyre_c,
            warm=each.warm, source=each.source,
        )  # fmt: skip
        session.add(row)


def twelve_volt_read(session: Session, car_id: int) -> list[tuple[datetime, float, float | None]]:
    """Readings of the 12 V battery: when, V, °C; the earliest first."""
    of_car = (ReadingRow.car_id == car_id, ReadingRow.kind == "twelve_volt")
    wanted = select(ReadingRow.read_at, ReadingRow.value, ReadingRow.temp_c).where(*of_car).order_by(ReadingRow.read_at)
    return [(at, volt, temp_c) for at, volt, temp_c in session.execute(wanted)]


@dataclass(frozen=True, kw_only=True)
class DrivenDay:
    """A day that was driven: when it left, km, level used (0 to 1), pack and cabin when it left (°C, None when nobody knows), and what
    was typed of the air: when, now and the low of the morning (°C); kWh from the pack as the car said, the air of the drive (°C), the load
    (kg) and what was warmed ("": nobody knows), if they were noted.
    """

    left_at: datetime
    km: float
    soc_used: float
    pack_c: float | None
    cabin_c: float | None
    typed: tuple[datetime, float, float] | None
    kwh: float | None
    out_c: float | None
    load_kg: float | None
    warmed: str


def driven_days(session: Session, car_id: int, limit: int) -> list[DrivenDay]:
    """The latest days driven, the earliest first."""
    found = session.execute(_DRIVEN, {"car_id": car_id, "most": limit}).all()
    return [
        DrivenDay(
            left_at=left_at, km=km, soc_used=used, pack_c=pack_c, cabin_c=cabin_c, typed=_typed(at, now_c, low_c), kwh=kwh,
            out_c=None if "out_c" in assumed else out_c, load_kg=None if "load_kg" in assumed else load,
            warmed="" if "preheated" in assumed else warmed,
        )
        for left_at, km, used, pack_c, cabin_c, at, now_c, low_c, kwh, out_c, load, warmed, assumed in reversed(found)
    ]  # fmt: skip


def _typed(at: datetime | None, now_c: float | None, low_c: float | None) -> tuple[datetime, float, float] | None:
    return None if at is None or now_c is None or low_c is None else (at, now_c, low_c)


def km_by_day(session: Session, car_id: int, first: datetime, last: datetime, zone: ZoneInfo) -> dict[date, float]:
    """Kilometres that were driven between two times, by the local day of departure."""
    wanted = select(DriveRow.left_at, DriveRow.km).where(
        DriveRow.car_id == car_id, DriveRow.left_at >= first, DriveRow.left_at <= last
    )
    found: dict[date, float] = {}
    for left_at, km in session.execute(wanted):
        day = left_at.astimezone(zone).date()
        found[day] = found.get(day, 0.0) + km
    return found


def noted_air(session: Session, cars: Sequence[int]) -> list[tuple[datetime, float]]:
    """Outside temperatures (°C) that were noted with the latest thousand drives of some cars, and when."""
    columns = DriveRow.left_at, DriveRow.out_c, DriveRow.assumed
    wanted = select(*columns).where(DriveRow.car_id.in_(cars), DriveRow.out_c.is_not(None))
    found = session.execute(wanted.where(DriveRow.source != "assumed").order_by(DriveRow.left_at.desc()).limit(1000))
    return [(at, float(temp_c)) for at, temp_c, assumed in found if temp_c is not None and "out_c" not in assumed]


def driven_count(session: Session, car_id: int) -> int:
    """How many days were driven and noted."""
    return session.scalar(select(func.count()).select_from(DriveRow).where(DriveRow.car_id == car_id)) or 0


def known_by(now: datetime) -> datetime:
    """Until when something was noted that is known at a time: rooms plan from the beginning of their minute, and notes have seconds."""
    return now + timedelta(minutes=1)


_FULL = (
    select(ChargeRow.begun_at)
    .where(ChargeRow.car_id == bindparam("car_id"), ChargeRow.soc_end >= CHARGED_FULL)
    .order_by(ChargeRow.begun_at.desc())
    .limit(bindparam("most"))
)


def charged_full(session: Session, car_id: int, most: int = 8) -> tuple[datetime, ...]:
    """When a car was charged full, the latest first."""
    return tuple(session.scalars(_FULL, {"car_id": car_id, "most": most}))
