"""Cells of a file of entries as values: one by one, with a reason for a bad one, or a column at once."""

import re
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any, TypeVar

import numpy as np
import numpy.typing as npt

from ..core.log.kinds import Column, Kind
from ..core.measures import Unit
from . import values

STAMP = "datetime64[us]"
FIRST, LAST = np.datetime64("1970-01-02", "us"), np.datetime64("2099-12-31T23:59:59", "us")
_STAMP = r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d:\d\d(?:Z|[+-]\d\d:\d\d)"
_STAMPS = re.compile(rf"(?:{_STAMP})?(?:\n(?:{_STAMP})?)*", re.ASCII)
"""Times as most programs write them, one a line; some may be empty."""
_DIGITS = re.compile(r"[0-9+\-.eE]*", re.ASCII)
Found = TypeVar("Found")


def read_each(cells: list[str], read: Callable[[str], Found]) -> list[Found]:
    """Every cell read; what stands in many of them is read once."""
    known = {cell: read(cell) for cell in set(cells)}
    return [known[cell] for cell in cells]


def source(cell: str) -> str:
    return cell if cell.isascii() and cell.isalpha() and len(cell) <= 20 else "file"


def assumed_of(kind: Kind, cell: str) -> tuple[str, ...]:
    names = {each.name for each in kind.columns}
    return tuple(sorted(each for each in cell.split() if each in names))


def utc(at: datetime | None) -> datetime | None:
    return None if at is None else at.astimezone(UTC).replace(tzinfo=None)


def minutes(offset: str) -> int:
    """An offset from UTC such as +01:00 or Z, in minutes."""
    if offset == "Z":
        return 0
    hours, minutes = int(offset[1:3]), int(offset[4:6])
    if hours > 23 or minutes > 59:
        raise ValueError("no offset")
    return (60 * hours + minutes) * (-1 if offset[0] == "-" else 1)


class Number:
    """Reads numbers of a column in a unit: one, with a reason for a bad one, or all at once."""

    def __init__(self, column: Column, unit: Unit, comma: bool) -> None:
        self.column, self.unit, self.comma = column, unit, comma

    def __call__(self, cell: str) -> float:
        """One number in SI. Raises: ValueError with a reason."""
        column = self.column
        try:
            found = float(self._si(values.number(cell.replace(",", ".") if self.comma else cell)))
        except ValueError:
            raise ValueError(f"“{cell[:30]}” is not a number") from None
        if not column.low <= found <= column.high:
            low, high = (self.unit.show(each) for each in (column.low, column.high))
            raise ValueError(f"{cell[:30]} is not between {low:g} and {high:g} {self.unit.label}".rstrip())
        return found

    def _si(self, number: Any) -> Any:
        """A number, or an array of them, in SI; a hair over the highest is the highest."""
        found = self.unit.read(number)
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


def option(options: tuple[str, ...], cell: str) -> str:
    found = cell.casefold().replace(" ", "_")
    if found not in {each.casefold() for each in options}:
        raise ValueError(f"“{cell[:30]}” is none of: {', '.join(each for each in options if each)}")
    return next(each for each in options if each.casefold() == found)


def yes(cell: str) -> bool:
    if cell.casefold() not in ("yes", "no", "true", "false", "1", "0"):
        raise ValueError(f"“{cell[:30]}” is neither yes nor no")
    return cell.casefold() in ("yes", "true", "1")


def short_text(longest: int, cell: str) -> str:
    try:
        return values.words(cell, longest)
    except ValueError:
        raise ValueError(f"“{cell[:30]}” is no text of up to {longest} letters in one line") from None


def stamped(cells: list[str]) -> npt.NDArray[np.datetime64] | None:
    """A column of times with offsets, as most programs write them; None where one is written in another way. Raises: ValueError."""
    if not _STAMPS.fullmatch("\n".join(cells)):
        return None
    offset = {end: np.timedelta64(minutes(end), "m") for end in {cell[19:] for cell in cells if cell}}
    found = np.array([cell[:19] or "NaT" for cell in cells], dtype=STAMP)
    if len(offset) == 1:
        found -= next(iter(offset.values()))
    else:
        found -= np.array([offset[cell[19:]] if cell else np.timedelta64(0, "m") for cell in cells])
    if ((found < FIRST) | (found > LAST)).any():
        raise ValueError("too far away")
    return found
