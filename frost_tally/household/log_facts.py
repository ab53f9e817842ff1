"""The log as the core's rules see it: plain facts in the order of time, and what was known last before a moment."""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import NamedTuple

from sqlalchemy import bindparam, func, select, text
from sqlalchemy.orm import Session

from ..core.log.facts import Fact
from .models import ChargeRow, Moment, ReadingRow


def seconds(moment: str) -> str:
    """A stored moment in the store's own words: seconds since 1970 with their fraction, as `datetime.timestamp` has them."""
    return f"(strftime('%s', {moment}) + ('0.' || substr({moment}, 21)))"


_SPAN = bindparam("since", type_=Moment()), bindparam("until", type_=Moment())
_FACTS = text(
    f"""
    SELECT 'drive', id, {seconds("left_at")}, {seconds("home_at")}, km, soc_start, soc_end, NULL, sure
    FROM drive WHERE car_id = :car AND left_at BETWEEN :since AND :until
    UNION ALL
    SELECT 'charge', id, {seconds("begun_at")}, {seconds("ended_at")}, NULL, soc_start, soc_end, NULL, sure
    FROM charge WHERE car_id = :car AND begun_at BETWEEN :since AND :until
    UNION ALL
    SELECT 'level', id, {seconds("read_at")}, NULL, NULL, value, value, NULL, sure
    FROM reading WHERE car_id = :car AND kind = 'level' AND read_at BETWEEN :since AND :until
    UNION ALL
    SELECT 'odometer', id, {seconds("read_at")}, NULL, NULL, NULL, NULL, value, sure
    FROM reading WHERE car_id = :car AND kind = 'odometer' AND read_at BETWEEN :since AND :until
    """  # noqa: S608 - our names
).bindparams(*_SPAN)
"""In the store's own words: ten years of it are read in a moment, for nothing but numbers comes out."""


def facts(session: Session, car_id: int, since: datetime, until: datetime) -> list[Fact]:
    """A car's drives, charges, levels and odometer readings that began between two times, in the order of time."""
    found = []
    told = session.execute(_FACTS, {"car": car_id, "since": since, "until": until})
    for kind, number, begun, ended, km, start, end, odometer, sure in told:
        begun_s = float(begun)
        fact = Fact(
            kind=kind, number=number, begun_s=begun_s, ended_s=begun_s if ended is None else max(begun_s, float(ended)), km=km,
            soc_start=start, soc_end=end, odometer_km=odometer, sure=_NONE if sure == "[]" else frozenset(json.loads(sure)),
        )  # fmt: skip
        found.append(fact)
    return sorted(found, key=lambda each: (each.begun_s, each.ended_s))


_NONE: frozenset[str] = frozenset()


_LAST_NOTED = text(
    """
    SELECT max(at) AS at FROM (
      SELECT max(left_at) AS at FROM drive WHERE car_id = :car UNION ALL
      SELECT max(begun_at) FROM charge WHERE car_id = :car UNION ALL
      SELECT max(read_at) FROM reading WHERE car_id = :car AND kind = 'level' UNION ALL
      SELECT max(read_at) FROM reading WHERE car_id = :car AND kind = 'odometer'
    )
    """
).columns(at=Moment())


def last_noted(session: Session, car_id: int) -> datetime | None:
    """When the latest of a car's facts began; None without any."""
    found: datetime | None = session.execute(_LAST_NOTED, {"car": car_id}).scalar()
    return found


@dataclass(frozen=True, kw_only=True)
class Stop:
    """A charge on the way: levels (0 to 1), minutes, the post's kW, the air (°C; None: nobody read it), when it ended."""

    soc_from: float
    soc_to: float
    minutes: float
    kw: float
    out_c: float | None
    ended_at: datetime

    @property
    def begun_at(self) -> datetime:
        """When it began."""
        return self.ended_at - timedelta(minutes=self.minutes)


def fast_charges(session: Session, car_id: int, most: int) -> tuple[int, list[Stop]]:
    """How many fast charges a car has, and the latest of which everything is known, the latest first."""
    fast = (ChargeRow.car_id == car_id, ChargeRow.site == "fast")
    count = int(session.scalar(select(func.count()).select_from(ChargeRow).where(*fast)) or 0)
    columns = (ChargeRow.soc_start, ChargeRow.soc_end, ChargeRow.begun_at, ChargeRow.ended_at, ChargeRow.post_kw, ChargeRow.out_c)
    known = (each.is_not(None) for each in columns[:-1])
    rows = session.execute(select(*columns).where(*fast, *known).order_by(ChargeRow.begun_at.desc()).limit(most))
    found = []
    for start, end, begun, ended, kw, out_c in rows:
        if start is not None and end is not None and ended is not None and kw is not None:
            minutes = (ended - begun).total_seconds() / 60.0
            found.append(Stop(soc_from=start, soc_to=end, minutes=minutes, kw=kw, out_c=out_c, ended_at=ended))
    return count, found


def note_stop_on_the_way(session: Session, car_id: int, stop: Stop, *, site: str, place: str, usable_kwh: float) -> None:
    """Note a charge on the way: what came into the pack is taken from the levels."""
    row = ChargeRow(
        car_id=car_id, site=site, place=place, begun_at=stop.begun_at, ended_at=stop.ended_at, soc_start=stop.soc_from,
        soc_end=stop.soc_to, pack_kwh=(stop.soc_to - stop.soc_from) * usable_kwh, post_kw=stop.kw, assumed=["pack_kwh"],
    )  # fmt: skip
    session.add(row)


def last_odometer(session: Session, car_id: int, before: datetime) -> tuple[datetime, float] | None:
    """The last odometer reading up to a time: when, and km."""
    of_car = (ReadingRow.car_id == car_id, ReadingRow.kind == "odometer", ReadingRow.read_at <= before)
    wanted = select(ReadingRow.read_at, ReadingRow.value).where(*of_car)
    found = session.execute(wanted.order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1)).first()
    return None if found is None else (found[0], found[1])


class Charged(NamedTuple):
    """A charge as sums and measurements ask for it: times in seconds since 1970, levels 0 to 1, kWh, money; None for what nobody knows."""

    begun_s: float
    ended_s: float | None
    soc_start: float | None
    soc_end: float | None
    wall_kwh: float | None
    pack_kwh: float | None
    cost: float | None
    out_c: float | None
    site: str
    outlet_id: int | None
    assumed: str

    def read(self, *names: str) -> bool:
        """Whether nobody assumed any of these values."""
        return not any(f'"{name}"' in self.assumed for name in names)


_CHARGED = text(
    f"""
    SELECT {seconds("begun_at")}, {seconds("ended_at")}, soc_start, soc_end, wall_kwh, pack_kwh, cost, out_c,
           site, outlet_id, assumed
    FROM charge WHERE car_id = :car AND begun_at >= :since AND begun_at < :until ORDER BY begun_at DESC LIMIT :most
    """  # noqa: S608 - our names
).bindparams(*_SPAN)
_DRIVEN = text(
    f"""
    SELECT id, {seconds("left_at")}, {seconds("coalesce(home_at, left_at)")}, km, soc_start, soc_end
    FROM drive WHERE car_id = :car AND left_at >= :since AND left_at < :until ORDER BY left_at
    """  # noqa: S608 - our names
).bindparams(*_SPAN)


def charges(session: Session, car_id: int, since: datetime, until: datetime, most: int = 100_000) -> list[Charged]:
    """A car's charges that began in a span, the earliest first; the latest ones where there are more than `most`."""
    found = session.execute(_CHARGED, {"car": car_id, "since": since, "until": until, "most": most}).all()
    return [Charged(*each) for each in reversed(found)]


class Driven(NamedTuple):
    """A drive: its number, when it left and came home (seconds since 1970), km, levels (0 to 1)."""

    number: int
    left_s: float
    home_s: float
    km: float
    soc_start: float
    soc_end: float


def drives(session: Session, car_id: int, since: datetime, until: datetime) -> list[Driven]:
    """A car's drives that began in a span, the earliest first."""
    return [Driven(*each) for each in session.execute(_DRIVEN, {"car": car_id, "since": since, "until": until})]
