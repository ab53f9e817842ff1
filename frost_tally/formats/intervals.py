"""Dated values: what every format of prices and meter readings comes down to, and the CSV of both."""

from collections.abc import Callable, Collection, Iterable, Sized
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from ..core.charge.prices import CELL_S, Series
from ..core.errors import Refusal
from ..core.units import Array, Ints
from .moments import Moments
from .table import MOST_BAD, BadRow, Lines, read_lines, write_table
from .values import whole

STARTS = dict.fromkeys(("start", "time", "from", "interval_start")).keys()
READING_COLUMNS = dict.fromkeys(("kwh", "energy_kwh", "use_kwh", "consumption_kwh")).keys()
TEMPERATURE_COLUMNS = dict.fromkeys(("temp_c", "temperature", "temperature_c", "air_c", "outside_c", "dry_bulb")).keys()
PRICE_COLUMNS = dict.fromkeys(("price_per_kwh", "price")).keys()
"""Names of columns, the first one ours."""
STEPS = (15, 30, 60)
MOST_KWH = 10_000.0
ENOUGH = 200
"""So many bad rows, when there are fewer good ones: then it is another file."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Intervals:
    """Half-open intervals by start (s since 1970, UTC, rising) with length (min) and value; what could not be read.

    Arrays of shape (intervals,). `notes` say what was assumed. `bad_count` counts all bad rows, `bad` lists the first.
    """

    start_s: Ints
    minutes: Ints
    value: Array
    bad: tuple[BadRow, ...]
    bad_count: int
    notes: tuple[str, ...]


def read_readings(content: bytes, zone: str) -> Intervals:
    """Interval readings: columns `start` and `kwh`, optional `end` or `minutes`; times ISO 8601, local without an offset.

    Raises: Refusal for a file without these columns.
    """
    return read_values(content, zone, READING_COLUMNS, low=0.0, high=MOST_KWH, what="kWh", lengths=range(1, 1441))


def read_prices(content: bytes, zone: str) -> Intervals:
    """Dated prices: columns `start` and `price_per_kwh`, optional `end` or `minutes` (15, 30 or 60), tax included.

    Raises: Refusal for a file without these columns.
    """
    return read_values(content, zone, PRICE_COLUMNS, low=-5.0, high=20.0, what="a price per kWh", lengths=STEPS)


def write_intervals(found: Iterable[tuple[int, int, float]], zone: str, value_name: str) -> str:
    """CSV of (start_s, minutes, value) with local ISO 8601 times and their offsets."""
    here = ZoneInfo(zone)
    rows = ([datetime.fromtimestamp(s, here).isoformat(), minutes, float(f"{value:.6g}")] for s, minutes, value in found)
    return write_table(("start", "minutes", value_name), rows)


def write_series(series: Series | None, zone: str) -> str:
    """The same of dated prices; only its header for none."""
    if series is None:
        return write_intervals((), zone, "price_per_kwh")
    minutes = (series.end_s - series.start_s) // 60
    rows = zip(series.start_s.tolist(), minutes.tolist(), series.price_per_kwh.tolist(), strict=True)
    return write_intervals(rows, zone, "price_per_kwh")


def read_values(
    content: bytes,
    zone: str,
    names: Collection[str],
    *,
    low: float,
    high: float,
    what: str,
    lengths: Iterable[int],
    places: tuple[int, int] | None = None,
    comma: bool | None = None,
    dates: str = "iso",
) -> Intervals:
    """Dated values under one of some names, between two numbers, of some lengths (min); `what` says what they are. `places` of begin and
    value, `comma` before decimals and the order of `dates` where somebody chose them.

    Raises: Refusal for a file without these columns.
    """
    lines = read_lines(content)
    lines = lines if comma is None else replace(lines, comma=comma)
    start, value = places or (lines.column(*STARTS), lines.column(*names))
    end, length = lines.column("end", "to", "interval_end"), lines.column("minutes")
    if start is None or value is None:
        raise Refusal(
            f"The header needs the columns “start” and “{next(iter(names))}”; it has: {', '.join(lines.header)[:120]}.", "file"
        )
    times = Moments(zone, dates)
    bad: list[BadRow] = []
    found: list[tuple[int, int, float, int]] = []
    allowed = frozenset(lengths)
    for line, row in lines.rows:
        try:
            at, minutes, amount = _row(row, lines, (start, value, end, length), times)
        except _Bad as problem:
            bad.append(BadRow(line, lines.header[problem.column] if problem.column < len(lines.header) else "", problem.reason))
            enough(bad, found)
            continue
        if not low <= amount <= high:
            bad.append(BadRow(line, lines.header[value], f"{amount:g} is not {what} from {low:g} to {high:g}"))
        elif minutes and minutes not in allowed:
            bad.append(BadRow(line, lines.header[length or end or start], f"{minutes} minutes is no length used here"))
        else:
            found.append((at, minutes, amount, line))
        enough(bad, found)
    return finished(found, bad, tuple(times.notes), allowed=allowed, column=lines.header[start], price=what != "kWh")


def enough(bad: list[BadRow], found: Sized) -> None:
    """Raises: Refusal once a file has shown that it is another one."""
    if len(bad) >= ENOUGH and len(bad) > len(found):
        first = bad[0]
        raise Refusal(
            f"{len(bad)} rows up to line {bad[-1].line} cannot be used, and the rest was not read. The first: line {first.line}, "
            f"{first.column or 'the row'}: {first.reason}.",
            "file",
        )


class _Bad(Exception):
    """One cell that cannot be read."""

    def __init__(self, column: int, reason: str) -> None:
        self.column, self.reason = column, reason


def _row(
    row: list[str], lines: Lines, columns: tuple[int, int, int | None, int | None], times: Moments
) -> tuple[int, int, float]:
    start, value, end, length = columns
    if len(row) <= max(start, value):
        raise _Bad(max(start, value), "the row ends before this column")
    at = _second(times, row, start)
    try:
        amount = lines.number(row[value])
    except ValueError:
        raise _Bad(value, f"“{row[value][:30]}” is not a number") from None
    if length is not None and len(row) > length and row[length].strip():
        try:
            return at, whole(row[length], 1, 100_000), amount
        except ValueError:
            raise _Bad(length, f"“{row[length][:30]}” is not a number of minutes") from None
    if end is not None and len(row) > end and row[end].strip():
        return at, (_second(times, row, end) - at) // 60, amount
    return at, 0, amount


def _second(times: Moments, row: list[str], column: int) -> int:
    try:
        return int(times.read(row[column]).timestamp())
    except ValueError as problem:
        raise _Bad(column, str(problem)) from None


def finished(
    found: list[tuple[int, int, float, int]],
    bad: list[BadRow],
    notes: tuple[str, ...],
    *,
    allowed: frozenset[int],
    column: str,
    price: bool = False,
) -> Intervals:
    """Sort, give lengths to rows without one (as the next row begins), and put aside what overlaps or is off the quarter hour."""
    found.sort(key=lambda each: each[0])
    usual = _usual_minutes(found)
    kept: list[tuple[int, int, float]] = []
    owner = list[int]()
    for i, (at, given, amount, line) in enumerate(found):
        minutes = given
        if not minutes:
            gap = (found[i + 1][0] - at) // 60 if i + 1 < len(found) else usual
            minutes = gap if gap in allowed and gap <= max(usual, 1) else usual
        if kept and at == kept[-1][0]:
            bad.append(BadRow(line, column, f"begins when line {owner[-1]} does"))
        elif kept and at < kept[-1][0] + 60 * kept[-1][1]:
            bad.append(BadRow(line, column, f"begins before line {owner[-1]} has ended"))
        elif price and (at % CELL_S or minutes not in allowed):
            bad.append(BadRow(line, column, "prices begin on quarter hours and last 15, 30 or 60 minutes"))
        else:
            kept.append((at, minutes, amount))
            owner.append(line)
    bad.sort(key=lambda each: each.line)
    table = np.array(kept, dtype=float).reshape(-1, 3)
    whole: Callable[[int], Ints] = lambda i: table[:, i].astype(np.int64)  # noqa: E731
    return Intervals(
        start_s=whole(0), minutes=whole(1), value=table[:, 2], bad=tuple(bad[:MOST_BAD]), bad_count=len(bad), notes=notes
    )


def _usual_minutes(found: list[tuple[int, int, float, int]]) -> int:
    """The most common distance between rows, at most an hour; an hour when nothing tells."""
    gaps = [(b[0] - a[0]) // 60 for a, b in zip(found, found[1:], strict=False) if 0 < b[0] - a[0] <= 3600]
    return int(np.bincount(gaps).argmax()) if gaps else 60


def hours_covered(found: Intervals) -> timedelta:
    """Total length of the intervals."""
    return timedelta(minutes=int(found.minutes.sum()))
