"""Tracks in GPX 1.1: kilometres by kind of road from speed, climb, and time stood still."""

import contextlib
from dataclasses import dataclass, replace
from datetime import UTC, datetime

import numpy as np

from ..core.errors import Refusal
from ..core.units import Array
from .markup import count_within, document, within
from .values import LAST, moment, number

MOST_POINTS = 200_000
WINDOW_S = 60.0
STANDS_KMH, TOWN_KMH, COUNTRY_KMH = 2.0, 50.0, 85.0
FASTEST_KMH = 250.0
LONG_STOP_H = 0.25
END_S = datetime(LAST.year + 1, 1, 1, tzinfo=UTC).timestamp()
UTC_TIME = "2027-01-14T07:10:00Z"


@dataclass(frozen=True, kw_only=True)
class Track:
    """A drive: km by kind of road, mean motorway speed (km/h, 0 without), mean speed in town with its stops, climb (m), hours.

    `parked_h` is time stood still for a quarter of an hour or more; `begun_s` and `ended_s` are its first and last moment in seconds since
    1970, None without times; `notes` say what was assumed.
    """

    town_km: float
    country_km: float
    motorway_km: float
    motorway_kmh: float
    town_kmh: float
    climb_m: float
    hours: float
    parked_h: float
    notes: tuple[str, ...]
    begun_s: float | None = None
    ended_s: float | None = None

    @property
    def km(self) -> float:
        """All kilometres."""
        return self.town_km + self.country_km + self.motorway_km


def read_track(content: bytes) -> Track:
    """A drive from a GPX file; points of all its tracks in order. Entities and document types are refused.

    Raises: Refusal for what is no such file, has no two points, or too many, with the number of a point that will not do.
    """
    places, times, heights = _points(content)
    if len(places) < 2:
        raise Refusal("The file holds no track of two or more points.", "file")
    climb_m, metres = sum(_climb(each) for each in heights), _metres(places)
    if np.isnan(times).any():
        return Track(
            town_km=0.0,
            country_km=float(metres.sum()) / 1000.0,
            motorway_km=0.0,
            motorway_kmh=0.0,
            town_kmh=0.0,
            climb_m=climb_m,
            hours=0.0,
            parked_h=0.0,
            notes=("the track has no times: all of it counts as country road",),
        )
    return replace(_by_speed(metres, np.diff(times), climb_m), begun_s=float(times.min()), ended_s=float(times.max()))


def _points(content: bytes) -> tuple[Array, Array, list[Array]]:
    """Latitude and longitude (radians), seconds since 1970 (nan where a point has no time), the heights (m) of every stretch."""
    gpx = document(content, "gpx")
    stretches = within(gpx, "trk/trkseg")
    places = [_numbers(within(gpx, f"trk/trkseg/trkpt/@{name}"), most) for name, most in (("lat", 90.0), ("lon", 180.0))]
    count, texts = count_within(gpx, "trk/trkseg/trkpt"), within(gpx, "trk/trkseg/trkpt/time/text()")
    if count > MOST_POINTS:
        raise Refusal(f"The track has more than {MOST_POINTS} points.", "file")
    if any(len(each) != count for each in places):
        raise Refusal("Some points of the track have no place.", "file")
    times = _times(texts) if len(texts) == count else np.full(count, np.nan)
    heights = [_numbers(within(each, "trkpt/ele/text()"), 100_000.0) for each in stretches]
    return np.radians(np.stack(places, axis=1)), times, heights


def _numbers(texts: list[str], most: float) -> Array:
    """Finite numbers of at most a size. Raises: Refusal with the number of the first that is none."""
    try:
        found = np.array(texts, dtype=float)
    except ValueError:
        found = np.full(len(texts), np.nan)
    if not (np.abs(found) <= most).all():
        for i, each in enumerate(texts, 1):
            try:
                if abs(number(each)) <= most:
                    continue
            except ValueError:
                pass
            raise Refusal(f"Point {i} of the track: “{each[:20]}” is no place or height on earth.", "file")
    return found


def _times(texts: list[str]) -> Array:
    """Seconds since 1970. Raises: Refusal with the number of the first that cannot be read."""
    if all(
        len(each) == len(UTC_TIME) and each[-1] == "Z" for each in texts
    ):  # as nearly every recorder writes them: read at once
        with contextlib.suppress(ValueError):
            seconds = np.array([each[:-1] for each in texts], dtype="datetime64[s]").astype(float)
            if ((seconds >= 0) & (seconds < END_S)).all():
                return seconds
    found, offset = [], None
    for i, each in enumerate(texts, 1):
        try:
            at = moment(each)
        except ValueError:
            raise Refusal(f"Point {i} of the track: “{each[:30]}” is no time such as {UTC_TIME}.", "file") from None
        if offset is None:
            offset = at.tzinfo is not None
        elif offset != (at.tzinfo is not None):
            raise Refusal(f"Point {i} of the track: some times have an offset from UTC and some have not.", "file")
        found.append((at if offset else at.replace(tzinfo=UTC)).timestamp())
    return np.array(found)


def _climb(raw: Array) -> float:
    """All ascents (m) of a stretch, its heights smoothed over three points: 0.3, 0.4, 0.3. Source: common practice."""
    if len(raw) < 2:
        return 0.0
    smooth = raw.copy()
    smooth[1:-1] = 0.3 * raw[:-2] + 0.4 * raw[1:-1] + 0.3 * raw[2:]
    return float(np.maximum(np.diff(smooth), 0.0).sum())


def _metres(places: Array) -> Array:
    """Distances on the ground from point to point."""
    return metres_between(places[:-1], places[1:])


def metres_between(here: Array, there: Array) -> Array:
    """Distances on the ground between two rows of places (radians). Source: haversine formula on a sphere of 6371 km."""
    more_lat, more_lon = (there - here).T
    half = np.sin(more_lat / 2) ** 2 + np.cos(here[:, 0]) * np.cos(there[:, 0]) * np.sin(more_lon / 2) ** 2
    return np.asarray(2 * 6_371_000.0 * np.arcsin(np.sqrt(np.minimum(1.0, half))))


def _by_speed(steps_m: Array, steps_s: Array, climb_m: float) -> Track:
    """Kilometres and hours by the mean speed of windows of about a minute."""
    km = {"town": 0.0, "country": 0.0, "motorway": 0.0}
    hours = {"town": 0.0, "country": 0.0, "motorway": 0.0, "parked": 0.0}
    notes: list[str] = []
    metres = seconds = stood_s = 0.0
    for step_m, step_s in zip(steps_m.tolist(), steps_s.tolist(), strict=True):
        if step_s <= 0:
            continue
        if 3.6 * step_m / step_s > FASTEST_KMH:
            note = "points that jump faster than 250 km/h were left out"
            notes += [note] if note not in notes else []
            continue
        if 3.6 * step_m / step_s < STANDS_KMH:
            stood_s += step_s
            continue
        if stood_s:
            hours["parked" if stood_s >= 3600 * LONG_STOP_H else "town"] += stood_s / 3600
            stood_s = 0.0
        metres, seconds = metres + step_m, seconds + step_s
        if seconds >= WINDOW_S:
            _add(km, hours, metres, seconds)
            metres = seconds = 0.0
    if seconds > 0:
        _add(km, hours, metres, seconds)
    fast, slow = hours["motorway"], hours["town"]
    return Track(
        town_km=km["town"],
        country_km=km["country"],
        motorway_km=km["motorway"],
        motorway_kmh=km["motorway"] / fast if fast else 0.0,
        town_kmh=km["town"] / slow if slow else 0.0,
        climb_m=climb_m,
        hours=sum(hours.values()) - hours["parked"],
        parked_h=hours["parked"],
        notes=tuple(notes),
    )


def _add(km: dict[str, float], hours: dict[str, float], metres: float, seconds: float) -> None:
    speed = 3.6 * metres / seconds
    road = "town" if speed < TOWN_KMH else "country" if speed < COUNTRY_KMH else "motorway"
    km[road] += metres / 1000.0
    hours[road] += seconds / 3600.0
