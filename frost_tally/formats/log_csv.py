"""The log as CSV (RFC 4180): every kind in its own columns, or all in one table; ours and, with columns chosen, other programs'."""

import csv
import io
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any, NamedTuple
from zoneinfo import ZoneInfo

from ..core.errors import Refusal
from ..core.log.check import check
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
COMMON = ("kind", "car", "source", "assumed")


class Row(NamedTuple):
    """A good row: its line, the car, the values in the order of the kind's columns (None for those that the file has not)."""

    line: int
    car_id: int
    values: tuple[Any, ...]
    source: str
    assumed: tuple[str, ...]


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

    rows: dict[str, list[Row]] = field(default_factory=dict)
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
            if any(row):
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
    reader = _Reader(choice, home)
    lines = lines_of(content)
    header = next(lines, (0, []))[1]
    reader.header = header
    size, chunk = max(1, content.count(b"\n")), Chunk()
    for count, (line, row) in enumerate(lines, 1):
        reader.row(line, row, chunk)
        if count % CHUNK == 0:
            chunk.share = min(1.0, line / size)
            yield chunk
            chunk = Chunk()
    chunk.share = 1.0
    yield chunk
    notes += reader.moments.notes


class _Bad(Exception):
    """A cell that cannot be read."""

    def __init__(self, column: str, reason: str) -> None:
        self.column, self.reason = column, reason


Read = Callable[[str], Any]


class _Reader:
    """Reads rows by a choice of columns."""

    def __init__(self, choice: Choice, home: LogHome) -> None:
        self.choice, self.home, self.header = choice, home, list[str]()
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
        return partial(_number, column, unit, factor, more, self.choice.comma)

    def _outlet(self, cell: str) -> int:
        found = self.home.outlets.get(cell.strip().casefold())
        if found is None:
            raise ValueError(f"“{cell[:30]}” is no outlet of yours: add it in Garage, or leave the cell empty")
        return found

    def row(self, line: int, row: list[str], chunk: Chunk) -> None:
        """Read a row into the good or the bad ones."""
        try:
            kind, good = self._row(line, row)
        except _Bad as problem:
            chunk.bad.append(BadRow(line, problem.column, problem.reason))
            return
        chunk.rows.setdefault(kind, []).append(good)

    def _row(self, line: int, row: list[str]) -> tuple[str, Row]:
        kind, car_id = self._kind(row), self._car(row)
        found: list[Any] = []
        for column, at, read in self.plans[kind]:
            cell = row[at].strip() if at is not None and at < len(row) else ""
            if cell.startswith("'") and cell[1:2] in "=+-@":
                cell = cell[1:]
            if not cell:
                if column.needed and not (column.quantity == CHOICE and "" in column.options):
                    raise _Bad(self._title(column, at), "nothing stands here, and it is needed")
                found.append(None)
                continue
            if len(cell) > LONGEST_CELL:
                raise _Bad(self._title(column, at), f"{len(cell)} letters are no value")
            try:
                found.append(read(cell))
            except ValueError as problem:
                raise _Bad(self._title(column, at), str(problem)) from None
        try:
            check(kind, {column.name: value for (column, _, _), value in zip(self.plans[kind], found, strict=True)})
        except Refusal as refusal:
            raise _Bad(refusal.field, refusal.message) from None
        return kind, Row(line, car_id, tuple(found), self._source(row), self._assumed(row, KINDS[kind]))

    def _title(self, column: Column, at: int | None) -> str:
        return self.header[at] if at is not None and at < len(self.header) else column.title

    def _common(self, name: str, row: list[str]) -> str:
        at = self.common.get(name)
        return row[at].strip() if at is not None and at < len(row) else ""

    def _kind(self, row: list[str]) -> str:
        if self.choice.kind:
            return self.choice.kind
        found = self._common("kind", row)
        if found not in KINDS:
            raise _Bad("kind", f"“{found[:30]}” is no kind of entry; there are: {', '.join(KINDS)}")
        return found

    def _car(self, row: list[str]) -> int:
        name = self._common("car", row)
        if not name and self.choice.car_id is not None:
            return self.choice.car_id
        found = self.home.cars.get(name.casefold())
        if found is None:
            raise _Bad("car", f"“{name[:30]}” is no car of yours: add it in Garage first" if name else "no car is named")
        return found

    def _source(self, row: list[str]) -> str:
        found = self._common("source", row)
        return found if found.isascii() and found.isalpha() and len(found) <= 20 else "file"

    def _assumed(self, row: list[str], kind: Kind) -> tuple[str, ...]:
        names = {each.name for each in kind.columns}
        return tuple(sorted(each for each in self._common("assumed", row).split() if each in names))


def _number(column: Column, unit: str, factor: float, more: float, comma: bool, cell: str) -> float:
    try:
        found = values.number(cell.replace(",", ".") if comma else cell) * factor + more
    except ValueError:
        raise ValueError(f"“{cell[:30]}” is not a number") from None
    if not column.low <= found <= column.high:
        if column.quantity == "percent" and -1e-9 < found < 1 + 1e-9:
            return min(max(found, 0.0), 1.0)
        low, high = ((each - more) / factor for each in (column.low, column.high))
        raise ValueError(f"{cell[:30]} is not between {low:g} and {high:g} {unit}".rstrip())
    return found


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
