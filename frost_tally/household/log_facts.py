"""The log as the core's rules see it: plain facts in the order of time, and what was known last before a moment."""

import json
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import bindparam, select, text
from sqlalchemy.orm import Session

from ..core.log.facts import Fact
from .models import Moment, ReadingRow


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


def last_odometer(session: Session, car_id: int, before: datetime) -> ReadingRow | None:
    """The last odometer reading up to a time."""
    of_car = (ReadingRow.car_id == car_id, ReadingRow.kind == "odometer", ReadingRow.read_at <= before)
    return session.scalars(
        select(ReadingRow).where(*of_car).order_by(ReadingRow.read_at.desc(), ReadingRow.id.desc()).limit(1)
    ).first()


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
