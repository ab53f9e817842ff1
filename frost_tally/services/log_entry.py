"""One entry of the log: written, corrected, taken away; doubts mended, or called right. Every one of them can be undone."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from ..core.log.check import check
from ..core.log.doubts import Doubt
from ..core.log.facts import Fact
from ..core.log.kinds import KINDS, Entry
from ..household.home import Home
from ..household.log import STORED, entry_of, read_entries, write_entry
from ..household.models import CarRow, DriveRow
from ..household.parts import cars
from .log import A_YEAR, doubts_between

AHEAD = timedelta(hours=12)


def whole(kind: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values of an entry with what is left open in them."""
    shape = KINDS[kind]
    return {each.name: each.empty if values.get(each.name) is None else values[each.name] for each in shape.columns}


def entry(home: Home, kind: str, number: int) -> Entry:
    """An entry. Raises: Refusal when it is gone."""
    with home.reading() as session:
        return _read(session, kind, number)


def _read(session: Session, kind: str, number: int) -> Entry:
    found = read_entries(session, [(kind, number)]) if kind in KINDS else {}
    if not found:
        raise Refusal("This entry is no longer there.")
    return found[kind, number]


def car_row(session: Session, car_id: int) -> CarRow:
    """A car that is not put away. Raises: Refusal."""
    row = next((each for each in cars(session) if each.id == car_id), None)
    if row is None:
        raise Refusal("There is no such car.", "car")
    return row


def keep(home: Home, made: Entry, now: datetime, words: str, seen_revision: int | None = None) -> tuple[int, int]:
    """Write a new entry, or correct one: what was corrected is no longer assumed. Returns its number and the one to undo it by.

    Raises: Refusal with its column; Stale.
    """
    made = replace(made, values=whole(made.kind, made.values))
    check(made.kind, made.values)
    for name in (KINDS[made.kind].at, KINDS[made.kind].ends):
        if (at := made.values.get(name)) is not None and at > now + AHEAD:
            raise Refusal("This is still to come: the log is of what happened.", name)
    with home.deciding(words, seen_revision) as session:
        was = _read(session, made.kind, made.number) if made.number else None
        if was is None or was.car_id != made.car_id:
            car_row(session, made.car_id)
        if was is not None:
            corrected = {name for name, value in made.values.items() if value != was.values[name]}
            made = replace(
                made, assumed=was.assumed - corrected, source=was.source, sure=was.sure if not corrected else frozenset()
            )
        row = write_entry(session, made, now)
        session.flush()
        number = int(row.id)
    return number, session.number


def remove(home: Home, kind: str, number: int, words: str, seen_revision: int | None = None) -> int:
    """Take an entry away; returns the number to undo it by. Raises: Refusal; Stale."""
    with home.deciding(words, seen_revision) as session:
        _read(session, kind, number)
        session.delete(session.get_one(STORED[kind].row, number))
    return session.number


def confirm(home: Home, kind: str, number: int, words: str) -> int:
    """Everything that was assumed of an entry is right; returns the number to undo it by. Raises: Refusal."""
    with home.deciding(words) as session:
        found = _read(session, kind, number)
        write_entry(session, replace(found, assumed=frozenset()), found.at)
    return session.number


def settle_doubt(home: Home, code: str, kind: str, number: int, words: str, mend: bool) -> int:
    """Mend what does not go together, or call it right; returns the number to undo it by. Raises: Refusal when it is settled already."""
    with home.deciding(words) as session:
        found = _read(session, kind, number)
        at = found.at
        every = doubts_between(session, at, at + timedelta(seconds=1), A_YEAR)
        doubt = next((each for each in every if (each.code, each.fact.kind, each.fact.number) == (code, kind, number)), None)
        if doubt is None:
            raise Refusal("This was settled already.")
        if mend:
            if not doubt.mendable:
                raise Refusal("Only you know what happened: correct the entry.")
            MENDS[code](session, found, doubt)
        else:
            write_entry(session, replace(found, sure=found.sure | {code}), at)
    return session.number


def _assume(session: Session, found: Entry, values: Mapping[str, Any]) -> None:
    """Write values that nobody read into an entry."""
    made = replace(found, values={**found.values, **values}, assumed=found.assumed | values.keys())
    check(made.kind, made.values)
    write_entry(session, made, made.at)


def _level_of_the_model(session: Session, found: Entry, doubt: Doubt) -> None:
    _assume(session, found, {"soc_end": doubt.values["mend_soc"]})


def _end_earlier(session: Session, found: Entry, doubt: Doubt) -> None:
    before = _before(session, doubt.before)
    _assume(session, before, {KINDS[before.kind].ends: found.at})


def _before(session: Session, fact: Fact | None) -> Entry:
    if fact is None:
        raise Refusal("There is nothing before it.")
    return _read(session, fact.kind, fact.number)


def _add_charge(session: Session, found: Entry, doubt: Doubt) -> None:
    row, begun = car_row(session, found.car_id), _ended(doubt)
    outlet = row.habit.outlet_id
    made = {
        "begun_at": begun,
        "ended_at": found.at,
        "site": "home",
        "outlet": outlet,
        "soc_start": doubt.values["was"],
        "soc_end": doubt.values["now"],
    }
    _add(session, Entry(kind="charge", car_id=row.id, values=whole("charge", made)))


def _add_drive(session: Session, found: Entry, doubt: Doubt) -> None:
    levels = {"soc_start": doubt.values["was"], "soc_end": doubt.values["now"]}
    made = {"left_at": _ended(doubt), "home_at": found.at, "km": round(doubt.values["mend_km"], 1), **levels}
    _add(session, Entry(kind="drive", car_id=found.car_id, values=whole("drive", made)))


def _ended(doubt: Doubt) -> datetime:
    if doubt.before is None:
        raise Refusal("There is nothing before it.")
    return datetime.fromtimestamp(doubt.before.ended_s, UTC)


def _add(session: Session, made: Entry) -> None:
    check(made.kind, made.values)
    known = frozenset(name for name, value in made.values.items() if value not in (None, "", False))
    write_entry(session, replace(made, assumed=known, source="assumed"), made.at)


def _take_away(session: Session, found: Entry, doubt: Doubt) -> None:
    session.delete(session.get_one(STORED[found.kind].row, found.number))


def _stretch(session: Session, found: Entry, doubt: Doubt) -> None:
    """The drives between two looks at the clock, as long as the clock says."""
    if doubt.before is None:
        raise Refusal("There is nothing before it.")
    ended = func.coalesce(DriveRow.home_at, DriveRow.left_at)  # those that the doubt counted
    between = (
        DriveRow.car_id == found.car_id,
        ended > datetime.fromtimestamp(doubt.before.begun_s, UTC),
        ended <= found.at + timedelta(minutes=1),
    )
    for row in session.scalars(select(DriveRow).where(*between)).all():
        drive = entry_of("drive", row)
        _assume(session, drive, {"km": round(drive.values["km"] * doubt.values["mend_factor"], 1)})


MENDS: Mapping[str, Callable[[Session, Entry, Doubt], None]] = {
    "odd_use": _level_of_the_model,
    "overlap": _end_earlier,
    "level_up": _add_charge,
    "level_down": _add_drive,
    "odometer_back": _take_away,
    "km_gap": _stretch,
}
