"""Fast charging and the long day: check values of the trade, small instances against every plan, and what must never make it slower."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.advice.long_day import WEIGHTS, _Planner, by_stops, fixed_marks, plan
from frost_tally.core.advice.long_way import COARSE, FINE, Goal, Grid, LongDay, LongDayRequest
from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.car import preset
from frost_tally.core.charge.fast import AT_S, cold_share, curve_kw, energy_in, own_points, peak_kw, stops
from frost_tally.core.charge.stop_table import Post
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.stages import between, stages
from frost_tally.core.drive.trip import simulate
from frost_tally.core.errors import OutOfRange, Refusal
from tests.uncounted import uncounted

CAR = preset("compact_hatch")
WAY = Trip((Drive(Road.TOWN, 6), Drive(Road.COUNTRY, 20), Drive(Road.MOTORWAY, 380, 110.0), Drive(Road.COUNTRY, 14)))
POSTS = tuple(Post(50.0 * (i + 1), 150.0 if i % 2 else 50.0, 0.6) for i in range(8))


def asked(air_c: float = -10.0, **more: object) -> LongDayRequest:
    values = {
        "car": CAR, "way": WAY, "conditions": Conditions(ambient_c=air_c, cabin_set_c=20.0),
        "start": Start(1.0, max(air_c, 12.0), 20.0), "posts": POSTS,
    }  # fmt: skip
    return LongDayRequest(**(values | more))  # type: ignore[arg-type]


class FastCharging(unittest.TestCase):
    def test_a_cold_pack_takes_about_a_third_less_in_half_an_hour(self) -> None:
        """Source: Motoaki et al., Transportation Research A, 2018 (from memory): 36 % less at 0 than at 25 °C, taxis of 24 to 30 kWh whose
        packs nothing warms, at 50 kW posts.
        """
        small = preset("small_hatch")
        for usable in (24.0, 30.0, 38.0):
            taxi = replace(small, pack=replace(small.pack, usable_kwh_new=usable, heater_kw=0.0))
            for soc in (0.1, 0.2, 0.3):
                warm, cold = energy_in(taxi, soc, 25.0, 50.0, 30.0, 20.0), energy_in(taxi, soc, 0.0, 50.0, 30.0, 0.0)
                self.assertAlmostEqual(1 - cold / warm, 0.36, delta=0.06)

    def test_low_and_warm_is_clearly_faster_than_half_full_and_cold(self) -> None:
        """Common practice: the same 20 kWh."""
        for car in (CAR, preset("small_van")):
            grid = np.array([0.12, 0.5]), np.array([25.0, 2.0])
            done = stops(car, *grid, 150.0, 0.0)
            minutes = done.minutes_to(grid[0] + 20.0 / car.pack.usable_kwh)
            self.assertLess(minutes[0], 0.6 * minutes[1])

    def test_the_curve_and_the_temperatures_of_the_trade(self) -> None:
        """Common practice: full from 5 to 45 %, then 60, 35 and 10 % of it at 60, 80 and 95 %; by temperature from memory."""
        shares = curve_kw(CAR, np.array([0.05, 0.3, 0.45, 0.6, 0.8, 0.95])) / peak_kw(CAR)
        self.assertEqual([round(float(each), 2) for each in shares], [1.0, 1.0, 1.0, 0.6, 0.35, 0.1])
        self.assertEqual(
            [round(float(cold_share(Chemistry.NMC, t)), 2) for t in (25, 10, 0, -10, -25)], [1.0, 0.6, 0.3, 0.12, 0.0]
        )
        for t in range(-25, 25):
            self.assertLessEqual(float(cold_share(Chemistry.LFP, t)), float(cold_share(Chemistry.NMC, t)))
        own = replace(CAR, fast_points=own_points([(1.0, 20.0), (0.0, 80.0)]))
        self.assertAlmostEqual(float(curve_kw(own, 0.5)), 50.0)
        new, later = (energy_in(CAR, 0.2, 25.0, 300.0, 10.0, 20.0, before=count) for count in (0, 1000))
        self.assertTrue(0.94 < later / new < 0.98)
        for bad in ([(0.5, 50.0)], [(0.0, 50.0), (1.2, 10.0)], [(0.0, -1.0), (1.0, 5.0)]):
            with self.assertRaises(OutOfRange):
                own_points(bad)

    @settings(max_examples=60, deadline=None)
    @given(st.floats(0, 0.95), st.floats(-15, 30), st.floats(20, 200), st.floats(5, 90))
    def test_never_less_from_more_time_power_or_warmth(self, soc: float, pack_c: float, kw: float, minutes: float) -> None:
        here = energy_in(CAR, soc, pack_c, kw, minutes, 0.0)
        self.assertGreaterEqual(energy_in(CAR, soc, pack_c, kw, min(2 * minutes, AT_S[-1] / 60), 0.0), here - 1e-9)
        self.assertGreaterEqual(energy_in(CAR, soc, pack_c, kw + 20.0, minutes, 0.0), here - 0.02)
        self.assertGreaterEqual(energy_in(CAR, soc, pack_c + 5.0, kw, minutes, 0.0), here - 0.02)
        self.assertLessEqual(here, min((1 - soc) * CAR.pack.usable_kwh, kw * minutes / 60) + 1e-6)


def small(seed: int) -> LongDayRequest:
    """A random small instance: up to three posts, levels in tenths, temperatures in 10 K."""
    draw = np.random.default_rng(seed)
    km = float(draw.uniform(150, 420))
    posts = tuple(
        Post(
            float(draw.uniform(20, km - 20)),
            float(draw.choice([7.0, 50.0, 150.0])),
            float(draw.uniform(0.2, 0.9)),
            "",
            float(draw.choice([0, 0, 40])),
        )
        for _ in range(int(draw.integers(1, 4)))
    )
    return asked(
        float(draw.choice([-12.0, 5.0, 22.0])),
        way=Trip((Drive(Road.COUNTRY, 0.2 * km), Drive(Road.MOTORWAY, 0.8 * km, float(draw.uniform(90, 130))))),
        posts=posts,
        start=Start(float(draw.choice([0.6, 0.8, 1.0])), 10.0, 20.0),
        goal=list(Goal)[int(draw.integers(0, 3))],
        grid=Grid(0.1, 10.0),
    )


def every_plan(planner: _Planner) -> float:
    """The least of all plans: from mark to mark by every way, with every level, on the same grid."""
    ask, marks = planner.ask, planner.marks
    minute, money, stop = WEIGHTS[ask.goal]

    def best(mark: int, at: int, warm: int) -> float:
        found = np.inf
        for j in range(mark + 1, len(marks)):
            last = j == len(marks) - 1
            for heats in (False, True) if planner.may_warm and not last else (False,):
                used = planner.stages.used[mark, j, warm] + (planner.stages.warm_used[mark, j, warm] if heats else 0.0)
                left = planner.levels[at] - used
                if (
                    not np.isfinite(used)
                    or left - planner.doubt * used < ask.reserve_soc - 1e-9
                    or (last and left < ask.end_soc - 1e-9)
                ):
                    continue
                driven = minute * (60.0 * planner.stages.hours[mark, j, warm] + (1.0 if heats else 0.0))
                if last:
                    found = min(found, driven)
                    continue
                arrives = int(np.floor((left + 1e-9) / ask.grid.level))
                state = int(
                    planner.place(planner.stages.end_c[mark, j, warm] + (planner.stages.warm_k[mark, j, warm] if heats else 0.0))
                )
                post = planner.posts[j - 1]
                table = planner.table(post)
                for goal in range(arrives, len(planner.levels)):
                    if (goal == arrives and post.stands_min <= 0) or not np.isfinite(table.minutes[arrives, state, goal]):
                        continue
                    spent = minute * (table.minutes[arrives, state, goal] + (0.0 if post.stands_min > 0 else ask.stop_min))
                    spent += money * post.price_per_kwh * post.billed(ask.car) * table.kwh[arrives, state, goal] + stop
                    found = min(found, driven + spent + best(j, goal, int(planner.place(table.end_c[arrives, state, goal]))))
            if not last and planner.posts[j - 1].stands_min > 0:
                break
        return float(found)

    return best(0, planner.start_level, planner.start_warm)


class Plans(unittest.TestCase):
    def test_a_stage_takes_what_driving_it_alone_takes(self) -> None:
        marks, leaving, outside = (0.0, 30.0, 170.0, 420.0), (-10.0, 4.0, 24.0), Conditions(ambient_c=-10.0, cabin_set_c=20.0)
        table = stages(CAR, WAY, outside, -10.0, marks, leaving, 9.0)
        for i, j in ((0, 1), (0, 3), (1, 2), (2, 3)):
            for k, pack_c in enumerate(leaving):
                alone = simulate(CAR, between(WAY, marks[i], marks[i + 1 : j + 1]), outside, Start(1.0, pack_c, 20.0 if i else -10.0))
                here = [float(each[i, j, k]) for each in (table.used, table.hours, table.end_c)]
                there = [float(each[0]) for each in (alone.soc_used, alone.hours, alone.end_pack_c)]
                self.assertTrue(np.allclose(here, there, atol=1e-6), (i, j, k, here, there))

    @uncounted()
    def test_three_hundred_small_days_are_the_best_of_all_plans(self) -> None:
        reached = 0
        for seed in range(300):
            planner = _Planner(small(seed).checked())
            mine, theirs = float(planner.solve()[1][-1, 0, planner.start_level, planner.start_warm]), every_plan(planner)
            with self.subTest(seed=seed):
                self.assertTrue(mine == theirs or abs(mine - theirs) < 1e-9, (mine, theirs))
            reached += np.isfinite(mine)
        self.assertGreater(reached, 150)

    def check(self, made: LongDay) -> None:
        """Energy closes, no reserve is broken, nothing is charged beyond full."""
        ask, usable = made.request, made.request.car.pack.usable_kwh
        self.assertAlmostEqual(ask.start.soc * usable + made.charged_kwh - made.used_kwh, made.end_soc * usable, delta=1e-6)
        for stop in made.stops:
            self.assertGreaterEqual(stop.low_soc, ask.reserve_soc - 0.011)
            self.assertLessEqual(stop.leave_soc, 1.0 + 1e-9)
        self.assertGreaterEqual(made.end_low, ask.reserve_soc - 0.011)
        self.assertGreaterEqual(made.end_soc, ask.end_soc - 0.011)

    def test_energy_closes_and_the_reserve_is_kept(self) -> None:
        for air_c in (-15.0, 0.0, 22.0):
            for goal in Goal:
                self.check(plan(asked(air_c, goal=goal)))
        self.check(plan(asked(end_soc=0.4)))
        meal = plan(asked(posts=(*POSTS, Post(180.0, 0.0, stands_min=40.0, name="meal"), Post(181.0, 11.0, 0.3, "inn", 120.0))))
        self.assertEqual([each.post.name for each in meal.stops if each.post.name], ["meal", "inn"])
        self.assertTrue(all(each.minutes >= each.post.stands_min for each in meal.stops))
        self.check(meal)

    def test_a_slow_post_bills_what_the_car_draws_of_it(self) -> None:
        """Arithmetic: a post stronger than the car's own charger bills no more a kWh than one that it uses up."""
        self.assertAlmostEqual(Post(100.0, 22.0).billed(CAR), Post(100.0, CAR.charger.ac_limit_kw).billed(CAR))
        self.assertTrue(1.0 < Post(100.0, 22.0).billed(CAR) < 1.2)
        self.assertEqual((Post(100.0, 150.0).billed(CAR), Post(100.0, 0.0).pack_kw(CAR)), (1.0, 0.0))

    def test_more_power_more_posts_warmer_air_or_a_lower_reserve_never_take_longer(self) -> None:
        """Within a minute, which the grid of whole per cents and 2 K may round."""
        for air_c in (-12.0, 4.0, 20.0):
            base = asked(air_c)
            here = plan(base).total_min
            for other in (
                replace(base, posts=tuple(replace(each, kw=1.5 * each.kw) for each in POSTS)),
                replace(base, posts=(*POSTS, Post(225.0, 150.0), Post(125.0, 100.0))),
                asked(air_c + 8.0),
                replace(base, reserve_soc=0.05),
                replace(base, stop_min=3.0),
            ):
                self.assertLessEqual(plan(other).total_min, here + 1.0)

    def test_in_frost_few_long_stops_in_summer_many_short_ones(self) -> None:
        """A practitioners' rule, common practice: a stop more costs more in frost than in summer, where it costs little or nothing."""
        frost, summer = by_stops(asked(-12.0), 5), by_stops(asked(22.0), 5)

        def least(counts: list[float | None]) -> tuple[int, float]:
            known = {n: each for n, each in enumerate(counts) if each is not None}
            best = min(known, key=lambda n: known[n])
            return best, known.get(best + 1, np.inf) - known[best]

        self.assertIsNone(frost[0])
        self.assertLess(min(each for each in summer if each is not None), min(each for each in frost if each is not None))
        self.assertGreater(least(frost)[1], 0.0)
        self.assertLess(least(summer)[1], 8.0)

    def test_what_cannot_be_reached_says_how_far_it_gets(self) -> None:
        made = plan(asked(posts=(Post(60.0, 50.0),), way=Trip((Drive(Road.MOTORWAY, 700.0, 130.0),))))
        self.assertFalse(made.reached)
        self.assertEqual((made.gap_from_km, made.gap_to_km), (60.0, 700.0))
        self.assertTrue(180.0 < made.as_far_as_km < 320.0)
        for wrong, field in (
            ({"start": Start(0.0, 0.0, 0.0)}, "leave_soc"), ({"posts": (Post(900.0, 50.0),)}, "posts"), ({"reserve_soc": 0.7}, "reserve"),
            ({"posts": POSTS * 6}, "posts"), ({"stop_min": 99.0}, "stop_min"),
        ):  # fmt: skip
            with self.assertRaises((OutOfRange, Refusal)) as refused:
                plan(asked(**wrong))
            self.assertEqual(refused.exception.field, field)

    def test_one_about_every_so_many_km_and_a_coarse_grid_near_the_fine_one(self) -> None:
        ask = asked()
        marks = fixed_marks(ask, 60.0, 100.0, 0.5)
        self.assertEqual([each.km for each in marks], [60.0, 120.0, 180.0, 240.0, 300.0, 360.0])
        fine, coarse = plan(replace(ask, posts=marks, grid=FINE)), plan(replace(ask, posts=marks, grid=COARSE))
        self.assertAlmostEqual(fine.total_min, coarse.total_min, delta=0.03 * fine.total_min)
