"""Tables of text: reading CSV with the place of whatever is wrong, and writing it so that nothing runs as a formula."""

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..core.errors import Refusal
from .values import number

MOST_ROWS = 200_000
MOST_BAD = 50


@dataclass(frozen=True)
class BadRow:
    """What cannot be used: its line (or count) in the file, the column and the reason."""

    line: int
    column: str
    reason: str


@dataclass(frozen=True)
class Lines:
    """The header as lower-case names, and the rows (line number, cells); whether decimals have a comma."""

    header: tuple[str, ...]
    rows: tuple[tuple[int, list[str]], ...]
    comma: bool

    def column(self, *names: str) -> int | None:
        """Place of the first column that has one of the names, units in brackets aside."""
        plain = [name.split("[")[0].split("(")[0].strip() for name in self.header]
        return next((plain.index(name) for name in names if name in plain), None)

    def number(self, cell: str) -> float:
        """A number as the file writes it. Raises: ValueError."""
        return number(cell.replace(",", ".") if self.comma else cell)


def same_moment(line: int, first: int) -> BadRow:
    """A row of a moment that an earlier row of the file is of too, and says something else."""
    return BadRow(line, "", f"line {first} is of the same moment, and says something else")


def read_lines(content: bytes) -> Lines:
    """A CSV file (RFC 4180, UTF-8, comma, semicolon or tab between cells) with a header.

    Raises: Refusal for what is no such file, or too long.
    """
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as problem:
        raise Refusal(f"The file is not UTF-8 text (byte {problem.start}). Save it as CSV in UTF-8.", "file") from None
    first = text.split("\n", 1)[0]
    between = max(",;\t", key=first.count)
    try:
        rows = [(line, row) for line, row in enumerate(csv.reader(io.StringIO(text), delimiter=between), 1) if any(row)]
    except csv.Error as problem:
        raise Refusal(f"The file is not CSV: {problem}.", "file") from None
    if len(rows) < 2:
        raise Refusal("The file has no rows under its header.", "file")
    if len(rows) > MOST_ROWS:
        raise Refusal(f"The file has {len(rows)} rows; {MOST_ROWS} are read at most. Split it by years.", "file")
    header = tuple(cell.strip().lower() for cell in rows[0][1])
    return Lines(header, tuple(rows[1:]), between != ",")


def write_table(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """CSV text. Cells that a spreadsheet would run as a formula get an apostrophe before them; numbers stay numbers."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows([[_safe(cell) for cell in row] for row in rows])
    return out.getvalue()


def _safe(cell: object) -> object:
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@", "\t", "\r") else cell
