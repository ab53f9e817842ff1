"""The log's rules: what does not go together, what a quick entry tells, bills, sums, and an efficiency found again."""

import unittest
from datetime import UTC, datetime, time, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.car import preset
from frost_tally.core.charge.tariff import two_band
from frost_tally.core.errors import Refusal
from frost_tally.core.log.anomalies import Anomaly, anomalies
from frost_tally.core.log.bill import priced
from frost_tally.core.log.check import RULES, all_well, check
from frost_tally.core.log.efficiency import ENOUGH, measure
from frost_tally.core.log.facts import Fact
from frost_tally.core.log.idle_intervals import standby
from frost_tally.core.log.kinds import KINDS
from frost_tally.core.log.outliers import sound
from frost_tally.core.log.quick import Known, fill
from frost_tally.core.log.sums import Charges, Drives, filled, plugged_since, summed

CAR = preset("compact_hatch", "a car")
HOUR = 3600.0
DAY = 24 * HOUR
NIGHT = datetime(2027, 1, 11, 23, 0, tzinfo=UTC)


def drive(at: float, km: float, start: float, end: float, hours: float = 2.0, number: int = 0, sure: str = "") -> Fact:
    own = frozenset({sure} if sure else ())
    return Fact(kind="drive", number=number, begun_s=at, ended_s=at + hours * HOUR, km=km, soc_start=start, soc_end=end, sure=own)


def charge(at: float, start: float, end: float, hours: float = 3.0) -> Fact:
    return Fact(kind="charge", number=1, begun_s=at, ended_s=at + hours * HOUR, soc_start=start, soc_end=end)


def level(at: float, soc: float) -> Fact:
    return Fact(kind="level", number=2, begun_s=at, ended_s=at, soc_start=soc, soc_end=soc)


def odometer(at: float, km: float) -> Fact:
    return Fact(kind="odometer", number=3, begun_s=at, ended_s=at, odometer_km=km)


def codes(*facts: Fact) -> list[str]:
    return [each.code for each in anomalies(facts, CAR)]


class Doubts(unittest.TestCase):
    def only(self, *facts: Fact) -> Anomaly:
        (found,) = anomalies(facts, CAR)
        return found

    def test_a_plain_week_goes_together(self) -> None:
        week = []
        for i in range(7):
            week += [drive(i * DAY, 60, 0.8, 0.58), charge(i * DAY + 12 * HOUR, 0.58, 0.8)]
        self.assertEqual(codes(odometer(-HOUR, 1000), *week, odometer(7 * DAY, 1420)), [])

    def test_140_km_with_3_per_cent_hardly_can_be_and_the_model_says_what_can(self) -> None:
        found = self.only(drive(0, 140, 0.80, 0.77))
        self.assertEqual(found.code, "odd_use")
        used = 0.8 - found.values["mend_soc"]
        self.assertTrue(0.1 < used * CAR.pack.usable_kwh / 140 < 0.3, "kWh/km of an electric car: common practice")
        self.assertEqual(self.only(drive(0, 12, 0.9, 0.2)).code, "odd_use")
        self.assertEqual(codes(drive(0, 3, 0.60, 0.57)), [], "a short errand takes more a kilometre")
        self.assertEqual(codes(drive(0, 140, 0.80, 0.77, sure="odd_use")), [], "the owner called it right")

    def test_levels_that_rise_without_a_charge_or_fall_without_a_drive(self) -> None:
        self.assertEqual(self.only(drive(0, 60, 0.8, 0.58), level(10 * HOUR, 0.7)).code, "level_up")
        self.assertEqual(codes(drive(0, 60, 0.8, 0.58), level(10 * HOUR, 0.60)), [], "a warming pack shows a little more")
        down = self.only(drive(0, 60, 0.8, 0.58), level(10 * HOUR, 0.4))
        self.assertEqual(down.code, "level_down")
        self.assertTrue(30 < down.values["mend_km"] < 80)
        self.assertEqual(codes(drive(0, 60, 0.8, 0.58), level(9 * DAY, 0.4)), [], "nine days of standing can take it")

    def test_overlaps_and_odometers(self) -> None:
        self.assertEqual(self.only(drive(0, 60, 0.8, 0.58, hours=5), charge(4 * HOUR, 0.58, 0.8)).code, "overlap")
        self.assertEqual(codes(odometer(0, 5000), odometer(DAY, 4990)), ["odometer_back"])
        gap = self.only(odometer(0, 5000), drive(HOUR, 60, 0.8, 0.58), odometer(DAY, 5100))
        self.assertEqual((gap.code, round(gap.values["mend_factor"], 3)), ("km_gap", round(100 / 60, 3)))
        self.assertNotIn("mend_factor", self.only(odometer(0, 5000), odometer(DAY, 5100)).values, "no drive to stretch")


class Standing(unittest.TestCase):
    def test_whole_per_cents_do_not_add_up_to_a_loss_and_what_does_not_go_together_has_no_say(self) -> None:
        """A tenth of a per cent a day, read to whole per cents over forty nights; one night of three hours, one with a charge not noted."""
        truth = [0.8 - 0.001 * i / 2 for i in range(41)]
        week = [level(i * DAY / 2, round(soc, 2)) for i, soc in enumerate(truth)]
        found, days = standby(week)
        assert found is not None
        self.assertAlmostEqual(found, 0.001, delta=0.0005)
        self.assertAlmostEqual(days, 20.0)
        odd = [*week, level(20 * DAY + 3 * HOUR, 0.5), level(21 * DAY, 0.9)]
        self.assertEqual(standby(odd), (found, days))
        rising = [level(i * DAY, 0.5 + 0.01 * (i % 2)) for i in range(10)]
        self.assertEqual(standby(rising)[0], 0.0, "a display that goes up and down")
        self.assertEqual(standby([level(0, 0.5)]), (None, 0))

    def test_days_far_from_all_others_are_slips(self) -> None:
        use = np.array([200.0, 205, 190, 210, 198, 96, 640])
        self.assertEqual(sound(use).tolist(), [True] * 5 + [False] * 2)
        self.assertTrue(sound(use[4:]).all(), "three days say nothing of each other")

    def test_open_energies_follow_from_each_other_and_from_the_levels(self) -> None:
        nan, share = np.nan, np.full(5, 0.9)
        wall, pack = np.array([10.0, nan, nan, 10.0, nan]), np.array([nan, 9.0, nan, 12.0, nan])
        wall, pack = filled(wall, pack, np.array([0.3, nan, 0.18, nan, nan]), share, 50.0)
        self.assertEqual([round(each, 9) for each in wall.tolist()], [10, 10, 10, 10, 0])
        self.assertEqual(
            [round(each, 9) for each in pack.tolist()], [10, 9, 9, 10, 0], "15 kWh of level cannot come from 10 at the wall"
        )
        self.assertEqual(plugged_since(np.array([1.0, 9.0, 99.0]), np.array([8.0, 2.0]), 50.0).tolist(), [1.0, 8.0, 49.0])


class Quick(unittest.TestCase):
    def told(self, soc: float, **more: float | None) -> tuple[float | None, float | None]:
        known = {"last_soc": 0.4, "planned_soc": None, "limit": 0.8, "use_soc": 0.3, "km": 80.0} | more
        found = fill(Known(**known), soc)  # type: ignore[arg-type]
        return found.charged_to, found.left_with

    def test_the_plan_leads_then_what_fits_the_model(self) -> None:
        self.assertEqual(self.told(0.5, planned_soc=0.8), (0.8, 0.8))
        self.assertEqual(self.told(0.5), (0.8, 0.8), "charged to the limit overnight")
        self.assertEqual(self.told(0.12), (None, 0.4), "from 40 %: nobody charged")
        self.assertEqual(self.told(0.45, km=0.0), (0.45, None), "no kilometres, and more than before")
        self.assertEqual(self.told(0.39, km=0.0), (None, None))
        self.assertEqual(self.told(0.85, use_soc=0.1), (0.95, 0.95), "above the limit: what the model needs")
        with self.assertRaisesRegex(Refusal, "So many kilometres do not"):
            self.told(0.9, use_soc=0.3)

    def test_no_charge_is_told_that_the_outlet_could_not_have_given_since(self) -> None:
        self.assertEqual(self.told(0.61, km=0.0, reach_soc=0.41), (None, None), "a level put right minutes later")
        self.assertEqual(self.told(0.61, km=0.0, reach_soc=0.6), (0.61, None), "within what a level in whole per cents hides")
        self.assertEqual(self.told(0.5, reach_soc=0.7), (0.7, 0.7), "as far as it can have charged")
        self.assertEqual(self.told(0.6, use_soc=0.1, reach_soc=0.42), (None, 0.7), "too soon for a charge: the drive alone")


class Check(unittest.TestCase):
    def test_one_by_one_and_all_at_once_are_of_one_mind(self) -> None:
        at = datetime(2027, 1, 1, tzinfo=UTC)
        cases = [(0.8, 0.5, 2.0), (0.5, 0.8, 2.0), (0.8, 0.8, 0.0), (0.8, 0.5, -1.0)]
        columns = {
            "left_at": np.full(4, at.timestamp()),
            "home_at": np.array([at.timestamp() + hours * HOUR for _, _, hours in cases]),
            "soc_start": np.array([start for start, _, _ in cases]),
            "soc_end": np.array([end for _, end, _ in cases]),
        }
        alone = []
        for start, end, hours in cases:
            try:
                check(
                    "drive",
                    {"left_at": at, "home_at": at + timedelta(hours=hours), "km": 5.0, "soc_start": start, "soc_end": end},
                )
                alone.append(True)
            except Refusal as refusal:
                self.assertIn(refusal.field, ("home_at", "soc_end"))
                alone.append(False)
        self.assertEqual(all_well("drive", columns).tolist(), alone)
        self.assertEqual(alone, [True, False, True, False])

    def test_what_is_open_breaks_no_rule_and_every_rule_is_about_a_column(self) -> None:
        check("charge", {"begun_at": NIGHT})
        for kind, rules in RULES.items():
            self.assertLessEqual({rule.field for rule in rules}, {each.name for each in KINDS[kind].columns})
        with self.assertRaisesRegex(Refusal, "A discharge goes down, a"):
            check("capacity_test", {"at": NIGHT, "how": "discharge", "soc_from": 0.6, "soc_to": 0.58, "kwh": 1.0})


class Bills(unittest.TestCase):
    def setUp(self) -> None:
        tariff = two_band("two", "UTC", 0.10, dear=0.30, start=time(22), end=time(6))
        self.cells = priced(tariff.cells(NIGHT - timedelta(days=2), NIGHT + timedelta(days=2)))

    def test_energy_is_billed_by_the_hours_it_was_drawn_in(self) -> None:
        begun = NIGHT.replace(hour=21).timestamp()
        self.assertAlmostEqual(10 * float(self.cells.prices(begun, begun + 2 * HOUR)), 5 * 0.30 + 5 * 0.10, places=9)
        self.assertAlmostEqual(float(self.cells.dear_shares(begun, begun + 2 * HOUR)), 0.5, places=9)
        self.assertAlmostEqual(
            4 * float(self.cells.prices(begun, begun)), 1.2, places=9, msg="a moment belongs to its quarter hour"
        )
        day = NIGHT.replace(hour=0).timestamp()
        self.assertAlmostEqual(float(self.cells.prices(day, day + DAY)), (8 * 0.10 + 16 * 0.30) / 24, places=9)

    def test_a_night_against_at_once_and_the_mean_by_hand(self) -> None:
        begun, plugged = NIGHT.timestamp(), NIGHT.replace(hour=17).timestamp()
        one = Charges(
            begun_s=np.array([begun]), ended_s=np.array([begun + 2 * HOUR]), wall_kwh=np.array([20.0]), pack_kwh=np.array([18.0]),
            cost=np.array([np.nan]), at_home=np.array([True]), plugged_s=np.array([plugged]),
        )  # fmt: skip
        driven = Drives(left_s=np.array([begun - DAY / 2]), km=np.array([100.0]), kwh=np.array([17.0]))
        day = NIGHT.replace(hour=0).timestamp()
        before, after = summed(one, driven, self.cells, wall_kw=10.0, edges_s=[day, day + DAY, day + 2 * DAY], public_price=0.6)
        self.assertEqual((before.wall_kwh, after.wall_kwh), (10.0, 10.0), "half of it on each side of midnight")
        found = before + after
        self.assertAlmostEqual(found.cost, 2.0)
        self.assertAlmostEqual(found.at_once, 6.0)
        self.assertAlmostEqual(found.at_mean, 20 * (8 * 0.10 + 16 * 0.30) / 24)
        self.assertEqual((found.lost_kwh, found.dear_share, round(found.cost_per_100_km or 0, 9)), (2.0, 0.0, 2.0))
        twice = found + found
        self.assertAlmostEqual(twice.saved_at_once, 8.0)


class OwnEfficiency(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(st.floats(0.82, 0.95), st.floats(0.0, 0.004), st.integers(0, 1000))
    def test_what_the_meter_and_the_levels_say_is_found_again_in_spite_of_slips(
        self, share: float, lost: float, seed: int
    ) -> None:
        """Levels in whole per cents, a meter with 1 % noise, one row in twenty noted wrongly."""
        draw = np.random.default_rng(seed)
        air, added = draw.uniform(-15, 25, 200), draw.integers(15, 60, 200) / 100
        true = share - lost * np.maximum(0.0, 10.0 - air)
        wall = added * 58.0 / true * draw.normal(1, 0.01, 200) + 0.3
        added = np.where(draw.random(200) < 0.05, added / 2, added)
        found = measure(wall, added, np.full(200, 1.0), out_c=air, usable_kwh=58.0, overhead_kw=0.3)
        assert found is not None
        self.assertAlmostEqual(found.value, share, delta=max(4 * found.sigma, 0.006))
        self.assertAlmostEqual(found.lost_per_k, lost, delta=0.0008)
        self.assertTrue(found.enough)

    def test_a_few_charges_do_not_replace_anything(self) -> None:
        few = int(ENOUGH) - 1
        found = measure(
            np.full(few, 10.0), np.full(few, 0.15), np.ones(few), out_c=np.full(few, 12.0), usable_kwh=58.0, overhead_kw=0.0
        )
        assert found is not None
        self.assertFalse(found.enough)
        self.assertIsNone(measure(np.ones(2), np.ones(2), np.ones(2), out_c=np.ones(2), usable_kwh=58.0, overhead_kw=0.0))
