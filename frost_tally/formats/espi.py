"""Interval readings in ESPI / Green Button XML (NAESB REQ.21): energy delivered, in watt-hours."""

from dataclasses import dataclass, field
from typing import Any

from ..core.errors import Refusal
from .intervals import MOST_KWH, Intervals, enough, finished
from .markup import count_within, document, local, within
from .table import MOST_ROWS, BadRow
from .values import whole

WATT_HOURS, DELIVERED = 72, 1
KINDS = {"uom": (0, 255), "powerOfTenMultiplier": (-12, 12), "flowDirection": (0, 255)}
BOUNDS = {"start": (0, 4_102_444_799), "duration": (60, 86_400), "value": (0, 10**15)}


@dataclass
class _Feed:
    """What the entries of a feed say of each other by their links."""

    types: dict[str, dict[str, int]] = field(default_factory=dict)
    meters: dict[str, list[str]] = field(default_factory=dict)
    blocks: list[tuple[str, list[tuple[str, str, str]]]] = field(default_factory=list)
    count: int = 0


def read_espi(content: bytes) -> Intervals:
    """Readings of energy that the house drew. Entities and external parts are refused.

    Blocks whose reading type is another unit, or energy given back, are left out and noted.
    Raises: Refusal for a file that is not such XML, or without readings.
    """
    feed = _Feed()
    for entry in document(content, "feed").iter("{*}entry"):
        _entry(entry, feed)
    if not feed.blocks:
        raise Refusal("The file holds no interval readings.", "file")
    return _intervals(feed)


def _inside(element: Any, name: str) -> Any:
    """The first descendant of a local name; None without."""
    return next(element.iter(f"{{*}}{name}"), None)


def _text(element: Any, name: str) -> str:
    found = _inside(element, name)
    return (found.text or "").strip() if found is not None else ""


def _entry(entry: Any, feed: _Feed) -> None:
    links: dict[str, list[str]] = {}
    for each in entry:
        if local(each) == "link":
            links.setdefault(each.get("rel", ""), []).append(each.get("href", ""))
    here = links.get("self", [""])[0]
    kind = _inside(entry, "ReadingType")
    if kind is not None:
        values = {name: _text(kind, name) for name in ("uom", "powerOfTenMultiplier", "flowDirection")}
        try:
            feed.types[here] = {name: whole(value, *KINDS[name]) for name, value in values.items() if value}
        except ValueError:
            raise Refusal(
                f"Reading type {len(feed.types) + 1}: its unit, power of ten or direction cannot be read.", "file"
            ) from None
    if _inside(entry, "MeterReading") is not None:
        feed.meters[here] = links.get("related", [])
    for block in entry.iter("{*}IntervalBlock"):
        rows = _rows(block)
        feed.blocks.append((links.get("up", [""])[0], rows))
        feed.count += len(rows)
        if feed.count > MOST_ROWS:
            raise Refusal(f"The file has more than {MOST_ROWS} readings. Split it by years.", "file")


def _rows(block: Any) -> list[tuple[str, str, str]]:
    """Start, duration and value of every reading, empty where it has none."""
    count = count_within(block, "IntervalReading")
    columns = [within(block, f"IntervalReading/{path}/text()") for path in ("timePeriod/start", "timePeriod/duration", "value")]
    if all(len(each) == count for each in columns):
        return list(zip(*columns, strict=True))
    readings = within(block, "IntervalReading")
    return [(_text(each, "start"), _text(each, "duration"), _text(each, "value")) for each in readings]


def _type_of(feed: _Feed, up: str) -> dict[str, int]:
    """The reading type of a block: by the links of its meter reading, or the only one there is."""
    meter = next((here for here in feed.meters if here and (up == here or up.startswith(here + "/"))), "")
    for href in feed.meters.get(meter, []):
        if href in feed.types:
            return feed.types[href]
    return next(iter(feed.types.values())) if len(feed.types) == 1 else {}


def _intervals(feed: _Feed) -> Intervals:
    found: list[tuple[int, int, float, int]] = []
    bad: list[BadRow] = []
    notes: list[str] = []
    number = 0
    for up, rows in feed.blocks:
        kind = _type_of(feed, up)
        other = kind.get("uom", WATT_HOURS) != WATT_HOURS or kind.get("flowDirection", DELIVERED) != DELIVERED
        if other:
            notes.append(f"{len(rows)} readings of another unit or direction were left out")
            number += len(rows)
            continue
        scale = 10.0 ** kind.get("powerOfTenMultiplier", 0) / 1000.0
        for start, duration, value in rows:
            number += 1
            read = dict[str, int]()
            for name, text in (("start", start), ("duration", duration), ("value", value)):
                try:
                    read[name] = whole(text, *BOUNDS[name])
                except ValueError:
                    bad.append(BadRow(number, name, "is missing, no whole number, or outside what a house can have"))
                    break
            else:
                if read["value"] * scale <= MOST_KWH:
                    found.append((read["start"], read["duration"] // 60, read["value"] * scale, number))
                else:
                    bad.append(BadRow(number, "value", "is more than a house can use"))
            enough(bad, found)
    return finished(found, bad, tuple(dict.fromkeys(notes)), allowed=frozenset(range(1, 1441)), column="start")
