"""Prices: every moment one price, midnight and the nights the clocks change."""

import unittest
from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.charge.prices import CELL_S
from frost_tally.core.charge.tariff import WEEKDAYS, WEEKEND, Band, Tariff, two_band
from frost_tally.core.charge.week import NONE, ROWS, Week
from frost_tally.core.errors import Refusal

OSLO = ZoneInfo("Europe/Oslo")
TWO = two_band("Two", "Europe/Oslo", 0.12, dear=0.30, start=time(22, 30), end=time(6))
quarters = st.integers(0, 95).map(lambda cell: time(cell // 4, cell % 4 * 15))


def night(day: datetime) -> tuple[datetime, datetime]:
    """From 18:00 to 18:00 on the next day's clock."""
    return day.replace(hour=18), (day + timedelta(days=1)).replace(hour=18)


class Clocks(unittest.TestCase):
    def test_nights_of_23_24_and_25_hours(self) -> None:
        """IANA zone rules: Europe/Oslo changes on 28 March and 31 October 2027."""
        for day, hours in (((2027, 3, 27), 23), ((2027, 1, 14), 24), ((2027, 10, 30), 25)):
            start, end = night(datetime(*day, tzinfo=OSLO))
            slots = TWO.prices(start, end)
            with self.subTest(day=day):
                self.assertAlmostEqual(sum(slot.hours for slot in slots), hours, places=9)
                self.assertTrue(all(a.end == b.start for a, b in zip(slots, slots[1:], strict=False)))
                cheap = sum(slot.hours for slot in slots if slot.band == "cheap")
                self.assertAlmostEqual(cheap, 7.5 + hours - 24, places=9)

    def test_other_zones_and_half_hour_changes(self) -> None:
        """IANA zone rules: Lord Howe shifts by half an hour, Kathmandu is offset by 5:45."""
        for zone in ("Australia/Lord_Howe", "Asia/Kathmandu", "America/St_Johns"):
            tariff = two_band("t", zone, 0.1, dear=0.2, start=time(23), end=time(7))
            start = datetime(2027, 4, 3, 12, tzinfo=ZoneInfo(zone))
            slots = tariff.prices(start, start + timedelta(days=2))
            elapsed = (start + timedelta(days=2)).astimezone(UTC) - start.astimezone(UTC)
            self.assertAlmostEqual(sum(slot.hours for slot in slots) * 3600, elapsed.total_seconds(), places=6)

    def test_steps_of_an_hour_still_cut_where_the_price_changes(self) -> None:
        start = datetime(2027, 1, 14, 21, 10, tzinfo=OSLO)
        slots = TWO.prices(start, start + timedelta(hours=3), 60)
        edges = [slot.start.astimezone(OSLO).strftime("%H:%M") for slot in slots]
        self.assertEqual(edges, ["21:10", "22:00", "22:30", "23:00", "00:00"])


class Faults(unittest.TestCase):
    def test_a_gap_is_named_by_day_and_hour(self) -> None:
        tariff = Tariff(name="t", zone="UTC", bands=(Band("a", 0.1, time(3), time(2)),))
        self.assertEqual(len(tariff.faults()), 7)
        self.assertIn("Sunday 02:00–03:00 has no price", tariff.faults())

    def test_an_overlap_is_named(self) -> None:
        tariff = Tariff(name="t", zone="UTC", bands=(Band("a", 0.1, time(0), time(0)), Band("b", 0.2, time(6), time(9), WEEKEND)))
        self.assertEqual(tariff.faults(), ("Saturday 06:00–09:00 has 2 prices", "Sunday 06:00–09:00 has 2 prices"))
        with self.assertRaises(Refusal) as refused:
            tariff.prices(datetime(2027, 1, 1, tzinfo=UTC), datetime(2027, 1, 2, tzinfo=UTC))
        self.assertEqual(refused.exception.field, "bands")

    def test_weekdays_and_weekends_are_painted_on_their_own_days(self) -> None:
        bands = (
            Band("n", 0.1, time(22), time(6), WEEKDAYS),
            Band("d", 0.3, time(6), time(22), WEEKDAYS),
            Band("w", 0.1, time(0), time(0), WEEKEND),
        )
        self.assertEqual(Tariff(name="t", zone="UTC", bands=bands).faults(), ())

    def test_odd_edges_steps_and_naive_times_are_refused(self) -> None:
        self.assertIn("quarter hour", Tariff(name="t", zone="UTC", bands=(Band("a", 0.1, time(0, 7), time(0, 7)),)).faults()[0])
        moment = datetime(2027, 1, 1, tzinfo=UTC)
        for start, end, step in (
            (moment.replace(tzinfo=None), moment, 15),
            (moment, moment - timedelta(hours=1), 15),
            (moment, moment, 7),
        ):
            with self.assertRaisesRegex(Refusal, "Prices need two times with|Prices come in steps of"):
                TWO.prices(start, end, step)


class Cells(unittest.TestCase):
    def test_cells_between_two_times_lie_whole_between_them(self) -> None:
        cells = TWO.cells(datetime(2027, 1, 1, tzinfo=OSLO), datetime(2027, 1, 2, tzinfo=OSLO))
        six_s = cells.start_s + 24 * CELL_S
        for begin_s, end_s, prices in (
            (six_s - CELL_S, six_s + CELL_S, [0.12, 0.30]),
            (six_s - CELL_S - 1, six_s + CELL_S + 1, [0.12, 0.30]),
            (six_s - CELL_S + 1, six_s + CELL_S, [0.30]),
            (six_s - CELL_S, six_s + CELL_S - 1, [0.12]),
            (six_s + 1, six_s + CELL_S - 1, []),
            (cells.start_s - 7 * CELL_S, cells.start_s + 2 * CELL_S, [0.12, 0.12]),
        ):
            self.assertEqual(cells.between(begin_s, end_s).tolist(), prices, (begin_s - six_s, end_s - six_s))

    def test_a_week_is_painted_from_midnight_to_midnight_and_no_further(self) -> None:
        bare = Week(((NONE,) * 96,) * ROWS)
        for first, after, painted in ((0, 96, range(96)), (0, 0, range(96)), (95, 96, [95]), (95, 1, [0, 95]), (0, 1, [0])):
            row = bare.painted([2], first, after, 3).rows[2]
            self.assertEqual([i for i, colour in enumerate(row) if colour == 3], list(painted), (first, after))
        for rows, first, after in (([2], 96, 96), ([2], -1, 5), ([2], 0, 97), ([2], 5, -1), ([ROWS], 0, 5)):
            with self.assertRaises(Refusal) as refused:
                bare.painted(rows, first, after, 3)
            self.assertEqual(refused.exception.field, "paint_from")


class EveryMoment(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(quarters, quarters, st.datetimes(datetime(2026, 1, 1), datetime(2028, 1, 1)), st.integers(1, 60))
    def test_any_two_bands_price_every_moment_once(self, a: time, b: time, start: datetime, hours: int) -> None:
        if a == b:
            return
        tariff, begin = two_band("t", "Europe/Oslo", 0.1, dear=0.3, start=a, end=b), start.replace(tzinfo=UTC)
        slots = tariff.prices(begin, begin + timedelta(hours=hours))
        self.assertEqual(slots[0].start, begin)
        self.assertEqual(slots[-1].end, begin + timedelta(hours=hours))
        self.assertTrue(all(x.end == y.start for x, y in zip(slots, slots[1:], strict=False)))
