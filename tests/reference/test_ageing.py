"""The one model of wear: published laws, monotonicity, and what it must not say of a cold drive."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.battery.ageing import (
    Stretch,
    calendar_loss,
    cold_factor,
    cycling_loss,
    kwh_cost,
    pack_price,
    project,
    wear_cost,
)
from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.car import preset
from frost_tally.core.charge.session import simulate as charge
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.trip import simulate
from frost_tally.core.errors import OutOfRange
from frost_tally.household.money import PER_EURO

NMC, LFP = Chemistry.NMC, Chemistry.LFP
BOTH = (NMC, LFP)


class Published(unittest.TestCase):
    def test_calendar_of_nmc(self) -> None:
        """Schmalstieg et al. 2014: 2920 days at 15 °C and 50 / 80 / 100 %: 5.0 / 7.5 / 9.3 %, ± 0.1."""
        for soc, percent in ((0.5, 5.0), (0.8, 7.5), (1.0, 9.3)):
            self.assertAlmostEqual(100 * float(calendar_loss(NMC, 15.0, soc, 2920)), percent, delta=0.1)

    def test_cycling_of_nmc(self) -> None:
        """Schmalstieg et al. 2014: 876 full cycles, 30 % deep around 3.80 V: 13.0 %, ± 0.1; 3.80 V lie at 62.7 % (Ecker et al.)."""
        self.assertAlmostEqual(100 * float(cycling_loss(NMC, 876, 0.3, 0.627)), 13.0, delta=0.1)
        by_hand = (7.348e-3 * (3.80 - 3.667) ** 2 + 7.60e-4 + 4.081e-3 * 0.3) * np.sqrt(2 * 2.15 * 876)
        self.assertAlmostEqual(float(cycling_loss(NMC, 876, 0.3, 0.627)) / by_hand, 1.0, delta=0.01)

    def test_lfp_by_hand(self) -> None:
        """Naumann et al. 2018 and 2020 (from memory): a year at 25 °C and 50 % by the formula; 1000 cycles of 80 % at 1 C."""
        year = 1.2571e-5 * 0.60225 * np.sqrt(365 * 86400)
        self.assertAlmostEqual(float(calendar_loss(LFP, 25.0, 0.5, 365)), year, delta=1e-9)
        cycled = (0.0630 + 0.0971) * (4.0253 * 0.2**3 + 1.0923) * np.sqrt(1000) / 100
        self.assertAlmostEqual(float(cycling_loss(LFP, 1000, 0.8, 0.5, 1.0)), cycled, delta=1e-9)

    def test_charging_in_the_cold(self) -> None:
        """Waldmann et al. 2014: exp(0.3 eV/k · (1/T − 1/298 K)) at 1 C, 2.9 at 0 °C; in proportion to a slower rate."""
        self.assertAlmostEqual(float(cold_factor(0.0)), np.exp(0.3 / 8.617333e-5 * (1 / 273.15 - 1 / 298)), delta=1e-9)
        self.assertAlmostEqual(float(cold_factor(0.0, 0.2)) - 1, 0.2 * (float(cold_factor(0.0)) - 1), delta=1e-9)
        self.assertEqual(float(cold_factor(30.0)), 1.0)


class Monotone(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(
        st.sampled_from(BOTH), st.floats(-20, 45), st.floats(0, 0.95), st.floats(1, 4000), st.floats(0, 0.9), st.floats(1, 3000), st.floats(0.3, 0.7)
    )  # fmt: skip
    def test_more_heat_level_depth_time_and_cycles_never_lose_less(
        self, cell: Chemistry, warm_c: float, soc: float, days: float, dod: float, cycles: float, mean: float
    ) -> None:
        base, cycled = float(calendar_loss(cell, warm_c, soc, days)), float(cycling_loss(cell, cycles, dod, mean))
        for more in (
            calendar_loss(cell, warm_c + 5, soc, days),
            calendar_loss(cell, warm_c, soc + 0.05, days),
            calendar_loss(cell, warm_c, soc, days + 9),
        ):
            self.assertGreaterEqual(float(more), base - 1e-12)
        for more in (
            cycling_loss(cell, cycles, dod + 0.1, mean),
            cycling_loss(cell, cycles + 5, dod, mean),
            cycling_loss(cell, cycles, dod, mean, 0.6),
        ):
            self.assertGreaterEqual(float(more), cycled - 1e-12)
        self.assertGreaterEqual(float(cold_factor(warm_c - 3)), float(cold_factor(warm_c)))

    def test_a_life_is_the_law_when_nothing_changes_and_the_order_of_equal_stretches_is_nothing(self) -> None:
        for cell in BOTH:
            stretch = Stretch(days=30.0, temp_c=12.0, soc=0.7, full_cycles=5.0)
            lost = project(cell, [stretch] * 96)
            self.assertAlmostEqual(float(lost.calendar[-1]), float(calendar_loss(cell, 12.0, 0.7, 2880)), delta=1e-9)
            self.assertAlmostEqual(float(lost.cycling[-1]), float(cycling_loss(cell, 480, 0.4, 0.6)), delta=1e-9)
            self.assertTrue((np.diff(lost.total) > 0).all() and np.diff(lost.total)[0] > 3 * np.diff(lost.total)[-1])
            self.assertEqual(float(lost.cold[-1]), 0.0)
            cold = project(cell, [replace(stretch, charge_c=-5.0)] * 96)
            self.assertGreater(float(cold.cold[-1]), 0.0)
            self.assertAlmostEqual(
                float(project(cell, [stretch], scale=0.5).total[0]), 0.5 * float(project(cell, [stretch]).total[0])
            )

    def test_bad_depths_are_refused(self) -> None:
        with self.assertRaisesRegex(OutOfRange, "A cycle's depth must lie"):
            cycling_loss(NMC, 10, 1.2, 0.5)


class InMoney(unittest.TestCase):
    def test_energy_drawn_wears_the_same_at_any_temperature_and_energy_put_in_more_in_the_cold(self) -> None:
        for cell in BOTH:
            price = pack_price(cell)
            mild = float(wear_cost(cell, 60.0, price, drawn_kwh=10.0))
            self.assertAlmostEqual(mild, 10 * kwh_cost(cell, price), delta=1e-12)
            put_in = [float(wear_cost(cell, 60.0, price, charged_kwh=10.0, charge_c=c, c_rate=0.3)) for c in (25.0, 5.0, -10.0)]
            self.assertAlmostEqual(put_in[0], mild, delta=1e-9)
            self.assertEqual(put_in, sorted(put_in))
            held = [
                float(wear_cost(cell, 60.0, price, held_days=0.5, held_c=c, held_soc=s))
                for c, s in ((5, 0.5), (5, 0.9), (25, 0.9))
            ]
            self.assertEqual(held, sorted(held))
        self.assertAlmostEqual(pack_price(NMC, PER_EURO["NOK"]), pack_price(NMC) * PER_EURO["NOK"])

    def test_a_cold_drive_without_braking_wears_what_it_draws(self) -> None:
        """Handbook: a cold pack is hurt by being charged cold, hardly by being driven."""
        car = preset("compact_hatch")
        far = Trip((Drive(Road.MOTORWAY, 40, 110),))
        for pack_c in (-20.0, 20.0):
            done = simulate(car, far, Conditions(ambient_c=-10.0), Start(0.8, pack_c, -10.0))
            self.assertAlmostEqual(float(done.worn_kwh[0]) / float(done.energy_kwh[0]), 1.0, delta=0.02)
        town = Trip((Drive(Road.TOWN, 20),))
        worn = []
        for pack_c in (2.0, 20.0):
            quiet = replace(car, pack=replace(car.pack, drive_heat_to_c=None))
            done = simulate(quiet, town, Conditions(ambient_c=2.0), Start(0.8, pack_c, 2.0))
            worn.append(float(done.worn_kwh[0]) - float(done.energy_kwh[0]))
        self.assertGreater(worn[0], 0.3)

    def test_the_cable_wears_a_cold_pack_more(self) -> None:
        car = preset("small_van")
        rate = charge_rate(Supply(name="w", voltage_v=230, phases=1, breaker_a=32), car)
        cold, warm = (charge(car, rate, 0.4, 0.6, c, [(0, 4 * 3600)], 4 * 3600, lambda _: 0.0) for c in (6.0, 24.0))
        self.assertGreater(cold.worn_kwh(car) / cold.pack_kwh, warm.worn_kwh(car) / warm.pack_kwh)
        self.assertGreaterEqual(warm.worn_kwh(car), warm.pack_kwh)
