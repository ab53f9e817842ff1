"""What the log has of a car's battery: the course of its levels, its everyday sessions, its tests, its events, and its guides."""

from collections.abc import Hashable
from dataclasses import dataclass, fields
from datetime import UTC, datetime

import numpy as np
from sqlalchemy import bindparam, select, text
from sqlalchemy.orm import Session

from ..core.units import Array, Flags
from .log_facts import seconds
from .models import CapacityRow, EventRow, GuideRow, Moment

_SESSIONS = text(
    f"""
    SELECT {seconds("left_at")}, {seconds("coalesce(home_at, left_at)")}, soc_start, soc_end, NULL, kwh, out_c,
           0, assumed = '[]'
    FROM drive WHERE car_id = :car AND left_at < :until
    UNION ALL
    SELECT {seconds("begun_at")}, {seconds("coalesce(ended_at, begun_at)")}, soc_start, soc_end, wall_kwh, pack_kwh,
           out_c, CASE site WHEN 'fast' THEN 2 ELSE 1 END, assumed = '[]'
    FROM charge WHERE car_id = :car AND begun_at < :until AND soc_start IS NOT NULL AND soc_end IS NOT NULL
    UNION ALL
    SELECT {seconds("read_at")}, NULL, value, value, NULL, NULL, NULL, 3, 1
    FROM reading WHERE car_id = :car AND kind = 'level' AND read_at < :until
    """  # noqa: S608 - our names
).bindparams(bindparam("until", type_=Moment()))
_SUMS = text(
    f"""
    SELECT count(*) FILTER (WHERE left_at < :until), total(soc_start + soc_end + coalesce(kwh, 0)) FILTER (WHERE left_at < :until),
           sum(assumed = '[]') FILTER (WHERE left_at < :until), max(home_at) FILTER (WHERE left_at < :until),
           total(km), {seconds("min(left_at)")}, {seconds("max(left_at)")}, 0
    FROM drive WHERE car_id = :car
    UNION ALL
    SELECT count(*) FILTER (WHERE begun_at < :until),
           total(soc_start + soc_end + coalesce(wall_kwh, 0) + coalesce(pack_kwh, 0)) FILTER (WHERE begun_at < :until),
           sum(assumed = '[]') FILTER (WHERE begun_at < :until), max(ended_at) FILTER (WHERE begun_at < :until),
           total(wall_kwh), total(wall_kwh) FILTER (WHERE site = 'fast'), count(*) FILTER (WHERE site = 'fast'),
           total(cost) FILTER (WHERE site = 'fast')
    FROM charge WHERE car_id = :car
    UNION ALL
    SELECT count(*), total(value), 0, max(read_at), 0, 0, 0, 0
    FROM reading WHERE car_id = :car AND kind = 'level' AND read_at < :until
    UNION ALL SELECT count(*), total(temp_c), total(start_s), 0, 0, 0, 0, 0 FROM weather
    """  # noqa: S608 - our names
).bindparams(bindparam("until", type_=Moment()))
_FIRST_CLOCK = text(
    f"SELECT {seconds('read_at')}, value FROM reading WHERE car_id = :car AND kind = 'odometer' ORDER BY read_at LIMIT 1"  # noqa: S608
)


DRIVE, CHARGE, FAST, LEVEL = range(4)


@dataclass(frozen=True, eq=False, kw_only=True)
class Sessions:
    """A car's drives, charges and levels in the order of time; arrays of shape (sessions,), not a number for what nobody read.

    Times in s since 1970, levels 0 to 1, kWh at the wall and into or out of the pack, outside °C; `kind` of `DRIVE`, `CHARGE`, `FAST`,
    `LEVEL`; `read` where nothing of it is assumed.
    """

    begun_s: Array
    ended_s: Array
    soc_start: Array
    soc_end: Array
    wall_kwh: Array
    pack_kwh: Array
    out_c: Array
    kind: Array
    read: Array

    def at(self, rows: Flags) -> "Sessions":
        """Some of them."""
        return Sessions(**{name: column[rows] for name, column in vars(self).items()})

    @property
    def course(self) -> tuple[Array, Array]:
        """Times and levels that are known, in the order of time."""
        at = np.concatenate([self.begun_s, self.ended_s])
        soc = np.concatenate([self.soc_start, self.soc_end])
        order = np.argsort(at, kind="stable")[: np.count_nonzero(~np.isnan(at))]
        return at[order], soc[order]


def sessions_of(session: Session, car_id: int, until_s: float) -> Sessions:
    """Everything with levels that began before a time (s since 1970)."""
    told = session.execute(_SESSIONS, {"car": car_id, "until": datetime.fromtimestamp(until_s, UTC)}).all()
    table = np.array([tuple(each) for each in told], dtype=float).reshape(-1, 9)
    table = table[np.argsort(table[:, 0], kind="stable")]
    return Sessions(**{each.name: table[:, i] for i, each in enumerate(fields(Sessions))})


@dataclass(frozen=True, kw_only=True)
class Sums:
    """What a log adds up to: what `sessions_of` before a time and the weather depend on; kilometres, the first and the last departure
    (s since 1970), the first reading of the odometer (s, km; None: none); kWh at the wall, how much of it fast, how often, what that cost.
    """

    depends: Hashable
    km: float
    first_s: float | None
    last_s: float | None
    clock_s: float | None
    clock_km: float | None
    wall_kwh: float
    fast_kwh: float
    fast_times: int
    fast_cost: float


def sums_of(session: Session, car_id: int, until_s: float) -> Sums:
    """The sums of a car's log; `depends` is of what began before a time (s since 1970)."""
    told = session.execute(_SUMS, {"car": car_id, "until": datetime.fromtimestamp(until_s, UTC)}).all()
    drives, charges = told[0], told[1]
    clock = session.execute(_FIRST_CLOCK, {"car": car_id}).first() or (None, None)
    return Sums(
        depends=tuple(tuple(each[:4]) for each in told),
        km=drives[4], first_s=drives[5], last_s=drives[6], clock_s=clock[0], clock_km=clock[1],
        wall_kwh=charges[4], fast_kwh=charges[5], fast_times=charges[6], fast_cost=charges[7],
    )  # fmt: skip


def tests_of(session: Session, car_id: int) -> list[CapacityRow]:
    """A car's capacity tests, the earliest first."""
    return list(session.scalars(select(CapacityRow).where(CapacityRow.car_id == car_id).order_by(CapacityRow.at, CapacityRow.id)))


def events_of(session: Session, car_id: int) -> list[EventRow]:
    """What may have stepped a car's display, and where it was marked: software updates, repairs, warranty work; the earliest first."""
    kinds = ("update", "repair", "warranty", "step")
    return list(
        session.scalars(select(EventRow).where(EventRow.car_id == car_id, EventRow.kind.in_(kinds)).order_by(EventRow.at))
    )


def open_guide(session: Session, car_id: int) -> GuideRow | None:
    """The guide that is under way for a car."""
    under_way = (GuideRow.car_id == car_id, GuideRow.ended_at.is_(None))
    return session.scalars(select(GuideRow).where(*under_way).order_by(GuideRow.begun_at.desc()).limit(1)).first()


def last_calibrated(session: Session, car_id: int) -> datetime | None:
    """When a calibration of the display was led to its end last."""
    done = (GuideRow.car_id == car_id, GuideRow.kind == "calibrate", GuideRow.ended_at.is_not(None), GuideRow.step > 0)
    return session.scalars(select(GuideRow.ended_at).where(*done).order_by(GuideRow.ended_at.desc()).limit(1)).first()
