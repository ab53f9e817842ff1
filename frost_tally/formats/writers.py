"""Which writer writes a file: for each kind of data the formats it goes out in, by the name of the file.

A new format is a module with a writer, and a line here.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from ..core.errors import Refusal
from .calendar_feed import write_calendar
from .charging_profile import V16, V201, plan_rows, write_profile
from .intervals import write_intervals, write_series
from .log_csv import write_entries
from .ocpi_tariff import write_ocpi
from .table import write_table
from .tariff_json import SCHEMA, write_tariff

CSV, JSON = "text/csv; charset=utf-8", "application/json"


@dataclass(frozen=True)
class Written:
    """A file to hand out."""

    name: str
    media_type: str
    content: str | bytes


@dataclass(frozen=True)
class Writer:
    """One format: its media type, and how it is written from what it holds, at a time."""

    media_type: str
    write: Callable[[Any, datetime], str | bytes]


WRITERS: dict[str, dict[str, Writer]] = {
    "readings": {"readings.csv": Writer(CSV, lambda held, now: write_intervals(held[0], held[1], "kwh"))},
    "weather": {"weather.csv": Writer(CSV, lambda held, now: write_intervals(held[0], held[1], "temp_c"))},
    "tariff": {
        "tariff.json": Writer(JSON, lambda file, now: write_tariff(file)),
        "ocpi.json": Writer(JSON, lambda file, now: write_ocpi(file, range(now.year - 1, now.year + 3), now.astimezone(UTC))),
        "prices.csv": Writer(CSV, lambda file, now: write_series(file.tariff.series, file.tariff.zone)),
    },
    "log": {"log.csv": Writer(CSV, lambda held, now: write_entries(*held))},
    "tariff schema": {"schema.json": Writer("application/schema+json", lambda held, now: SCHEMA.read_text())},
    "plan": {
        "profile-1.6.json": Writer(JSON, lambda night, now: write_profile(night, V16)),
        "profile-2.0.1.json": Writer(JSON, lambda night, now: write_profile(night, V201)),
        "plan.csv": Writer(CSV, lambda night, now: write_table(("from", "until", "amps", "phases"), plan_rows(night))),
    },
    "departures": {
        "departures.ics": Writer("text/calendar; charset=utf-8", lambda held, now: write_calendar(held[0], held[1], now))
    },
}


def write_file(kind: str, name: str, what: Any, now: datetime) -> Written:
    """What a kind of data is in the format of that name. Raises: Refusal for a format that it does not go out in."""
    if name not in WRITERS[kind]:
        raise Refusal(f"There is no such file; there are: {', '.join(WRITERS[kind])}.")
    writer = WRITERS[kind][name]
    return Written(name, writer.media_type, writer.write(what, now))


def table_file(name: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> Written:
    """A plain table, as CSV."""
    return Written(name, CSV, write_table(header, rows))
