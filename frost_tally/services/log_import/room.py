"""Files of entries: received, read by columns that are known or chosen, previewed, taken over whole, and taken back."""

import zlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, astuple, dataclass, replace
from datetime import UTC, datetime
from typing import Any

from ...core.errors import Refusal
from ...core.log.kinds import KINDS
from ...formats.gpx import Track
from ...formats.log_columns import Choice, LogHome, own_choice
from ...formats.log_csv import Chunk, chunks
from ...formats.readers import Here, read_file
from ...formats.table import MOST_BAD, has_comma_decimals, header_of, same_moment
from ...household import log_import
from ...household.calendar import holidays_of
from ...household.log import names_away, names_ever
from ...household.log_import import Incoming
from ...household.pending import (
    Pending,
    change_pending,
    failed_lately,
    forget_pending,
    know_choice,
    known_choice,
    note_failure,
    pending,
    put_pending,
    taken_lately,
)
from ...household.snapshot import LogTables, Snapshot
from ...household.unit_of_work import Household
from .jobs import Tell

KIND = "log"
AWAY = "{} was put away: its entries stand in the log, and no room reckons with them."
NOT_TOLD: Tell = lambda share: None  # noqa: E731


@dataclass(frozen=True, kw_only=True)
class LogPreview:
    """What taking a file of entries over would do, by kind: (added, changed, there already); its bad rows, how many rows it repeats, its
    span of time, and why taking it over failed (None: it did not; "": it ended in the middle, and nobody could say why).
    """

    number: str
    name: str
    header: tuple[str, ...]
    choice: Choice | None
    counts: Mapping[str, tuple[int, int, int]]
    bad: tuple[tuple[int, str, str], ...]
    bad_count: int
    notes: tuple[str, ...]
    repeated: int
    span: tuple[str, str]
    done: bool
    failed: str | None

    @property
    def added(self) -> int:
        """New entries."""
        return sum(each[0] for each in self.counts.values())

    @property
    def changed(self) -> int:
        """Entries that are there and would be other ones."""
        return sum(each[1] for each in self.counts.values())

    @property
    def same(self) -> int:
        """Entries that are there already."""
        return sum(each[2] for each in self.counts.values())


def receive(household: Household, snapshot: Snapshot, name: str, content: bytes) -> str:
    """Keep a file for its preview; returns its number. Raises: Refusal for what is no CSV with a header."""
    if not content:
        raise Refusal("The file is empty: choose another.", "file")
    header = header_of(content)
    known = known_choice(snapshot.log, _named(header))
    own = own_choice(header, snapshot.home.place.zone, has_comma_decimals(content))
    choice = own or (_choice(known) if known else None)
    choice = None if choice is None else _of_the_only_car(snapshot, choice)
    about = {"name": name[:80] or "the file", "header": list(header), "choice": asdict(choice) if choice else None}
    with household.recording() as session:
        return put_pending(session, KIND, about, zlib.compress(content, 1))


def _of_the_only_car(snapshot: Snapshot, choice: Choice) -> Choice:
    """The same, of the home's car where there is but one and nobody chose: rows that name none are its own."""
    cars = snapshot.home.cars
    return replace(choice, car_id=cars[0].id) if choice.car_id is None and len(cars) == 1 else choice


def _named(header: tuple[str, ...]) -> str:
    return "|".join(each.casefold() for each in header)[:4000]


def _choice(kept: Mapping[str, Any]) -> Choice:
    """A choice as it was kept."""
    columns = {str(name): (int(at), str(unit)) for name, (at, unit) in kept["columns"].items()}
    return Choice(**{**kept, "columns": columns})


def choose(household: Household, snapshot: Snapshot, number: str, choice: Choice) -> None:
    """Read a file by other columns, and remember them for its header. Raises: Refusal when it is gone, or a needed column is missing."""
    shape = KINDS.get(choice.kind)
    if shape is None:
        raise Refusal("Choose what is in the file.", "kind")
    for each in shape.columns:
        if each.needed and each.name not in choice.columns:
            raise Refusal("This is needed: choose the column that has it.", each.name)
    choice = _of_the_only_car(snapshot, choice)
    if "car" not in choice.columns and choice.car_id is None:
        raise Refusal("Choose the car.", "car")
    if choice.car_id is not None and choice.car_id not in {each.id for each in snapshot.home.cars}:
        raise Refusal("There is no such car.", "car")
    with household.recording() as session:
        file = pending(session, number, (KIND,))
        if file.done:
            raise Refusal("This file was taken over already.", "kind")
        change_pending(session, number, {"choice": asdict(choice), "counts": None})
        know_choice(session, _named(tuple(map(str, file.about["header"]))), asdict(choice))


def forget(household: Household, number: str) -> None:
    """Away with a file that nobody wants to take over."""
    with household.recording() as session:
        forget_pending(session, number, KIND)


def look(household: Household, number: str, tell: Tell = NOT_TOLD) -> None:
    """Read a whole file and hold it against the log, for its preview. Raises: Refusal."""
    with household.reading() as snapshot:
        file = pending(snapshot.log, number, (KIND,))
        loaded = _Loaded(snapshot.log, file.about, zlib.decompress(file.content), tell)
        counts, spans = {}, []
        for kind, each in loaded.tables.items():
            found = each.difference()
            counts[kind] = [found.added, found.changed, found.same]
            spans += [at for at in each.span() if at]
            loaded.twice(found.twice)
        loaded.close()
    with household.recording() as session:
        pending(session, number, (KIND,))
        change_pending(session, number, {**loaded.told(counts), "span": [min(spans), max(spans)] if spans else ["", ""]})


class _Loaded:
    """A file's good rows in tables of a session, by kind, and its bad ones."""

    def __init__(self, session: LogTables, about: Mapping[str, Any], content: bytes, tell: Tell) -> None:
        choice, self.notes = _choice(about["choice"]), list[str]()
        self.tables: dict[str, Incoming] = {}
        self.cars, self.bad = set[int](), list[list[Any]]()
        self.bad_count = self.repeated = 0
        here = LogHome(
            cars={name.casefold(): number for number, name in names_ever(session, "car").items()},
            outlets={name.casefold(): number for number, name in names_ever(session, "outlet").items()},
        )
        for chunk in chunks(content, choice, here, self.notes):
            self._take(session, chunk, choice)
            tell(0.9 * chunk.share)
        for each in self.tables.values():
            each.index()

    def _take(self, session: LogTables, chunk: Chunk, choice: Choice) -> None:
        for kind, rows in chunk.rows:
            self.cars.update(rows.cars)
            if not rows.lines:
                continue
            if kind not in self.tables:
                prefix = "" if choice.kind else f"{kind}."
                names = [each.name for each in KINDS[kind].columns if prefix + each.name in choice.columns]
                self.tables[kind] = Incoming(session, kind, names)
            self.tables[kind].load(rows.lines, rows.cars, rows.columns, rows.sources, rows.assumed)
        self.bad_count += len(chunk.bad)
        if len(self.bad) < MOST_BAD:
            self.bad += [[each.line, each.column, each.reason] for each in chunk.bad]

    def twice(self, found: tuple[tuple[int, int, bool], ...]) -> None:
        """Rows of one moment twice: alike ones are left out, others are bad."""
        for line, first, alike in found:
            if not alike:
                self.bad_count += 1
                self.bad.append(list(astuple(same_moment(line, first))))
            else:
                self.repeated += 1

    def told(self, counts: Mapping[str, Sequence[int]]) -> dict[str, Any]:
        """What a preview says of the file."""
        bad = {"bad": self.bad[:MOST_BAD], "bad_count": self.bad_count, "notes": self.notes, "repeated": self.repeated}
        bad["cars"] = sorted(self.cars)
        return {"counts": dict(counts), **bad}

    def close(self) -> None:
        """Away with the tables."""
        for each in self.tables.values():
            each.close()


def preview(snapshot: Snapshot, number: str) -> LogPreview:
    """What is known of a received file. Raises: Refusal when it is gone."""
    about = pending(snapshot.log, number, (KIND,)).about
    away = [name for each, name in names_away(snapshot.log).items() if each in about.get("cars", ())]
    return LogPreview(
        number=number,
        name=about["name"],
        header=tuple(about["header"]),
        choice=_choice(about["choice"]) if about.get("choice") else None,
        counts={kind: (each[0], each[1], each[2]) for kind, each in (about.get("counts") or {}).items()},
        bad=tuple((int(line), str(column), str(reason)) for line, column, reason in about.get("bad", ())),
        bad_count=about.get("bad_count", 0),
        notes=(*about.get("notes", ()), *(AWAY.format(name) for name in away)),
        repeated=about.get("repeated", 0),
        span=tuple(about.get("span", ("", ""))),
        done=bool(about.get("done")),
        failed=_failed(about),
    )


def _failed(about: Mapping[str, Any]) -> str | None:
    return str(about.get("failed", "")) if about.get("begun") and not about.get("done") else None


def looked(snapshot: Snapshot, number: str) -> bool:
    """Whether a file was read for its preview. Raises: Refusal when it is gone."""
    return pending(snapshot.log, number, (KIND,)).about.get("counts") is not None


def take(household: Household, number: str, tell: Tell = NOT_TOLD, whole: bool = False) -> int:
    """Take a file's good rows over, all in one transaction; returns the number to undo it by. Its preview then says what was done.

    Raises: Refusal when it is gone or was taken; BadRows for a file that must be taken `whole`: nothing is changed then.
    """
    staged: list[_Loaded] = []

    def stage(session: LogTables) -> None:
        """Read the whole file into tables of its own, while others write."""
        file = _untaken(session, number)
        staged.append(_Loaded(session, file.about, zlib.decompress(file.content), tell))
        for each in staged[0].tables.values():
            staged[0].twice(each.drop_twice())

    with household.deciding("", stage=stage) as session:
        session.words = f"“{_untaken(session, number).about['name']}” taken over"
        loaded = staged[0]
        if whole and loaded.bad_count:
            raise BadRows(tuple((int(line), str(column), str(reason)) for line, column, reason in loaded.bad), loaded.bad_count)
        done, counts = [], {}
        for kind, each in loaded.tables.items():
            part = each.take(datetime.now(UTC))
            added, changed = part["added"][1] - part["added"][0] + 1, len(part["was"])
            counts[kind] = [added, changed, each.count() - added - changed]
            done.append(part)
        loaded.close()
        tell(1.0)
        change_pending(session, number, {**loaded.told(counts), "done": True, "begun": False}, log_import.packed(done))
        session.file_taken(number)
    return session.number


def take_beside(household: Household, number: str, say: Callable[[Exception], str], tell: Tell = NOT_TOLD) -> int:
    """Take a file over beside the pages; when that fails, what `say` makes of it is written down for them. Raises as `take`."""
    with household.recording() as session:
        _untaken(session, number)
        change_pending(session, number, {"begun": True, "failed": ""})
    try:
        return take(household, number, tell)
    except Exception as problem:
        note_failure(household.recording, number, say(problem))
        raise


def _untaken(session: LogTables, number: str) -> Pending:
    """A file that waits. Raises: Refusal when it is gone or was taken."""
    file = pending(session, number, (KIND,))
    if file.done:
        raise Refusal("This file was taken over already.")
    return file


class BadRows(RuntimeError):
    """Rows that cannot be used, in a file that must be taken whole: (line, column, reason) of the first, and how many."""

    def __init__(self, bad: tuple[tuple[int, str, str], ...], count: int) -> None:
        super().__init__()
        self.bad, self.count = bad, count


@dataclass(frozen=True)
class TakenFile:
    """A file that was taken over: its number and name, when it was received, how many entries it brought, and the number to undo it by."""

    number: str
    name: str
    made_at: datetime
    entries: int
    undo: int


def taken_files(snapshot: Snapshot) -> tuple[TakenFile, ...]:
    """The files that were taken over lately and can still be taken back as a whole, the newest first."""
    found = []
    for file, undo in taken_lately(snapshot.log, KIND):
        counts: Mapping[str, Sequence[int]] = file.about.get("counts") or {}
        entries = sum(each[0] + each[1] for each in counts.values())
        found.append(TakenFile(file.id, str(file.about["name"]), file.made_at, entries, undo))
    return tuple(found)


def failed_files(snapshot: Snapshot) -> tuple[tuple[str, str, str], ...]:
    """Files whose taking over came to nothing: number, name, why ("": it ended in the middle), the newest first."""
    return tuple((each.id, str(each.about["name"]), _failed(each.about) or "") for each in failed_lately(snapshot.log, KIND))


def drive_of(snapshot: Snapshot, content: bytes) -> dict[str, str]:
    """A GPX track as the start of a drive: its kilometres, and when it left and came home. Raises: Refusal."""
    track: Track = read_file("track", content, Here(snapshot.home.place.zone, holidays_of))
    times = {name: s for name, s in (("left_at", track.begun_s), ("home_at", track.ended_s)) if s is not None}
    found = {name: datetime.fromtimestamp(s, UTC).isoformat() for name, s in times.items()} | {"km": f"{track.km:.2f}"}
    return found | ({"mean_kmh": f"{track.km / track.hours:.1f}"} if track.hours else {})
