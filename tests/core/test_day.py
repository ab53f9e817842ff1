"""The day: the fan, levers, speeds, ratings, and what is learnt from logged days."""

import unittest
from dataclasses import replace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import norm
from scipy.stats import t as student

from frost_tally.core.advice.remedies import REMEDIES, Situation, remedies
from frost_tally.core.car import Car, Factors, preset
from frost_tally.core.drive import shapley as shapley_module
from frost_tally.core.drive.certainty import TAIL, LevelBand, along, arrival, odd, own_days
from frost_tally.core.drive.day import Charge, Drive, Leg, Outcome, Park, Road, Start, Trip
from frost_tally.core.drive.extras import Extras
from frost_tally.core.drive.learn import learn, learn_pack_heat
from frost_tally.core.drive.rating import dashboard_km
from frost_tally.core.drive.replay import Days, Habit, replay, replayed
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.shapley import sampling_error, shapley, subsets
from frost_tally.core.drive.speeds import speed_view
from frost_tally.core.drive.tally import fair_tally
from frost_tally.core.drive.trip import simulate
from frost_tally.core.drive.usual import ended
from frost_tally.core.errors import OutOfRange, Refusal
from frost_tally.core.heat.warm import WarmUpChoice

CAR = preset("compact_hatch")
OUT = (Drive(Road.TOWN, 4), Drive(Road.COUNTRY, 22), Drive(Road.MOTORWAY, 30, 110))
DAY = Trip((*OUT, Park(8), *reversed(OUT)))
ON_CAR = Extras(True, True, True, True, True)
FROST = Conditions(ambient_c=-12.0, cabin_set_c=20.0, tyre_gauge_kpa=228.0)
START = Start(0.8, -8.0, 20.0)
ERRORS = (0.08, 0.05, 0.11, 0.07, 0.09, 0.06, 0.08, 0.1)


def situation(**changes: Any) -> Situation:
    return replace(
        Situation(
            car=CAR,
            trip=DAY,
            conditions=FROST,
            start=START,
            extras=Extras(),
            warmed=WarmUpChoice.CABIN,
            wall_kw=11.0,
            price_in_pack=0.12,
            morning_price=0.30,
            later_c=-5.0,
            limit_soc=0.8,
        ),
        **changes,
    )


class Fan(unittest.TestCase):
    def test_it_ends_where_the_arrival_band_does_and_opens_on_the_way(self) -> None:
        known = own_days(ERRORS, CAR.factors)
        points = along(known.of(CAR), DAY, FROST, START, known)
        band = arrival(known.of(CAR), DAY, FROST, START, known)
        self.assertAlmostEqual(points[-1].level.low, band.low, delta=1e-9)
        self.assertAlmostEqual(points[-1].level.high, band.high, delta=1e-9)
        widths = [point.level.high - point.level.low for point in points if not point.parked]
        self.assertEqual(widths, sorted(widths))
        self.assertEqual([point.km for point in points][-1], DAY.distance_km)
        self.assertGreater(points[4].hours - points[3].hours, 7.9)

    def test_a_warm_second_trip_costs_less_than_two_cold_ones(self) -> None:
        """Common practice: an errand from a soaked car uses more for heat; a second soon after starts warm."""
        errand = (Drive(Road.COUNTRY, 20),)
        soaked = Start(0.8, -12.0, -12.0)
        day = Trip((*errand, Park(0.2), *errand, Park(72), *errand))
        first, rest, soon, parked, later = (float(end.soc_used[0]) for end in simulate(CAR, day, FROST, soaked).ends)
        self.assertLess(soon - rest, 0.85 * first)
        self.assertAlmostEqual((later - parked) / first, 1, delta=0.05)


class Tabulated(unittest.TestCase):
    def test_the_pack_after_a_usual_day_is_that_of_the_day_itself(self) -> None:
        for air_c in (-31.4, -12.7, -0.3, 6.4, 21.5, 33.3):
            at = simulate(CAR, DAY, Conditions(ambient_c=air_c), Start(1.0, air_c, air_c))
            end_c, hours = ended(CAR, DAY, air_c)
            self.assertAlmostEqual(end_c, float(at.end_pack_c[0]), delta=0.15)
            self.assertAlmostEqual(hours, float(at.ends[-1].hours[0]), delta=1e-3)


class Levers(unittest.TestCase):
    def test_all_that_can_be_done_is_ranked_by_gain_per_effort(self) -> None:
        laden = situation(
            extras=ON_CAR, conditions=replace(FROST, drag_factor=ON_CAR.drag_factor, style=1.2), start=Start(0.8, -10, -10)
        )
        found = remedies(laden)
        self.assertEqual({lever.key for lever in found}, set(REMEDIES) - {"motor_brakes", "pack_cold"})
        blends = remedies(replace(laden, car=laden.car.with_values({"friction_share": 0.4, "drive_heat_off": True})))
        self.assertEqual({lever.key for lever in blends}, set(REMEDIES))
        self.assertEqual([lever.worth for lever in found], sorted((lever.worth for lever in found), reverse=True))
        by = {lever.key: lever for lever in found}
        self.assertGreater(by["slower_10"].gain_soc, by["slower_5"].gain_soc)
        self.assertGreater(by["slower_10"].minutes, by["slower_5"].minutes)
        self.assertGreater(by["preheat"].cost, 0.05)
        self.assertAlmostEqual(by["limit"].gain_soc, 0.1, delta=0.01)

    def test_what_cannot_be_done_is_not_offered(self) -> None:
        keys = {
            lever.key
            for lever in remedies(
                situation(conditions=Conditions(ambient_c=20.0), trip=Trip((Drive(Road.TOWN, 20),)), limit_soc=1.0, later_c=20.0)
            )
        }
        self.assertEqual(keys, {"gentle"})


class Speeds(unittest.TestCase):
    def test_faster_takes_more_and_saves_minutes(self) -> None:
        view = speed_view(CAR, DAY, FROST, START, range(80, 141, 10))
        self.assertTrue((np.diff(view.arrival_soc) < 0).all())
        self.assertTrue((np.diff(view.minutes) < 0).all())
        self.assertAlmostEqual(float(view.minutes[3]), 0.0, delta=1e-9)
        self.assertAlmostEqual(float(view.minutes[1]), 60 * (60 / 90 - 60 / 110), delta=0.5)
        with self.assertRaisesRegex(OutOfRange, "The day has no motorway"):
            speed_view(CAR, Trip((Drive(Road.TOWN, 5),)), FROST, START, [90])


class Ratings(unittest.TestCase):
    def test_schemes_differ_by_ten_to_twenty_per_cent_and_neither_knows_tomorrow(self) -> None:
        """Handbook: two rating schemes differ by 10–20 %."""
        rated = dashboard_km(CAR, 0.8)
        self.assertTrue(1.1 <= rated.procedure_km / rated.label_km <= 1.2)
        used = float(simulate(CAR, DAY, FROST, START).soc_used[0])
        self.assertGreater(rated.label_km, 0.8 / used * DAY.distance_km)
        self.assertTrue(150 < rated.label_km < 350)


class Learning(unittest.TestCase):
    TRUE = Factors(base=1.08, heat=1.3, cold=0.8)

    def logged(self, count: int, bad: int = 0, noise: float = 0.03) -> Days:
        """Days of a car whose own factors are known here, with some rows that are nonsense."""
        draw = np.random.default_rng(7)
        km, air = draw.uniform(40, 150, count), draw.uniform(-18, 22, count)
        own = replace(CAR, factors=self.TRUE)
        used = replayed(own, DAY, Days(km=km, air_c=air, soc_used=km), Habit(WarmUpChoice.CABIN)) * draw.normal(1, noise, count)
        used[draw.choice(count, bad, replace=False)] = draw.uniform(0.0, 0.95, bad)
        return Days(km=km, air_c=air, soc_used=used)

    def test_the_factors_come_back_and_the_held_back_error_falls(self) -> None:
        learnt = learn(CAR, DAY, self.logged(160, 12), WarmUpChoice.CABIN)
        self.assertAlmostEqual(learnt.factors.base, 1.08, delta=0.03)
        estimates = zip(
            (learnt.factors.base, learnt.factors.heat, learnt.factors.cold), (1.08, 1.3, 0.8), learnt.sigma, strict=True
        )
        self.assertTrue(all(abs(mine - true) < 2.5 * sigma for mine, true, sigma in estimates), learnt)
        self.assertLess(learnt.error_after, 0.6 * learnt.error_before)
        self.assertTrue(6 <= learnt.rejected <= 16, learnt.rejected)
        self.assertGreater(learnt.known[0], 0.9)

    def test_few_days_stay_near_the_model_and_too_few_are_refused(self) -> None:
        few, many = learn(CAR, DAY, self.logged(9), WarmUpChoice.CABIN), learn(CAR, DAY, self.logged(160), WarmUpChoice.CABIN)
        self.assertTrue(all(a > b for a, b in zip(few.sigma, many.sigma, strict=True)))
        with self.assertRaisesRegex(Refusal, "8 noted days are needed"):
            learn(CAR, DAY, self.logged(5), WarmUpChoice.CABIN)

    def test_pack_heating_is_learnt_from_trips_with_their_kwh_alone(self) -> None:
        """Trips made by a car whose heater takes half as much again; some rows are nonsense, on most days nobody noted the kWh."""
        draw, count = np.random.default_rng(11), 60
        km, air = draw.uniform(10, 60, count), draw.uniform(-18, 10, count)
        own, habit = replace(CAR, factors=Factors(pack_heat=1.5)), Habit(WarmUpChoice.CABIN)
        days = Days(km=km, air_c=air, soc_used=km)
        done = replay(own, DAY, days, habit)
        kwh = done.energy_kwh * draw.normal(1, 0.02, count)
        kwh[draw.choice(count, 35, replace=False)] = np.nan
        kwh[np.flatnonzero(np.isfinite(kwh))[:2]] = 60.0
        told = replace(days, soc_used=done.soc_used, kwh=kwh)
        factor, trips = learn_pack_heat(CAR, DAY, told, habit)
        self.assertAlmostEqual(factor, 1.5, delta=0.12)
        self.assertTrue(8 <= trips <= 25, trips)
        self.assertEqual(learn_pack_heat(CAR, DAY, replace(told, kwh=None), habit), (1.0, 0))
        cold = CAR.with_values({"drive_heat_to_c": None})
        self.assertEqual(learn_pack_heat(cold, DAY, told, habit), (1.0, 0), "a car that does not heat its pack")


class Bands(unittest.TestCase):
    def band(self, errors: tuple[float, ...], car: Car = CAR) -> LevelBand:
        known = own_days(errors, car.factors)
        return arrival(known.of(car), DAY, FROST, START, known)

    def width(self, errors: tuple[float, ...], car: Car = CAR) -> float:
        band = self.band(errors, car)
        return band.high - band.low

    def test_the_owners_days_centre_the_band_and_narrow_it(self) -> None:
        plain, mine = self.band(()), self.band(ERRORS * 3)
        self.assertAlmostEqual((plain.likely - mine.likely) / (START.soc - plain.likely), 0.08, delta=0.005)
        self.assertLess(self.width(ERRORS * 3), 0.6 * self.width(()))
        self.assertEqual(self.band((0.3, 0.2)), plain)

    def test_one_row_noted_wrongly_changes_next_to_nothing(self) -> None:
        usual = tuple(np.random.default_rng(5).normal(0.08, 0.03, 24))
        right, wrong = (self.band((*usual, last)) for last in (0.08, 4.0))
        for a, b in zip((right.low, right.likely, right.high), (wrong.low, wrong.likely, wrong.high), strict=True):
            self.assertAlmostEqual(a, b, delta=0.004)

    def test_a_day_far_off_its_plan_is_odd_and_a_usual_miss_is_not(self) -> None:
        planned = LevelBand(0.28, 0.31, 0.34)
        self.assertEqual([odd(used, 0.49, planned) for used in (0.49, 0.55, 0.60, 0.64, 0.36)], [False, False, False, True, True])

    def test_learning_narrows_what_is_not_known(self) -> None:
        learnt = learn(CAR, DAY, Learning().logged(160), WarmUpChoice.CABIN).factors
        known = replace(CAR, factors=replace(learnt, base=1.0, heat=1.0, cold=1.0))
        self.assertLess(self.width((), known), 0.5 * self.width(()))
        errors = tuple(np.random.default_rng(3).normal(0.0, learnt.day_sigma, 12))
        self.assertLess(self.width(errors, known), self.width(errors))

    def test_the_owners_days_are_bayes_and_students(self) -> None:
        """By hand: bias τ²n/(τ²n + s²) of the median, its doubt τ²s²/(τ²n + s²) and a tenth of τ; t of 2 + n − 1 degrees (scipy)."""
        found, prior = (
            own_days((0.02, 0.04, 0.06, 0.03, 0.05), Factors()),
            (0.75 * 0.1) ** 2 + (0.2 * 0.3) ** 2 + (0.05 * 0.3) ** 2,
        )
        day = (2 * 0.05**2 + 5 * (1.4826 * 0.01) ** 2) / 7
        self.assertAlmostEqual(found.day_sigma**2, day, delta=1e-12)
        self.assertAlmostEqual(found.bias, 0.04 * 5 * prior / (5 * prior + day), delta=1e-12)
        self.assertAlmostEqual((found.bias_sigma or 0.0) ** 2, prior * day / (5 * prior + day) + 0.01 * prior, delta=1e-12)
        self.assertAlmostEqual(found.away, float(student.ppf(TAIL, 6)), delta=1e-12)
        self.assertAlmostEqual(own_days((), Factors()).away, float(norm.ppf(TAIL)), delta=1e-9)

    def test_the_tally_ends_where_the_band_lies(self) -> None:
        known = own_days(ERRORS * 3, CAR.factors)
        tally = fair_tally(known.of(CAR), DAY, FROST, START)
        likely = self.band(ERRORS * 3).likely
        self.assertAlmostEqual(DAY.distance_km * (START.soc - 0.1) / (START.soc - likely), tally.expected_km, delta=0.1)
        own = next(step.lost_km for step in tally.steps if step.cause.key == "own")
        self.assertGreater(own, 0.05 * tally.expected_km)


class OnlyWorse(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(-25, 12), st.floats(70, 130), st.floats(0, 300), st.floats(180, 250), st.floats(0, 12))
    def test_colder_faster_heavier_softer_and_headwind_never_give_more_range(
        self, air: float, kmh: float, load: float, gauge: float, head: float
    ) -> None:
        """All else equal, below the set temperature; a fact of physics in these ranges."""
        start = Start(0.8, air, air)

        def used(air_c: float = air, speed: float = kmh, load_kg: float = load, kpa: float = gauge, wind: float = head) -> float:
            at = Conditions(ambient_c=air_c, cabin_set_c=20.0, load_kg=load_kg, tyre_gauge_kpa=kpa, headwind_mps=wind)
            return float(simulate(CAR, DAY.at_motorway_speed(speed), at, replace(start, pack_c=air_c, cabin_c=air_c)).soc_used[0])

        base = used()
        for worse in (used(air_c=air - 3), used(load_kg=load + 60), used(kpa=gauge - 15), used(wind=head + 2)):
            self.assertGreaterEqual(worse, base - 1e-9)
        if kmh >= 90:
            self.assertGreaterEqual(used(speed=kmh + 5), base - 1e-9)


class Sampled(unittest.TestCase):
    def test_the_sampling_error_is_what_the_sample_misses_by(self) -> None:
        """Against the exact value over all 4096 subsets of a game in which causes work in threes."""
        weights = np.linspace(0.5, 1.6, 12)

        def game(masks: Any) -> Any:
            return (masks @ weights)[:, None] ** 3

        exact = (shapley_module._weights(12) @ game(shapley_module._all_masks(12)))[:, 0]
        values = game(subsets(12))
        sampled, error = shapley(values, 12)[:, 0], float(sampling_error(values, 12)[0])
        self.assertAlmostEqual(float(sampled.sum()), float(values[-1, 0]), delta=1e-9)
        self.assertGreater(error, 0.0)
        self.assertLess(float(np.abs(sampled - exact).max()), 4 * error)
        self.assertEqual(float(sampling_error(np.zeros((4, 1)), 2)[0]), 0.0)


class ChargingOnTheWay(unittest.TestCase):
    FAR = (Drive(Road.MOTORWAY, 120, 110),)

    def level(self, *stand: Leg, start: Start = START) -> tuple[float, Outcome]:
        done = simulate(CAR, Trip((*self.FAR, *stand, *self.FAR)), FROST, start)
        return start.soc - float(done.soc_used[0]), done

    def test_what_is_put_in_is_there_at_the_end_and_a_full_pack_takes_no_more(self) -> None:
        """Conservation: level used = level driven − level charged, to 1e-9; the pack's heat balance closes."""
        none, plain = self.level(Charge(1.0, 0.0))
        some, done = self.level(Charge(1.0, 7.0))
        gained = 7.0 / CAR.pack.usable_kwh
        self.assertAlmostEqual(float(done.ends[-1].charged_soc[0]), gained, delta=1e-9)
        self.assertAlmostEqual(some - none, gained, delta=0.004)  # a warmer pack gives a little more afterwards
        self.assertGreater(float(done.ends[1].pack_c[0]), float(plain.ends[1].pack_c[0]))
        balance = done.heat_in_j - done.leaked_j - done.stored_j
        self.assertLess(abs(float(balance[0])), 1e-6 * float(done.heat_in_j[0]))
        full, filled = self.level(Charge(8.0, 50.0, to_soc=0.8))
        self.assertAlmostEqual(START.soc - float(filled.ends[1].soc_used[0]), 0.8, delta=1e-6)
        self.assertLess(full, 0.8)

    def test_a_frozen_pack_takes_little(self) -> None:
        """The handbook's cold charging limit: a pack below the freezing threshold takes a fraction of what is offered."""
        cold = Start(0.5, -15.0, -15.0)
        short = Trip((Charge(0.5, 50.0), Drive(Road.TOWN, 1)))
        frozen = simulate(CAR, short, FROST, cold).ends[0].charged_soc[0]
        warm = simulate(CAR, short, FROST, Start(0.5, 20.0, -15.0)).ends[0].charged_soc[0]
        self.assertLess(float(frozen), 0.3 * float(warm))

    def test_any_number_of_legs(self) -> None:
        many = Trip(tuple(leg for _ in range(12) for leg in (Drive(Road.TOWN, 2), Park(0.5), Charge(0.25, 3.0))))
        done = simulate(CAR, many, FROST, START)
        self.assertEqual((len(done.ends), done.distance_km), (36, 24.0))
        self.assertAlmostEqual(float(done.ends[-1].hours[0]), float(done.hours[0]) + 12 * 0.75, delta=1e-9)
