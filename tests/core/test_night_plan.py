"""The night plan: windows, faults, warm-up and what it says."""

import unittest
from dataclasses import replace
from datetime import UTC, datetime, time, timedelta
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo

from scipy.integrate import solve_ivp

from frost_tally.core.battery.cold import Chemistry, charge_limit_kw, regen_acceptance, resistance_factor, usable_fraction
from frost_tally.core.car import HEATER_TO_PACK, PARKED_W_PER_K, OnboardCharger, preset
from frost_tally.core.charge.night import NightPlan, NightRequest, plan
from frost_tally.core.charge.session import simulate
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.charge.tariff import EVERY_DAY, Band, Tariff, two_band
from frost_tally.core.errors import OutOfRange, Refusal
from frost_tally.core.heat.around import ParkedAir
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.why import why

OSLO = ZoneInfo("Europe/Oslo")
CAR = replace(preset("compact_hatch"), charger=OnboardCharger(32, 1, 7.4))
CHEAP_NIGHT = two_band("t", "Europe/Oslo", 0.1, dear=0.3, start=time(22, 30), end=time(6))
EVENING = datetime(2027, 1, 14, 18, tzinfo=OSLO)
WALL = Supply(name="wall", voltage_v=230, phases=1, breaker_a=32)


def at(hour: int, minute: int = 0, day: int = 14) -> datetime:
    return datetime(2027, 1, day, hour, minute, tzinfo=OSLO)


def request(**changes: Any) -> NightRequest:
    supply = changes.pop("supply", WALL)
    base = NightRequest(
        now=EVENING,
        plug_in=EVENING,
        departure=at(7, 0, 15),
        soc=0.4,
        target_soc=0.8,
        car=CAR,
        rate=charge_rate(supply, CAR),
        tariff=CHEAP_NIGHT,
        ambient_c=lambda _: 10.0,
        pack_c=15.0,
    )
    return replace(base, **changes)


class Windows(unittest.TestCase):
    def spans(self, made: NightPlan) -> list[tuple[str, str]]:
        return [(b.start.astimezone(OSLO).strftime("%H:%M"), b.end.astimezone(OSLO).strftime("%H:%M")) for b in made.blocks]

    def test_nothing_before_the_cheap_hours_and_done_when_they_end(self) -> None:
        """Common practice: cheap 22:30–06:00, plug in 18:00, depart 07:00."""
        made = plan(request())
        self.assertGreaterEqual(made.blocks[0].start, at(22, 30))
        self.assertLess(at(6, 0, 15) - made.blocks[-1].end, timedelta(minutes=1))
        self.assertAlmostEqual(max(step.soc for step in made.session.steps), 0.8, delta=1e-4)
        self.assertLess(made.cost, made.cost_at_once)
        self.assertLessEqual(made.cost_at_once, made.cost_dearest + 1e-9)

    def test_dear_winter_mornings_are_left_alone_unless_needed(self) -> None:
        """Common practice: no draw in 06–09 unless the target needs it."""
        bands = (Band("dear", 0.5, time(6), time(9), EVERY_DAY), Band("rest", 0.2, time(9), time(6), EVERY_DAY))
        morning = Tariff(name="m", zone="Europe/Oslo", bands=bands)
        easy = plan(request(tariff=morning, departure=at(9, 0, 15)))
        self.assertTrue(all(b.end <= at(6, 0, 15) for b in easy.blocks))
        hard = plan(request(tariff=morning, departure=at(9, 0, 15), plug_in=at(4, 0, 15), soc=0.1))
        self.assertTrue(any(b.end > at(6, 0, 15) for b in hard.blocks))

    def test_an_equal_night_is_planned_once_and_no_other_is_taken_for_it(self) -> None:
        start = EVENING.astimezone(UTC)
        frost, mild = (request(ambient_c=ParkedAir(start, (each,) * 30), pack_c=0.0) for each in (-9.0, 9.0))
        self.assertIs(plan(frost), plan(replace(frost, ambient_c=ParkedAir(start, (-9.0,) * 30))))
        self.assertGreater(plan(frost).cost, plan(mild).cost)
        twice = datetime(2027, 10, 31, 2, 30, tzinfo=OSLO)
        hours = [
            plan(request(now=each, plug_in=each, departure=twice.replace(hour=9))) for each in (twice, twice.replace(fold=1))
        ]
        self.assertEqual(hours[1].start - hours[0].start, timedelta(hours=1))

    def test_the_clock_change_nights_reach_the_target(self) -> None:
        """IANA zone rules: the 2027 changes in Europe/Oslo."""
        for evening, hours in ((datetime(2027, 3, 27, 18, tzinfo=OSLO), 12), (datetime(2027, 10, 30, 18, tzinfo=OSLO), 14)):
            departure = evening.replace(hour=7) + timedelta(days=1)
            made = plan(
                request(now=evening, plug_in=evening, departure=departure, choice=WarmUpChoice.CABIN, ambient_c=lambda _: 8.0)
            )
            self.assertAlmostEqual(made.session.steps[-1].at_s, 3600 * hours, delta=1e-3)
            self.assertAlmostEqual((departure.astimezone(UTC) - made.warm_start).total_seconds(), made.warm.lead_s, delta=1e-3)
            self.assertEqual(made.blocks[-1].end.astimezone(OSLO).strftime("%d %H"), f"{departure.day} 05")
            made = plan(request(now=evening, plug_in=evening, departure=departure))
            self.assertAlmostEqual(max(s.soc for s in made.session.steps), 0.8, delta=1e-4)
            self.assertAlmostEqual(sum(b.wall_kwh for b in made.blocks), made.session.wall_kwh, delta=1e-6)
            self.assertAlmostEqual(made.cost, 0.1 * made.session.wall_kwh, delta=1e-6)

    def test_the_price_of_the_plan_is_that_of_its_blocks(self) -> None:
        made = plan(request(choice=WarmUpChoice.CABIN_AND_PACK, ambient_c=lambda _: -10.0))
        self.assertAlmostEqual(made.cost, sum(b.cost for b in made.blocks) + made.warm_cost, delta=1e-6)

    def test_early_and_late_cost_the_same(self) -> None:
        late, early = plan(request()), plan(request(tie_break="early"))
        self.assertAlmostEqual(late.cost, early.cost, delta=0.02)
        self.assertEqual(early.blocks[0].start, at(22, 30))


class Faults(unittest.TestCase):
    def test_a_window_too_short_comes_close_and_says_how_short(self) -> None:
        made = plan(request(plug_in=at(5, 30, 15), soc=0.1))
        self.assertGreater(made.short_soc, 0.3)
        self.assertEqual(made.reason.code, "weak_outlet")
        self.assertGreater(made.soc_departure, 0.1)

    def test_an_outlet_too_weak_names_what_holds_it(self) -> None:
        made = plan(request(supply=Supply(name="socket", voltage_v=230, phases=1, breaker_a=16, cable_a=6), soc=0.1))
        self.assertIn(("limit", "lead"), made.reason.values)
        self.assertGreater(made.short_soc, 0)

    def test_plugged_in_after_departure_is_a_reason_not_a_crash(self) -> None:
        made = plan(request(plug_in=at(8, 0, 15), choice=WarmUpChoice.CABIN))
        self.assertEqual(made.blocks, ())
        self.assertEqual(made.reason.code, "no_window")
        self.assertEqual(made.warm.wall_kwh, 0.0)

    def test_a_level_above_the_limit_needs_nothing(self) -> None:
        made = plan(request(soc=0.9))
        self.assertEqual((made.blocks, made.short_soc, made.reason), ((), 0.0, why("at_the_limit")))

    def test_a_departure_in_the_past_is_refused_at_its_field(self) -> None:
        with self.assertRaises(Refusal) as refused:
            plan(request(departure=at(17)))
        self.assertEqual(refused.exception.field, "depart")

    def test_levels_out_of_range_are_refused(self) -> None:
        for changes, field in (({"soc": 1.2}, "soc_now"), ({"target_soc": 0.05}, "limit")):
            with self.assertRaises(OutOfRange) as refused:
                plan(request(**changes))
            self.assertEqual(refused.exception.field, field)


class Cold(unittest.TestCase):
    def test_warm_up_ends_at_departure_and_charging_is_done_before(self) -> None:
        made = plan(request(ambient_c=lambda _: -12.0, pack_c=-5.0, choice=WarmUpChoice.CABIN_AND_PACK, soc=0.1))
        self.assertAlmostEqual((made.request.departure - made.warm_start).total_seconds(), made.warm.lead_s, delta=1)
        self.assertTrue(all(b.end <= made.warm_start + timedelta(seconds=1) for b in made.blocks))
        self.assertAlmostEqual(made.warm.cabin_c, 20.0, delta=1e-6)

    def test_a_soaked_pack_is_heated_before_it_charges(self) -> None:
        cold = plan(request(ambient_c=lambda _: -15.0, pack_c=-15.0))
        mild = plan(request())
        self.assertGreater(cold.session.heating_kwh, 1.0)
        self.assertGreater(cold.cost, mild.cost)
        self.assertAlmostEqual(max(s.soc for s in cold.session.steps), 0.8, delta=1e-3)

    def test_cold_cells(self) -> None:
        """Handbook tables, from memory, typical of cell data sheets; regen by common practice."""
        self.assertEqual([round(float(usable_fraction(t, Chemistry.NMC)), 2) for t in (25, 0, -10, -20)], [1.0, 0.95, 0.9, 0.82])
        self.assertEqual([round(float(usable_fraction(t, Chemistry.LFP)), 2) for t in (25, 0, -10, -20)], [1.0, 0.9, 0.8, 0.66])
        self.assertEqual([float(regen_acceptance(t, 0.5)) for t in (-10, 5, 20)], [0.0, 0.5, 1.0])
        self.assertEqual(float(regen_acceptance(20, 1.0)), 0.0)
        self.assertEqual(charge_limit_kw(-10.0, Chemistry.NMC, 60), 0.0)
        self.assertEqual(charge_limit_kw(0.0, Chemistry.NMC, 60), float("inf"))


HATCH = preset("compact_hatch")
FROSTY = {
    "ambient_c": lambda _: -18.0,
    "pack_c": 6.0,
    "car": HATCH,
    "rate": charge_rate(Supply(name="w", voltage_v=230, phases=3, breaker_a=16), HATCH),
}


class Frost(unittest.TestCase):
    FLAT = Tariff(name="f", zone="Europe/Oslo", bands=(Band("all", 0.25, time(0), time(0), EVERY_DAY),))

    def test_a_pack_that_is_warm_now_is_charged_before_it_cools_and_the_rivals_are_told(self) -> None:
        made = plan(request(**FROSTY, tariff=self.FLAT))
        assert made.late
        assert made.cheapest
        self.assertGreater(made.late.start - made.blocks[0].start, timedelta(hours=4))
        self.assertGreater(made.late.cost, made.cost + 0.05)
        self.assertGreater(made.late.pack_c, made.warm.pack_c + 5)
        self.assertAlmostEqual(made.cheapest.cost, made.cost, delta=0.005 * made.cost)
        self.assertIsNone(plan(request()).late)

    def test_warmth_that_the_day_needs_may_cost_more_at_the_wall(self) -> None:
        """A day that takes much more with a cold pack: the late plan is kept and says what its warmth is worth."""
        dear = plan(request(**FROSTY, tariff=self.FLAT, morning_kwh=lambda pack_c: 0.4 * max(0.0, 15.0 - pack_c)))
        plain = plan(request(**FROSTY, tariff=self.FLAT))
        assert dear.cheapest
        self.assertGreater(dear.cost, plain.cost + 0.02)
        self.assertGreater(dear.warm.pack_c, plain.warm.pack_c + 5)
        self.assertGreater(dear.cheapest.warmth_worth, dear.cost - dear.cheapest.cost)

    def test_comparisons_are_plans_to_the_same_level_with_their_own_heat(self) -> None:
        for air_c in (10.0, -20.0):
            made = plan(request(**FROSTY | {"ambient_c": lambda _, air_c=air_c: air_c}))
            ask = made.request
            at_once = simulate(
                ask.car,
                ask.rate,
                ask.soc,
                ask.target_soc,
                ask.pack_c,
                [(0.0, 4 * 3600.0)],
                13 * 3600.0,
                lambda _, air_c=air_c: air_c,  # type: ignore[misc]
            )
            self.assertAlmostEqual(made.cost_at_once, 0.3 * at_once.wall_kwh, delta=1e-6)
            self.assertGreaterEqual(made.cost_dearest, made.cost_at_once - 0.02)

    def test_one_price_of_a_kwh_in_the_pack(self) -> None:
        made = plan(request(choice=WarmUpChoice.CABIN))
        self.assertAlmostEqual(made.price_in_pack, (made.cost - made.warm_cost) / made.session.pack_kwh, delta=5e-7)
        self.assertAlmostEqual(plan(request(soc=0.8)).price_in_pack, 0.1 / 0.93, delta=5e-7)

    def test_a_cold_session_against_a_fine_solver(self) -> None:
        """Source: scipy.integrate.solve_ivp, within 0.05 K: heater, waste heat and leak, below, on and above the threshold."""
        car, rate = HATCH, charge_rate(Supply(name="w", voltage_v=230, phases=3, breaker_a=16), HATCH)
        for supply_kw in (rate.wall_kw, 2.3):
            weak = replace(rate, wall_kw=supply_kw)
            done = simulate(car, weak, 0.3, 0.6, -9.0, [(0.0, 20000.0)], 20000.0, lambda _: -18.0)
            pack_c = -9.0
            for before, now in pairwise(done.steps):
                span = now.at_s - before.at_s
                behind_kw = weak.efficiency * (now.wall_kw - weak.overhead_kw) if now.wall_kw > 0 else 0.0
                heat_w = 1000 * HEATER_TO_PACK * (behind_kw - now.pack_kw)

                def slope(_t: float, at: list[float], kw: float = now.pack_kw, heat_w: float = heat_w) -> list[float]:
                    waste = car.pack.resistance_ohm * float(resistance_factor(at[0])) * (1000 * kw / 360.0) ** 2
                    waste += 0.3 * 1000 * kw * (1 / 0.93 - 1)
                    return [(heat_w + waste - PARKED_W_PER_K * (at[0] + 18.0)) / car.pack.capacity_j_per_k]

                pack_c = float(solve_ivp(slope, (0, span), [pack_c], rtol=1e-8, atol=1e-8).y[0][-1])
                self.assertAlmostEqual(now.pack_c, pack_c, delta=0.05)
            self.assertGreater(done.heating_kwh, 0.5)
            self.assertAlmostEqual(done.wall_kwh, done.pack_kwh + done.heating_kwh + done.lost_kwh, delta=1e-9)


class Schools(unittest.TestCase):
    def test_among_equal_hours_the_latest_the_earliest_or_the_coolest(self) -> None:
        """A summer night at one price, coolest at three: the same bill for the same level in each school."""
        flat = Tariff(name="f", zone="Europe/Oslo", bands=(Band("all", 0.25, time(0), time(0), EVERY_DAY),))
        coolest = at(18) + timedelta(hours=9)
        air = lambda moment: 18.0 + 0.5 * abs((moment - coolest).total_seconds()) / 3600  # noqa: E731
        made = {
            school: plan(request(tariff=flat, ambient_c=air, pack_c=20.0, tie_break=school))
            for school in ("late", "early", "cool")
        }
        self.assertLess(made["early"].blocks[0].start, made["cool"].blocks[0].start)
        self.assertLess(made["cool"].blocks[0].start, made["late"].blocks[0].start)
        cool = made["cool"].blocks[0]
        self.assertLess(abs((cool.start + (cool.end - cool.start) / 2 - coolest).total_seconds()), 1800.0)
        for each in made.values():  # what waits charged has lost a little more by morning
            kwh = each.request.car.pack.usable_kwh * (each.soc_departure - made["late"].soc_departure)
            self.assertAlmostEqual(each.cost - each.price_in_pack * kwh, made["late"].cost, delta=0.02)
