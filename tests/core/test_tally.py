"""The fair tally: it adds up, favours no order, and points the right way."""

import unittest
from dataclasses import replace
from itertools import permutations

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.car import CABIN_J_PER_K, preset
from frost_tally.core.drive import shapley as shapley_module
from frost_tally.core.drive.certainty import arrival
from frost_tally.core.drive.cycles import samples, schedule
from frost_tally.core.drive.day import Drive, Park, Road, Start, Trip
from frost_tally.core.drive.road import Conditions, Surface, road_load
from frost_tally.core.drive.shapley import shapley, subsets
from frost_tally.core.drive.tally import fair_tally
from frost_tally.core.drive.trip import simulate
from frost_tally.core.errors import OutOfRange
from frost_tally.core.heat.climate import COOLING_COP, Climate, cooling_w

CAR = preset("compact_hatch")
AGED = replace(CAR, pack=replace(CAR.pack, soh=0.9))
DAY = Trip((Drive(Road.TOWN, 6), Drive(Road.MOTORWAY, 40, 110), Park(8), Drive(Road.MOTORWAY, 40, 110), Drive(Road.COUNTRY, 12)))
FROST = Conditions(ambient_c=-12.0, tyre_gauge_kpa=220.0, load_kg=75, cabin_set_c=20, wind_mps=3)
START = Start(0.8, -6.0, -8.0)


def level_used(conditions: Conditions, trip: Trip = DAY) -> float:
    return float(simulate(CAR, trip, conditions, START).soc_used[0])


class Fairness(unittest.TestCase):
    def test_steps_sum_to_the_difference(self) -> None:
        """Shapley efficiency, to 1e-9; exact (up to ten causes) and sampled (above)."""
        worst = replace(FROST, surface=Surface.SLUSH, drag_factor=1.3, style=1.2)
        for conditions in (Conditions(ambient_c=-5.0), replace(FROST, wind_mps=0.0), FROST, worst):
            tally = fair_tally(AGED, replace(DAY, climb_m=300.0), conditions, START)
            self.assertAlmostEqual(tally.mild_km - sum(s.lost_km for s in tally.steps), tally.expected_km, delta=1e-9)

    def test_shapley_is_the_mean_over_all_orders(self) -> None:
        """By the definition: every order of four causes, one at a time."""
        values = np.random.default_rng(4).uniform(size=(16, 2))
        by_hand = np.zeros((4, 2))
        for order in permutations(range(4)):
            have = 0
            for cause in order:
                by_hand[cause] += (values[have | 1 << cause] - values[have]) / 24
                have |= 1 << cause
        np.testing.assert_allclose(shapley(values, 4), by_hand, atol=1e-12)

    def test_the_order_of_causes_does_not_matter(self) -> None:
        values = np.random.default_rng(5).uniform(size=(8, 1))
        swapped = values[[0, 2, 1, 3, 4, 6, 5, 7]]
        np.testing.assert_allclose(shapley(values, 3)[[1, 0, 2]], shapley(swapped, 3), atol=1e-12)

    def test_sampling_is_close_to_the_exact_value(self) -> None:
        exact_up_to = shapley_module.EXACT_UP_TO
        try:
            parts = []
            for limit in (12, 5):
                shapley_module.EXACT_UP_TO = limit
                tally = fair_tally(AGED, DAY, FROST, START)
                parts.append([s.lost_km for s in tally.steps])
        finally:
            shapley_module.EXACT_UP_TO = exact_up_to
        np.testing.assert_allclose(parts[0], parts[1], atol=4 * tally.error_km)

    def test_subsets_begin_empty_and_end_full(self) -> None:
        for n in (0, 3, 13):
            rows = subsets(n)
            self.assertEqual((rows[0].sum(), rows[-1].sum()), (0, n))

    def test_a_mild_day_has_no_steps_that_matter(self) -> None:
        mild = Conditions(ambient_c=20.0)
        trip = Trip((Drive(Road.MOTORWAY, 60, 90),))
        tally = fair_tally(replace(CAR, pack=replace(CAR.pack, soh=1.0)), trip, mild, Start(0.8, 25, 20))
        self.assertAlmostEqual(tally.mild_km, tally.expected_km, delta=0.02 * tally.mild_km)

    def test_a_level_at_the_reserve_is_refused(self) -> None:
        with self.assertRaisesRegex(OutOfRange, "The level at departure is"):
            fair_tally(CAR, DAY, FROST, Start(0.1, 0, 0), reserve_soc=0.1)


class Direction(unittest.TestCase):
    """Colder, faster, heavier, softer tyres and headwind never use less, all else equal, where that is physics."""

    @settings(max_examples=25, deadline=None)
    @given(st.floats(-25, 15), st.floats(0.5, 10))
    def test_colder(self, ambient: float, by: float) -> None:
        self.assertGreaterEqual(
            level_used(replace(FROST, ambient_c=ambient - by)), level_used(replace(FROST, ambient_c=ambient)) - 1e-9
        )

    @settings(max_examples=25, deadline=None)
    @given(st.floats(80, 125), st.floats(1, 20))
    def test_faster(self, speed: float, by: float) -> None:
        self.assertGreater(level_used(FROST, DAY.at_motorway_speed(speed + by)), level_used(FROST, DAY.at_motorway_speed(speed)))

    def test_heavier_softer_windier_wetter_hillier(self) -> None:
        base = level_used(FROST)
        for worse in ({"load_kg": 300.0}, {"tyre_gauge_kpa": 190.0}, {"wind_mps": 9.0}, {"headwind_mps": 5.0},
                      {"surface": Surface.SLUSH}, {"drag_factor": 1.3}, {"style": 1.2}, {"cabin_set_c": 23.0}):  # fmt: skip
            with self.subTest(worse=worse):
                self.assertGreater(level_used(replace(FROST, **worse)), base)
        self.assertGreater(level_used(FROST, replace(DAY, climb_m=500.0)), base)

    def test_heat_costs_electricity_and_so_does_cooling(self) -> None:
        for ambient in (-10.0, 32.0):
            with_climate = simulate(CAR, DAY, Conditions(ambient_c=ambient, cabin_set_c=21.0), Start(0.8, ambient, ambient))
            self.assertGreater(float(with_climate.parts_kwh["cabin"][0]), 0.5)

    def test_energy_balance_of_the_pack_closes(self) -> None:
        """Conservation, to 1e-6 of the heat."""
        done = simulate(CAR, DAY, FROST, START)
        balance = done.heat_in_j - done.leaked_j - done.stored_j
        self.assertLess(abs(float(balance[0])), 1e-6 * float(done.heat_in_j[0]))


class HotDays(unittest.TestCase):
    def test_names_say_what_happens_and_gains_are_gains(self) -> None:
        hot = fair_tally(CAR, DAY, Conditions(ambient_c=33.0, cabin_set_c=20.0), Start(0.8, 30.0, 33.0)).steps
        lost = {(step.cause.key, step.cause.turned): step.lost_km for step in hot}
        self.assertLess(lost["cold_air", True], 0)
        self.assertLess(lost["cold_tyres", True], 0)
        self.assertGreater(lost["climate_on", True], 5)
        cold = {(step.cause.key, step.cause.turned) for step in fair_tally(CAR, DAY, FROST, START).steps}
        self.assertTrue({("cold_air", False), ("cold_tyres", False), ("climate_on", False)} <= cold)

    def test_cooling_sets_in_without_a_step(self) -> None:
        """No degree changes a town day by more than 3 %; about 1 kW in steady sun at 30 °C, 3–4 kW at the start (common practice)."""
        town = Trip((Drive(Road.TOWN, 30),))

        def used(air_c: float) -> float:
            return float(simulate(CAR, town, Conditions(ambient_c=air_c, cabin_set_c=20.0), Start(0.8, air_c, air_c)).soc_used[0])

        for air_c in np.arange(15.0, 40.0, 1.0):
            self.assertLess(abs(used(air_c + 1) / used(air_c) - 1), 0.03, air_c)
        self.assertAlmostEqual(float(cooling_w(30.0, 20.0, 110.0)) / COOLING_COP / 1000, 1.0, delta=0.15)
        first = Climate(35.0, 20.0, 0.0, True, 110.0, capacity=CABIN_J_PER_K).step(45.0, 120.0)
        self.assertTrue(3.0 <= float(first.electric_kwh) * 30 <= 4.0)


class Hills(unittest.TestCase):
    def test_a_gain_costs_what_the_same_stretches_cost_on_a_track(self) -> None:
        """By hand: the schedule's every second on the flat, up and down at 6 %, the shares of the way from the gain."""
        country, climb, km = Drive(Road.COUNTRY, 40), 600.0, 40.0
        speed, accel = samples(schedule("hwfet"))
        part = climb / (km * 1000) / 0.06
        load, drive = road_load(CAR, Conditions(ambient_c=20.0)), CAR.drivetrain
        watts = 0.0
        for slope, share in ((0.0, 1 - 2 * part), (0.06, part), (-0.06, part)):
            wheel = load.wheel_power_w(speed, accel, slope)
            back = np.maximum(wheel * drive.regen_efficiency, -1000 * drive.regen_kw)
            watts += share * float(np.where(wheel > 0, wheel / drive.efficiency, back).mean())
        seconds = km * 1000 / speed.mean()
        done = simulate(CAR, Trip((country,), climb), Conditions(ambient_c=20.0), Start(0.8, 20, 20))
        self.assertAlmostEqual(float(done.parts_kwh["wheels"][0]) / (watts * seconds / 3.6e6), 1.0, delta=0.02)

    def test_hills_cost_per_cents_and_steep_gains_more(self) -> None:
        """Outside check: the same climb on a track costs 5–11 %, a gain spread thin 1.2 %; on town roads and a motorway less, once the pack that
        warms under way takes braking again (3.2 % in steps of 10 s).
        """
        for road, km, climb in ((Road.COUNTRY, 40, 400.0), (Road.MOTORWAY, 40, 600.0), (Road.TOWN, 20, 300.0)):
            flat, hilly, steep = (
                float(
                    simulate(CAR, Trip((Drive(road, km, 110 if road is Road.MOTORWAY else None),), c), FROST, START).soc_used[0]
                )
                for c in (0.0, climb, 2 * climb)
            )
            self.assertTrue(0.03 <= hilly / flat - 1 <= 0.12, (road, hilly / flat - 1))
            self.assertGreater(steep, hilly)


class Certainty(unittest.TestCase):
    def test_the_band_holds_the_likely_value(self) -> None:
        narrow = arrival(CAR, DAY, FROST, START)
        self.assertTrue(narrow.low < narrow.likely < narrow.high)
        self.assertAlmostEqual(narrow.likely, 0.8 - level_used(FROST), delta=1e-9)

    def test_bad_days_are_refused(self) -> None:
        for bad in (lambda: simulate(CAR, Trip((Park(2),)), FROST, START), lambda: DAY.scaled_to(0),
                    lambda: DAY.at_motorway_speed(300), lambda: simulate(CAR, DAY, Conditions(ambient_c=-60.0), START)):  # fmt: skip
            self.assertRaises(OutOfRange, bad)
