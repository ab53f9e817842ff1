"""Warming up: the course against a fine solver, conservation, and the verdicts that the trade agrees on."""

import unittest
from dataclasses import replace
from datetime import UTC, timedelta
from itertools import pairwise, product
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp

from frost_tally.core.advice.choices import PLACES
from frost_tally.core.advice.warm_up import Advice, advise, courses
from frost_tally.core.car import CABIN_J_PER_K, CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, Preheats, preset
from frost_tally.core.charge.night import NightRequest, plan
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.drive.outing import Outing
from frost_tally.core.drive.road import Conditions
from frost_tally.core.errors import OutOfRange
from frost_tally.core.heat.lumped import missing_ks, warm_and_hold
from frost_tally.core.heat.warm import WarmUpChoice, held_kwh, warm_up, warm_ups
from scripts.verdict_map import EVENING, PANELS, PRICES, TEMPS_C, advice_at

WALL, SOCKET = (
    Supply(name="w", voltage_v=230, phases=3, breaker_a=16),
    Supply(name="s", voltage_v=230, phases=1, breaker_a=16, cable_a=6),
)
BOTH, SEATS, CABIN, LATE = WarmUpChoice.CABIN_AND_PACK, WarmUpChoice.SEATS, WarmUpChoice.CABIN, WarmUpChoice.LATE


def ask(
    air_c: float = -10.0, supply: Supply = WALL, soc: float = 0.55, pack_c: float | None = None, **changes: Any
) -> NightRequest:
    car = changes.pop("car", preset("compact_hatch"))
    departs = EVENING.replace(day=15, hour=7)
    rate = charge_rate(supply, car)
    cold = air_c + 6.0 if pack_c is None else pack_c
    base = NightRequest(
        now=EVENING,
        plug_in=EVENING,
        departure=departs,
        soc=soc,
        target_soc=0.8,
        car=car,
        rate=rate,
        tariff=PRICES,
        ambient_c=lambda _: air_c,
        pack_c=cold,
    )
    return replace(base, **changes)


def advised(request: NightRequest, km: float, trips: int = 2, parked_h: float = 8.0, **more: Any) -> Advice:
    at = Conditions(ambient_c=request.ambient_c(request.departure), cabin_set_c=20.0)
    return advise(
        request, Outing(km=km, town_km=5.0, country_km=20.0, motorway_kmh=110.0, trips=trips, parked_h=parked_h), at, **more
    )


class Course(unittest.TestCase):
    def test_both_temperatures_to_departure_against_a_fine_solver(self) -> None:
        """Source: scipy.integrate.solve_ivp, within 0.05 K, while the air falls through the morning."""
        request = ask(-10.0, ambient_c=lambda at: -8.0 - 2.0 * np.sin((at - EVENING).total_seconds() / 9000.0), soc=0.8)
        advice = advised(request, 40.0)
        night = advice.option(BOTH).plan
        course = courses(advice, 5400.0)[BOTH]
        lead, departs = night.warm.pack.lead_s, (request.departure - EVENING).total_seconds()

        def slope(t: float, y: list[float]) -> list[float]:
            air = request.ambient_c(EVENING + timedelta(seconds=t))
            heat = 1000 * night.warm.pack.heat_kw if t >= departs - lead else 0.0
            return [(heat - PARKED_W_PER_K * (y[0] - air)) / request.car.pack.capacity_j_per_k]

        fine = solve_ivp(slope, (0, departs), [request.pack_c], max_step=30, rtol=1e-8, atol=1e-8, dense_output=True)
        for second, pack_c in zip(course.seconds[:46].tolist(), course.pack_c[:46].tolist(), strict=True):
            self.assertAlmostEqual(pack_c, float(fine.sol(departs + second)[0]), delta=0.05)
        self.assertAlmostEqual(float(course.pack_c[45]), 15.0, delta=1e-6)
        self.assertAlmostEqual(float(course.cabin_c[45]), 20.0, delta=1e-6)

    def test_heat_closes(self) -> None:
        """Conservation: heat in is heat stored and heat leaked, and electricity is what wall and pack gave, to 1e-6."""
        for supply_kw in (0.0, 1.4, 11.0):
            car = preset("compact_hatch")
            done = warm_up(car, BOTH, cabin_c=-14, pack_c=-9, ambient_c=-14, set_c=21, wall_kw=supply_kw, overhead_kw=0.3)
            for each in (done.cabin, done.pack):
                self.assertAlmostEqual(each.heat_kw * each.lead_s / 3600, each.stored_kwh + each.leaked_kwh, delta=1e-6)
            electric = sum(each.electric_kw * each.lead_s / 3600 for each in (done.cabin, done.pack))
            awake = 0.3 * done.lead_s / 3600 if supply_kw > 0 else 0.0
            self.assertAlmostEqual(electric, (done.wall_kwh - awake) * car.charger.efficiency + done.pack_kwh, delta=1e-6)

    def test_many_mornings_are_warmed_as_one_is(self) -> None:
        """On weak and strong sockets, warm and cold packs, short stays: which heater runs longer changes from morning to morning."""
        car, at_c, stay_s = preset("small_van"), np.linspace(-25.0, 25.0, 41), np.linspace(0.0, 4000.0, 41)
        for choice, supply_kw in product(WarmUpChoice, (0.0, 1.4, 11.0)):
            how = {"set_c": 20.0, "wall_kw": supply_kw, "overhead_kw": 0.3}
            many = warm_ups(car, choice, cabin_c=at_c, pack_c=at_c[::-1], ambient_c=at_c, longest_s=stay_s, **how)
            for i in range(0, 41, 4):
                air_c, pack_c = float(at_c[i]), float(at_c[40 - i])
                one = warm_up(car, choice, cabin_c=air_c, pack_c=pack_c, ambient_c=air_c, longest_s=float(stay_s[i]), **how)
                for name, values in (("lead_s", many.lead_s), ("wall_kwh", many.wall_kwh), ("pack_kwh", many.pack_kwh)):
                    self.assertAlmostEqual(float(values[i]), getattr(one, name), delta=1e-9)
                self.assertAlmostEqual(float(many.pack_c[i]), one.pack_c, delta=1e-9)

    def test_the_cold_that_people_feel_against_quadrature(self) -> None:
        """Source: scipy.integrate.quad over the closed-form temperature."""
        for start, heater in ((-12.0, 5000.0), (-12.0, 0.0), (25.0, 0.0), (25.0, 5000.0)):
            held = warm_and_hold(
                start, -12.0, 20.0, heater_w=heater, other_w=0.0, conductance=110.0, capacity=CABIN_J_PER_K, seconds=1500.0
            )

            def below(t: float, start: float = start, heater: float = heater) -> float:
                at = float(
                    warm_and_hold(
                        start, -12.0, 20.0, heater_w=heater, other_w=0.0, conductance=110.0, capacity=CABIN_J_PER_K, seconds=t
                    ).end_c
                )
                return max(0.0, 15.0 - at)

            self.assertAlmostEqual(float(missing_ks(held, 15.0)[1][0]), quad(below, 0, 1500, limit=400)[0], delta=2.0)

    def test_a_car_that_stays_is_held_for_twenty_minutes(self) -> None:
        """Common practice; the energy is the steady loss by hand: cabin 60 W/K × 30 K, pack 10 W/K × 25 K."""
        car = preset("small_van")
        done = warm_up(car, BOTH, cabin_c=-10, pack_c=-5, ambient_c=-10, set_c=20, wall_kw=11.0)
        by_hand = (CABIN_PARKED * 30.0 + PARKED_W_PER_K * 30.0 / HEATER_TO_PACK) / 3000.0
        self.assertAlmostEqual(held_kwh(car, done, -10.0), by_hand, delta=1e-6)


class Verdicts(unittest.TestCase):
    """Common practice, each: what owners in cold places settle on."""

    def test_a_soaked_errand_of_two_kilometres_gets_no_pack_heating(self) -> None:
        advice = advised(ask(8.0, soc=0.8, pack_c=8.0), 2.0)
        self.assertIs(advice.best.choice, SEATS)

    def test_over_ninety_kilometres_in_frost_cabin_and_pack(self) -> None:
        for air_c in (-3.0, -10.0, -20.0):
            for car in ("compact_hatch", "tall_family", "small_van"):
                self.assertIs(advised(ask(air_c, car=preset(car)), 91.0).best.choice, BOTH, (air_c, car))

    def test_several_short_trips_pack_once_before_the_first(self) -> None:
        soaked = ask(-12.0, soc=0.8, pack_c=-12.0, departure=EVENING.replace(day=15, hour=5, minute=30))
        several = advised(soaked, 6.0, trips=5, parked_h=1.0)
        self.assertIs(several.best.choice, BOTH)
        last = courses(several, 5400.0)[BOTH]
        self.assertGreater(float(last.pack_c[-1]), 10.0)
        one, five = (advised(soaked, 6.0, n, 1.0).option(BOTH).parts for n in (1, 5))
        self.assertLess(five["wear"] + five["level"], one["wear"] + one["level"])
        self.assertEqual(five["night"], one["night"])

    def test_unknown_cars_and_those_that_do_not_get_the_cabin(self) -> None:
        base = preset("compact_hatch")
        for preheats in (Preheats.NO, Preheats.UNKNOWN):
            car = replace(base, pack=replace(base.pack, preheats=preheats))
            advice = advised(ask(-10.0, car=car), 100.0)
            self.assertIn(advice.best.choice, (CABIN, LATE))
            self.assertTrue(advice.option(BOTH).reason)

    def test_a_weak_socket_empties_the_pack_while_plugged_in(self) -> None:
        weak, strong = (advised(ask(-12.0, supply=s, soc=0.8), 60.0).option(BOTH).plan for s in (SOCKET, WALL))
        self.assertEqual(strong.warm.pack_kwh, 0.0)
        self.assertGreater(weak.warm.pack_kwh, 1.0)
        before = weak.soc_at(weak.warm_start.astimezone(UTC))
        self.assertAlmostEqual(before - weak.soc_departure, weak.warm.pack_kwh / 58.0, delta=2e-3)

    def test_ice_on_the_screens_speaks_for_a_warm_cabin(self) -> None:
        barn, yard = (advised(ask(-10.0), 3.0, outdoors=out) for out in (False, True))
        self.assertIs(barn.best.choice, SEATS)
        self.assertIs(yard.best.choice, CABIN)

    def test_late_charging_never_buys_the_dear_hours_for_heat(self) -> None:
        """Late means late within the hours the price allows; the pack is no colder for it, and it costs next to nothing."""
        for air_c in (-4.0, -12.0, -22.0):
            for supply in (WALL, SOCKET):
                late, cabin = (plan(replace(ask(air_c, supply=supply), choice=choice)) for choice in (LATE, CABIN))
                self.assertTrue(all(block.end <= EVENING.replace(day=15, hour=6) for block in late.blocks) or late.short_soc > 0)
                self.assertGreaterEqual(late.warm.pack_c, cabin.warm.pack_c - 0.05)
                self.assertLess(late.cost, cabin.cost + 0.12)

    def test_a_weak_socket_never_gets_a_warm_pack_sooner_than_a_wall_unit(self) -> None:
        """Physics: its heat comes out of the pack. Near freezing a wall unit's warm pack pays from 60 to 110 km (common practice)."""
        sockets = (
            Supply(name="1.4", voltage_v=230, phases=1, breaker_a=16, cable_a=6),
            Supply(name="1.8", voltage_v=230, phases=1, breaker_a=16, cable_a=8),
            Supply(name="2.3", voltage_v=230, phases=1, breaker_a=16, cable_a=10),
        )
        for key in ("compact_hatch", "small_van", "tall_family"):
            wall = Supply(
                name="w", voltage_v=230, phases=1 if key == "small_van" else 3, breaker_a=32 if key == "small_van" else 16
            )
            for air_c in (0.0, -5.0, -10.0, -20.0):
                strong = advised(ask(air_c, supply=wall, car=preset(key)), 20.0).pack_from_km
                assert strong
                if air_c >= -5.0:
                    self.assertTrue(60 <= strong <= 110, (key, air_c, strong))
                for socket in sockets:
                    weak = advised(ask(air_c, supply=socket, car=preset(key)), 20.0).pack_from_km
                    self.assertGreaterEqual(weak or 999.0, strong, (key, air_c, socket.name))

    def test_an_errand_in_frost_on_a_weak_socket_leaves_the_pack_cold(self) -> None:
        for air_c in (-5.0, -15.0, -25.0):
            for key in ("compact_hatch", "family_saloon", "small_van"):
                best = advised(
                    ask(air_c, supply=Supply(name="s", voltage_v=230, phases=1, breaker_a=16, cable_a=8), car=preset(key)), 5.0
                ).best.choice
                self.assertIn(best, set(WarmUpChoice) - {BOTH, LATE}, (air_c, key))

    def test_bad_outings_are_refused_at_their_field(self) -> None:
        for km, trips, parked_h, field in ((0.1, 2, 8.0, "km"), (10.0, 13, 8.0, "trips"), (10.0, 2, 99.0, "parked_h")):
            with self.assertRaises(OutOfRange) as refused:
                advised(ask(), km, trips, parked_h)
            self.assertEqual(refused.exception.field, field)


class Map(unittest.TestCase):
    def test_no_islands_and_the_warm_pack_pays_sooner_in_harder_frost(self) -> None:
        """The map of the guide: along each temperature every choice is one run but for single places where choices tie.

        On a weak socket *nothing* may come back where heat is what the day is short of.
        """
        for car, title, supply in PANELS:
            begins = []
            for air_c in TEMPS_C[::3]:
                advice = advice_at(car, supply, float(air_c))
                row = [choice for _, choice in advice.by_km]
                held = [a for a, b, c in zip(row, row[1:], [row[1], *row], strict=False) if a in (b, c)] + row[-1:]
                runs = held[:1] + [b for a, b in pairwise(held) if b is not a]
                if supply.name == "Socket":
                    runs = [each for each in runs if each is not WarmUpChoice.NOTHING]
                self.assertEqual(len(runs), len(set(runs)), (title, air_c, row))
                self.assertEqual(len(row), PLACES)
                if air_c < 6 and supply.name == "Wall unit":
                    self.assertIs(row[-1], BOTH)
                    begins.append(row.index(BOTH))
            self.assertTrue(all(b <= a + 1 for a, b in pairwise(begins)), (title, begins))
            self.assertTrue(not begins or begins[-1] < begins[0], (title, begins))

    def test_a_place_of_the_map_is_the_advice_for_that_trip(self) -> None:
        whole = advice_at("compact_hatch", WALL, -12.0)
        for km, choice in whole.by_km[2::6]:
            one = advice_at("compact_hatch", WALL, -12.0, km)
            self.assertIs(one.best.choice, choice, km)
        assert whole.pack_from_km
        near, far = (advice_at("compact_hatch", WALL, -12.0, whole.pack_from_km * f).best.choice for f in (0.93, 1.07))
        self.assertIsNot(near, BOTH)
        self.assertIs(far, BOTH)

    @settings(max_examples=12, deadline=None)
    @given(air=st.floats(-28, 10), km=st.floats(1, 150), soc=st.floats(0.2, 0.9))
    def test_the_parts_are_the_whole_and_nobody_is_warmed_for_less_than_nothing(self, air: float, km: float, soc: float) -> None:
        advice = advised(ask(air, soc=soc), km)
        nothing = advice.option(WarmUpChoice.NOTHING)
        self.assertEqual(nothing.total, 0.0)
        for each in advice.options:
            self.assertAlmostEqual(each.total, sum(each.parts.values()), delta=1e-12)
            if not each.reason:
                self.assertLessEqual(advice.best.total, each.total + advice.worth.no_matter + 1e-12)
        self.assertLessEqual(advice.option(CABIN).cold_kmin, nothing.cold_kmin + 1e-9)
