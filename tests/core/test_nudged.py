"""Small laws that a nudged number would break without anybody seeing it: each against its own closed form, or a hand count."""

import random
import unittest
from dataclasses import replace
from datetime import UTC, datetime, time, timedelta
from functools import partial
from math import exp, sqrt
from types import SimpleNamespace
from typing import cast

import numpy as np

from frost_tally.core.advice.limit import full_night, target_as_needed
from frost_tally.core.advice.long_day import WEIGHED_POSTS, least_min, near_best
from frost_tally.core.advice.long_way import STOP_MIN, Goal, Stop
from frost_tally.core.advice.weekly import ARRIVES_WARMER_K, WEEKLY_TO, WEEKS, AtHome, weekly
from frost_tally.core.battery.ageing import Exposure, wear_cost
from frost_tally.core.battery.capacity import CALIBRATION, METER, RESOLUTION
from frost_tally.core.battery.cold import resistance_at, resistance_factor
from frost_tally.core.battery.everyday import ALIKE_SOC, Ordinary, monthly
from frost_tally.core.battery.life import Lived
from frost_tally.core.battery.limit_policies import EVEN, LivedLimits, Prices, judged
from frost_tally.core.car import preset
from frost_tally.core.charge.allocate import allocate
from frost_tally.core.charge.blocks import neighbours
from frost_tally.core.charge.compare import CarNights, compare
from frost_tally.core.charge.enough import Bracket
from frost_tally.core.charge.fast import AT_S, Stops, stops
from frost_tally.core.charge.house import metered_load, shifted
from frost_tally.core.charge.night_cells import NightCells, night_cells
from frost_tally.core.charge.prices import PriceCells, Series
from frost_tally.core.charge.session import fill_up
from frost_tally.core.charge.slots import Slot, intervals
from frost_tally.core.charge.start_check import HALF_SHARE, OVER_SHARE, SAME_SHARE, Current, StartCheck, Trouble
from frost_tally.core.charge.stop_table import Post
from frost_tally.core.charge.supply import Supply
from frost_tally.core.charge.taper import filling
from frost_tally.core.charge.tariff import Tariff, two_band
from frost_tally.core.charge.year import YearPlan, charger
from frost_tally.core.coming.event import Event, event
from frost_tally.core.coming.level import Source
from frost_tally.core.coming.night import CarNight
from frost_tally.core.coming.now import Now
from frost_tally.core.drive.air import density, pressure_at
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.extras import WINDOW
from frost_tally.core.drive.habits import habits
from frost_tally.core.drive.replay import Days, Habit, replayed
from frost_tally.core.drive.road import Conditions, cycle_energy_kwh
from frost_tally.core.drive.tally import fair_tally
from frost_tally.core.drive.trip import simulate
from frost_tally.core.drive.tyre_log import MONTH_S, Reading, trends
from frost_tally.core.errors import Refusal
from frost_tally.core.heat.around import parked_c
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.log.battery import LEAST_DAYS, USUAL_KM_PER_DAY, Sums
from frost_tally.core.park.standby import DAILY_SIGMA, DAILY_WEIGHS, ENOUGH_DAYS, Z90, own_idle
from frost_tally.core.probability import t_quantile
from frost_tally.core.sayings import small_battery
from frost_tally.core.sayings.known import Winter
from frost_tally.core.sayings.said import Verdict
from tests.core.test_long_day import POSTS, asked
from tests.core.test_year import BEGIN, END, RATE, year_of
from tests.drilled import count, seed_of

CAR = preset("compact_hatch")
MILD = Conditions(ambient_c=20.0)
ROADS = Trip((Drive(Road.TOWN, 10), Drive(Road.MOTORWAY, 40, 120.0)))
COUNTRY = Trip((Drive(Road.COUNTRY, 40),))


class FullOnceAWeek(unittest.TestCase):
    def test_before_the_longest_day_once_seven_have_passed_and_on_the_tenth_at_last(self) -> None:
        cases = (
            (6.9, (80, 10, 10, 10), 1), (6.9, (80, 10, 90, 90), 2), (7.0, (10, 10, 10, 10), 0), (7.0, (10, 20, 20, 30, 99), 3),
            (9.5, (10, 99), 0), (10.5, (10, 99), 0), (14.0, (5, 60), 0), (2.9, (9, 9, 9, 9), None), (3.0, (9, 9, 9, 9, 1), 4),
        )  # fmt: skip
        for since, km, night in cases:
            self.assertEqual(full_night(since, km), night, (since, km))

    def test_as_needed_is_in_whole_per_cents_upwards(self) -> None:
        for need, floor, target in ((0.412, 0.2, 0.42), (0.42, 0.2, 0.42), (0.1, 0.2, 0.2), (0.1, 0.205, 0.21), (1.3, 0.2, 1.0)):
            self.assertEqual(target_as_needed(need, floor), target)


class LeakBand(unittest.TestCase):
    def test_nine_of_ten_bands_hold_the_leak_and_none_is_wider_than_the_law_says(self) -> None:
        """Least squares over known times with normal noise: the slope’s standard deviation is sigma over the root of the times’ squares."""
        draw, held, widths, tries = random.Random(seed_of(self.id())), 0, list[float](), count(400)
        months, sigma, leak = np.arange(14) * 0.5, 1.2, -1.5
        inner = months - months.mean()
        for _ in range(tries):
            found = [
                Reading(wheel, float(each) * MONTH_S, 250.0 + draw.gauss(0, sigma if wheel == "RR" else 0) + (leak * float(each) if wheel == "RR" else 0), 20.0)
                for each in months for wheel in ("FL", "FR", "RL", "RR")
            ]  # fmt: skip
            trend = next(each for each in trends(found) if each.wheel == "RR")
            held += trend.low <= leak <= trend.high
            widths.append((trend.high - trend.low) / 2)
        self.assertGreater(held / tries, 0.80)
        self.assertLess(held / tries, 0.975)
        self.assertAlmostEqual(float(np.mean(widths)), t_quantile(12, 0.95) * sigma / sqrt(float(inner @ inner)), delta=0.12)


class MonthOfCharges(unittest.TestCase):
    def test_charges_between_the_same_levels_share_the_display_and_no_more(self) -> None:
        """Compound symmetry: of n equal rows with a shared variance s and an own one d the mean has s + d/n."""
        for n, low, high in ((4, 0.3, 0.8), (20, 0.3, 0.8), (12, 0.5, 0.7)):
            span, kwh = high - low, 50.0 * (high - low)
            found = monthly(
                Ordinary(
                    month=np.zeros(n, dtype=np.int64), soc_one=np.full(n, low), soc_other=np.full(n, high), kwh=np.full(n, kwh)
                )
            )
            shared = CALIBRATION**2 * (1 - exp(-span / ALIKE_SOC))
            own = RESOLUTION**2 / 6 + (METER * span) ** 2
            self.assertAlmostEqual(found[0].kwh, 50.0)
            self.assertAlmostEqual(found[0].sigma_kwh, 50.0 * sqrt(shared + own / n) / span, places=9)
            self.assertAlmostEqual(found[0].display_kwh, 50.0 * sqrt(shared) / span, places=9)
            self.assertEqual(found[0].count, n)

    def test_fewer_than_three_or_too_short_ones_are_no_month(self) -> None:
        for n, high in ((2, 0.8), (9, 0.39)):
            rows = Ordinary(
                month=np.zeros(n, dtype=np.int64), soc_one=np.full(n, 0.3), soc_other=np.full(n, high), kwh=np.full(n, 20.0)
            )
            self.assertEqual(monthly(rows), ())


class OneCauseAlone(unittest.TestCase):
    def test_an_old_pack_takes_what_it_lacks(self) -> None:
        old = replace(CAR, pack=replace(CAR.pack, soh=0.85))
        made = fair_tally(old, COUNTRY, MILD, Start(0.9, 20.0, 20.0))
        steps = {each.cause.key: each for each in made.steps}
        self.assertIn("age", steps)
        self.assertAlmostEqual(steps["age"].share, 0.15, delta=0.004)
        self.assertNotIn("age", {each.cause.key for each in fair_tally(CAR, COUNTRY, MILD, Start(0.9, 20.0, 20.0)).steps})


def still(air_c: float, moment: datetime) -> float:
    """Air that is the same all day."""
    return air_c


class AirAround(unittest.TestCase):
    def test_a_heated_garage_is_never_colder_than_its_setting_nor_cooler_than_the_air(self) -> None:
        at = datetime(2027, 1, 14, 7, tzinfo=UTC)
        for air_c, setting, felt in ((-12.0, 8.0, 8.0), (8.0, 8.0, 8.0), (21.0, 8.0, 21.0), (-12.0, -15.0, -12.0)):
            self.assertEqual(parked_c(partial(still, air_c), at, "heated", setting), felt)
        swings = parked_c(lambda moment: float(moment.hour), at, "unheated")
        self.assertEqual(swings, (7 + (7 + 1 + 19 + 13) / 4) / 2)


class SmallThings(unittest.TestCase):
    def test_an_open_window_is_the_drag_that_it_is_and_damp_air_the_density(self) -> None:
        start = Start(0.9, 20.0, 20.0)
        dry = replace(MILD, relative_humidity=0.3)
        used = {
            name: float(simulate(CAR, ROADS, at, start).soc_used[0])
            for name, at in (("plain", MILD), ("window", replace(MILD, drag_factor=WINDOW)), ("damp", replace(MILD, relative_humidity=1.0)), ("dry", dry))
        }  # fmt: skip
        found = {each.key: each.km for each in habits(CAR, ROADS, MILD, start).small}
        self.assertAlmostEqual(found["window"], (used["window"] - used["plain"]) * 50 / used["plain"], places=6)
        self.assertAlmostEqual(found["damp"], (used["damp"] - used["dry"]) * 50 / used["plain"], places=6)
        self.assertLess(found["damp"], 0.0)
        self.assertGreater(found["window"], 5 * abs(found["damp"]))

    def test_past_days_high_up_take_less_by_the_thinner_air(self) -> None:
        fast = Trip((Drive(Road.MOTORWAY, 60, 120.0),))
        days = Days(km=np.array([60.0]), air_c=np.array([20.0]), soc_used=np.array([0.3]))
        low, high = (float(replayed(CAR, fast, days, Habit(WarmUpChoice.NOTHING, 20.0, 0.0, each))[0]) for each in (0.0, 2000.0))
        thinner = density(20.0, pressure_at(2000.0), 0.8) / density(20.0, pressure_at(0.0), 0.8)
        self.assertLess(thinner, 0.8)
        self.assertTrue(thinner < high / low < 0.5 + 0.5 * thinner, (thinner, high / low))


class SlowPosts(unittest.TestCase):
    def test_what_fills_while_people_stand_anyway_saves_what_it_brings(self) -> None:
        meal = Post(km=200.0, kw=11.0, price_per_kwh=0.5, stands_min=60.0)
        without = replace(meal, kw=0.0)
        with_it, idle = (least_min(asked(posts=(*POSTS, each))) for each in (meal, without))
        assert with_it is not None
        assert idle is not None
        self.assertLess(with_it, idle - 1.0)
        self.assertLess(idle - with_it, 60.0)


class BreakEven(unittest.TestCase):
    def test_at_that_distance_two_tariffs_cost_alike_and_beyond_it_the_one_that_says_so_is_cheaper(self) -> None:
        nights = year_of(5.0)
        car = CarNights(charger(CAR, RATE, 0.8, WarmUpChoice.NOTHING), nights, np.full(365, 100.0))
        shapes = [(0.30, 0.00), (0.22, 0.60), (0.26, 0.10)]
        offers = []
        for price, standing in shapes:
            made = replace(
                two_band("one", "Europe/Oslo", price, dear=price, start=time(0), end=time(6)), standing_per_day=standing
            )
            offers.append((made, cells_of(made)))
        self.assertEqual(len(compare(offers[:1], [car], np.zeros(96 * 365))), 1)
        for wrong in ([], [offers[0]] * 7):
            with self.assertRaisesRegex(Refusal, "One to 6 tariffs"):
                compare(wrong, [car], np.zeros(96 * 365))
        years = compare(offers, [car], np.zeros(96 * 365), reference=0)
        met = [each for each in years if each.break_even_km is not None]
        self.assertEqual(len(met), 2)
        for each in met:
            share = (each.break_even_km or 0.0) / 36_500.0
            here, there = (year.standing + year.house_cost + share * year.car_cost for year in (each, years[0]))
            self.assertAlmostEqual(here, there, places=6)
            self.assertTrue(each.above)
            farther = [year.standing + 2 * share * year.car_cost for year in (each, years[0])]
            self.assertLess(farther[0], farther[1])
        self.assertIsNone(years[0].break_even_km)


def cells_of(made: Tariff) -> PriceCells:
    """Its prices over the year of nights."""
    return made.cells(BEGIN, END + timedelta(days=2))


class WhatIsSeen(unittest.TestCase):
    def test_amperes_beside_the_plan_and_the_circuit(self) -> None:
        """Handbook, start checks: as planned within a few per cent, half, hardly any, more than the circuit bears for hours."""
        planned = RATE
        same, half = planned.amps * (1 - SAME_SHARE), planned.amps * HALF_SHARE
        table = (
            (None, Current.AS_PLANNED), (planned.amps, Current.AS_PLANNED), (same + 0.01, Current.AS_PLANNED), (same - 0.01, Current.LESS),
            (half + 0.01, Current.LESS), (half - 0.01, Current.HALF), (5.9, Current.NONE), (20.0 * OVER_SHARE + 0.1, Current.OVER),
        )  # fmt: skip
        for amps, current in table:
            check = StartCheck(amps=amps)
            self.assertIs(check.current(planned, 20.0), current, amps)
            counts = check.rate(planned, 20.0)
            if current in (Current.NONE, Current.OVER):
                self.assertIsNone(counts)
            else:
                assert counts is not None
                self.assertAlmostEqual(counts.amps, planned.amps if current is Current.AS_PLANNED else amps or 0.0)
        self.assertIsNone(StartCheck(troubles=(Trouble("hot"),)).rate(planned, 20.0))


class LimitBands(unittest.TestCase):
    def test_what_is_left_has_the_band_of_the_cells_around_the_own_limit(self) -> None:
        """With a scale that is known the band is that of the cells alone: quantiles of their difference to the own limit."""
        cells = np.array([[0.30, 0.20, 0.10], [0.26, 0.20, 0.12], [0.22, 0.21, 0.20], [0.40, 0.20, 0.05]])[:, ::-1]
        zeros = np.zeros(3)
        lived = LivedLimits(
            limits=(0.6, 0.8, 1.0), lost=np.array([[0.08], [0.11], [0.15]]), cells=cells, past=(zeros, zeros), raised=zeros, short_days=zeros,
            short_kwh=zeros, full_h=zeros, yearly=Exposure(zeros, zeros, zeros),
        )  # fmt: skip
        prices = Prices(pack_per_kwh=100.0, way_above_home=0.0, stop=0.0)
        made = judged(lived, (0.5, 0.0), 0.95, 60.0, 8, prices=prices, regen_kwh=zeros, own=1)
        kept = cells[:, [2]] - cells
        for i, each in enumerate(made):
            change = 0.5 * (np.median(kept[:, i]) - np.median(kept[:, 1]))
            low, high = 0.5 * np.quantile(np.repeat(kept[:, i] - kept[:, 1], len(EVEN)), (0.05, 0.95))
            left = 0.95 - 0.5 * 0.11 + change
            self.assertAlmostEqual(each.left[0], left)
            self.assertAlmostEqual(each.left[1], left - abs(change - low))
            self.assertAlmostEqual(each.left[2], left + abs(high - change))
            self.assertAlmostEqual(each.kept[0], 0.5 * float(np.median(kept[:, i])))


class Edges(unittest.TestCase):
    def test_a_level_that_is_there_already_takes_no_minute(self) -> None:
        done = stops(CAR, np.array([0.5, 0.5]), np.array([25.0, 25.0]), 100.0, 10.0)
        self.assertEqual(done.minutes_to(np.array([0.5, 0.4])).tolist(), [0.0, 0.0])
        self.assertGreater(float(done.minutes_to(np.array([0.51, 0.51]))[0]), 0.1)

    def test_tenths_begin_with_the_one_that_it_stands_on(self) -> None:
        self.assertEqual(len(fill_up(CAR, RATE, 0.3, 0.8, 15.0, air_c=15.0).tenths_min), 5)
        self.assertEqual(len(fill_up(CAR, RATE, 0.31, 0.8, 15.0, air_c=15.0).tenths_min), 4)

    def test_a_life_begins_new(self) -> None:
        one = Exposure(np.array([1e-4]), np.array([1e-4]), np.array([0.0]))
        course = Lived(days=np.array([30.0]), own=one, mild=one, middle=one).course(CAR.pack.chemistry)
        self.assertEqual((float(course.days[0]), float(course.loss[0])), (0.0, 0.0))


class OwnDrain(unittest.TestCase):
    def test_what_the_cold_adds_is_no_scatter_of_the_days(self) -> None:
        """Standings that lose just a rate and so much more for each kelvin of frost: nothing is left over but the prior of a day."""
        days, air = np.tile([2.0, 3.0], 20), np.tile([10.0, -10.0, 5.0, -20.0], 10)
        lost = days * (0.004 + 0.0003 * np.maximum(0.0, -air))
        found = own_idle(days, lost, air)
        assert found is not None
        self.assertAlmostEqual(found.per_day, 0.004)
        self.assertAlmostEqual(found.cold_per_k, 0.0003)
        prior = sqrt(DAILY_WEIGHS * DAILY_SIGMA**2 / (days.sum() + DAILY_WEIGHS)) * t_quantile(39, 0.95) / Z90
        self.assertLessEqual(found.daily, prior + 1e-9)
        self.assertAlmostEqual(float(found.at(np.array([-10.0]))[0]), 0.007)

    def test_the_cold_has_a_slope_of_its_own_from_half_the_days_that_a_drain_needs(self) -> None:
        for cold_days, slope in ((ENOUGH_DAYS / 2 - 1, 0.0), (ENOUGH_DAYS / 2, 0.0003)):
            days, air = np.array([30.0, cold_days]), np.array([10.0, -10.0])
            found = own_idle(days, days * (0.004 + 0.0003 * np.maximum(0.0, -air)), air)
            assert found is not None
            self.assertAlmostEqual(found.cold_per_k, slope)

    def test_a_log_of_some_days_has_no_pace(self) -> None:
        sums = Sums(
            km=900.0, first_s=0.0, last_s=0.0, clock_s=None, clock_km=None, wall_kwh=0.0, fast_kwh=0.0, fast_times=0, fast_cost=0.0, times=0
        )  # fmt: skip
        for days, pace in ((LEAST_DAYS - 1.0, USUAL_KM_PER_DAY), (LEAST_DAYS + 10.0, 900.0 / (LEAST_DAYS + 10.0))):
            later = replace(sums, first_s=1.7e9, last_s=1.7e9 + 86_400.0 * days)
            self.assertAlmostEqual(later.km_a_day, pace)


class WeeksAtAPost(unittest.TestCase):
    def test_equal_weeks_are_as_many_equal_visits_as_a_year_has(self) -> None:
        for weeks in (2, 13, 52):
            use, air = np.full(7 * weeks, 4.0), np.full(7 * weeks, 5.0)
            made = weekly(
                CAR, use, air, home=None, limit_soc=0.8, post_kw=100.0, price_per_kwh=0.5, pack_per_kwh=120.0, reserve_soc=0.1
            )
            self.assertEqual((made.visits, made.busy_weeks), (52, 0))
            self.assertEqual(made.coldest_min, made.mildest_min)
            self.assertAlmostEqual(
                made.hours, made.visits * made.coldest_min / 60.0, delta=0.1
            )  # each charge wears the curve a little
            self.assertAlmostEqual(made.post_cost, 0.5 * made.kwh)
            self.assertGreater(made.kwh, 52 * 28.0)
            self.assertIsNone(made.home_cost)

    def test_a_post_wears_by_its_rate_and_warmth_at_the_mean_of_what_it_fills_and_a_socket_at_that_of_its_nights(self) -> None:
        week_kwh, air_c, post_kw = 21.0, -6.0, 100.0
        home = AtHome(plan=cast(YearPlan, SimpleNamespace(cost=np.full(14, 0.5))), kw=3.0)
        made = weekly(
            CAR, np.full(14, week_kwh / 7), np.full(14, air_c), home=home, limit_soc=0.9, post_kw=post_kw, price_per_kwh=0.5,
            pack_per_kwh=120.0, reserve_soc=0.1,
        )  # fmt: skip
        usable, pack_c = CAR.pack.usable_kwh, min(25.0, air_c + ARRIVES_WARMER_K)
        used = week_kwh / usable
        hours = (made.mildest_min - STOP_MIN) / 60.0
        moved = {"drawn_kwh": week_kwh, "charged_kwh": week_kwh, "held_days": 7.0, "held_c": air_c}
        fast = wear_cost(
            CAR.pack.chemistry, usable, 120.0, **moved, charge_c=min(25.0, pack_c + 10.0), c_rate=used / hours, held_soc=WEEKLY_TO - used / 2
        )  # fmt: skip
        slow = wear_cost(
            CAR.pack.chemistry, usable, 120.0, **moved, charge_c=0.0, c_rate=3.0 / usable, held_soc=0.9 - used / 7 / 2
        )  # fmt: skip
        assert made.home_wear is not None
        self.assertAlmostEqual(made.post_wear / (WEEKS * float(fast)), 1.0, delta=1e-3)
        self.assertAlmostEqual(made.home_wear, WEEKS * float(slow))
        self.assertAlmostEqual(made.home_cost or 0.0, 365 * 0.5)


class SmallParts(unittest.TestCase):
    def test_volts_lost_there_and_back_on_one_phase_along_one_conductor_on_three(self) -> None:
        """Source: Ohm's law; 16 A over 20 m of 2.5 mm² lose 4.48 V on one phase."""
        for phases, volts in ((1, 4.48), (3, 2.24)):
            self.assertAlmostEqual(Supply(name="wall", voltage_v=230, phases=phases, breaker_a=16).drop_v(16.0, 20.0, 2.5), volts)

    def test_a_pack_that_nothing_heats_on_the_way_draws_nothing_for_it(self) -> None:
        self.assertEqual(replace(CAR.pack, drive_heat_to_c=None, heater_kw=5.0).drive_heater_kw, 0.0)
        self.assertEqual(replace(CAR.pack, drive_heat_to_c=10.0, heater_kw=5.0, drive_heat_kw=None).drive_heater_kw, 5.0)

    def test_resistance_of_a_float_is_that_of_arrays_beyond_its_table_too(self) -> None:
        for temp_c in (-45.0, -20.0, -13.0, 0.0, 24.9, 25.0, 60.0):
            self.assertAlmostEqual(resistance_at(temp_c), float(resistance_factor(temp_c)))

    def test_peoples_own_stop_is_never_made_for_hardly_anything(self) -> None:
        stop = Stop(
            post=Post(km=10.0, kw=50.0, price_per_kwh=0.5), arrive_soc=0.5, low_soc=0.45, high_soc=0.55, leave_soc=0.505, minutes=5.0,
            kwh=0.5, cost=0.3, arrive_c=10.0, leave_c=11.0, warmed=False,
        )  # fmt: skip
        self.assertTrue(stop.small)
        self.assertFalse(replace(stop, leave_soc=0.9).small)
        self.assertFalse(replace(stop, post=replace(stop.post, stands_min=20.0)).small)

    def test_one_dated_price_off_the_quarter_hour_and_one_speed_backwards_are_refused(self) -> None:
        with self.assertRaisesRegex(Refusal, "quarter hours"):
            Series(np.array([0, 1000]), np.array([900, 1900]), np.array([0.1, 0.2])).checked()
        with self.assertRaisesRegex(Refusal, "0 m/s or more"):
            cycle_energy_kwh(CAR, np.array([1.0, -1.0, 2.0]), MILD)

    def test_a_first_slot_used_in_part_stands_late_where_nothing_follows_it(self) -> None:
        slots = [Slot(3600.0 * i, 3600.0 * (i + 1), 0.1, 1.0, 1.0) for i in range(3)]
        self.assertEqual(intervals(slots, [0.5, 0.0, 1.0], "late"), [(1800.0, 3600.0), (7200.0, 10_800.0)])
        self.assertEqual(intervals(slots, [0.5, 0.0, 1.0], "early"), [(0.0, 1800.0), (7200.0, 10_800.0)])
        self.assertEqual(intervals(slots, [1.0, 0.5, 0.0], "late"), [(0.0, 5400.0)])

    def test_a_car_on_its_night_is_under_way_once_its_level_is_above_the_one_read(self) -> None:
        leaves = datetime(2027, 1, 15, 7, tzinfo=UTC)
        stay = SimpleNamespace(begin=leaves - timedelta(hours=12), leaves=leaves, stays=False)
        night = SimpleNamespace(stay=stay, plan=SimpleNamespace(blocks=(SimpleNamespace(end=leaves - timedelta(hours=1)),)))
        for source, likely, told in (
            (Source.NIGHT, 0.5, Event.UNDER_WAY), (Source.NIGHT, 0.4, Event.PLUG_IN), (Source.READ, 0.5, Event.PLUG_IN),
        ):  # fmt: skip
            level = SimpleNamespace(source=source, read_soc=0.4, likely=likely)
            now = SimpleNamespace(away=None, now=leaves - timedelta(hours=5), level=level)
            self.assertIs(event(cast(Now, now), cast(CarNight, night)), told)

    def test_a_filling_ends_with_the_step_in_which_it_is_full(self) -> None:
        course = filling(CAR, RATE, np.array([0.5, 0.8]), 1.0, 40)
        for in_pack, missing in zip(course.pack_kwh, (0.5, 0.2), strict=True):
            self.assertAlmostEqual(float(in_pack[-1]), missing * CAR.pack.usable_kwh, places=3)
            self.assertGreater(float(in_pack[-1]), float(in_pack[-2]))
        self.assertEqual(int(course.begins[0]), 40)
        hours = fill_up(CAR, RATE, 0.5, 1.0, 20.0, air_c=20.0).hours_to_limit
        self.assertEqual(course.pack_kwh.shape[1] - 1 - 40, -(-hours // 0.25))

    def test_minutes_at_a_post_are_read_between_its_times_from_the_first_on(self) -> None:
        soc = np.array([[0.5 + 0.01 * i] for i in range(len(AT_S))])
        made = Stops(soc=soc, pack_c=soc, post_kwh=soc)
        self.assertAlmostEqual(float(made.minutes_to(0.505)[0]), AT_S[1] / 120.0)
        self.assertAlmostEqual(float(made.minutes_to(0.515)[0]), (AT_S[1] + AT_S[2]) / 120.0)
        self.assertEqual(made.longest_min, AT_S[-1] / 60.0)

    def test_a_house_is_read_within_its_year_and_a_piece_of_a_day_is_left_as_it_is(self) -> None:
        tariff = two_band("one", "Europe/Oslo", 0.1, dear=0.4, start=time(0), end=time(6))
        begin = datetime(2027, 1, 14, 14, tzinfo=UTC)  # 15:00 there: 36 quarter hours of that day
        grid = tariff.cells(begin, begin + timedelta(hours=33))
        after = int((begin + timedelta(hours=33)).timestamp())
        load, known = metered_load(np.array([after]), np.array([15]), np.array([9.0]), grid, np.full(132, 0.2))
        self.assertEqual((load.tolist(), known), ([0.2] * 132, 0.0))
        moved = shifted(load, grid, 0.3)
        self.assertEqual(moved[:36].tolist(), load[:36].tolist())
        self.assertGreater(float(moved[36:60].sum()), float(load[36:60].sum()))

    def test_hours_that_the_house_keeps_are_counted_from_where_a_night_begins(self) -> None:
        tariff = two_band("one", "Europe/Oslo", 0.1, dear=0.4, start=time(0), end=time(6))
        begin = datetime(2027, 1, 14, 20, tzinfo=UTC)
        grid, at = tariff.cells(begin, begin + timedelta(hours=6)), np.array([begin.timestamp() + 3600.0])
        closed = [(np.array([3600.0]), np.array([7200.0]))]
        made = night_cells(at, at + 4 * 3600.0, grid, strength=np.ones(96), dear=np.ones(96), closed=closed)
        kept = (made.from_s[0] >= 3600.0) & (made.from_s[0] < 7200.0)
        self.assertAlmostEqual(float(made.whole_h[0]), 3.0)
        self.assertEqual(float(made.room_h[0][kept].sum()), 0.0)

    def test_a_block_is_tried_from_the_end_of_the_one_before(self) -> None:
        begin, end = np.array([[0.0, 7200.0]]), np.array([[3600.0, 10_800.0]])
        for done_s, expected in ((9000.0, (0.0, 3600.0, 3600.0, 14_400.0)), (3000.0, (0.0, 1e9, 14_400.0, 1e9))):
            froms, untils, count = neighbours(begin, end, np.array([done_s]), np.array([14_400.0]), np.array([0.0]))
            tried = {tuple(map(float, (*froms[i], *untils[i]))) for i in range(count)}
            self.assertIn(tuple(min(each, 14_400.0) for each in expected), tried)

    def test_hours_of_many_nights_lie_where_those_of_one_do(self) -> None:
        """Of 300 nights of up to four prices one in a hundred may place equal hours of equal price in another order."""
        rng, apart = np.random.default_rng(33), 0
        for _ in range(100):
            edges = np.sort(rng.integers(1, 40, 3))
            price, room_h = np.repeat(rng.choice([0.1, 0.2, 0.3], 4), np.diff([0, *edges, 44])), np.full(44, 0.25)
            need_h, late = rng.uniform(0.0, 11.0), np.lexsort((-np.arange(44), price))
            cells = NightCells(
                price=price[None], room_h=room_h[None], from_s=np.linspace(0.0, 38_700.0, 44)[None], strong=np.ones((1, 44)),
                local=np.arange(44)[None], begin_h=np.zeros(1), late=late[None],
            )  # fmt: skip
            for number, tie_break in enumerate(("late", "early", "earliest")):
                ours = cells.cheapest(np.array([need_h]), np.array([number]))[0]
                theirs = np.array(allocate(price.tolist(), room_h.tolist(), need_h, tie_break))
                self.assertAlmostEqual(float(ours @ price), float(theirs @ price))
                starts = [int((np.diff(each > 1e-9, prepend=False) & (each > 1e-9)).sum()) for each in (ours, theirs)]
                self.assertEqual(*starts)
                apart += not np.allclose(ours, theirs, atol=1e-6)
        self.assertLessEqual(apart, 3)

    def test_a_guess_beyond_what_was_enough_or_too_little_goes_halfway(self) -> None:
        bracket, night = Bracket(np.array([10.0])), np.array([0])
        tried = [(4.0, 2.0, 6.0), (6.0, -1.0, 5.0), (5.0, 3.0, 5.5), (5.5, -1.0, 5.25), (5.25, 0.0, 5.25)]
        for hours, more, expected in tried:
            found = bracket.within(night, np.array([hours]), np.array([more]))
            self.assertAlmostEqual(float(found[0]), expected)
        self.assertEqual(float(Bracket(np.array([10.0])).within(night, np.array([9.0]), np.array([4.0]))[0]), 10.0)


class ManyPosts(unittest.TestCase):
    def test_where_money_counts_the_cheapest_of_a_stretch_is_weighed_beside_the_strongest_and_nowhere_else(self) -> None:
        many = WEIGHED_POSTS + 20
        posts = tuple(
            Post(km=400.0 * (i + 1) / (many + 1), kw=150.0 if i % 3 else 50.0, price_per_kwh=0.7 if i % 3 else 0.3)
            for i in range(many)
        )
        cheap = [
            sum(each.price_per_kwh < 0.5 for each in found.posts)
            for goal in (Goal.TIME, Goal.MONEY)
            if (found := near_best(asked(posts=posts, goal=goal))) is not None
        ]
        self.assertEqual(len(cheap), 2)
        self.assertGreater(cheap[1], 2 * cheap[0])


class SmallBattery(unittest.TestCase):
    def test_it_dies_first_where_its_room_asks_for_a_charge_or_a_new_one(self) -> None:
        winter = Winter(tyres_on=None, coldest_c=-20.0, twelve_volt="", small_age=None, fast_kwh=0.0, all_kwh=0.0, drifts="")
        cases = (("charge", Verdict.HOLDS), ("replace", Verdict.HOLDS), ("fine", Verdict.NOT_HERE), ("", Verdict.NOBODY_KNOWS))
        for advice, verdict in cases:
            self.assertIs(small_battery.said(replace(winter, twelve_volt=advice)).verdict, verdict, advice)
        self.assertEqual(small_battery.said(replace(winter, small_age=4.0)).numbers, {"age": 4.0})
