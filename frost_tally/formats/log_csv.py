"""The log as CSV (RFC 4180): every kind in its own columns, or all in one table; ours and, with columns chosen, other programs'."""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import islice
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
import numpy.typing as npt

from ..core.errors import Refusal
from ..core.log.check import all_well, check
from ..core.log.kinds import CHOICE, KINDS, MOMENT, OUTLET, TEXT, YES_NO, Column, Entry
from .log_cells import STAMP, Number, assumed_of, option, read_each, short_text, source, stamped, utc, yes
from .log_columns import COMMON, FILE_UNITS, Choice, LogHome
from .moments import Moments
from .table import BadRow, lines_of, unescaped, write_table

LONGEST_CELL = 2000
CHUNK = 4000


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


@dataclass(kw_only=True)
class Chunk:
    """Some rows of a file: the good ones by kind, the bad ones, and how far the file was read (0 to 1)."""

    rows: list[tuple[str, Rows]] = field(default_factory=list)
    bad: list[BadRow] = field(default_factory=list)
    share: float = 0.0


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
            return partial(option, column.options)
        if column.quantity == YES_NO:
            return yes
        if column.quantity == TEXT:
            return partial(short_text, int(column.high))
        units = FILE_UNITS[column.quantity]
        return Number(column, units.get(unit, next(iter(units.values()))), self.choice.comma)

    def _outlet(self, cell: str) -> int:
        found = self.home.outlets.get(cell.casefold())
        if found is None:
            raise ValueError(f"“{cell[:30]}” is no outlet of yours: add it in Garage, or leave the cell empty")
        return found

    def read(self, part: Sequence[Line], chunk: Chunk) -> None:
        """Read some rows into the good and the bad ones of a chunk; what a row shorter than its header lacks is empty."""
        width = len(self.header)
        part = [(line, row if len(row) >= width else [*row, *[""] * (width - len(row))]) for line, row in part]
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
        rows.cars = read_each(self._common_cells("car", cells, len(lines)), self._car)
        rows.sources = read_each(self._common_cells("source", cells, len(lines)), source)
        rows.assumed = read_each(self._common_cells("assumed", cells, len(lines)), partial(assumed_of, KINDS[kind]))
        return rows

    def _column(self, column: Column, cells: list[str], read: Read) -> Any:
        if isinstance(read, Number):
            return read.all(cells)
        if column.quantity == MOMENT:
            return self._times(cells)
        return read_each(cells, lambda cell: read(unescaped(cell)) if cell else None)

    def _times(self, cells: list[str]) -> npt.NDArray[np.datetime64]:
        found = stamped(cells) if self.choice.dates == "iso" else None
        if found is None:
            return np.array([utc(self.moments.read(cell)) if cell else None for cell in cells], dtype=STAMP)
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
            rows.sources.append(source(self._common(row, "source")))
            rows.assumed.append(assumed_of(KINDS[kind], self._common(row, "assumed")))
            for name, each in found.items():
                each.append(values[name])
        for column, at, _ in plan:
            if at is not None:
                of_it = found[column.name]
                rows.columns[column.name] = (
                    np.array([utc(each) for each in of_it], dtype=STAMP) if column.quantity == MOMENT else of_it
                )
        return rows

    def _row(self, kind: str, row: list[str]) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for column, at, read in self.plans[kind]:
            cell = unescaped(row[at].strip()) if at is not None and at < len(row) else ""
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
        found = self.home.cars.get(unescaped(name).casefold())
        if found is None:
            raise _Bad("car", f"“{name[:30]}” is no car of yours: add it in Garage first" if name else "no car is named")
        return found


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


def written(si: float, factor: float) -> str:
    """A value as our files have it: as short as gives it back to twelve digits."""
    return f"{si * factor:.12g}"


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
