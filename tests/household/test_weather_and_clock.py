"""The stand-ins for weather and clock."""

import unittest
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from frost_tally.core.coming.weather import TypedNight
from frost_tally.core.errors import Refusal
from frost_tally.demo.skarfell import EVENING
from frost_tally.services.shared import clock
from frost_tally.standins.weather import SeededYear
from tests.homes import read
from tests.household.test_store import InFolder

OSLO = ZoneInfo("Europe/Oslo")


class Weather(unittest.TestCase):
    def test_the_year_is_the_same_for_a_seed_and_has_seasons(self) -> None:
        def month(weather: SeededYear, number: int) -> float:
            hours = [datetime(2027, number, 1, tzinfo=OSLO) + timedelta(hours=h) for h in range(0, 28 * 24, 3)]
            return sum(weather.temperature_c(at) for at in hours) / len(hours)

        self.assertEqual(SeededYear(7).temperature_c(EVENING), SeededYear(7).temperature_c(EVENING))
        self.assertNotEqual(SeededYear(7).temperature_c(EVENING), SeededYear(8).temperature_c(EVENING))
        self.assertLess(month(SeededYear(), 1), 0)
        self.assertGreater(month(SeededYear(), 7), 8)
        self.assertGreater(SeededYear().wind_mps(EVENING), 0)

    def test_the_demo_evening_falls_into_frost(self) -> None:
        weather = SeededYear()
        self.assertLess(weather.temperature_c(EVENING), 0)
        self.assertLess(weather.temperature_c(EVENING + timedelta(hours=12)), weather.temperature_c(EVENING) - 4)

    def test_a_typed_night_passes_through_what_was_typed(self) -> None:
        now = datetime(2027, 1, 14, 19, 30, tzinfo=OSLO)
        typed = TypedNight(now, -2.0, -14.0)
        low = datetime(2027, 1, 15, 6, tzinfo=OSLO)
        self.assertAlmostEqual(typed.temperature_c(now), -2.0)
        self.assertAlmostEqual(typed.temperature_c(low), -14.0)
        self.assertAlmostEqual(typed.temperature_c(low + timedelta(hours=9)), -2.0)
        falling = [typed.temperature_c(now + timedelta(hours=h)) for h in range(11)]
        self.assertEqual(falling, sorted(falling, reverse=True))


class Clock(InFolder):
    def test_the_demo_clock_stands_until_it_is_moved(self) -> None:
        home = self.household()
        self.assertTrue(clock.can_move(home))
        self.assertEqual(read(home).now, EVENING)
        moved = [clock.move_on(home).astimezone(OSLO).strftime("%d %H:%M") for _ in range(3)]
        self.assertEqual(moved, ["15 08:00", "15 18:12", "16 08:00"])

    def test_an_own_household_has_the_machines_clock(self) -> None:
        home = self.household(False)
        self.assertFalse(clock.can_move(home))
        self.assertLess(abs(read(home).now - datetime.now(OSLO)), timedelta(minutes=1))
        with self.assertRaisesRegex(Refusal, "This household’s clock goes by"):
            clock.move_on(home)
