"""Taking files over: first a preview of what would change, then all of it or nothing, and a way back."""

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy import delete
from sqlalchemy.orm import Session

from ..core.charge.prices import Series
from ..core.errors import Refusal
from ..formats.intervals import Intervals, hours_covered
from ..formats.readers import Here, read_file
from ..household import intervals
from ..household.calendar import holidays_of
from ..household.home import Home
from ..household.models import PendingRow, TariffRow
from ..household.parts import home_place
from ..household.undo import Decision

KEPT_FOR = timedelta(days=30)


@dataclass(frozen=True, kw_only=True)
class Preview:
    """What taking a file over would do: counts of rows, the span of time, the sum of the values, and each bad row."""

    number: str
    kind: str
    name: str
    tariff: int | None
    added: int
    changed: int
    same: int
    bad: tuple[tuple[int, str, str], ...]
    bad_count: int
    notes: tuple[str, ...]
    first: datetime | None
    last: datetime | None
    hours: float
    total: float
    done: bool = False


def prepare(home: Home, kind: str, name: str, content: bytes, tariff: int | None = None) -> str:
    """Read a file ("readings" or "prices") and keep it for its preview; returns its number. Nothing else is changed.

    Raises: Refusal for a file that cannot be read at all, or holds nothing.
    """
    with home.reading() as session:
        place = home_place(session)
        found: Intervals = read_file(kind, content, Here(place.zone, holidays_of))
        if not len(found.value) and not found.bad:
            raise Refusal("There is nothing in the file to take over. " + " ".join(found.notes), "file")
        about = _about(session, kind, name, tariff, found)
        about["zone"] = place.zone
    row = PendingRow(id=secrets.token_urlsafe(9), made_at=datetime.now(UTC), kind=kind, about=about, content=_packed(found))
    with home.recording() as session:
        session.execute(delete(PendingRow).where(PendingRow.made_at < datetime.now(UTC) - KEPT_FOR))
        session.add(row)
        number = row.id
    return number


def _about(session: Session, kind: str, name: str, tariff: int | None, found: Intervals) -> dict[str, Any]:
    old = intervals.existing(session, kind, tariff, found.start_s)
    new = np.isnan(old[:, 1])
    same = ~new & (np.abs(old[:, 1] - found.value) < 1e-9) & (old[:, 0] == found.minutes)
    return {
        "name": name,
        "tariff": tariff,
        "added": int(new.sum()),
        "same": int(same.sum()),
        "changed": int((~new & ~same).sum()),
        "bad": [[each.line, each.column, each.reason] for each in found.bad],
        "bad_count": found.bad_count,
        "notes": list(found.notes),
        "first": int(found.start_s[0]) if len(found.start_s) else None,
        "last": int(found.start_s[-1] + 60 * found.minutes[-1]) if len(found.start_s) else None,
        "hours": hours_covered(found).total_seconds() / 3600,
        "total": float(found.value.sum() if kind == "readings" else found.value.mean() if len(found.value) else 0.0),
    }


def _packed(found: Intervals) -> bytes:
    return intervals.packed((found.start_s, found.minutes, found.value))


def _pending(session: Session, number: str) -> PendingRow:
    row = session.get(PendingRow, number)
    if row is None:
        raise Refusal("This file is no longer here: choose it again.", "file")
    return row


def preview(home: Home, number: str) -> Preview:
    """The preview of a file that was prepared. Raises: Refusal when it is gone."""
    with home.reading() as session:
        row = _pending(session, number)
        about: dict[str, Any] = row.about
        zone = ZoneInfo(str(about["zone"]))
        first, last = (datetime.fromtimestamp(s, zone) if s is not None else None for s in (about["first"], about["last"]))
        bad = tuple((int(line), str(column), str(reason)) for line, column, reason in about["bad"])
        return Preview(
            number=row.id,
            kind=row.kind,
            name=about["name"],
            tariff=about["tariff"],
            added=about["added"],
            changed=about["changed"],
            same=about["same"],
            bad=bad,
            bad_count=about["bad_count"],
            notes=tuple(about["notes"]),
            first=first,
            last=last,
            hours=about["hours"],
            total=about["total"],
            done=bool(about.get("done")),
        )


def hold(home: Home, name: str, series: Series) -> str:
    """Keep a tariff file's dated prices until its tariff is kept; returns their number."""
    minutes = (series.end_s - series.start_s) // 60
    found = Intervals(start_s=series.start_s, minutes=minutes, value=series.price_per_kwh, bad=(), bad_count=0, notes=())
    with home.recording() as session:
        about = {**_about(session, "prices", name, None, found), "zone": home_place(session).zone}
        row = PendingRow(
            id=secrets.token_urlsafe(9), made_at=datetime.now(UTC), kind="prices", about=about, content=_packed(found)
        )
        session.add(row)
        return row.id


def take(home: Home, number: str) -> int:
    """Take a prepared file over, all of its good rows in one transaction; returns the number to undo it by.

    Raises: Refusal when it is gone or was taken.
    """
    with home.deciding("") as session:
        row = _pending(session, number)
        session.words = f"“{row.about['name']}” taken over"
        take_into(session, number, int(str(row.about["tariff"])) if row.about.get("tariff") else None)
    return session.number


def take_into(session: Decision, number: str, tariff: int | None) -> None:
    """Take a prepared file over in a decision; dated prices for that tariff. Raises: Refusal."""
    row = _pending(session, number)
    if row.about.get("done"):
        raise Refusal("This file was taken over already.")
    if row.kind == "prices" and (tariff is None or session.get(TariffRow, tariff) is None):
        raise Refusal("The tariff of these prices is gone.")
    row.about = {**row.about, "tariff": tariff}
    intervals.turn(session, row)
    session.file_taken(number)


def interval_rows(home: Home, kind: str) -> tuple[list[tuple[int, int, float]], str]:
    """All intervals of a kind ("readings", "weather") as (start_s, minutes, value), and the zone to write them in."""
    with home.reading() as session:
        return intervals.everything(session, kind), home_place(session).zone
