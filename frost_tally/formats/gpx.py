"""Tracks in GPX 1.1: kilometres by kind of road from speed, climb, and time stood still."""

import math
from dataclasses import dataclass

import gpxpy
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from gpxpy.gpx import GPX, GPXException, GPXTrackPoint

from ..core.errors import Refusal

MOST_POINTS = 200_000
WINDOW_S = 60.0
STANDS_KMH, TOWN_KMH, COUNTRY_KMH = 2.0, 50.0, 85.0
FASTEST_KMH = 250.0
LONG_STOP_H = 0.25


@dataclass(frozen=True, kw_only=True)
class Track:
    """A drive: km by kind of road, mean motorway speed (km/h, 0 without), mean speed in town with its stops, climb (m), hours.

    `parked_h` is time stood still for a quarter of an hour or more; `notes` say what was assumed.
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


def read_track(content: bytes) -> Track:
    """A drive from a GPX file; points of all its tracks in order. Entities and document types are refused.

    Raises: Refusal for what is no such file, has no two points, or too many.
    """
    points, gpx = _points(content)
    if len(points) < 2:
        raise Refusal("The file holds no track of two or more points.", "file")
    if len(points) > MOST_POINTS:
        raise Refusal(f"The track has more than {MOST_POINTS} points.", "file")
    climb = float(gpx.get_uphill_downhill().uphill)
    if any(point.time is None for point in points):
        km = sum(_metres(a, b) for a, b in zip(points, points[1:], strict=False)) / 1000.0
        return Track(
            town_km=0.0,
            country_km=km,
            motorway_km=0.0,
            motorway_kmh=0.0,
            town_kmh=0.0,
            climb_m=climb,
            hours=0.0,
            parked_h=0.0,
            notes=("the track has no times: all of it counts as country road",),
        )
    return _by_speed(points, climb)


def _points(content: bytes) -> tuple[list[GPXTrackPoint], GPX]:
    try:
        ElementTree.fromstring(content, forbid_dtd=True)
        gpx = gpxpy.parse(content)
    except DefusedXmlException:
        raise Refusal("The file brings document types or entities of its own; these are not read.", "file") from None
    except (ElementTree.ParseError, GPXException, UnicodeDecodeError, ValueError, AttributeError) as problem:
        raise Refusal(f"The file is not GPX: {str(problem)[:120]}.", "file") from None
    return [point for track in gpx.tracks for segment in track.segments for point in segment.points], gpx


def _metres(a: GPXTrackPoint, b: GPXTrackPoint) -> float:
    """Distance on the ground. Source: haversine formula on a sphere of 6371 km."""
    lat_a, lat_b = math.radians(a.latitude), math.radians(b.latitude)
    half = math.sin((lat_b - lat_a) / 2) ** 2
    half += math.cos(lat_a) * math.cos(lat_b) * math.sin(math.radians(b.longitude - a.longitude) / 2) ** 2
    return 2 * 6_371_000.0 * math.asin(math.sqrt(min(1.0, half)))


def _by_speed(points: list[GPXTrackPoint], climb_m: float) -> Track:
    """Kilometres and hours by the mean speed of windows of about a minute."""
    km = {"town": 0.0, "country": 0.0, "motorway": 0.0}
    hours = {"town": 0.0, "country": 0.0, "motorway": 0.0, "parked": 0.0}
    notes: list[str] = []
    metres = seconds = stood_s = 0.0
    for a, b in zip(points, points[1:], strict=False):
        step_s = (b.time - a.time).total_seconds() if a.time and b.time else 0.0
        if step_s <= 0:
            continue
        step_m = _metres(a, b)
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
