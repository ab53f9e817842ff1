"""Lumped temperatures against a fine ODE solver, and warm-up times against the trade."""

import unittest
from dataclasses import replace

from scipy.integrate import solve_ivp

from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.car import CABIN_J_PER_K, CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, PRESETS, Pack, Preheats, preset
from frost_tally.core.errors import Refusal
from frost_tally.core.heat.lumped import lead_to, relax, time_to, warm_and_hold
from frost_tally.core.heat.own_minutes import WarmNote, own_warm_up
from frost_tally.core.heat.warm import WarmUp, WarmUpChoice, warm_up


class ClosedForm(unittest.TestCase):
    def test_warm_and_hold_against_a_fine_solver(self) -> None:
        """Source: scipy.integrate.solve_ivp, within 0.05 K and 1 % of the heat."""
        cases = (
            (-12.0, -12.0, 15.0, 7000.0, 100.0, 25.0, 4e5),
            (-5.0, -20.0, 20.0, 5500.0, 0.0, 110.0, 7.5e4),
            (30.0, -10.0, 15.0, 4000.0, 50.0, 60.0, 7.5e4),
        )
        for start, ambient, target, heater, other, k, c in cases:
            for span in (300.0, 3600.0, 20000.0):
                with self.subTest(start=start, span=span):
                    held = warm_and_hold(
                        start, ambient, target, heater_w=heater, other_w=other, conductance=k, capacity=c, seconds=span
                    )

                    def slope(
                        _t: float, y: list[float], args: tuple[float, ...] = (ambient, target, heater, other, k, c)
                    ) -> list[float]:
                        air, goal, most, extra, loss, store = args
                        give = min(max((goal - y[0]) * store / 5 + loss * (goal - air) - extra, 0.0), most)
                        return [(give + extra - loss * (y[0] - air)) / store, give]

                    fine = solve_ivp(slope, (0, span), [start, 0.0], method="LSODA", max_step=20, rtol=1e-8, atol=1e-8)
                    self.assertAlmostEqual(float(held.end_c), fine.y[0][-1], delta=0.05)
                    self.assertAlmostEqual(float(held.heater_j), fine.y[1][-1], delta=0.01 * fine.y[1][-1] + 50)

    def test_energy_closes(self) -> None:
        """Conservation: heat in less heat leaked is heat stored, to 1e-6."""
        for span in (1.0, 600.0, 50000.0):
            held = warm_and_hold(-15.0, -10.0, 15.0, heater_w=6000.0, other_w=200.0, conductance=25.0, capacity=4e5, seconds=span)
            given = float(held.heater_j) + 200.0 * span
            self.assertAlmostEqual((given - float(held.leaked_j)) / 4e5, float(held.end_c) + 15.0, delta=1e-6)

    def test_long_and_short_steps_agree(self) -> None:
        once, many = relax(20.0, -10.0, 300.0, conductance=10.0, capacity=4e5, seconds=36000.0), 20.0
        for _ in range(360):
            many = float(relax(many, -10.0, 300.0, conductance=10.0, capacity=4e5, seconds=100.0))
        self.assertAlmostEqual(float(once), many, delta=1e-9)
        self.assertEqual(float(time_to(0.0, 50.0, 0.0, power_w=100.0, conductance=10.0, capacity=1e5)), float("inf"))


class LeadTimes(unittest.TestCase):
    def minutes(self, chemistry: Chemistry, kwh: float, start: float, target: float) -> float:
        return (
            float(
                time_to(
                    start,
                    target,
                    start,
                    power_w=7000.0 * HEATER_TO_PACK,
                    conductance=PARKED_W_PER_K,
                    capacity=Pack(chemistry=chemistry, usable_kwh_new=kwh).capacity_j_per_k,
                )
            )
            / 60
        )

    def test_packs_and_cabin(self) -> None:
        """Common practice: NMC −5 → 15 in 20–30 min, LFP −12 → 25 in 45–65 min, cabin −5 → 20 in 8–20 min with each class's heater."""
        self.assertTrue(20 <= self.minutes(Chemistry.NMC, 60, -5, 15) <= 30)
        self.assertTrue(45 <= self.minutes(Chemistry.LFP, 60, -12, 25) <= 65)
        for key in PRESETS:
            heater_w = 1000 * preset(key).cabin.heater_kw
            self.assertTrue(
                8
                <= float(time_to(-5.0, 20.0, -5.0, power_w=heater_w, conductance=CABIN_PARKED, capacity=CABIN_J_PER_K)) / 60
                <= 20,
                key,
            )

    def test_heat_capacities(self) -> None:
        """Handbook: 60 kWh ≈ 0.40 and 0.48 MJ/K; parked time constant about 12 h."""
        self.assertAlmostEqual(Pack(chemistry=Chemistry.NMC, usable_kwh_new=60).capacity_j_per_k, 0.40e6, delta=0.02e6)
        self.assertAlmostEqual(Pack(chemistry=Chemistry.LFP, usable_kwh_new=60).capacity_j_per_k, 0.48e6, delta=0.01e6)
        self.assertAlmostEqual(
            Pack(chemistry=Chemistry.NMC, usable_kwh_new=60).capacity_j_per_k / PARKED_W_PER_K / 3600, 12, delta=2
        )


class WarmUps(unittest.TestCase):
    def warm(self, choice: WarmUpChoice, preheats: Preheats = Preheats.YES, wall_kw: float = 11.0) -> WarmUp:
        base = preset("compact_hatch")
        car = replace(base, pack=replace(base.pack, preheats=preheats))
        return warm_up(car, choice, cabin_c=-10, pack_c=-5, ambient_c=-10, set_c=20, wall_kw=wall_kw, overhead_kw=0.4)

    def test_both_reach_their_targets_at_departure(self) -> None:
        done = self.warm(WarmUpChoice.CABIN_AND_PACK)
        self.assertAlmostEqual(done.cabin_c, 20.0, delta=1e-6)
        self.assertAlmostEqual(done.pack_c, 15.0, delta=1e-6)
        self.assertEqual(done.lead_s, max(done.cabin_lead_s, done.pack_lead_s))
        self.assertEqual(done.pack_kwh, 0.0)

    def test_a_weak_socket_lets_the_level_fall(self) -> None:
        """Common practice: 1.2–2 kW sockets cannot feed the heaters."""
        weak, strong = self.warm(WarmUpChoice.CABIN_AND_PACK, wall_kw=1.4), self.warm(WarmUpChoice.CABIN_AND_PACK)
        self.assertGreater(weak.pack_kwh, 0.5)
        self.assertAlmostEqual(weak.lead_s, strong.lead_s, delta=1e-6)

    def test_unplugged_all_comes_from_the_pack(self) -> None:
        done = self.warm(WarmUpChoice.CABIN, wall_kw=0.0)
        self.assertEqual(done.wall_kwh, 0.0)
        self.assertGreater(done.pack_kwh, 0.2)

    def test_unknown_cars_get_the_cabin_only_and_a_hint(self) -> None:
        for preheats, word in ((Preheats.UNKNOWN, "pack_heat_unknown"), (Preheats.NO, "no_pack_heat")):
            done = self.warm(WarmUpChoice.CABIN_AND_PACK, preheats)
            self.assertEqual(done.pack_lead_s, 0.0)
            self.assertEqual(done.reason.code, word)

    def test_nothing_is_nothing(self) -> None:
        self.assertEqual(self.warm(WarmUpChoice.NOTHING).lead_s, 0.0)


class OwnMinutes(unittest.TestCase):
    """What an owner timed wins over the class's guess (handbook, chapter 04)."""

    PACK = preset("family_saloon").pack

    def test_one_note_sets_the_power_at_the_class_target_with_the_range_of_its_energy(self) -> None:
        own = own_warm_up(self.PACK, [WarmNote(minutes=35, soak_c=-5)])
        assert own is not None
        self.assertEqual((own.target_c, own.told), (15.0, False))
        self.assertAlmostEqual(own.low_kwh, 2.2, delta=0.05)
        self.assertAlmostEqual(own.high_kwh, 4.1, delta=0.05)
        car = preset("family_saloon")
        car = replace(car, pack=replace(car.pack, preheat_kw=own.power_kw, preheat_to_c=own.target_c))
        done = warm_up(car, WarmUpChoice.CABIN_AND_PACK, cabin_c=-5, pack_c=-5, ambient_c=-5, set_c=20, wall_kw=11)
        self.assertAlmostEqual(done.pack_lead_s / 60, 35, delta=0.1)

    def test_two_notes_or_a_kwh_tell_power_and_target_apart(self) -> None:
        """Notes made of known heaters and targets, in closed form (`heated_by`)."""
        for kw, to_c in ((2.5, 12.0), (4.0, 20.0), (7.0, 30.0)):
            notes = []
            for cold in (-3.0, -14.0):
                lead = float(lead_to(to_c - cold, 1000 * HEATER_TO_PACK * kw, PARKED_W_PER_K, self.PACK.capacity_j_per_k))
                notes.append(WarmNote(minutes=lead / 60, soak_c=cold))
            own = own_warm_up(self.PACK, notes)
            one = own_warm_up(self.PACK, [replace(notes[0], kwh=kw * notes[0].minutes / 60)])
            for each in (own, one):
                assert each is not None
                self.assertTrue(each.told)
                self.assertAlmostEqual(each.power_kw, kw, delta=0.01)
                self.assertAlmostEqual(each.target_c, to_c, delta=0.05)

    def test_minutes_that_no_heater_can_be_are_asked_again(self) -> None:
        for bad in (
            [WarmNote(minutes=4, soak_c=-20)],
            [WarmNote(minutes=240, soak_c=5)],
            [WarmNote(minutes=35, soak_c=-5), WarmNote(minutes=20, soak_c=-18)],
            [WarmNote(minutes=35, soak_c=-5, kwh=30)],
        ):
            with self.assertRaises(Refusal) as refused:
                own_warm_up(self.PACK, bad)
            self.assertEqual(refused.exception.field, "minutes")
