"""What a test of the battery tells: the handbook's cases, cycles against ASTM's library, cells against public libraries, bands that hold."""

import json
import unittest
from collections.abc import Callable, Iterator
from dataclasses import fields, replace
from itertools import combinations, product
from pathlib import Path

import numpy as np
import rainflow as public
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.battery_reference import day
from frost_tally.core.advice.used_car import Drive as TestDrive
from frost_tally.core.advice.used_car import UsedCar, judge
from frost_tally.core.battery.ageing import OCV_V, S_PER_DAY, Stretch, calendar_loss, cycling_loss, losses
from frost_tally.core.battery.capacity import (
    EFFICIENCY,
    OWN_FIGURE,
    Capacity,
    Worth,
    between_dates,
    compare,
    foresee,
    from_car,
    from_charge,
    from_discharge,
)
from frost_tally.core.battery.cells import cells_of
from frost_tally.core.battery.cold import Chemistry, usable_fraction
from frost_tally.core.battery.cycles import rainflow
from frost_tally.core.battery.everyday import Ordinary, monthly
from frost_tally.core.battery.life import lived
from frost_tally.core.battery.own_tests import COUNTER, FIGURE, SHARED, WALL, month_tested, tested
from frost_tally.core.battery.trend import DAYS_PER_YEAR, SCALE, SCALE_SIGMA, Z90, Course, Tested, fit, usual_course
from frost_tally.core.car import preset
from frost_tally.core.drive.day import Drive, Park, Road, Start, Trip
from frost_tally.core.drive.replay import Habit
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.trip import simulate
from frost_tally.core.errors import OutOfRange
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.log.battery import DRIVE, Sessions, everyday_of
from tests.drilled import count, seed_of

CELLS = json.loads((Path(__file__).parent / "data" / "cells.json").read_text())
NMC, LFP = Chemistry.NMC, Chemistry.LFP


class Tests(unittest.TestCase):
    def test_49_kwh_from_full_to_ten(self) -> None:
        """Common practice: 49.3 kWh over 100 → 10 % of a pack of 60 kWh are 54.8 kWh, 91.3 %, ± 1 to 1.5 kWh."""
        found = from_discharge(49.3, 1.0, 0.1, pack_c=25.0)
        self.assertAlmostEqual(found.kwh, 54.8, delta=0.05)
        self.assertAlmostEqual(100 * found.kwh / 60, 91.3, delta=0.05)
        self.assertTrue(1.0 <= 2 * found.sigma_kwh <= 1.5)
        self.assertEqual(found.worth, Worth.GOOD)

    def test_what_a_test_will_tell_is_said_beforehand(self) -> None:
        """Common practice: over 90 % ± 1.5 kWh of 60; 20 % are worthless; under 40 % counts little."""
        self.assertAlmostEqual(2 * foresee(60, 1.0, 0.1).sigma_kwh, 1.5, delta=0.1)
        self.assertEqual(foresee(60, 0.6, 0.4).worth, Worth.NOTHING)
        self.assertIn(foresee(60, 0.75, 0.39).worth, (Worth.LITTLE, Worth.NOTHING))
        self.assertGreater(2 * foresee(60, 0.6, 0.4).sigma_kwh, 5.0)
        self.assertGreater(foresee(60, 0.1, 0.9, at_wall=True).sigma_kwh, foresee(60, 0.1, 0.9).sigma_kwh)

    def test_the_error_is_that_of_ten_thousand_simulated_tests(self) -> None:
        """Levels rounded to whole per cents, a display off by 1 % of the difference, a meter by 0.5 %, the efficiency by 3 %."""
        draw = np.random.default_rng(7)
        true, high, low = 57.0, draw.uniform(0.93, 1.0, 10_000), draw.uniform(0.08, 0.15, 10_000)
        wrong = draw.normal(0, 0.01, 10_000)
        shown = np.round(100 * high) / 100 - np.round(100 * (low + wrong)) / 100
        drawn = true * (high - low) * draw.normal(1, 0.005, 10_000)
        said = np.array([from_discharge(kwh, 1.0, 1.0 - delta, pack_c=25.0).kwh for kwh, delta in zip(drawn, shown, strict=True)])
        foreseen = from_discharge(float(np.mean(drawn)), 0.96, 0.96 - float(np.mean(shown)), pack_c=25.0).sigma_kwh
        self.assertAlmostEqual(float(np.std(said)) / foreseen, 1.0, delta=0.05)
        wall = from_charge(50.0, 0.1, 0.9, efficiency=0.9, efficiency_sigma=0.03, pack_c=25.0)
        self.assertAlmostEqual(wall.parts["efficiency"], 0.03 / 0.9, places=9)

    def test_a_cold_pack_is_corrected_and_widened(self) -> None:
        mild, cold = (from_discharge(45.0, 1.0, 0.1, pack_c=c) for c in (20.0, -5.0))
        self.assertGreater(cold.kwh, mild.kwh)
        self.assertGreater(cold.sigma_kwh, 1.1 * mild.sigma_kwh)
        self.assertNotIn("temperature", {name for name, each in mild.parts.items() if each > 0})

    def test_bad_tests_are_refused_at_their_field(self) -> None:
        cases: tuple[tuple[Callable[[], Capacity], str], ...] = (
            (lambda: from_discharge(40, 0.5, 0.6), "soc_to"),
            (lambda: from_discharge(40, 1.2, 0.6), "soc_from"),
            (lambda: from_charge(0.0, 0.1, 0.9), "kwh"),
            (lambda: from_charge(40, 0.1, 0.9, efficiency=1.4), "efficiency"),
            (lambda: from_car(2.0, 60), "soh"),
        )
        for wrong, field in cases:
            with self.assertRaises(OutOfRange) as caught:
                wrong()
            self.assertEqual(caught.exception.field, field)

    def test_two_cars_tested_once_each_cannot_be_told_apart(self) -> None:
        """Statistics: 91 and 93 %, each from one test over 90 %, lie within what chance gives at 95 %; 85 and 93 % do not."""
        sigma = from_discharge(54.0, 1.0, 0.1, pack_c=25.0).sigma_kwh / 60
        self.assertFalse(compare((0.93, sigma), (0.91, sigma)).told_apart)
        self.assertTrue(compare((0.93, sigma), (0.85, sigma)).told_apart)


class Cycles(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(st.lists(st.integers(0, 20), min_size=3, max_size=60))
    def test_cycles_are_those_of_the_public_library(self, course: list[int]) -> None:
        """ASTM E1049-85 (2017), 5.4.4, as the kept library counts it."""
        if len(set(course)) < 2:
            return
        ours = sorted((size, mean, count) for size, mean, count, _, _ in rainflow(course))
        theirs = sorted((size, mean, count) for size, mean, count, _, _ in public.extract_cycles(course) if size > 0)
        if len(theirs) == 0:
            return  # it counts nothing in a course of two points, where the standard counts half a cycle
        self.assertEqual(ours, theirs)

    def test_the_example_of_the_standard(self) -> None:
        """ASTM E1049-85, figure 6: −2, 1, −3, 5, −1, 3, −4, 4, −2."""
        found: dict[float, float] = {}
        for size, _, times, _, _ in rainflow([-2, 1, -3, 5, -1, 3, -4, 4, -2]):
            found[size] = found.get(size, 0.0) + times
        self.assertEqual(found, {3.0: 0.5, 4.0: 1.5, 6.0: 0.5, 8.0: 1.0, 9.0: 0.5})


def days_of_a_life(high: float, depth: float, mean_c: float, swing_c: float) -> list[Stretch]:
    """A year of the same day, hour by hour as `bench.battery_reference` gives it to the library: each hour of all days."""
    at, level = day(365, high, high - depth)
    warmth = mean_c - swing_c * np.cos(2 * np.pi * (at / S_PER_DAY - 15) / DAYS_PER_YEAR)
    by_day, by_hour = level[:-1].reshape(365, 24), warmth[:-1].reshape(365, 24)
    return [
        Stretch(
            days=np.full(365, 1 / 24),
            temp_c=by_hour[:, hour],
            soc=by_day[:, hour],
            full_cycles=np.full(365, depth / 24),
            dod=np.full(365, depth),
            mean_soc=by_day.mean(axis=1),
        )
        for hour in range(24)
    ]


class PublicCells(unittest.TestCase):
    """Tables made by `make reference` from a battery-modelling and a battery-life library; their versions stand in the file."""

    def test_the_open_circuit_voltage_is_like_that_of_published_cells(self) -> None:
        """Ecker et al. 2014 against the parameter sets of Mohtat et al. 2020 (NMC, near in make) and Ecker et al. 2015 (another make)."""
        ours = np.array(OCV_V)[1:]
        self.assertLess(float(np.abs(ours - np.array(CELLS["ocv"]["Mohtat2020"])[1:]).max()), 0.05)
        self.assertLess(float(np.abs(ours - np.array(CELLS["ocv"]["Ecker2015"])[1:]).max()), 0.13)

    def test_eight_years_are_within_a_few_points_of_the_public_cells(self) -> None:
        """The same day for eight years, 80 to 50 %, at 10, 20 and 30 °C. Our scale of 0.7 comes from packs, which lose less than cells cycled
        at full rate; the law of one NMC cell is warmer and harder on cycles than the median of ten, so 6 points, and inside our own band.
        """
        at, level = day(8 * 365)
        edges = np.linspace(at[0], at[-1], 97)
        for cell in (NMC, LFP):
            theirs = np.array([each["left"] for each in CELLS["cells"] if each["chemistry"] == cell.value])
            for i, temp_c in enumerate((10.0, 20.0, 30.0)):
                warmth = np.array([temp_c]).repeat
                own = lived(cell, at, level, lambda times, warmth=warmth: warmth(len(times)), edges, c_rate=0.1).own  # type: ignore[misc]
                lost = float(losses(cell, own).total[-1])
                median = float(np.median(theirs[:, i]))
                self.assertAlmostEqual(1 - SCALE * lost, median, delta=0.06, msg=f"{cell} {temp_c}")
                low, high = (1 - (SCALE + z * SCALE_SIGMA) * lost for z in (Z90, -Z90))
                self.assertTrue(low <= median <= high)

    def test_the_table_of_rates_leads_back_to_whole_lives_of_the_library(self) -> None:
        """Eight years in a swinging year: each cell within 5 % of what the library says (or 0.1 points), between its two readings of a
        fading pack, whose days take the same energy or the same levels; 6 % where over a fifth is lost, for that feeds back on the days.
        """
        off = []
        for number, life in enumerate(CELLS["lives"]):
            made = days_of_a_life(*life)
            for chemistry in (NMC, LFP):
                cells = cells_of(chemistry)
                standing, cycling = cells.exposed(made)
                ours = dict(zip(cells.names, cells.lost((8 * standing, 8 * cycling)).tolist(), strict=True))
                for each in (each for each in CELLS["cells"] if each["name"] in ours):
                    low, high = sorted(1 - left for left in each["lives"][number])
                    mine = ours[each["name"]]
                    off.append(max(0.0, low - mine, mine - high) / high)
                    within = 0.05 if high < 0.2 else 0.06
                    self.assertTrue(
                        low * (1 - within) - 1e-3 <= mine <= high * (1 + within) + 1e-3, (life, each["name"], mine, low)
                    )
        self.assertLess(float(np.median(off)), 0.015)

    def test_more_heat_a_higher_level_deeper_cycles_and_more_years_never_take_less_by_the_median(self) -> None:
        """Handbook, monotonicity; deeper cycles within 0.2 points, for the rate of one cell has a shallow least."""
        seed = seed_of(self.id())
        draw = np.random.default_rng(seed)

        def lost(cell: Chemistry, level: float, temp_c: float, swing_c: float, depth: float, years: float) -> float:
            warmth = temp_c - swing_c * np.cos(2 * np.pi * np.arange(365) / 365)
            day = Stretch(days=np.ones(365), temp_c=warmth, soc=level, full_cycles=np.full(365, depth), dod=depth, mean_soc=level)
            standing, cycling = cells_of(cell).exposed([day])
            return float(np.median(cells_of(cell).lost((years * standing, years * cycling))))

        for number in range(count(400)):
            cell = (NMC, LFP)[number % 2]
            level, temp_c, swing_c, depth, years = (
                draw.uniform(*each) for each in ((0.5, 0.9), (-5, 28), (0, 12), (0.05, 0.4), (1, 15))
            )
            base = lost(cell, level, temp_c, swing_c, depth, years)
            told = (seed, number, cell, level, temp_c, swing_c, depth, years)
            self.assertGreaterEqual(lost(cell, level + 0.1, temp_c, swing_c, depth, years), base - 1e-9, told)
            self.assertGreaterEqual(lost(cell, level, temp_c + 8, swing_c, depth, years), base - 1e-9, told)
            self.assertGreaterEqual(lost(cell, level, temp_c, swing_c, depth, years + 1), base - 1e-9, told)
            self.assertGreaterEqual(lost(cell, level, temp_c, swing_c, depth + 0.1, years), base - 2e-3, told)

    def test_eighty_against_a_hundred_per_cent_in_a_cold_year(self) -> None:
        """Handbook, from the library at 5 ± 10 °C: 80 % keeps −1.1 to 4.9 points in eight years over ten NMC and NCA cells, median 1.3, the
        cell of the one model above; LFP 0.3 and 1.0. Depth of a day is ours: it moves each by some tenths.
        """
        kept = {}
        for chemistry in (NMC, LFP):
            cells = cells_of(chemistry)
            years = [cells.exposed(days_of_a_life(high, 0.2, 5.0, 10.0)) for high in (1.0, 0.8)]
            full, eighty = (cells.lost((8 * standing, 8 * cycling)) for standing, cycling in years)
            kept[chemistry] = 100 * (full - eighty)
        nmc, lfp = kept[NMC], sorted(kept[LFP].tolist())
        self.assertTrue(-1.1 <= nmc.min() < 0.5 < np.median(nmc) < 1.9 and 3.0 < nmc.max() <= 4.9, nmc)
        self.assertAlmostEqual(float(np.median(nmc)), 1.3, delta=0.4)
        self.assertAlmostEqual(lfp[0], 0.3, delta=0.25)
        self.assertAlmostEqual(lfp[1], 1.0, delta=0.4)


class UsedCars(unittest.TestCase):
    def test_a_strangers_health_lies_in_its_band_nine_times_of_ten(self) -> None:
        """Cars drawn as the prior has them, with their own figure, a drive in any air, both or none: 85–95 % of 400 each."""
        seed, runs = seed_of(self.id()), count(400)
        draw = np.random.default_rng(seed)
        slack = 0.0 if runs >= 400 else 2.5 * np.sqrt(0.09 / runs)
        for kinds in ((False, False), (True, False), (False, True), (True, True)):
            inside = sum(self._inside(draw, *kinds) for _ in range(runs))
            self.assertTrue(0.85 - slack <= inside / runs <= 0.95 + slack, (seed, kinds, inside, runs))

    def _inside(self, draw: np.random.Generator, figure: bool, drive: bool) -> bool:
        car, days = preset("compact_hatch"), float(draw.uniform(400, 3200))
        km, pack, air_c = float(draw.uniform(5_000, 25_000)) * days / DAYS_PER_YEAR, car.pack, float(draw.uniform(-10, 25))
        given = {"warranty": (0.7, 8.0, 160_000.0), "pack_per_kwh": 130.0, "air_c": air_c}
        usual = judge(UsedCar(car=car, age_days=days, km=km), **given).usual  # type: ignore[arg-type]
        truth = float(draw.normal(usual.health, usual.sigma))
        shown = min(1.05, max(0.4, round(truth + draw.normal(0, OWN_FIGURE), 2)))
        soc_from, soc_to = float(draw.integers(80, 101)) / 100, float(draw.integers(10, 50)) / 100
        given_by_pack = float(usable_fraction(15.0, pack.chemistry))
        drawn = (
            (soc_from - soc_to) * (1 + draw.normal(0, 0.01) / (soc_from - soc_to))
            + draw.uniform(-0.005, 0.005)
            - draw.uniform(-0.005, 0.005)
        )
        kwh = truth * pack.usable_kwh_new * given_by_pack * drawn * (1 + draw.normal(0, 0.005))
        driven = TestDrive(soc_from=soc_from, soc_to=soc_to, kwh=kwh, pack_c=15.0, air_c=air_c)
        found = judge(
            UsedCar(car=car, age_days=days, km=km, figure=shown if figure else None, drive=driven if drive else None),
            **given,  # type: ignore[arg-type]
        ).trend
        return found.band[0] <= truth <= found.band[1]


def _truth(draw: np.random.Generator) -> tuple[Course, np.ndarray, np.ndarray]:
    """A made-up car: its age by days, its true health, and the course that its model says; the truth goes its own way."""
    cell = NMC if draw.random() < 0.6 else LFP
    days = np.linspace(0.0, draw.uniform(400, 3600), 60)
    temp_c, soc = draw.uniform(4, 18), draw.uniform(0.5, 0.8)
    standing = calendar_loss(cell, temp_c, soc, days) * draw.uniform(0.3, 1.2)
    cycling = cycling_loss(cell, days * draw.uniform(20, 70) / 365, draw.uniform(0.2, 0.6), 0.6) * draw.uniform(0.3, 1.1)
    health = draw.normal(1.0, 0.015) - standing - cycling - draw.normal(0, 0.002) * days / 365
    return usual_course(cell), days, health


class Tester:
    """A made-up owner: how the car's display is calibrated, its own figure and its charging efficiency are off is one draw each."""

    def __init__(self, draw: np.random.Generator) -> None:
        self.draw, self.display = draw, draw.normal(0, 0.01)
        self.off = {WALL: draw.normal(0, EFFICIENCY), FIGURE: draw.normal(0, OWN_FIGURE)}
        grid = np.linspace(0, 1, 101)
        alike = np.linalg.cholesky(0.00005 * np.exp(-np.abs(grid[:, None] - grid[None, :]) / 0.05) + 1e-12 * np.eye(101))
        self.grid, self.curve = grid, alike @ draw.standard_normal(101)

    def test(self, at: float, true: float, kind: str, slip: float = 0.0) -> Tested:
        """A test of one kind at an age of a pack of 60 kWh."""
        draw, delta = self.draw, self.draw.uniform(0.4, 0.95)
        shown = min(1.0, np.round(100 * (delta + self.display + draw.uniform(-0.0035, 0.0035))) / 100)
        if kind == FIGURE:
            found = from_car(min(1.05, true * (1 + self.off[kind]) + draw.uniform(-0.005, 0.005)), 60)
        elif kind == WALL:
            found = from_charge(60 * true * delta / 0.9 * draw.normal(1 + self.off[kind], 0.005), 1 - shown, 1.0, efficiency=0.9, efficiency_sigma=EFFICIENCY, pack_c=25.0)  # fmt: skip
        else:
            found = from_discharge(60 * true * delta * draw.normal(1, 0.005), 1.0, 1.0 - shown, pack_c=25.0)
        made = tested(at, replace(found, kwh=found.kwh * (1 + slip)), kind, 60.0)
        assert made is not None
        return made

    def month(self, at: float, true: float) -> Tested:
        """A month of 25 charges to 80 %, counted by the car."""
        low = 0.8 - self.draw.uniform(0.15, 0.4, 25)
        kwh, both = 60 * true * (0.8 - low) * self.draw.normal(1, 0.005, 25), (low, np.full(25, 0.8))
        shown = [np.round(100 * (level + np.interp(level, self.grid, self.curve))) / 100 for level in both]
        (found,) = monthly(Ordinary(month=np.zeros(25, dtype=int), soc_one=shown[0], soc_other=shown[1], kwh=kwh))
        made = month_tested(at, found, COUNTER, 60.0)
        assert made is not None
        return made


class Coverage(unittest.TestCase):
    def histories(
        self, most: int, wrong: float = 1 / 30
    ) -> Iterator[tuple[np.random.Generator, Course, np.ndarray, np.ndarray, list[Tested]]]:
        """Made-up histories with known truth: up to so many tests of mixed kinds, some wrong by 15 points, half with everyday months."""
        seed = seed_of("healths")
        for i in range(count(400)):
            draw = np.random.default_rng([seed, i])
            course, days, health = _truth(draw)
            owner, tests = Tester(draw), []
            for at in np.sort(draw.uniform(20, days[-1], draw.integers(1, most + 1))):
                kind, slip = draw.choice(["", "", WALL, FIGURE]), draw.choice([-0.15, 0.15]) if draw.random() < wrong else 0.0
                tests.append(owner.test(float(at), float(np.interp(at, days, health)), str(kind), slip))
            if draw.random() < 0.5:
                tests += [owner.month(float(at), float(np.interp(at, days, health))) for at in np.arange(days[-1], 0, -30.0)[:24]]
            yield draw, course, days, health, tests

    def test_ninety_per_cent_bands_hold_the_truth_in_85_to_95_of_100(self) -> None:
        held, ahead, runs = 0, 0, 0
        for _, course, days, health, tests in self.histories(20):
            trend = fit(tests, course=course, now_days=float(days[-1]), shared=SHARED)
            held += trend.band[0] <= health[-1] <= trend.band[1]
            early = sorted(tests, key=lambda each: each.days)[: max(1, len(tests) // 2)]
            mean, sigma = fit(early, course=course, now_days=early[-1].days, shared=SHARED).at(float(days[-1]))
            ahead += abs(mean[0] - health[-1]) <= Z90 * sigma[0]
            runs += 1
        print(f"healths: held {held / runs:.3f}, foreseen {ahead / runs:.3f}")
        self.assertTrue(0.85 - 2 / runs**0.5 * 0.3 <= held / runs <= 0.95 + 2 / runs**0.5 * 0.3, held / runs)
        self.assertGreaterEqual(ahead / runs, 0.85 - 2 / runs**0.5 * 0.3, "and what was foreseen halfway held as well")

    def test_two_identical_cars_are_seldom_told_apart(self) -> None:
        """Handbook: 2 to 8 of 100 pairs; each with a display of its own."""
        apart, runs = 0, 0
        for draw, course, days, health, _ in self.histories(1, 0.0):
            ages = np.linspace(0.2, 1.0, int(draw.integers(2, 13))) * days[-1]
            both = []
            for _ in range(2):
                owner = Tester(draw)
                tests = [owner.test(float(at), float(np.interp(at, days, health)), "") for at in ages]
                trend = fit(tests, course=course, now_days=float(days[-1]))
                both.append((trend.health, trend.sigma))
            apart += compare(*both).told_apart
            runs += 1
        print(f"healths: told apart {apart / runs:.3f}")
        self.assertLessEqual(apart / runs, 0.08 + 0.6 / runs**0.5)

    def test_what_is_the_cars_own_goes_out_between_two_dates(self) -> None:
        """Two tests of one car by one display: 91 and 94 % are apart, where those of two cars are not."""
        one, other = (from_discharge(60 * health * 0.9, 1.0, 0.1, pack_c=25.0) for health in (0.91, 0.94))
        self.assertTrue(between_dates(one, other, 60.0).told_apart)
        self.assertFalse(compare(*((each.kwh / 60, each.sigma_kwh / 60) for each in (one, other))).told_apart)

    def test_wrong_tests_do_not_carry_it(self) -> None:
        """Two or three halved tests, or two that are 20 % low, at any place of ten: health within 2 points."""
        course, ages, draw = usual_course(NMC), np.linspace(150, 2000, 10), np.random.default_rng(3)
        true = 1 - 0.5 * course.at(ages)
        seen = true + draw.normal(0, 0.008, 10)
        for wrong, share in ((2, 0.5), (3, 0.5), (2, 0.8)):
            for these in combinations(range(10), wrong):
                told = [float(each) * (share if i in these else 1.0) for i, each in enumerate(seen)]
                tests = [Tested(days=float(at), health=each, sigma=0.013) for at, each in zip(ages, told, strict=True)]
                self.assertAlmostEqual(fit(tests, course=course).health, float(true[-1]), delta=0.02, msg=f"{these} × {share}")

    def test_everyday_drives_read_a_whole_pack_as_whole_in_frost_and_heat(self) -> None:
        """Handbook (own simulation): −20 to 30 °C, both chemistries; levels in whole per cents, so many drives that their rounding averages out."""
        usual = Trip((Drive(Road.TOWN, 5), Drive(Road.COUNTRY, 10), Drive(Road.MOTORWAY, 15, 110), Park(8), Drive(Road.MOTORWAY, 15, 110), Drive(Road.COUNTRY, 15)))  # fmt: skip
        draw = np.random.default_rng(seed_of("everyday"))
        for key, cell, air in product(("compact_hatch", "small_van"), Chemistry, (-20.0, -10.0, 0.0, 10.0, 30.0)):
            car, rows = preset(key), []
            car = replace(car, pack=replace(car.pack, chemistry=cell))
            for i in range(60):
                km, air_c = float(draw.uniform(50, 130)), air + float(draw.uniform(-2, 2))
                out = simulate(car, usual.scaled_to(km), Conditions(ambient_c=air_c, cabin_set_c=20.0), Start(0.9, air, air))
                end, begun = round(0.9 - float(out.soc_used[0]), 2), 1.7e9 + i * 3600.0
                rows.append((begun, begun + 1800.0, 0.9, end, np.nan, float(out.energy_kwh[0]), air, km, DRIVE, 1.0))
            sessions = Sessions(**dict(zip((each.name for each in fields(Sessions)), np.array(rows).T, strict=True)))
            told = everyday_of(sessions, car, lambda at, air=air: np.full(len(at), air), usual, Habit(WarmUpChoice.NOTHING))  # type: ignore[misc]
            self.assertEqual(len(told[COUNTER]), 1)
            for month in told[COUNTER]:
                self.assertAlmostEqual(month.kwh / car.pack.usable_kwh, 1.0, delta=0.015, msg=f"{key} {cell} {air}")

    def test_a_test_in_frost_whose_pack_nobody_read_tells_little(self) -> None:
        """Handbook: at −10 °C it may read 10 % low."""
        for cell in Chemistry:
            mild, frost = (from_discharge(49.3, 1.0, 0.1, chemistry=cell, air_c=air) for air in (25.0, -10.0))
            self.assertIn(frost.worth, (Worth.LITTLE, Worth.NOTHING))
            self.assertIs(mild.worth, Worth.GOOD)
            self.assertGreater(frost.kwh, mild.kwh)
            self.assertLess(frost.kwh - 2 * frost.sigma_kwh, mild.kwh)

    def test_a_month_of_small_charges_is_worth_half_a_test_and_says_how_sure_it_is(self) -> None:
        """Common practice: about one half test. Displays whose error belongs to the level, 25 charges of 15 to 40 %, to 80 %."""
        draw, grid = np.random.default_rng(11), np.linspace(0, 1, 201)
        alike = np.linalg.cholesky(0.00005 * np.exp(-np.abs(grid[:, None] - grid[None, :]) / 0.05) + 1e-12 * np.eye(201))
        off, like = [], []
        for _ in range(300):
            wrong, low = alike @ draw.standard_normal(201), 0.8 - draw.uniform(0.15, 0.4, 25)

            def shown(level: np.ndarray, wrong: np.ndarray = wrong) -> np.ndarray:
                return np.asarray(np.round(100 * (level + np.interp(level, grid, wrong))) / 100)

            kwh = 55.0 * (0.8 - low) * draw.normal(1, 0.005, 25)
            month = np.zeros(25, dtype=int)
            (found,) = monthly(Ordinary(month=month, soc_one=shown(low), soc_other=shown(np.full(25, 0.8)), kwh=kwh))
            off.append((found.kwh - 55.0) / found.sigma_kwh)
            like.append(found.like_soc)
        self.assertTrue(0.85 <= float(np.mean(np.abs(off) <= Z90)) <= 0.95)
        self.assertTrue(0.35 <= float(np.mean(like)) <= 0.55, "half of the 90 % of a whole test")
