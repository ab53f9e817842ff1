"""Which reader reads a file: for each kind of data the formats it comes in; the first that knows the file reads it.

A new format is a module with a reader, and a line here.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from typing import Any

from ..core.errors import Refusal
from .document import FORMAT as DOCUMENT
from .espi import read_espi
from .gpx import read_track
from .intervals import PRICE_COLUMNS, READING_COLUMNS, STARTS, TEMPERATURE_COLUMNS, read_prices, read_readings
from .ocpi_tariff import read_ocpi
from .table import header_of
from .tariff_json import FORMAT, loaded, read_tariff
from .weather import is_epw, read_epw, read_temperatures


@dataclass(frozen=True)
class Here:
    """What a reader may need of the home: its time zone, and the public holidays of a region."""

    zone: str
    holidays_of: Callable[[str], frozenset[date]]


@dataclass(frozen=True)
class Reader:
    """One format: whether a file is in it, and what it holds. `read` raises Refusal with the place of what is wrong."""

    knows: Callable[[bytes], bool]
    read: Callable[[bytes, Here], Any]


def _any(content: bytes) -> bool:
    return True


def _markup(content: bytes) -> bool:
    return content.lstrip()[:1] == b"<"


def _our_json(content: bytes) -> bool:
    document = loaded(content)
    return isinstance(document, dict) and document.get("format") == FORMAT


READERS: dict[str, tuple[Reader, ...]] = {
    "readings": (
        Reader(_markup, lambda file, here: read_espi(file)),
        Reader(_any, lambda file, here: read_readings(file, here.zone)),
    ),
    "weather": (
        Reader(is_epw, lambda file, here: read_epw(file)),
        Reader(_any, lambda file, here: read_temperatures(file, here.zone)),
    ),
    "prices": (Reader(_any, lambda file, here: read_prices(file, here.zone)),),
    "tariff": (
        Reader(_our_json, lambda file, here: read_tariff(file, here.zone)),
        Reader(_any, lambda file, here: read_ocpi(file, here.zone, here.holidays_of)),
    ),
    "track": (Reader(_any, lambda file, here: read_track(file)),),
}


def read_file(kind: str, content: bytes, here: Here) -> Any:
    """What a file of a kind holds: `Intervals` of readings or prices, a `TariffFile`, a `Track`. Raises: Refusal."""
    if not content:
        raise Refusal("Choose a file first.", "file")
    try:
        return next(reader for reader in READERS[kind] if reader.knows(content)).read(content, here)
    except Refusal:
        raise
    except (ArithmeticError, AttributeError, LookupError, TypeError, ValueError, RecursionError) as problem:
        raise Refusal(f"The file cannot be read: {type(problem).__name__}, {str(problem)[:80]}.", "file") from problem


def kind_of(content: bytes) -> str:
    """What kind of data a file brings: "everything", "tariff", "track", "weather", "readings", "prices", or "log" for a table of entries.

    Raises: Refusal for what is none of them.
    """
    if not content:
        raise Refusal("The file is empty: choose another.", "file")
    begins = content[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if begins[:1] in (b"{", b"["):
        return "everything" if DOCUMENT.encode() in begins else "tariff"
    if begins[:1] == b"<":
        return "track" if b"<gpx" in begins else "readings"
    if is_epw(content):
        return "weather"
    plain = {each.split("[")[0].split("(")[0].strip().lower() for each in header_of(content)}
    if plain & STARTS and plain & READING_COLUMNS and not plain & OF_ENTRIES:
        return "readings"
    if plain & STARTS and plain & TEMPERATURE_COLUMNS and not plain & OF_ENTRIES:
        return "weather"
    return "prices" if plain & STARTS and plain & PRICE_COLUMNS and not plain & OF_ENTRIES else "log"


OF_ENTRIES = {"car", "kind", "soc_start", "soc_end", "wall_kwh", "km"}
