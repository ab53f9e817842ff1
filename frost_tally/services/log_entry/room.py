"""One entry of the log: written, corrected, taken away; anomalies mended, or called right. Every one of them can be undone."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

from ...core.errors import Missing, Refusal
from ...core.log.anomalies import Anomaly
from ...core.log.check import check
from ...core.log.facts import Fact
from ...core.log.kinds import KINDS, Entry
from ...household.log import drives_home_between, names_ever, read_entries, remove_entry, write_entry
from ...household.parts import car_row
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..log import A_YEAR, anomalies_between

AHEAD = timedelta(hours=12)


def whole(kind: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values of an entry with what is left open in them."""
    shape = KINDS[kind]
    return {each.name: each.empty if values.get(each.name) is None else values[each.name] for each in shape.columns}


def entry(snapshot: Snapshot, kind: str, number: int) -> Entry:
    """An entry. Raises: Refusal when it is gone."""
    found = read_entries(snapshot.log, [(kind, number)]) if kind in KINDS else {}
    if not found:
        raise Missing("This entry is no longer there.")
    return found[kind, number]


def keep(household: Household, made: Entry, now: datetime, words: str, seen_revision: int | None = None) -> tuple[int, int]:
    """Write a new entry, or correct one: what was corrected is no longer assumed. Returns its number and the one to undo it by.

    Raises: Refusal with its column; Stale.
    """
    made = replace(made, values=whole(made.kind, made.values))
    check(made.kind, made.values)
    for name in (KINDS[made.kind].at, KINDS[made.kind].ends):
        if (at := made.values.get(name)) is not None and at > now + AHEAD:
            raise Refusal("This is still to come: the log is of what happened.", name)
    with household.deciding(words, seen_revision) as session:
        was = entry(household.as_decided(session), made.kind, made.number) if made.number else None
        if was is None or was.car_id != made.car_id:
            car_row(session, made.car_id)
        if (outlet := made.values.get("outlet")) is not None and outlet not in names_ever(session, "outlet"):
            raise Missing("There is no such outlet.", "outlet")
        if was is not None:
            corrected = {name for name, value in made.values.items() if value != was.values[name]}
            made = replace(
                made, assumed=was.assumed - corrected, source=was.source, sure=was.sure if not corrected else frozenset()
            )
        number = write_entry(session, made, now)
    return number, session.number


def remove(household: Household, kind: str, number: int, words: str, seen_revision: int | None = None) -> int:
    """Take an entry away; returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding(words, seen_revision) as session:
        entry(household.as_decided(session), kind, number)
        remove_entry(session, kind, number)
    return session.number


def confirm(household: Household, kind: str, number: int, words: str) -> int:
    """Everything that was assumed of an entry is right; returns the number to undo it by. Raises: Refusal."""
    with household.deciding(words) as session:
        found = entry(household.as_decided(session), kind, number)
        write_entry(session, replace(found, assumed=frozenset()), found.at)
    return session.number


def settle_anomaly(household: Household, code: str, kind: str, *, number: int, words: str, mend: bool) -> int:
    """Mend what does not go together, or call it right; returns the number to undo it by. Raises: Refusal when it is settled already."""
    with household.deciding(words) as session:
        state = household.as_decided(session)
        found = entry(state, kind, number)
        at = found.at
        every = anomalies_between(state, at, at + timedelta(seconds=1), A_YEAR)
        anomaly = next((each for each in every if (each.code, each.fact.kind, each.fact.number) == (code, kind, number)), None)
        if anomaly is None:
            raise Refusal("This was settled already.")
        if mend:
            if not anomaly.mendable:
                raise Refusal("Only you know what happened: correct the entry.")
            MENDS[code](state, found, anomaly)
        else:
            write_entry(session, replace(found, sure=found.sure | {code}), at)
    return session.number


def _assume(state: Snapshot, found: Entry, values: Mapping[str, Any]) -> None:
    """Write values that nobody read into an entry."""
    made = replace(found, values={**found.values, **values}, assumed=found.assumed | values.keys())
    check(made.kind, made.values)
    write_entry(state.log, made, made.at)


def _level_of_the_model(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    _assume(state, found, {"soc_end": anomaly.values["mend_soc"]})


def _end_earlier(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    fact = _before(anomaly)
    earlier = entry(state, fact.kind, fact.number)
    _assume(state, earlier, {KINDS[earlier.kind].ends: found.at})


def _before(anomaly: Anomaly) -> Fact:
    if anomaly.before is None:
        raise Refusal("There is nothing before it.")
    return anomaly.before


def _add_charge(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    outlet = state.home.car(found.car_id).outlet
    made = {
        "begun_at": datetime.fromtimestamp(_before(anomaly).ended_s, UTC),
        "ended_at": found.at,
        "site": "home",
        "outlet": None if outlet is None else outlet.id,
        "soc_start": anomaly.values["was"],
        "soc_end": anomaly.values["now"],
    }
    _add(state, Entry(kind="charge", car_id=found.car_id, values=whole("charge", made)))


def _add_drive(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    made = {
        "left_at": datetime.fromtimestamp(_before(anomaly).ended_s, UTC),
        "home_at": found.at,
        "km": round(anomaly.values["mend_km"], 1),
        "soc_start": anomaly.values["was"],
        "soc_end": anomaly.values["now"],
    }
    _add(state, Entry(kind="drive", car_id=found.car_id, values=whole("drive", made)))


def _add(state: Snapshot, made: Entry) -> None:
    check(made.kind, made.values)
    known = frozenset(name for name, value in made.values.items() if value not in (None, "", False))
    write_entry(state.log, replace(made, assumed=known, source="assumed"), made.at)


def _take_away(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    remove_entry(state.log, found.kind, found.number)


def _stretch(state: Snapshot, found: Entry, anomaly: Anomaly) -> None:
    """The drives between two looks at the clock (those that the anomaly counted), as long as the clock says."""
    since = datetime.fromtimestamp(_before(anomaly).begun_s, UTC)
    for drive in drives_home_between(state.log, found.car_id, since, found.at + timedelta(minutes=1)):
        _assume(state, drive, {"km": round(drive.values["km"] * anomaly.values["mend_factor"], 1)})


MENDS: Mapping[str, Callable[[Snapshot, Entry, Anomaly], None]] = {
    "odd_use": _level_of_the_model,
    "overlap": _end_earlier,
    "level_up": _add_charge,
    "level_down": _add_drive,
    "odometer_back": _take_away,
    "km_gap": _stretch,
}
