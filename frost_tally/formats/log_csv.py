"""The log as CSV (RFC 4180): every kind in its own columns, or all in one table; ours and, with columns chosen, other programs'."""

import csv
import io
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import partial
from itertools import islice
from typing import Any, TypeVar
from zoneinfo import ZoneInfo

import numpy as np
import numpy.typing as npt

from ..core.errors import Refusal
from ..core.log.check import all_well, check
from ..core.log.kinds import CHOICE, KINDS, MOMENT, OUTLET, TEXT, YES_NO, Column, Entry, Kind
from ..core.units import KM_PER_MILE, KPA_PER_PSI
from . import values
from .moments import Moments
from .table import BadRow, write_table

MOST_LINES = 500_000
LONGEST_CELL = 2000
CHUNK = 4000
FILE_UNITS: Mapping[str, Mapping[str, tuple[float, float]]] = {
    "percent": {"%": (0.01, 0.0), "0–1": (1.0, 0.0)},
    "distance": {"km": (1.0, 0.0), "mi": (KM_PER_MILE, 0.0), "m": (0.001, 0.0)},
    "energy": {"kWh": (1.0, 0.0), "Wh": (0.001, 0.0)},
    "temperature": {"°C": (1.0, 0.0), "°F": (5 / 9, -160 / 9)},
    "pressure": {"kPa": (1.0, 0.0), "bar": (100.0, 0.0), "psi": (KPA_PER_PSI, 0.0)},
    "speed": {"km/h": (1.0, 0.0), "mph": (KM_PER_MILE, 0.0)},
    "mass": {"kg": (1.0, 0.0), "lb": (0.45359237, 0.0)},
    "fine_voltage": {"V": (1.0, 0.0), "mV": (0.001, 0.0)},
    "money": {"money": (1.0, 0.0)},
}
"""Units that a column of a file may have: a value times the first, plus the second, is the value in SI."""
STAMP = "datetime64[us]"
FIRST, LAST = np.datetime64("1970-01-02", "us"), np.datetime64("2099-12-31T23:59:59", "us")
_STAMP = r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d:\d\d(?:Z|[+-]\d\d:\d\d)"
_STAMPS = re.compile(rf"(?:{_STAMP})?(?:\n(?:{_STAMP})?)*", re.ASCII)
"""Times as most programs write them, one a line; some may be empty."""
_DIGITS = re.compile(r"[0-9+\-.eE]*", re.ASCII)
COMMON = ("kind", "car", "source", "assumed")


@dataclass
class Rows:
    """Good rows of a kind, column by column: times as datetime64[us] on UTC (not a time for what is open), other values as the store has
    them, None for what is open.
    """

    lines: list[int] = field(default_factory=list)
    cars: list[int] = field(default_factory=list)
    columns: dict[str, Any] = field(default_factory=dict)
    sources: list[str] = field(default_factory=list)
    assumed: list[tuple[str, ...]] = field(default_factory=list)


@dataclass(frozen=True, kw_only=True)
class Choice:
    """How a file is read: its kind, for each of our columns the file's column and its unit, its decimals, dates, clock and car.

    `columns` has our names (and "car", "kind", "source", "assumed"); a `kind` of "" stands for one in each row.
    """

    kind: str
    columns: Mapping[str, tuple[int, str]]
    comma: bool = False
    dates: str = "iso"
    zone: str = "UTC"
    car_id: int | None = None


@dataclass(frozen=True, kw_only=True)
class LogHome:
    """What a reader needs of the home: its cars and outlets by name, in small letters."""

    cars: Mapping[str, int]
    outlets: Mapping[str, int]


@dataclass(kw_only=True)
class Chunk:
    """Some rows of a file: the good ones by kind, the bad ones, and how far the file was read (0 to 1)."""

    rows: list[tuple[str, Rows]] = field(default_factory=list)
    bad: list[BadRow] = field(default_factory=list)
    share: float = 0.0


def lines_of(content: bytes) -> Iterator[tuple[int, list[str]]]:
    """The rows of a CSV file with their lines, one by one: nothing of it is held. Raises: Refusal for what is no text, or no CSV."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise Refusal("The file is UTF-16 text. Save it as CSV in UTF-8.", "file")
    if b"\x00" in content[:4096]:
        raise Refusal("The file is not text. Choose a CSV file.", "file")
    text = io.TextIOWrapper(io.BytesIO(content), encoding="utf-8-sig", newline="")
    try:
        first = text.readline(100_000)
        text.seek(0)
        reader = csv.reader(text, delimiter=max(",;\t", key=first.count))
        for row in reader:
            if reader.line_num > MOST_LINES:
                raise Refusal(f"The file has more than {MOST_LINES} lines. Split it by years.", "file")
            if row and (row[0] or any(row)):
                yield reader.line_num, row
    except UnicodeDecodeError as problem:
        raise Refusal(f"The file is not UTF-8 text (byte {problem.start}). Save it as CSV in UTF-8.", "file") from None
    except csv.Error as problem:
        raise Refusal(f"The file is not CSV: {problem}.", "file") from None


def header_of(content: bytes) -> tuple[str, ...]:
    """The header of a file. Raises: Refusal for a file without rows under one."""
    lines = lines_of(content)
    first, second = next(lines, None), next(lines, None)
    if first is None or second is None:
        raise Refusal("The file has no rows under its header.", "file")
    if len(first[1]) > 200:
        raise Refusal("The file has more than 200 columns; no log has so many.", "file")
    plain = [cell.strip().lower() for cell in first[1] if cell.strip()]
    twice = next((name for name in plain if plain.count(name) > 1), "")
    if twice:
        raise Refusal(f"The column “{twice[:40]}” is there twice: give each its own name.", "file")
    return tuple(cell.strip() for cell in first[1])


def own_choice(header: tuple[str, ...], zone: str, content: bytes = b"") -> Choice | None:
    """How a file with our own header is read; None for another header."""
    plain = [each.casefold() for each in header]
    common = {name: (plain.index(name), "") for name in COMMON if name in plain}
    if "kind" in common:
        columns = {
            f"{kind.key}.{each.name}": at for kind in KINDS.values() for each in kind.columns if (at := _found(each, plain))
        }
        kinds = {name.split(".")[0] for name in columns}
        return Choice(kind="", columns=common | columns, zone=zone) if kinds else None
    for kind in KINDS.values():
        columns = {each.name: at for each in kind.columns if (at := _found(each, plain))}
        if kind.at in columns and all(each.name in columns for each in kind.columns if each.needed):
            known = len(columns) + len(common)
            if known == len([each for each in plain if each]):
                return Choice(kind=kind.key, columns=common | columns, zone=zone)
    return None


def _found(column: Column, plain: list[str]) -> tuple[int, str] | None:
    """Where a column is under its own name, in any unit that its quantity has."""
    units = FILE_UNITS.get(column.quantity, {"": (1.0, 0.0)})
    for unit in units:
        title = f"{column.file_name} [{unit}]" if unit else column.title
        if title.casefold() in plain:
            return plain.index(title.casefold()), unit
    return (plain.index(column.file_name), next(iter(units))) if column.file_name in plain else None


def chunks(content: bytes, choice: Choice, home: LogHome, notes: list[str]) -> Iterator[Chunk]:
    """A file, some thousand rows at a time, checked: memory stays the same however long it is. `notes` get what was assumed.

    Raises: Refusal for what is no such file.
    """
    lines = lines_of(content)
    reader = _Reader(choice, home, next(lines, (0, []))[1])
    size = max(1, content.count(b"\n"))
    while part := list(islice(lines, CHUNK)):
        chunk = Chunk(share=min(1.0, part[-1][0] / size))
        reader.read(part, chunk)
        yield chunk
    notes += reader.moments.notes


class _Bad(Exception):
    """A cell that cannot be read."""

    def __init__(self, column: str, reason: str) -> None:
        self.column, self.reason = column, reason


Read = Callable[[str], Any]
Line = tuple[int, list[str]]


class _Reader:
    """Reads rows by a choice of columns: some thousand at once, column by column; row by row where one of them is bad."""

    def __init__(self, choice: Choice, home: LogHome, header: list[str]) -> None:
        self.choice, self.home, self.header = choice, home, header
        self.moments = Moments(choice.zone, choice.dates)
        self.common = {name: choice.columns[name][0] for name in COMMON if name in choice.columns}
        self.plans = {kind: self._plan(kind) for kind in ([choice.kind] if choice.kind else list(KINDS))}

    def _plan(self, key: str) -> list[tuple[Column, int | None, Read]]:
        prefix = "" if self.choice.kind else f"{key}."
        found = []
        for column in KINDS[key].columns:
            at, unit = self.choice.columns.get(prefix + column.name, (None, ""))
            found.append((column, at, self._cell(column, unit)))
        return found

    def _cell(self, column: Column, unit: str) -> Read:
        """How a cell of a column is read; each raises ValueError with a reason."""
        if column.quantity == MOMENT:
            return self.moments.read
        if column.quantity == OUTLET:
            return self._outlet
        if column.quantity == CHOICE:
            return partial(_option, column.options)
        if column.quantity == YES_NO:
            return _yes
        if column.quantity == TEXT:
            return partial(_words, int(column.high))
        factor, more = FILE_UNITS[column.quantity].get(unit, next(iter(FILE_UNITS[column.quantity].values())))
        return _Number(column, unit, factor, more, self.choice.comma)

    def _outlet(self, cell: str) -> int:
        found = self.home.outlets.get(cell.casefold())
        if found is None:
            raise ValueError(f"“{cell[:30]}” is no outlet of yours: add it in Garage, or leave the cell empty")
        return found

    def read(self, part: Sequence[Line], chunk: Chunk) -> None:
        """Read some rows into the good and the bad ones of a chunk."""
        by_kind: dict[str, list[Line]] = {}
        for line, row in part:
            try:
                by_kind.setdefault(self._kind(row), []).append((line, row))
            except _Bad as problem:
                chunk.bad.append(BadRow(line, problem.column, problem.reason))
        for kind, lines in by_kind.items():
            try:
                rows = self._at_once(kind, lines)
            except (ValueError, OverflowError, _Bad):
                rows = self._one_by_one(kind, lines, chunk)
            chunk.rows.append((kind, rows))

    def _at_once(self, kind: str, lines: Sequence[Line]) -> Rows:
        """Rows without anything wrong, column by column. Raises: ValueError or _Bad when there may be something."""
        cells = [[cell.strip() for cell in column] for column in zip(*(row for _, row in lines), strict=True)]
        rows = Rows(lines=[line for line, _ in lines])
        for column, at, read in self.plans[kind]:
            if at is None:
                if column.needed:
                    raise ValueError("a column that is missing")
                continue
            found = cells[at]
            if (column.needed and "" in found) or max(map(len, found)) > LONGEST_CELL:
                raise ValueError("a cell to look at")
            rows.columns[column.name] = self._column(column, found, read)
        well = all_well(kind, _for_rules(kind, rows.columns))
        if not well.all():
            raise ValueError("a row that breaks a rule")
        rows.cars = _each(self._common_cells("car", cells, len(lines)), self._car)
        rows.sources = _each(self._common_cells("source", cells, len(lines)), _source)
        rows.assumed = _each(self._common_cells("assumed", cells, len(lines)), partial(_assumed, KINDS[kind]))
        return rows

    def _column(self, column: Column, cells: list[str], read: Read) -> Any:
        if isinstance(read, _Number):
            return read.all(cells)
        if column.quantity == MOMENT:
            return self._times(cells)
        return _each(cells, lambda cell: read(_plain(cell)) if cell else None)

    def _times(self, cells: list[str]) -> npt.NDArray[np.datetime64]:
        """Times with offsets, as most programs write them, all at once; others one by one. Raises: ValueError."""
        if self.choice.dates != "iso" or not _STAMPS.fullmatch("\n".join(cells)):
            return np.array([_utc(self.moments.read(cell)) if cell else None for cell in cells], dtype=STAMP)
        offset = {end: np.timedelta64(_minutes(end), "m") for end in {cell[19:] for cell in cells if cell}}
        found = np.array([cell[:19] or "NaT" for cell in cells], dtype=STAMP)
        if len(offset) == 1:
            found -= next(iter(offset.values()))
        else:
            found -= np.array([offset[cell[19:]] if cell else np.timedelta64(0, "m") for cell in cells])
        if ((found < FIRST) | (found > LAST)).any():
            raise ValueError("too far away")
        if cells[-1]:
            self.moments.last = float(found[-1].astype("int64")) / 1e6
        return found

    def _common_cells(self, name: str, cells: list[list[str]], count: int) -> list[str]:
        at = self.common.get(name)
        return cells[at] if at is not None else [""] * count

    def _one_by_one(self, kind: str, lines: Sequence[Line], chunk: Chunk) -> Rows:
        """Rows of which some are bad."""
        rows, plan = Rows(), self.plans[kind]
        found: dict[str, list[Any]] = {column.name: [] for column, at, _ in plan if at is not None}
        for line, row in lines:
            try:
                values, car = self._row(kind, row), self._car(self._common(row, "car"))
            except _Bad as problem:
                chunk.bad.append(BadRow(line, problem.column, problem.reason))
                continue
            rows.lines.append(line)
            rows.cars.append(car)
            rows.sources.append(_source(self._common(row, "source")))
            rows.assumed.append(_assumed(KINDS[kind], self._common(row, "assumed")))
            for name, each in found.items():
                each.append(values[name])
        for column, at, _ in plan:
            if at is not None:
                of_it = found[column.name]
                rows.columns[column.name] = (
                    np.array([_utc(each) for each in of_it], dtype=STAMP) if column.quantity == MOMENT else of_it
                )
        return rows

    def _row(self, kind: str, row: list[str]) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for column, at, read in self.plans[kind]:
            cell = _plain(row[at].strip()) if at is not None and at < len(row) else ""
            found[column.name] = None
            if not cell:
                if column.needed:
                    raise _Bad(self._title(column, at), "nothing stands here, and it is needed")
                continue
            if len(cell) > LONGEST_CELL:
                raise _Bad(self._title(column, at), f"{len(cell)} letters are no value")
            try:
                found[column.name] = read(cell)
            except ValueError as problem:
                raise _Bad(self._title(column, at), str(problem)) from None
        try:
            check(kind, found)
        except Refusal as refusal:
            raise _Bad(refusal.field, refusal.message) from None
        return found

    def _title(self, column: Column, at: int | None) -> str:
        return self.header[at] if at is not None and at < len(self.header) else column.title

    def _common(self, row: list[str], name: str) -> str:
        at = self.common.get(name)
        return row[at].strip() if at is not None and at < len(row) else ""

    def _kind(self, row: list[str]) -> str:
        if self.choice.kind:
            return self.choice.kind
        found = self._common(row, "kind")
        if found not in KINDS:
            raise _Bad("kind", f"“{found[:30]}” is no kind of entry; there are: {', '.join(KINDS)}")
        return found

    def _car(self, name: str) -> int:
        if not name and self.choice.car_id is not None:
            return self.choice.car_id
        found = self.home.cars.get(_plain(name).casefold())
        if found is None:
            raise _Bad("car", f"“{name[:30]}” is no car of yours: add it in Garage first" if name else "no car is named")
        return found


Found = TypeVar("Found")


def _each(cells: list[str], read: Callable[[str], Found]) -> list[Found]:
    """Every cell read; what stands in many of them is read once."""
    known = {cell: read(cell) for cell in set(cells)}
    return [known[cell] for cell in cells]


def _plain(cell: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from running it."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in ("=", "+", "-", "@") else cell


def _source(cell: str) -> str:
    return cell if cell.isascii() and cell.isalpha() and len(cell) <= 20 else "file"


def _assumed(kind: Kind, cell: str) -> tuple[str, ...]:
    names = {each.name for each in kind.columns}
    return tuple(sorted(each for each in cell.split() if each in names))


def _utc(at: datetime | None) -> datetime | None:
    return None if at is None else at.astimezone(UTC).replace(tzinfo=None)


def _minutes(offset: str) -> int:
    """An offset from UTC such as +01:00 or Z, in minutes."""
    if offset == "Z":
        return 0
    hours, minutes = int(offset[1:3]), int(offset[4:6])
    if hours > 23 or minutes > 59:
        raise ValueError("no offset")
    return (60 * hours + minutes) * (-1 if offset[0] == "-" else 1)


def _for_rules(kind: str, columns: Mapping[str, Any]) -> dict[str, Any]:
    """Columns as the rules take them: times in seconds, numbers with not a number for what is open, codes as they are."""
    found: dict[str, Any] = {}
    for each in KINDS[kind].columns:
        values = columns.get(each.name)
        if isinstance(values, np.ndarray):
            found[each.name] = np.where(np.isnat(values), np.nan, values.astype("int64") / 1e6)
        elif values is not None and each.is_number:
            found[each.name] = np.array(values, dtype=float)
        elif values is not None and each.quantity == CHOICE:
            found[each.name] = np.array(values, dtype=object)
    return found


class _Number:
    """Reads numbers of a column in a unit: one, with a reason for a bad one, or all at once."""

    def __init__(self, column: Column, unit: str, factor: float, more: float, comma: bool) -> None:
        self.column, self.unit, self.factor, self.more, self.comma = column, unit, factor, more, comma

    def __call__(self, cell: str) -> float:
        """One number in SI. Raises: ValueError with a reason."""
        column = self.column
        try:
            found = float(self._si(values.number(cell.replace(",", ".") if self.comma else cell)))
        except ValueError:
            raise ValueError(f"“{cell[:30]}” is not a number") from None
        if not column.low <= found <= column.high:
            low, high = ((each - self.more) / self.factor for each in (column.low, column.high))
            raise ValueError(f"{cell[:30]} is not between {low:g} and {high:g} {self.unit}".rstrip())
        return found

    def _si(self, number: Any) -> Any:
        """A number, or an array of them, in SI; a hair over the highest is the highest."""
        found = number / 100 if self.column.quantity == "percent" and self.factor < 1 else number * self.factor + self.more
        return np.where(np.abs(found - self.column.high) < 1e-9, self.column.high, found)

    def all(self, cells: list[str]) -> list[float | None]:
        """All numbers, None for empty cells. Raises: ValueError when one may be bad."""
        cells = [cell.replace(",", ".") for cell in cells] if self.comma else cells
        if not _DIGITS.fullmatch("".join(cells)) or max(map(len, cells)) > values.LONGEST:
            raise ValueError("something else than digits")
        found = self._si(np.array([float(cell or "nan") for cell in cells]))
        if ((found < self.column.low) | (found > self.column.high)).any():
            raise ValueError("out of bounds")
        plain: list[float | None] = found.tolist()
        return [None if each != each else each for each in plain] if np.isnan(found).any() else plain


def written(si: float, factor: float) -> str:
    """A value as our files have it: as short as gives it back to twelve digits."""
    return f"{si * factor:.12g}"


def _option(options: tuple[str, ...], cell: str) -> str:
    found = cell.casefold().replace(" ", "_")
    if found not in {each.casefold() for each in options}:
        raise ValueError(f"“{cell[:30]}” is none of: {', '.join(each for each in options if each)}")
    return next(each for each in options if each.casefold() == found)


def _yes(cell: str) -> bool:
    if cell.casefold() not in ("yes", "no", "true", "false", "1", "0"):
        raise ValueError(f"“{cell[:30]}” is neither yes nor no")
    return cell.casefold() in ("yes", "true", "1")


def _words(longest: int, cell: str) -> str:
    try:
        return values.words(cell, longest)
    except ValueError:
        raise ValueError(f"“{cell[:30]}” is no text of up to {longest} letters in one line") from None


def write_entries(
    entries: Iterable[Entry], cars: Mapping[int, str], outlets: Mapping[int, str], zone: ZoneInfo, kind: str = ""
) -> str:
    """Entries of a kind in its columns, or of all kinds in one table with a column for each of theirs."""
    shapes = [KINDS[kind]] if kind else list(KINDS.values())
    titles = list(dict.fromkeys(each.title for shape in shapes for each in shape.columns))
    rows = []
    for entry in entries:
        cells = {each.title: _written(each, entry.values[each.name], outlets, zone) for each in KINDS[entry.kind].columns}
        head = [] if kind else [entry.kind]
        rows.append(
            [
                *head,
                cars.get(entry.car_id, ""),
                *(cells.get(title, "") for title in titles),
                entry.source,
                " ".join(sorted(entry.assumed)),
            ]
        )
    head = ["car"] if kind else ["kind", "car"]
    return write_table([*head, *titles, "source", "assumed"], rows)


def _written(column: Column, value: Any, outlets: Mapping[int, str], zone: ZoneInfo) -> object:
    if value is None or value == "":
        return ""
    if column.quantity == MOMENT:
        return value.astimezone(zone).isoformat()
    if column.quantity == OUTLET:
        return outlets.get(value, "")
    if column.quantity == YES_NO:
        return "yes" if value else "no"
    return float(written(value, column.factor)) if column.is_number else value
