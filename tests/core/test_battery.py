"""The battery's rules: the trend and its steps, a life by months, the schools, storage, and when a display may have drifted."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.battery.ageing import Exposure, calendar_loss, exposure, losses, project
from frost_tally.core.battery.ageing import Stretch as Life
from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.battery.everyday import Everyday
from frost_tally.core.battery.life import CAUSES, MONTH_DAYS, lived
from frost_tally.core.battery.limit_policies import LIMITS, OwnYear, Prices, judged, side_by_side, stored
from frost_tally.core.battery.trend import Tested, fit, usual_course
from frost_tally.core.errors import OutOfRange
from frost_tally.core.log.display import Drifts, may_have_drifted
from frost_tally.core.log.facts import Fact
from frost_tally.core.units import Array

DAY_S = 86_400.0
BOTH = tuple(Chemistry)


def measured(*pairs: tuple[float, float], sigma: float = 0.013) -> list[Tested]:
    return [Tested(days=days, health=health, sigma=sigma) for days, health in pairs]


class Trend(unittest.TestCase):
    def test_without_tests_it_is_the_models_with_its_doubt_and_tests_narrow_it(self) -> None:
        course = usual_course(Chemistry.NMC)
        none = fit([], course=course, now_days=1000)
        self.assertAlmostEqual(none.health, 1 - 0.7 * float(course.at(1000.0)), places=9)
        some = fit(measured((500, 0.96), (990, 0.94)), course=course, now_days=1000)
        self.assertLess(some.sigma, 0.7 * none.sigma)
        self.assertLess(some.health, 1.0)

    def test_early_fast_loss_is_not_drawn_on_in_a_straight_line(self) -> None:
        course = usual_course(Chemistry.NMC)
        true = [(days, 1 - 0.6 * float(course.at(days))) for days in (60.0, 180.0, 365.0)]
        trend = fit(measured(*true, sigma=0.004), course=course, now_days=365)
        straight = true[-1][1] - 7 * (1 - true[-1][1])
        self.assertGreater(float(trend.at(8 * 365.0)[0][0]), straight + 0.05)
        self.assertLess(trend.loss_per_year, 0.6 * (1 - true[-1][1]))

    def test_one_wrong_test_loses_its_say(self) -> None:
        good = [(300.0 * i, 0.99 - 0.006 * i) for i in range(1, 7)]
        clean, spoilt = (fit(measured(*rows), now_days=1900) for rows in (good, [*good, (950.0, 0.70)]))
        self.assertAlmostEqual(clean.health, spoilt.health, delta=0.006)
        self.assertLess(float(spoilt.weights[-1]), 0.1)

    def test_a_marked_step_is_allowed_and_an_unmarked_one_is_loss(self) -> None:
        rows = [(200.0 * i, 0.985 - 0.002 * i - (0.06 if i > 4 else 0.0)) for i in range(1, 9)]
        plain, stepped = (fit(measured(*rows), now_days=1650, steps=steps) for steps in ((), (900.0,)))
        self.assertAlmostEqual(float(stepped.mean[3]), -0.06, delta=0.02)
        self.assertLess(stepped.loss_per_year, plain.loss_per_year)
        self.assertAlmostEqual(stepped.health, rows[-1][1], delta=0.012)

    def test_an_error_that_a_group_shares_does_not_average_out(self) -> None:
        many = [Tested(days=30.0 * i, health=0.97, sigma=0.01, group="wall", shares=()) for i in range(1, 40)]
        alone, shared = fit(many, now_days=1200), fit(many, now_days=1200, shared={"wall": 0.03})
        self.assertGreater(shared.sigma, 3 * alone.sigma)

    def test_when_and_the_chance_agree(self) -> None:
        trend = fit(measured((300, 0.97), (900, 0.94), (1500, 0.92)), now_days=1500)
        early, likely, late = trend.when(0.85)
        assert early is not None
        assert likely is not None
        self.assertLess(early, likely)
        self.assertTrue(late is None or late > likely)
        self.assertAlmostEqual(trend.chance_below(0.85, likely), 0.5, delta=0.03)
        self.assertAlmostEqual(trend.chance_below(0.85, early), 0.05, delta=0.02)

    def test_a_pack_that_seems_to_grow_still_ages(self) -> None:
        trend = fit(measured((300, 0.94), (600, 0.96), (900, 0.98), (1200, 1.0)), now_days=1200)
        self.assertGreaterEqual(float(trend.mean[1]), 0.05)
        with self.assertRaisesRegex(OutOfRange, "A test needs an age"):
            fit([Tested(days=1, health=3.0, sigma=0.01)])


def steady(level: float, temp_c: float, depth: float, years: float, cell: Chemistry) -> Array:
    """Loss by the end of a life of one day over and over."""
    at = np.arange(0.0, years * 365 * DAY_S, DAY_S / 2)
    soc = np.where(np.arange(len(at)) % 2, level - depth, level)
    edges = np.arange(0.0, at[-1], MONTH_DAYS * DAY_S)
    return losses(cell, lived(cell, at, soc, lambda t: np.full(len(t), temp_c), edges, c_rate=0.2).own).total


class OwnLife(unittest.TestCase):
    def test_causes_add_up_and_months_are_the_law_itself(self) -> None:
        for cell in BOTH:
            at = np.array([0.0, 3 * 365 * DAY_S])
            edges = np.linspace(0.0, at[-1], 37)
            still = lived(cell, at, np.array([0.7, 0.7]), lambda t: np.full(len(t), 28.0), edges, c_rate=0.2)
            self.assertAlmostEqual(
                float(losses(cell, still.own).calendar[-1]), float(calendar_loss(cell, 28.0, 0.7, 3 * 365)), delta=1e-6
            )
            causes = still.causes(cell)
            self.assertAlmostEqual(
                sum(float(causes[name][-1]) for name in CAUSES), float(losses(cell, still.own).total[-1]), places=12
            )
            self.assertAlmostEqual(float(causes["standing"][-1]), float(calendar_loss(cell, 20.0, 0.5, 3 * 365)), delta=1e-6)
            self.assertGreater(float(causes["heat"][-1]), 0.0)
            self.assertEqual(float(causes["cycling"][-1]), 0.0)

    def test_stretches_put_together_lose_the_same(self) -> None:
        life = [Life(days=10.0, temp_c=5.0 + i % 9, soc=0.6, full_cycles=3.0, charge_c=-2.0 + i % 9) for i in range(120)]
        whole = project(Chemistry.NMC, life)
        lived_through = exposure(
            Chemistry.NMC, Life(**{name: np.array([getattr(each, name) for each in life]) for name in vars(life[0])})
        )
        by_ten = losses(Chemistry.NMC, lived_through.grouped(np.arange(0, 120, 10)))
        np.testing.assert_allclose(by_ten.calendar, whole.calendar[9::10], rtol=1e-12)
        np.testing.assert_allclose(by_ten.cycling, whole.cycling[9::10], rtol=1e-12)
        np.testing.assert_allclose(by_ten.cold[-1], whole.cold[-1], rtol=0.04)

    @settings(max_examples=25, deadline=None)
    @given(st.sampled_from(BOTH), st.floats(0.45, 0.9), st.floats(-15, 35), st.floats(0.05, 0.35), st.floats(1, 4))
    def test_hotter_fuller_deeper_longer_never_lose_less(
        self, cell: Chemistry, level: float, temp_c: float, depth: float, years: float
    ) -> None:
        base = steady(level, max(temp_c, 25.0), depth, years, cell)
        self.assertTrue((np.diff(base) >= 0).all())
        hot = steady(level, max(temp_c, 25.0) + 8, depth, years, cell)
        deep = steady(level, max(temp_c, 25.0), depth + 0.1, years, cell)
        full = steady(level + 0.1, max(temp_c, 25.0), depth, years, cell)
        self.assertGreaterEqual(float(hot[-1]), float(base[-1]) - 1e-12)
        self.assertGreaterEqual(float(full[-1]), float(base[-1]) - 1e-3, "the law of cycles has its least at 3.667 V")
        if cell is Chemistry.NMC:
            self.assertGreater(float(deep[-1]), float(base[-1]))


def own_year(seed: int = 3, mean_c: float = 5.0) -> OwnYear:
    draw = np.random.default_rng(seed)
    use = np.where(draw.random(365) < 0.8, draw.gamma(9.0, 1.8, 365), 0.0)
    season = mean_c - 10 * np.cos(np.arange(365) / 365 * 2 * np.pi)
    return OwnYear(use_kwh=use, stand_c=season, away_h=9.0, pack_kw=10.0)


class Schools(unittest.TestCase):
    def test_a_higher_limit_covers_more_and_keeps_less_and_heat_and_years_cost(self) -> None:
        for cell in BOTH:
            found = side_by_side(cell, 58.0, own_year())
            self.assertEqual(found.limits, LIMITS)
            self.assertTrue((np.diff(found.lost[:, -1]) > 0).all(), "each higher limit loses more in eight years")
            self.assertTrue((np.diff(found.short_days) <= 0).all() and (np.diff(found.short_kwh) <= 0).all())
            self.assertGreater(float(found.raised[0]), float(found.raised[-2]))
            self.assertEqual((float(found.raised[-1]), float(found.short_days[0])), (0.0, float(found.short_days[-1])))
            hot = side_by_side(cell, 58.0, own_year(mean_c=25.0))
            self.assertTrue((hot.lost[:, -1] > found.lost[:, -1]).all())
            self.assertTrue((np.diff(found.lost, axis=1) > 0).all())

    def test_early_charging_stands_full_longer_and_a_weekly_full_charge_wears_more(self) -> None:
        year = own_year()
        late, early = (side_by_side(Chemistry.NMC, 58.0, year, late=late) for late in (True, False))
        self.assertTrue((early.full_h > late.full_h + 3).all())
        self.assertTrue((early.lost[:, -1] > late.lost[:, -1]).all())
        weekly = side_by_side(Chemistry.LFP, 75.0, year, weekly_full=True)
        plain = side_by_side(Chemistry.LFP, 75.0, year)
        self.assertTrue((weekly.lost[:-1, -1] > plain.lost[:-1, -1]).all())
        self.assertAlmostEqual(float(weekly.lost[-1, -1]), float(plain.lost[-1, -1]), places=9)
        self.assertLessEqual(float(weekly.short_days[0]), float(plain.short_days[0]))

    def test_a_day_that_is_not_covered_is_a_raised_night_and_short_only_beyond_a_full_pack(self) -> None:
        """By hand: 0.8 of the pack and a reserve of 0.1 need 0.9; 0.96 and 0.1 are 0.06 more than all."""
        use = np.full(365, 10.0)
        use[100], use[200] = 40.0, 48.0
        found = side_by_side(Chemistry.NMC, 50.0, replace(own_year(), use_kwh=use), limits=(0.8,), years=1, scale=0.0)
        self.assertAlmostEqual(float(found.raised[0]), 2 * 365.25 / 365)
        self.assertAlmostEqual(float(found.short_days[0]), 365.25 / 365)
        self.assertAlmostEqual(float(found.short_kwh[0]), (48 / 50 + 0.1 - 1.0) * 50 * 365.25 / 365)
        usual = side_by_side(Chemistry.NMC, 50.0, replace(own_year(), use_kwh=np.full(365, 10.0)), limits=(0.8,), years=1)
        self.assertGreater(float(found.lost[0, -1]), float(usual.lost[0, -1]), "a raised night wears")

    def test_days_without_the_cable_begin_where_the_one_before_ended(self) -> None:
        """0.4 of the pack a day, the cable each second night: two days and the reserve need 0.9, so 0.8 is raised each time; with 0.48 a
        day two need 1.06: full, each second day lacks 0.06 all the same.
        """
        year = replace(own_year(), use_kwh=np.full(365, 20.0), plugged=np.arange(365) % 2 == 0)
        found = side_by_side(Chemistry.NMC, 50.0, year, limits=(0.8, 0.9), years=1, scale=0.0)
        self.assertAlmostEqual(float(found.raised[0]), 182 * 365.25 / 365)
        self.assertEqual((float(found.raised[1]), *found.short_days.tolist()), (0.0, 0.0, 0.0))
        more = replace(year, use_kwh=np.full(365, 24.0))
        short = side_by_side(Chemistry.NMC, 50.0, more, limits=(0.8,), years=1, scale=0.0)
        self.assertAlmostEqual(float(short.short_days[0]), 182 * 365.25 / 365)
        self.assertAlmostEqual(float(short.short_kwh[0]), 0.06 * 50 * 182 * 365.25 / 365)

    def test_each_limit_is_held_against_the_fullest_by_all_cells_and_the_owner_s_is_the_forecast(self) -> None:
        for cell in BOTH:
            found = side_by_side(cell, 58.0, own_year())
            prices = Prices(pack_per_kwh=130.0, way_above_home=0.4, stop=5.0, raised=0.1)
            made = judged(found, (0.7, 0.2), 0.95, 58.0, 8, prices=prices, regen_kwh=np.zeros(6), own=3)
            self.assertAlmostEqual(made[3].left[0], 0.95 - 0.7 * float(found.lost[3, -1]), places=12)
            self.assertEqual(made[-1].kept, (0.0, 0.0, 0.0))
            kept = [each.kept[0] for each in made]
            self.assertEqual(kept, sorted(kept, reverse=True), "the median never loses less at a higher limit")
            for each in made[:-1]:
                self.assertTrue(each.kept[1] < each.kept[0] < each.kept[2])
                self.assertAlmostEqual(each.left[0] - made[-1].left[0], each.kept[0], places=9)
                self.assertAlmostEqual(each.raise_money, each.raised * 8 * 0.1, places=9)

    def test_an_old_pack_loses_less_than_a_new_one_and_storage_knows_level_and_heat(self) -> None:
        old = Exposure(np.array([2000.0]) * 1e-4, np.array([1e-3]), np.zeros(1))
        year = own_year()
        self.assertLess(
            float(side_by_side(Chemistry.NMC, 58.0, year, before=old).lost[3, -1]),
            float(side_by_side(Chemistry.NMC, 58.0, year).lost[3, -1]),
        )
        temp_c, soc = np.meshgrid([-5.0, 15.0, 35.0], [0.3, 0.5, 1.0])
        for cell in BOTH:
            new, used = (side_by_side(cell, 58.0, year, age_days=days).past for days in (0.0, 2000.0))
            found = stored(cell, new, temp_c, soc, 42.0)
            self.assertTrue((np.diff(found, axis=0) > 0).all() and (np.diff(found, axis=1) > 0).all())
            self.assertTrue((stored(cell, used, temp_c, soc, 42.0) < found).all(), "a used pack loses less in the same weeks")


class Display(unittest.TestCase):
    def month(self, *levels: tuple[float, float], stood_h: float = 150.0) -> list[Fact]:
        facts, at = list[Fact](), 0.0
        for start, end in levels:
            facts.append(Fact(kind="drive", number=1, begun_s=at, ended_s=at + 3600, soc_start=start, soc_end=end))
            at += 3600 + stood_h * 3600
        return facts

    def test_offered_when_no_level_was_low_or_none_rested_or_the_ratio_drifts(self) -> None:
        high = self.month(*[(0.8, 0.6)] * 6)
        self.assertEqual(may_have_drifted(high, {}), Drifts.NEVER_LOW)
        self.assertEqual(may_have_drifted(self.month(*[(0.8, 0.4)] * 6), {}), Drifts.NO_REST)
        self.assertIsNone(may_have_drifted(self.month(*[(0.8, 0.6)] * 6, stood_h=10.0), {}), "a log of three days shows no month")
        rested = self.month((0.8, 0.4), (0.4, 0.3), (0.8, 0.6), (0.8, 0.6), (0.8, 0.6))
        self.assertIsNone(may_have_drifted(rested, {}))
        self.assertIsNone(may_have_drifted(self.month((0.8, 0.6)), {}), "a month hardly noted says nothing")
        months = [Everyday(month=i, kwh=55.0, sigma_kwh=0.8, count=20) for i in range(5)]
        self.assertIsNone(may_have_drifted(rested, {"wall": months}))
        off = [*months, Everyday(month=5, kwh=50.0, sigma_kwh=0.8, count=20)]
        self.assertEqual(may_have_drifted(rested, {"wall": off}), Drifts.RATIO)
