"""Tables of text: reading CSV with the place of whatever is wrong, and writing it so that nothing runs as a formula."""

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from ..core.errors import Refusal
from .values import number

MOST_ROWS = 500_000
MOST_BAD = 50
FORMULAS = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""


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


def lines_of(content: bytes) -> Iterator[tuple[int, list[str]]]:
    """The rows of a CSV file with their lines, one by one: nothing of it is held. Raises: Refusal for what is no text, or no CSV."""
    if content[:2] in (b"\xff\xfe", b"\xfe\xff"):
        raise Refusal("The file is UTF-16 text, not UTF-8. Save it as CSV in UTF-8.", "file")
    if b"\x00" in content[:4096]:
        raise Refusal("The file is not UTF-8 text: it has bytes that no text has. Choose a CSV file.", "file")
    text = io.TextIOWrapper(io.BytesIO(content), encoding="utf-8-sig", newline="")
    try:
        first = text.readline(100_000)
        text.seek(0)
        reader = csv.reader(text, delimiter=_delimiter(first))
        for row in reader:
            if reader.line_num > MOST_ROWS:
                raise Refusal(f"The file has more than {MOST_ROWS} lines. Split it by years.", "file")
            if row and (row[0] or any(row)):
                yield reader.line_num, row
    except UnicodeDecodeError as problem:
        raise Refusal(f"The file is not UTF-8 text (byte {problem.start}). Save it as CSV in UTF-8.", "file") from None
    except csv.Error as problem:
        raise Refusal(f"The file is not CSV: {problem}.", "file") from None


def _delimiter(first: str) -> str:
    """What stands between cells, by the first line."""
    return max(",;\t", key=first.count)


def has_comma_decimals(content: bytes) -> bool:
    """Whether a file writes decimals with a comma: then something else stands between its cells."""
    return _delimiter(content[:100_000].decode("utf-8", "replace").split("\n", 1)[0]) != ","


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


def read_lines(content: bytes) -> Lines:
    """A CSV file (RFC 4180, UTF-8, comma, semicolon or tab between cells) with a header, whole.

    Raises: Refusal for what is no such file, or too long.
    """
    found = list(lines_of(content))
    if len(found) < 2:
        raise Refusal("The file has no rows under its header.", "file")
    header = tuple(cell.strip().lower() for cell in found[0][1])
    return Lines(header, tuple(found[1:]), has_comma_decimals(content))


def write_table(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """CSV text. Cells that a spreadsheet would run as a formula get an apostrophe before them; numbers stay numbers."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(header)
    writer.writerows([[_safe(cell) for cell in row] for row in rows])
    return out.getvalue()


def _safe(cell: object) -> object:
    return f"'{cell}" if isinstance(cell, str) and cell.lstrip("'")[:1] in FORMULAS else cell


def unescaped(cell: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from running it."""
    return cell[1:] if cell[:1] == "'" and cell.lstrip("'")[:1] in FORMULAS else cell
