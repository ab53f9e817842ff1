"""Weather of the past from files: a CSV of temperatures, or a typical year in EPW (EnergyPlus weather file)."""

import calendar
from datetime import UTC, datetime, timedelta

from ..core.errors import Refusal
from .intervals import TEMPERATURE_COLUMNS, Intervals, finished, read_values
from .table import BadRow, lines_of
from .values import number, whole

COLDEST_C, WARMEST_C = -70.0, 60.0
TYPICAL_YEAR = 1971
"""The year that a typical year's hours are kept in: they stand in for hours of any year that no other file has."""
EPW_HEADER, EPW_MISSING = 8, 99.9
EPW_ZONE = 8
"""Where the first line of an EPW file has its hours from UTC."""


def is_epw(content: bytes) -> bool:
    """Whether a file begins as an EPW does."""
    return content[:64].lstrip(b"\xef\xbb\xbf").startswith(b"LOCATION,")


def read_temperatures(content: bytes, zone: str) -> Intervals:
    """Temperatures of the air: columns `start` and `temp_c`, optional `end` or `minutes`; times ISO 8601, local without an offset.

    Raises: Refusal for a file without these columns.
    """
    return read_values(
        content, zone, TEMPERATURE_COLUMNS, low=COLDEST_C, high=WARMEST_C, what="an air temperature", lengths=range(1, 1441)
    )


def read_epw(content: bytes) -> Intervals:
    """The dry-bulb temperatures of a typical year, in UTC by the offset that the file names. Raises: Refusal with its line.

    Source: the EPW format of the EnergyPlus documentation: eight lines of header, then year, month, day, hour (1 to 24), minute, flags,
    dry bulb (°C; 99.9 when missing), …; from memory.
    """
    lines = lines_of(content)
    first = next(lines, (0, []))[1]
    try:
        offset = timedelta(hours=number(first[EPW_ZONE]))
    except (IndexError, ValueError):
        raise Refusal("The first line of the file does not say its hours from UTC.", "file") from None
    found: list[tuple[int, int, float, int]] = []
    bad: list[BadRow] = []
    for line, row in lines:
        if line <= EPW_HEADER:
            continue
        try:
            month, day, hour = whole(row[1], 1, 12), whole(row[2], 1, 31), whole(row[3], 1, 24)
            temp_c = number(row[6])
            at = datetime(TYPICAL_YEAR, month, min(day, calendar.monthrange(TYPICAL_YEAR, month)[1]), tzinfo=UTC)
        except (IndexError, ValueError):
            bad.append(BadRow(line, "", "month, day, hour or dry bulb cannot be read"))
            continue
        if temp_c == EPW_MISSING:
            continue
        if not COLDEST_C <= temp_c <= WARMEST_C:
            bad.append(BadRow(line, "dry bulb", f"{temp_c:g} is not an air temperature from {COLDEST_C:g} to {WARMEST_C:g}"))
            continue
        utc = at + timedelta(hours=hour - 1) - offset
        found.append((int(utc.replace(year=TYPICAL_YEAR).timestamp()), 60, temp_c, line))
    if not found:
        raise Refusal("There are no hours in the file.", "file")
    notes = ("it is a typical year: it stands in for hours that no other file has",)
    return finished(found, bad, notes, allowed=frozenset(range(1, 1441)), column="hour")
