"""Posts on a way: typed or pasted lines or CSV, in the order of `COLUMNS`, and waypoints beside a GPX track."""

import re
from collections.abc import Sequence

import numpy as np

from ..core.charge.stop_table import Post
from ..core.errors import Refusal
from ..core.measures import units_of
from ..core.units import Array
from .gpx import metres_between
from .markup import document, within
from .table import lines_of
from .values import number, words

COLUMNS = ("km", "kw", "price", "name", "stands_min", "shared_kw")
MOST_KM, MOST_KW, MOST_PRICE, MOST_STANDS_MIN = 2000.0, 500.0, 20.0, 1440.0
OFF_WAY_M = 5000.0
USUAL_KW, EARTH_M = 50.0, 6_371_000.0
_OTHER = re.compile(r",\s+|\t")
"""What parts a line that is written with other signs than the first one."""
_MARKS = {unit.label: unit for unit in units_of("distance")}
_POWER = re.compile(r"(\d{1,3}(?:[.,]\d)?)\s*kW", re.IGNORECASE)


def read_posts(content: bytes, mark_km: float = 1.0) -> tuple[Post, ...]:
    """Posts from lines of text; a first line of names is allowed, else the columns stand as in `COLUMNS`, and what is missing is empty.

    Marks are in units of `mark_km`, or as a first line says: "km", "mi" …
    Raises: Refusal with the line that will not do.
    """
    found: list[Post] = []
    order: Sequence[str] = COLUMNS
    for line, cells in lines_of(content):
        plain = [cell.strip() for cell in (cells if len(cells) > 1 else _OTHER.split(cells[0]))]
        if not found and order is COLUMNS and any(cell.lower() in (*COLUMNS, *_MARKS) for cell in plain):
            names = [cell.lower() for cell in plain]
            mark_km = next((_MARKS[each].read(1.0) for each in names if each in _MARKS), 1.0)
            order = ["km" if each in _MARKS else each for each in names]
            continue
        row = dict(zip(order, plain, strict=False))
        km = mark_km * _bounded(row.get("km", ""), 0.0, MOST_KM / mark_km, line, "its mark")
        found.append(
            Post(
                km=km,
                kw=_bounded(row.get("kw") or "0", 0.0, MOST_KW, line, "kW"),
                price_per_kwh=_bounded(row.get("price") or "0", 0.0, MOST_PRICE, line, "the price"),
                name=_name(row.get("name", ""), line),
                stands_min=_bounded(row.get("stands_min") or "0", 0.0, MOST_STANDS_MIN, line, "the minutes"),
                shared_kw=_bounded(row.get("shared_kw") or "0", 0.0, MOST_KW, line, "the shared kW"),
            )
        )
    return tuple(sorted(found, key=lambda each: each.km))


def write_posts(posts: Sequence[Post], mark_km: float = 1.0) -> str:
    """The lines that `read_posts` reads, as they are shown to be changed."""
    rows = (
        (
            f"{each.km / mark_km:g}",
            f"{each.kw:g}",
            f"{each.price_per_kwh:g}",
            each.name,
            f"{each.stands_min:g}",
            f"{each.shared_kw:g}",
        )
        for each in posts
    )
    return "\n".join("; ".join(row).removesuffix("; 0").removesuffix("; 0").rstrip("; ") for row in rows)


def read_waypoints(content: bytes) -> tuple[float, tuple[Post, ...]]:
    """Kilometres of a GPX track, and its waypoints within 5 km of it as posts at the mark of the nearest point; "150 kW" in a waypoint's
    name or description is its power. Raises: Refusal for what is no such file, or has no track to stand beside.
    """
    gpx = document(content, "gpx")
    track = _places(gpx, "trk/trkseg/trkpt") if within(gpx, "trk/trkseg/trkpt") else _places(gpx, "rte/rtept")
    if len(track) < 2:
        raise Refusal("The file holds no track or route that its waypoints could stand beside.", "file")
    along_m = np.concatenate([[0.0], np.cumsum(metres_between(track[:-1], track[1:]))])
    found = []
    for each, place in zip(within(gpx, "wpt"), _places(gpx, "wpt"), strict=True):
        nearest, off_m = _beside(track, along_m, place)
        if off_m > OFF_WAY_M:
            continue
        name = " ".join(str(text) for text in within(each, "name/text()"))
        power = _POWER.search(" ".join([name, *(str(text) for text in within(each, "desc/text()"))]))
        kw = min(MOST_KW, number(power[1].replace(",", "."))) if power else USUAL_KW
        found.append(Post(km=round(nearest / 1000.0, 1), kw=kw, name=_name(name[:40], 0)))
    return float(along_m[-1]) / 1000.0, tuple(sorted(found, key=lambda each: each.km))


def _beside(track: Array, along_m: Array, place: Array) -> tuple[float, float]:
    """Where along a track a place is nearest to it (m), and how far off (m): on the stretches between its points, taken as flat."""
    flat = (track - place) * np.array([1.0, np.cos(place[0])]) * EARTH_M
    step = np.diff(flat, axis=0)
    length2 = np.maximum((step**2).sum(axis=1), 1e-9)
    part = np.clip(-(flat[:-1] * step).sum(axis=1) / length2, 0.0, 1.0)
    off = np.hypot(*(flat[:-1] + part[:, None] * step).T)
    best = int(np.argmin(off))
    return float(along_m[best] + part[best] * (along_m[best + 1] - along_m[best])), float(off[best])


def _places(gpx: object, path: str) -> Array:
    """Latitude and longitude (radians) of some points."""
    columns = []
    for name, most in (("lat", 90.0), ("lon", 180.0)):
        try:
            values = np.array([number(str(each)) for each in within(gpx, f"{path}/@{name}")])
        except ValueError:
            raise Refusal(f"A point has no {name} that is a number.", "file") from None
        if (np.abs(values) > most).any():
            raise Refusal(f"A point has a {name} beyond {most:g}°.", "file")
        columns.append(np.radians(values))
    if len(columns[0]) != len(columns[1]):
        raise Refusal("Some points have no place.", "file")
    return np.stack(columns, axis=1)


def _bounded(text: str, low: float, high: float, line: int, what: str) -> float:
    try:
        value = number(text.replace(",", "."))
    except ValueError:
        raise Refusal(f"Line {line}: {what} is no number: “{text}”.", "posts") from None
    if not low <= value <= high:
        raise Refusal(f"Line {line}: {what} must lie between {low:g} and {high:g}.", "posts")
    return value


def _name(text: str, line: int) -> str:
    try:
        return words(text, 40) if text else ""
    except ValueError:
        raise Refusal(f"Line {line}: the name is longer than 40 letters, or has what no name has.", "posts") from None
