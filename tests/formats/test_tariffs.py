"""Tariffs in and out: JSON by its schema, OCPI objects, and what either refuses."""

import json
import unittest
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.charge.tariff import ALL_ROWS, Season, Tariff
from frost_tally.core.charge.week import SHAPES, Colour, blank, painting_of
from frost_tally.core.errors import Refusal
from frost_tally.formats.ocpi_tariff import read_ocpi, write_ocpi
from frost_tally.formats.tariff_json import TariffFile, read_tariff, write_tariff
from frost_tally.household.calendar import holidays_of
from frost_tally.standins.price_feed import SeededFeed

OSLO = "Europe/Oslo"
HERE = ZoneInfo(OSLO)
NOW = datetime(2027, 1, 14, 18, 12, tzinfo=HERE)
WEEK = st.lists(
    st.tuples(st.sets(st.integers(0, 7), min_size=1), st.integers(0, 95), st.integers(1, 96), st.integers(0, 2)), max_size=9
)


def of_shape(key: str) -> TariffFile:
    shape = SHAPES[key]
    region = "NO" if key in ("winter", "weekend") else ""
    return TariffFile(
        Tariff(name=key, zone=OSLO, bands=shape.bands, seasons=shape.seasons, holidays=holidays_of(region) if region else None),
        region,
    )


def priced(tariff: Tariff, days: int = 365) -> np.ndarray:
    start = datetime(2027, 1, 1, tzinfo=HERE)
    return tariff.cells(start, start + timedelta(days=days)).price_per_kwh


class Json(unittest.TestCase):
    def test_every_shape_comes_back_the_same(self) -> None:
        for key in SHAPES:
            file = of_shape(key)
            again = read_tariff(write_tariff(file).encode(), OSLO)
            self.assertEqual(
                (again.tariff.bands, again.tariff.seasons, again.region), (file.tariff.bands, file.tariff.seasons, file.region)
            )

    def test_dated_prices_and_dates_come_back(self) -> None:
        series = SeededFeed().prices(NOW, NOW + timedelta(days=2))
        tariff = Tariff(
            name="d",
            zone=OSLO,
            bands=SHAPES["flat"].bands,
            standing_per_day=0.3,
            series=series,
            valid_from=date(2027, 1, 1),
            valid_to=date(2027, 12, 31),
        )
        again = read_tariff(write_tariff(TariffFile(tariff)).encode(), OSLO).tariff
        np.testing.assert_array_equal(again.series.start_s, series.start_s)  # type: ignore[union-attr]
        np.testing.assert_array_equal(priced(again, 60), priced(tariff, 60))
        self.assertEqual((again.standing_per_day, again.valid_from, again.valid_to), (0.3, date(2027, 1, 1), date(2027, 12, 31)))

    def test_what_will_not_do_is_named_by_its_place(self) -> None:
        good = json.loads(write_tariff(of_shape("two")))
        cases = (
            ({"bands": [{**good["bands"][0], "from": "22:10"}]}, "bands[0].from"), ({"currency": "euro"}, "currency"), ({"bands": 3}, "bands"),
            ({"seasons": [{"name": "x", "first": "02-30", "last": "03-01", "bands": []}]}, "02-30"), ({"valid_to": "2027-02-31"}, "valid_to"),
            ({"prices": [{"start": "2027-01-01T00:00", "minutes": 30, "price_per_kwh": 1}]}, "prices[0].start"), ({"surprise": 1}, "surprise"),
        )  # fmt: skip
        for change, place in cases:
            with self.subTest(place=place), self.assertRaises(Refusal) as refused:
                read_tariff(json.dumps({**good, **change}).encode(), OSLO)
            self.assertIn(place, refused.exception.message)
        for broken, words in ((b"{", "line 1"), (b"\xff", "UTF-8"), (b"[" * 100_000, "deeply")):
            with self.assertRaises(Refusal) as refused:
                read_tariff(broken, OSLO)
            self.assertIn(words, refused.exception.message)


class Ocpi(unittest.TestCase):
    """OCPI 2.2.1, Tariffs module, from memory: first element that holds counts, ends are exclusive, prices without VAT."""

    def test_shapes_with_seasons_and_holidays_price_the_year_the_same_after_a_round_trip(self) -> None:
        for key in SHAPES:
            file = of_shape(key)
            again = read_ocpi(write_ocpi(file, range(2026, 2029), NOW).encode(), OSLO, holidays_of)
            tariff = Tariff(
                name="x",
                zone=OSLO,
                bands=again.tariff.bands,
                seasons=again.tariff.seasons,
                holidays=holidays_of(again.region) if again.region else None,
            )
            with self.subTest(shape=key):
                np.testing.assert_allclose(priced(tariff), priced(file.tariff), atol=1e-6)

    @settings(max_examples=30, deadline=None)
    @given(WEEK)
    def test_any_painted_week_survives(self, strokes: list[Any]) -> None:
        palette = [Colour("a", 0.1), Colour("b", 0.2), Colour("c", 0.35)]
        week = blank().painted(ALL_ROWS, 0, 96, 0)
        for rows, first, after, colour in strokes:
            week = week.painted(rows - {7}, first, after, colour)
        tariff = Tariff(name="t", zone=OSLO, bands=week.bands(palette))
        again = read_ocpi(write_ocpi(TariffFile(tariff), (2027,), NOW).encode(), OSLO, holidays_of).tariff
        np.testing.assert_allclose(priced(again, 8), priced(tariff, 8))

    def test_a_hand_written_object_by_the_rules(self) -> None:
        """First match counts, a span past midnight goes on the next day, tax is added, other components are noted."""
        document = {
            "country_code": "NO", "party_id": "XYZ", "id": "7", "currency": "EUR", "last_updated": "2027-01-01T00:00:00Z",
            "elements": [
                {"price_components": [{"type": "ENERGY", "price": 0.10, "vat": 25.0, "step_size": 1}],
                 "restrictions": {"start_time": "22:00", "end_time": "06:00", "day_of_week": ["FRIDAY"]}},
                {"price_components": [{"type": "ENERGY", "price": 0.30, "step_size": 1}, {"type": "FLAT", "price": 1.0, "step_size": 1}]},
                {"price_components": [{"type": "ENERGY", "price": 9.0, "step_size": 1}]},
                {"price_components": [{"type": "ENERGY", "price": 0.5, "step_size": 1}], "restrictions": {"max_power": 11}},
            ],
        }  # fmt: skip
        found = read_ocpi(json.dumps(document).encode(), OSLO, holidays_of)
        at = {moment: found.tariff.prices(moment, moment + timedelta(minutes=15))[0].price_per_kwh for moment in (
            datetime(2027, 1, 15, 23, tzinfo=HERE), datetime(2027, 1, 16, 5, tzinfo=HERE), datetime(2027, 1, 16, 23, tzinfo=HERE))}  # fmt: skip
        self.assertEqual([round(price, 6) for price in at.values()], [0.125, 0.125, 0.3])
        self.assertEqual(found.notes, ("a price by flat was left out", "elements restricted by max power were left out"))

    def test_what_is_no_tariff_is_refused(self) -> None:
        for document, words in (({}, "no tariff object"), ({"currency": "EUR", "elements": [{}]}, "elements[0]"), (
                {"currency": "EUR", "elements": [{"price_components": [{"type": "ENERGY", "price": 1}], "restrictions": {"start_time": "07:10"}}]}, "quarter hour")):  # fmt: skip
            with self.assertRaises(Refusal) as refused:
                read_ocpi(json.dumps(document).encode(), OSLO, holidays_of)
            self.assertIn(words, refused.exception.message)


class Painted(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(WEEK, st.sampled_from(["2027-01-14", "2027-03-27", "2027-10-30"]), st.integers(1, 400))
    def test_any_painted_week_gives_every_moment_one_price_and_slots_sum_to_the_integral(
        self, strokes: list[Any], day: str, quarters: int
    ) -> None:
        """Also over the nights the clocks change (IANA zone rules, Europe/Oslo: 28 March and 31 October 2027)."""
        palette = [Colour("a", 0.1), Colour("b", 0.2), Colour("c", 0.35)]
        week = blank().painted(ALL_ROWS, 0, 96, 2)
        for rows, first, after, colour in strokes:
            week = week.painted(rows, first, after, colour)
        season = Season("s", (3, 20), (10, 30), blank().painted(ALL_ROWS, 0, 96, 1).bands(palette))
        tariff = Tariff(name="t", zone=OSLO, bands=week.bands(palette), seasons=(season,), holidays=holidays_of("NO"))
        self.assertEqual(tariff.faults(), ())
        start = datetime.fromisoformat(day).replace(hour=16, minute=7, tzinfo=HERE).astimezone(UTC)
        slots = tariff.prices(start, start + timedelta(minutes=15 * quarters))
        self.assertTrue(all(a.end == b.start for a, b in zip(slots, slots[1:], strict=False)))
        by_slots = sum(slot.hours * slot.price_per_kwh for slot in slots)
        minutes = [start + timedelta(minutes=i) for i in range(15 * quarters)]
        self.assertAlmostEqual(by_slots, sum(self.price_at(week, season, palette, m) for m in minutes) / 60, delta=1e-9)

    def price_at(self, week: Any, season: Any, palette: Any, moment: datetime) -> float:
        """The price of a minute looked up by hand on the local clock."""
        local = moment.astimezone(HERE)
        if (3, 20) <= (local.month, local.day) <= (10, 30):
            return 0.2
        row = 7 if local.date() in holidays_of("NO") else local.weekday()
        return float(palette[week.rows[row][(local.hour * 60 + local.minute) // 15]].price_per_kwh)

    def test_gaps_and_overlapping_seasons_are_named(self) -> None:
        palette = [Colour("a", 0.1)]
        week = blank().painted(ALL_ROWS, 0, 96, 0).painted({6}, 8, 12, -1)
        tariff = Tariff(
            name="t",
            zone=OSLO,
            bands=week.bands(palette),
            seasons=(Season("Winter", (11, 1), (3, 31), SHAPES["flat"].bands), Season("Deep", (2, 1), (2, 10), ())),
        )
        said = " ".join(tariff.faults())
        for words in (
            "Sunday 02:00–03:00 has no price",
            "Deep, Monday 00:00–24:00 has no price",
            "“Winter” and “Deep” both hold from 1 February to 10 February",
        ):
            self.assertIn(words, said)
        self.assertIn(
            "Public holiday", " ".join(Tariff(name="t", zone=OSLO, bands=SHAPES["two"].bands[:1], holidays=frozenset()).faults())
        )

    def test_painting_comes_back_from_its_bands_and_a_follower_takes_over(self) -> None:
        bands = SHAPES["three"].bands
        palette = [Colour(b.name, b.price_per_kwh) for b in bands]
        self.assertEqual({(b.name, b.start, b.end) for b in painting_of(bands, list(dict.fromkeys(palette))).bands(list(dict.fromkeys(palette)))} & {("evening", time(16), time(20))},
                         {("evening", time(16), time(20))})  # fmt: skip
        after = Tariff(name="new", zone=OSLO, bands=SHAPES["flat"].bands)
        tariff = Tariff(name="old", zone=OSLO, bands=SHAPES["two"].bands, valid_to=date(2027, 1, 14), following=after)
        slots = tariff.prices(datetime(2027, 1, 14, 23, tzinfo=HERE), datetime(2027, 1, 15, 1, tzinfo=HERE), 60)
        self.assertEqual([slot.price_per_kwh for slot in slots], [0.12, 0.21])
