"""Taking files over: first a preview of what would change, then all of it or nothing, and a way back."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from ...core.charge.prices import Series
from ...core.errors import Refusal
from ...formats.intervals import Intervals, hours_covered
from ...formats.readers import Here, read_file
from ...household import intervals
from ...household.calendar import holidays_of
from ...household.contracts import has_contract
from ...household.pending import change_pending, pending, put_pending
from ...household.snapshot import Snapshot
from ...household.undo import Decision
from ...household.unit_of_work import Household


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


def prepare(household: Household, snapshot: Snapshot, kind: str, *, name: str, content: bytes, tariff: int | None = None) -> str:
    """Read a file ("readings" or "prices") and keep it for its preview; returns its number. Nothing else is changed.

    Raises: Refusal for a file that cannot be read at all, or holds nothing.
    """
    found: Intervals = read_file(kind, content, Here(snapshot.home.place.zone, holidays_of))
    return prepare_found(household, snapshot, kind, name=name, found=found, tariff=tariff)


def prepare_found(household: Household, snapshot: Snapshot, kind: str, *, name: str, found: Intervals, tariff: int | None) -> str:
    """Keep what was read for its preview; returns its number. Raises: Refusal where there is nothing."""
    if not len(found.value) and not found.bad:
        raise Refusal("There is nothing in the file to take over. " + " ".join(found.notes), "file")
    about = {**_about(snapshot, kind, name, tariff, found), "zone": snapshot.home.place.zone}
    with household.recording() as session:
        return put_pending(session, kind, about, _packed(found))


def _about(snapshot: Snapshot, kind: str, name: str, tariff: int | None, found: Intervals) -> dict[str, Any]:
    old = intervals.existing(snapshot.log, kind, tariff, found.start_s)
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


def preview(snapshot: Snapshot, number: str) -> Preview:
    """The preview of a file that was prepared. Raises: Refusal when it is gone."""
    file = pending(snapshot.log, number, tuple(intervals.TABLES))
    about = file.about
    zone = ZoneInfo(str(about["zone"]))
    first, last = (datetime.fromtimestamp(s, zone) if s is not None else None for s in (about["first"], about["last"]))
    return Preview(
        number=file.id,
        kind=file.kind,
        name=about["name"],
        tariff=about["tariff"],
        added=about["added"],
        changed=about["changed"],
        same=about["same"],
        bad=tuple((int(line), str(column), str(reason)) for line, column, reason in about["bad"]),
        bad_count=about["bad_count"],
        notes=tuple(about["notes"]),
        first=first,
        last=last,
        hours=about["hours"],
        total=about["total"],
        done=file.done,
    )


def hold(household: Household, snapshot: Snapshot, name: str, series: Series) -> str:
    """Keep a tariff file's dated prices until its tariff is kept; returns their number."""
    minutes = (series.end_s - series.start_s) // 60
    found = Intervals(start_s=series.start_s, minutes=minutes, value=series.price_per_kwh, bad=(), bad_count=0, notes=())
    about = {**_about(snapshot, "prices", name, None, found), "zone": snapshot.home.place.zone}
    with household.recording() as session:
        return put_pending(session, "prices", about, _packed(found))


def take(household: Household, number: str) -> int:
    """Take a prepared file over, all of its good rows in one transaction; returns the number to undo it by.

    Raises: Refusal when it is gone or was taken.
    """
    with household.deciding("") as session:
        about = pending(session, number, tuple(intervals.TABLES)).about
        session.words = f"“{about['name']}” taken over"
        take_into(session, number, int(str(about["tariff"])) if about.get("tariff") else None)
    return session.number


def take_into(session: Decision, number: str, tariff: int | None) -> None:
    """Take a prepared file over in a decision; dated prices for that tariff. Raises: Refusal."""
    file = pending(session, number, tuple(intervals.TABLES))
    if file.done:
        raise Refusal("This file was taken over already.")
    if file.kind == "prices" and (tariff is None or not has_contract(session, tariff)):
        raise Refusal("The tariff of these prices is gone.")
    change_pending(session, number, {"tariff": tariff})
    intervals.turn(session, number)
    session.file_taken(number)


def interval_rows(snapshot: Snapshot, kind: str) -> tuple[list[tuple[int, int, float]], str]:
    """All intervals of a kind ("readings", "weather") as (start_s, minutes, value), and the zone to write them in."""
    return intervals.everything(snapshot.log, kind), snapshot.home.place.zone


def meter_count(snapshot: Snapshot) -> int:
    """How many readings of the house's meter are stored."""
    return intervals.meter_count(snapshot.log)
