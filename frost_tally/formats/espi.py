"""Interval readings in ESPI / Green Button XML (NAESB REQ.21): energy delivered, in watt-hours."""

import io
from dataclasses import dataclass, field
from xml.etree.ElementTree import Element, ParseError

from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from ..core.errors import Refusal
from .intervals import Intervals, finished
from .table import MOST_ROWS, BadRow

WATT_HOURS, DELIVERED = 72, 1


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
    try:
        for _, element in ElementTree.iterparse(io.BytesIO(content), events=("end",), forbid_dtd=True):
            if _local(element) == "entry":
                _entry(element, feed)
                element.clear()
    except ParseError as problem:
        line, column = problem.position
        raise Refusal(f"The file is not sound XML: line {line}, column {column}.", "file") from None
    except DefusedXmlException:
        raise Refusal("The file brings document types or entities of its own; these are not read.", "file") from None
    if not feed.blocks:
        raise Refusal("The file holds no interval readings.", "file")
    return _intervals(feed)


def _local(element: Element) -> str:
    return str(element.tag).rsplit("}", 1)[-1]


def _inside(element: Element, *names: str) -> Element | None:
    """The first descendant along local names."""
    for name in names:
        found = next((each for each in element.iter() if _local(each) == name), None)
        if found is None:
            return None
        element = found
    return element


def _text(element: Element, name: str) -> str:
    found = _inside(element, name)
    return (found.text or "").strip() if found is not None else ""


def _entry(entry: Element, feed: _Feed) -> None:
    links: dict[str, list[str]] = {}
    for each in entry:
        if _local(each) == "link":
            links.setdefault(each.get("rel", ""), []).append(each.get("href", ""))
    here = links.get("self", [""])[0]
    kind = _inside(entry, "ReadingType")
    if kind is not None:
        values = {name: _text(kind, name) for name in ("uom", "powerOfTenMultiplier", "flowDirection")}
        feed.types[here] = {name: int(value) for name, value in values.items() if value.lstrip("-").isdigit()}
    if _inside(entry, "MeterReading") is not None:
        feed.meters[here] = links.get("related", [])
    for block in (each for each in entry.iter() if _local(each) == "IntervalBlock"):
        readings = (each for each in block if _local(each) == "IntervalReading")
        rows = [(_text(each, "start"), _text(each, "duration"), _text(each, "value")) for each in readings]
        feed.blocks.append((links.get("up", [""])[0], rows))
        feed.count += len(rows)
        if feed.count > MOST_ROWS:
            raise Refusal(f"The file has more than {MOST_ROWS} readings. Split it by years.", "file")


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
            try:
                at, seconds, kwh = int(start), int(duration), int(value) * scale
            except ValueError:
                wrong = next(
                    n
                    for n, text in zip(("start", "duration", "value"), (start, duration, value), strict=True)
                    if not _whole(text)
                )
                bad.append(BadRow(number, wrong, "is missing or not a whole number"))
                continue
            if not 0 <= at < 4_102_444_800 or not 60 <= seconds <= 86_400 or not 0 <= kwh <= 10_000:
                bad.append(
                    BadRow(number, "value" if 60 <= seconds <= 86_400 else "duration", "lies outside what a house can have")
                )
            else:
                found.append((at, seconds // 60, kwh, number))
    return finished(found, bad, tuple(dict.fromkeys(notes)), frozenset(range(1, 1441)), "start")


def _whole(text: str) -> bool:
    return text.lstrip("-").isdigit()
