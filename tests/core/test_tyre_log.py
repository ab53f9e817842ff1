"""The tyre log: temperature taken out, pumping and seasons are no leak, a leak is one."""

import unittest
from datetime import UTC, datetime, timedelta

import numpy as np

from frost_tally.core.drive.tyre_log import WARM_KPA, Reading, standard_kpa, trends
from frost_tally.core.drive.tyres import advise, gauge_at
from frost_tally.core.errors import OutOfRange
from frost_tally.standins.wheel_sensors import SeededSensors


def season(day: int) -> float:
    """A made-up year's temperature."""
    return float(4 - 14 * np.cos(2 * np.pi * day / 365))


def two_years(leaking: str) -> list[Reading]:
    begin, sensors = datetime(2025, 1, 5, 7, tzinfo=UTC), SeededSensors({"Car": leaking})
    found = []
    for day in range(0, 720, 17):
        at = begin + timedelta(days=day)
        found += [
            Reading(wheel, at.timestamp(), kpa, season(day)) for wheel, kpa in sensors.read("Car", 250.0, at, season(day)).items()
        ]
    return found


class Log(unittest.TestCase):
    def test_a_leak_is_found_with_its_rate_and_the_others_hold(self) -> None:
        """The stand-in's leak is 0.20 kPa a day more than the others: 6.1 a month."""
        by = {trend.wheel: trend for trend in trends(two_years("RR"))}
        self.assertTrue(by["RR"].suspect)
        self.assertTrue(by["RR"].low <= -0.2 * 30.4 <= by["RR"].high, by["RR"])
        self.assertFalse(any(by[wheel].suspect for wheel in ("FL", "FR", "RL")))

    def test_seasons_and_pumping_alone_are_no_leak(self) -> None:
        self.assertFalse(any(trend.suspect for trend in trends(two_years(""))))

    def test_few_readings_give_no_verdict(self) -> None:
        self.assertTrue(all(trend.per_month is None for trend in trends(two_years("FL")[:12])))

    def test_the_temperature_is_taken_out_by_the_gas_law(self) -> None:
        for tyre_c in (-20.0, 5.0, 35.0):
            self.assertAlmostEqual(standard_kpa(Reading("FL", 0, gauge_at(250, 20, tyre_c), tyre_c)), 250.0, delta=1e-9)
        self.assertAlmostEqual(standard_kpa(Reading("FL", 0, 250 + WARM_KPA, 20.0, True)), 250.0, delta=1e-9)


class Advice(unittest.TestCase):
    def test_what_to_set_here_is_placard_tomorrow(self) -> None:
        """Gas law; handbook: 290 kPa at 20 °C is about 262 kPa at −1 °C, so 290 must be set to have it then."""
        found = advise(262.0, -1.0, 20.0, -1.0, 262.0)
        self.assertAlmostEqual(found.set_now_kpa, 290.0, delta=0.5)
        self.assertAlmostEqual(found.add_kpa, 0.0, delta=1e-9)
        low = advise(250.0, 20.0, 5.0, -15.0, 250.0)
        self.assertAlmostEqual(gauge_at(low.set_now_kpa, 5.0, -15.0), 250.0, delta=1e-9)
        self.assertAlmostEqual(low.add_kpa, low.set_now_kpa - gauge_at(250.0, 20.0, 5.0), delta=1e-9)
        self.assertGreater(low.rolling_more, 0.05)

    def test_never_above_the_sidewall(self) -> None:
        self.assertEqual(advise(300.0, 20.0, 35.0, -30.0, 300.0, sidewall_kpa=350.0).set_now_kpa, 350.0)
        with self.assertRaisesRegex(OutOfRange, "A tyre under"):
            advise(60.0, 20.0, 20.0, -40.0, 250.0)
