"""GPX tracks: distance, speeds, climb and stops, and what is refused."""

import math
import unittest
from datetime import UTC, datetime, timedelta

import gpxpy

from frost_tally.core.errors import Refusal
from frost_tally.formats.gpx import read_track


def gpx(legs: list[tuple[float, float]], climb_per_km: float = 0.0, timed: bool = True, every_s: int = 10) -> bytes:
    """A track north along a meridian: legs of (km/h, minutes); 0 km/h stands still."""
    at, lat, height, points = datetime(2027, 1, 14, 6, tzinfo=UTC), 60.0, 400.0, []
    for kmh, minutes in legs:
        for _ in range(int(60 * minutes / every_s)):
            metres = kmh / 3.6 * every_s
            lat, height, at = (
                lat + math.degrees(metres / 6_371_000.0),
                height + climb_per_km * metres / 1000,
                at + timedelta(seconds=every_s),
            )
            stamp = f"<time>{at:%Y-%m-%dT%H:%M:%SZ}</time>" if timed else ""
            points.append(f'<trkpt lat="{lat:.7f}" lon="10.0"><ele>{height:.2f}</ele>{stamp}</trkpt>')
    return f'<?xml version="1.0"?><gpx version="1.1" creator="t" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{"".join(points)}</trkseg></trk></gpx>'.encode()


class Tracks(unittest.TestCase):
    def test_kilometres_by_kind_of_road_and_mean_speeds(self) -> None:
        """Distance along a meridian: 6371 km × angle (haversine on a sphere)."""
        track = read_track(gpx([(30, 12), (70, 30), (110, 30)]))
        for found, exact in (
            (track.town_km, 6.0),
            (track.country_km, 35.0),
            (track.motorway_km, 55.0),
            (track.motorway_kmh, 110.0),
            (track.hours, 1.2),
        ):
            self.assertAlmostEqual(found / exact, 1, delta=0.03)

    def test_stops_count_as_traffic_and_long_ones_as_parked(self) -> None:
        track = read_track(gpx([(30, 10), (0, 5), (30, 10), (0, 40), (30, 4)]))
        self.assertAlmostEqual(track.parked_h, 40 / 60, delta=0.02)
        self.assertAlmostEqual(track.town_kmh, 12.0 / (29 / 60), delta=1.0)

    def test_climb_and_a_track_without_times(self) -> None:
        track = read_track(gpx([(60, 20)], climb_per_km=15.0, timed=False))
        self.assertAlmostEqual(track.country_km, 20.0, delta=0.3)
        self.assertAlmostEqual(track.climb_m, 300.0, delta=10.0)
        self.assertIn("no times", track.notes[0])

    def test_distance_and_climb_against_the_kept_reader(self) -> None:
        """Source: the library gpxpy, which measures on another sphere (within 0.2 %) and smooths heights in the same way."""
        content = gpx([(40, 6), (80, 6), (25, 4)], climb_per_km=17)
        theirs, ours = gpxpy.parse(content.decode()), read_track(content)
        self.assertAlmostEqual(ours.climb_m, theirs.get_uphill_downhill().uphill, delta=1e-6)
        self.assertAlmostEqual((ours.town_km + ours.country_km) / (theirs.length_2d() / 1000), 1, delta=0.002)

    def test_jumps_are_left_out(self) -> None:
        track = read_track(gpx([(60, 10), (900, 1), (60, 10)]))
        self.assertIn("faster than 250 km/h", track.notes[0])
        self.assertAlmostEqual(track.country_km, 20.0, delta=0.5)

    def test_what_is_no_track_is_refused(self) -> None:
        bomb = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa">]><gpx>&a;</gpx>'
        for content, words in (
            (bomb, "entities"),
            (b"nothing", "not sound XML"),
            (gpx([]), "no track"),
            (b"<gpx><trk>", "not sound XML"),
            (b'<gpx version="1.1"><trk><trkseg><trkpt lat="x" lon="1"/></trkseg></trk></gpx>', "Point 1"),
        ):
            with self.assertRaises(Refusal) as refused:
                read_track(content)
            self.assertIn(words, refused.exception.message)
