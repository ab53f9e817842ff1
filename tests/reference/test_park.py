"""Standing and winter against what is known outside: freezing points, rules of the trade, common tables of the 12 V battery."""

import unittest

import CoolProp.CoolProp as properties
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.car import preset
from frost_tally.core.drive.tyres import gauge_at
from frost_tally.core.errors import OutOfRange, Refusal
from frost_tally.core.park.standby import Away, Idle, advise, own_idle, project
from frost_tally.core.park.twelve_volt import BatteryKind, Care, Rested, charge_of, freezes_at, judge
from frost_tally.core.park.washer import Alcohol, by_mass, by_volume, freeze_point_c, of_label, of_strength, share_for, top_up
from tests.drilled import count, seed_of

CAR = preset("family_saloon")
FLUIDS = {Alcohol.ETHANOL: "MEA", Alcohol.METHANOL: "MMA"}


class FreezingPoints(unittest.TestCase):
    def test_they_are_those_of_the_property_library(self) -> None:
        """CoolProp's incompressible mixtures (Melinder) from 0 to 60 % by mass: within 1.5 °C."""
        shares = np.linspace(0.0, 0.6, 121)
        for alcohol, fluid in FLUIDS.items():
            theirs = [
                properties.PropsSI("T_FREEZE", "T", 280, "P", 101325, f"INCOMP::{fluid}[{share}]") - 273.15 for share in shares
            ]
            ours = freeze_point_c(alcohol, shares)
            self.assertLess(float(np.abs(ours - np.array(theirs)).max()), 1.5)
            self.assertTrue((np.diff(ours) < 0).all())
        with self.assertRaisesRegex(Refusal, "The alcohol must be ethanol"):
            freeze_point_c("glycol", 0.3)
        with self.assertRaisesRegex(OutOfRange, "Alcohol by mass must be"):
            freeze_point_c("ethanol", 0.7)

    def test_volume_and_mass_lead_back_and_the_label_is_kept(self) -> None:
        for alcohol in Alcohol:
            self.assertAlmostEqual(float(by_volume(alcohol, by_mass(alcohol, 0.4))), 0.4, places=12)
        label = of_label(-45.0, -20.0)
        self.assertAlmostEqual(label(0.5), -20.0, places=3)
        self.assertAlmostEqual(label(1.0), -44.9, delta=0.2)
        with self.assertRaisesRegex(Refusal, "Mixed with water it must"):
            of_label(-20.0, -40.0)

    @settings(max_examples=60, deadline=None)
    @given(
        st.sampled_from(list(Alcohol)), st.floats(0.3, 0.7), st.floats(-22, -2), st.floats(1.5, 8), st.floats(0, 1), st.floats(-12, 0)
    )  # fmt: skip
    def test_a_tank_that_is_topped_up_stands_what_it_must_and_is_full(
        self, alcohol: Alcohol, strength: float, target_c: float, tank_l: float, part: float, now_c: float
    ) -> None:
        freezes, now_l = of_strength(alcohol, strength), part * tank_l
        found = top_up(freezes, tank_l=tank_l, now_l=now_l, now_c=now_c, target_c=target_c)
        if share_for(freezes, target_c) is None:
            self.assertIsNone(found)
            return
        assert found is not None
        self.assertAlmostEqual(now_l - found.drain_l + found.concentrate_l + found.water_l, tank_l, places=6)
        self.assertLessEqual(found.freezes_c, target_c + 0.05)
        self.assertGreaterEqual(min(found.drain_l, found.concentrate_l, found.water_l), -1e-9)
        self.assertLessEqual(found.drain_l, now_l + 1e-9)
        if found.drain_l > 0.01:
            self.assertAlmostEqual(found.water_l, 0.0, places=6, msg="let out no more than is needed")

    def test_by_hand(self) -> None:
        """Half of 4 L water and a concentrate of 60 % ethanol: to −10.9 °C, 20 % by mass, 24 % by volume."""
        found = top_up(of_strength(Alcohol.ETHANOL, 0.6), tank_l=4.0, now_l=2.0, now_c=0.0, target_c=-10.9)
        assert found is not None
        self.assertAlmostEqual(found.concentrate_l, 4 * 0.2403 / 0.6, delta=0.02)
        self.assertEqual(found.drain_l, 0.0)


class Standing(unittest.TestCase):
    def test_the_trades_figures(self) -> None:
        """Common practice: 14 days idle take about 14 %; watch cameras all day about 8 % a day; cars, temperate air."""
        mild = np.full(14, 10.0)
        self.assertAlmostEqual(0.8 - project(CAR, Away(soc=0.8, air_c=mild)).end[0], 0.14, delta=0.01)
        day = project(CAR, Away(soc=0.8, air_c=np.full(1, 10.0), cameras_h=24.0))
        self.assertAlmostEqual(day.parts["cameras"], 0.08, delta=0.01)
        kept = project(CAR, Away(soc=0.8, air_c=np.full(1, -5.0), climate_h=1.0)).parts["climate"] * CAR.pack.usable_kwh
        self.assertTrue(0.5 <= kept <= 2.0, "climate kept on takes 0.5 to 2 kW")

    @settings(max_examples=150, deadline=None)
    @given(
        st.floats(0.1, 1.0), st.integers(1, 60), st.floats(-30, 17), st.floats(0, 20), st.floats(0, 60), st.floats(0, 10), st.booleans(), st.booleans()
    )  # fmt: skip
    def test_colder_longer_more_switched_on_never_comes_back_with_more(
        self, soc: float, days: int, air_c: float, cameras: float, polls: float, climate: float, warm: bool, plugged: bool
    ) -> None:
        """Up to 17 °C, where no climate cools."""

        def end(**more: object) -> tuple[float, float, float]:
            values = {
                "soc": soc, "air_c": np.full(days, air_c), "cameras_h": cameras, "polls": polls, "climate_h": climate, "keep_warm": warm,
                "plugged": plugged,
            }  # fmt: skip
            return project(CAR, Away(**(values | more))).end  # type: ignore[arg-type]

        base = end()
        self.assertTrue(0 <= base[1] <= base[0] <= base[2] <= 1)
        for worse in (
            {"air_c": np.full(days, air_c - 5)}, {"air_c": np.full(days + 3, air_c)}, {"cameras_h": cameras + 4},
            {"polls": polls + 9}, {"climate_h": climate + 2}, {"keep_warm": True},
        ):  # fmt: skip
            for now, then in zip(end(**worse), base, strict=True):
                self.assertLessEqual(now, then + 1e-9, worse)

    @settings(max_examples=80, deadline=None)
    @given(st.floats(0.2, 1.0), st.integers(1, 30), st.floats(-20, 20), st.floats(0, 24), st.floats(0, 3), st.floats(0.05, 0.4))
    def test_what_is_advised_comes_back_with_enough(
        self, soc: float, days: int, air_c: float, cameras: float, climate: float, need: float
    ) -> None:
        away = Away(soc=soc, air_c=np.full(days, air_c), cameras_h=cameras, climate_h=climate)
        found = advise(CAR, away, need)
        if found.enough:
            then = Away(soc=found.leave_soc, air_c=away.air_c, cameras_h=0.0 if "cameras" in found.off else cameras, climate_h=0.0 if "climate" in found.off else climate)  # fmt: skip
            self.assertGreaterEqual(project(CAR, then).end[1], need - 1e-9)
        else:
            self.assertGreaterEqual(len(found.off), (cameras > 0) + (climate > 0))

    def test_a_month_plugged_in_stands_where_it_is_held(self) -> None:
        held = project(CAR, Away(soc=0.4, air_c=np.full(30, -5.0), plugged=True, limit=0.5))
        self.assertEqual([round(each, 9) for each in held.end], [0.5, 0.5, 0.5])
        self.assertGreater(held.wall_kwh, 0.1 * CAR.pack.usable_kwh)
        from_above = project(CAR, Away(soc=0.9, air_c=np.full(10, 10.0), plugged=True, limit=0.5))
        self.assertAlmostEqual(from_above.end[0], 0.8, delta=0.01)
        self.assertEqual(from_above.wall_kwh, 0.0)

    def test_idle_is_found_again_in_a_made_up_log(self) -> None:
        draw = np.random.default_rng(5)
        days, air = draw.uniform(0.3, 1.5, 300), draw.uniform(-15, 20, 300)
        true = (0.008 + 0.0004 * np.maximum(0, -air)) * days
        shown = np.diff(np.floor(100 * np.concatenate([[0.0], np.cumsum(true)])) / 100)
        found = own_idle(days, shown, air)
        assert found is not None
        self.assertAlmostEqual(found.per_day, 0.008, delta=0.001)
        self.assertAlmostEqual(float(found.at(np.array(-10.0))), 0.012, delta=0.0015)
        self.assertIsNone(own_idle(days[:10], shown[:10], air[:10]))
        self.assertEqual(Idle().days, 0.0)

    def test_the_band_of_a_return_holds_nine_of_ten(self) -> None:
        """Drawn cars and logs, with and without days of their own: the level read on return lies in the 90 % band of 85–95 % of stands."""
        seed, runs = seed_of(self.id()), count(400)
        random = np.random.default_rng(seed)
        for logged in (0, 30, 90):
            inside = 0
            for _ in range(runs):
                inside += self._came_back(random, logged)
            # a tenth of the runs may be off by what chance makes of it
            slack = 0.0 if runs >= 400 else 2.5 * np.sqrt(0.9 * 0.1 / runs)
            self.assertTrue(0.85 - slack <= inside / runs <= 0.95 + slack, (seed, logged, inside, runs))

    def _came_back(self, random: np.random.Generator, logged: int) -> bool:
        """Whether a stand of a car that drains as drawn comes back within its band."""
        mean, scatter = np.clip(random.normal(0.01, 0.004), 0.002, 0.03), random.uniform(0.0015, 0.005)

        def drained(days: int) -> float:
            return float(np.maximum(0.0, random.normal(mean, scatter, days)).sum())

        idle = None
        if logged:
            days = random.integers(1, 5, logged)
            begins = np.round(random.uniform(0.4, 0.9, logged), 2) + random.uniform(-0.005, 0.005, logged)
            ends = np.array([begin - drained(span) for begin, span in zip(begins, days.tolist(), strict=True)])
            idle = own_idle(days.astype(float), np.round(begins, 2) - np.round(ends, 2), np.full(logged, 5.0))
        away = int(random.integers(3, 31))
        left = random.uniform(0.6, 0.95)
        stood = project(CAR, Away(soc=round(left, 2), air_c=np.full(away, 5.0)), idle)
        _, low, high = stood.end
        return low <= round(left - drained(away), 2) <= high

    def test_climate_that_is_left_on_costs_in_heat_as_in_frost(self) -> None:
        """Common practice: 0.5–2 kW either way; nothing in mild air."""
        taken = {}
        for air_c in (-10.0, 0.0, 20.0, 30.0, 38.0):
            found = project(CAR, Away(soc=0.9, air_c=np.full(1, air_c), climate_h=5.0))
            taken[air_c] = found.parts["climate"] * CAR.pack.usable_kwh / 5.0
        for air_c in (-10.0, 0.0, 30.0, 38.0):
            self.assertTrue(0.4 <= taken[air_c] <= 2.0, taken)
        self.assertGreater(taken[38.0], taken[30.0])
        self.assertLess(taken[20.0], 0.3)


class SmallBattery(unittest.TestCase):
    def test_charge_by_resting_voltage(self) -> None:
        """Common tables, from memory: 12.65 V full, 12.45 three quarters, 12.24 half, 12.06 a quarter."""
        for volt, level in ((12.65, 1.0), (12.45, 0.75), (12.24, 0.5), (12.06, 0.25)):
            self.assertAlmostEqual(charge_of(volt), level)
        self.assertGreater(charge_of(12.4, -10.0), charge_of(12.4, 25.0))
        self.assertLess(freezes_at(1.0), freezes_at(0.2))

    def test_verdicts(self) -> None:
        """Common practice: three to four years of life; half empty wants charging; a tired old one goes before the winter."""
        fresh = Rested(12.7, 10.0, 5)
        cases: tuple[tuple[float | None, list[Rested], bool | None, float, Care], ...] = (
            (1.0, [fresh], True, -20.0, Care.FINE), (3.5, [fresh], True, -20.0, Care.TEST), (4.5, [Rested(12.3, 10.0, 5)], None, -20.0, Care.REPLACE),
            (5.5, [fresh], None, -20.0, Care.REPLACE), (9.0, [], None, -20.0, Care.TEST), (0.5, [Rested(11.7, 25.0, 1)], None, 5.0, Care.CHARGE), (1.0, [Rested(12.2, 25.0, 5)], None, -5.0, Care.CHARGE),
            (1.0, [Rested(12.28, 25.0, 5)], None, -35.0, Care.CHARGE), (None, [], None, -10.0, Care.TEST),
            (1.0, [Rested(12.7, 10.0, 300)], None, -10.0, Care.TEST),
        )  # fmt: skip
        for age, readings, tops_up, lowest, care in cases:
            self.assertEqual(judge(age, readings, tops_up, lowest).care, care, (age, readings))
        self.assertIsNone(judge(1.0, [fresh], True, -10.0).stands_days)
        stands = judge(1.0, [fresh], False, -10.0).stands_days
        assert stands is not None
        self.assertTrue(14 <= stands <= 35, "some weeks")
        spent = judge(6.0, [fresh], False, -10.0).stands_days
        assert spent is not None
        self.assertTrue(1.5 <= spent <= 2.5, "near its end perhaps two days")

    def test_what_charges_is_not_full_and_lithium_rests_higher(self) -> None:
        """Handbook: over 13.2 V a lead battery is being charged; lithium rests at 13.2 to 13.4 V (from memory)."""
        high = Rested(13.3, 10.0, 1)
        lead, unknown, lithium = (
            judge(1.0, [high], None, -20.0, kind) for kind in (BatteryKind.LEAD, BatteryKind.UNKNOWN, BatteryKind.LITHIUM)
        )
        self.assertEqual((lead.soc, lead.care, lead.reasons), (None, Care.TEST, ("charging",)))
        self.assertEqual(unknown.reasons, ("charging_or_lithium",))
        self.assertEqual((lithium.care, lithium.reasons, lithium.freezes_c), (Care.FINE, (), None))
        self.assertAlmostEqual(lithium.soc or 0.0, 0.9)
        self.assertIs(judge(1.0, [Rested(12.9, 10.0, 1)], None, -20.0, BatteryKind.LITHIUM).care, Care.CHARGE)


class Gas(unittest.TestCase):
    def test_a_tyre_is_as_the_real_gas_library_has_it(self) -> None:
        """CoolProp's air at constant density: 290 kPa at 20 °C are 262 at −1 °C, within 0.5 kPa."""
        density = properties.PropsSI("D", "T", 293.15, "P", 391_325.0, "Air")
        theirs = properties.PropsSI("P", "T", 272.15, "D", density, "Air") / 1000 - 101.325
        self.assertAlmostEqual(gauge_at(290, 20, -1), theirs, delta=0.5)
        self.assertAlmostEqual(gauge_at(290, 20, -1), 262.0, delta=0.5)
