"""Jams, habits, what a verdict rests on, tenths of a session, alarms of tyres, and the lead's reach."""

import unittest
from dataclasses import replace

import numpy as np

from frost_tally.core.car import preset
from frost_tally.core.charge.reach import Bay, Port, ways
from frost_tally.core.charge.session import fill_up
from frost_tally.core.charge.supply import Code, Supply, charge_rate
from frost_tally.core.charge.usual_supplies import USUAL_SUPPLIES
from frost_tally.core.drive.day import Drive, Park, Road, Start, Trip
from frost_tally.core.drive.habits import DAMP, DRY, SMALL_W, habits, stops
from frost_tally.core.drive.road import Conditions, cycle_energy_kwh
from frost_tally.core.drive.sensitivity import DayAsEntered, what_moves
from frost_tally.core.drive.trip import simulate
from frost_tally.core.drive.tyre_log import Reading, alarms
from frost_tally.core.errors import OutOfRange

CAR = preset("compact_hatch")
FROST = Conditions(ambient_c=-8.0, tyre_gauge_kpa=230.0, load_kg=75.0, cabin_set_c=20.0)
START = Start(0.9, -2.0, -8.0)
COMMUTE = Trip((Drive(Road.TOWN, 6), Drive(Road.MOTORWAY, 30, 110), Park(8), Drive(Road.MOTORWAY, 30, 110), Drive(Road.TOWN, 6)))


class Jams(unittest.TestCase):
    def test_a_jam_takes_its_own_minutes_at_its_own_place(self) -> None:
        """Handbook: 5 km in 45 min from a soaked pack take about 1 kWh to drive and more for heat; a jam makes heat worse."""
        free = simulate(CAR, COMMUTE, FROST, START)
        for at_km in (0.0, 2.0, 20.0, 33.0, 50.0):
            jam = COMMUTE.with_jam(at_km, 4.0, 0.5)
            self.assertAlmostEqual(jam.distance_km, COMMUTE.distance_km, delta=1e-9)
            slow = [leg for leg in jam.drives if leg.speed_kmh == 8.0]
            end_of_trip = min(36.0 if at_km < 36 else 72.0, at_km + 4.0)
            self.assertAlmostEqual(sum(leg.distance_km for leg in slow), end_of_trip - at_km, delta=1e-9)
            done = simulate(CAR, jam, FROST, START)
            self.assertGreater(float(done.hours[0]), float(free.hours[0]) + 0.3)
            self.assertGreater(float(done.parts_kwh["cabin"][0]), float(free.parts_kwh["cabin"][0]) + 0.2)
        for at_km, km, hours, field in ((80.0, 4.0, 0.5, "jam_at_km"), (5.0, 4.0, 0.01, "jam_min"), (5.0, 0.0, 0.5, "jam_km")):
            with self.assertRaises(OutOfRange) as refused:
                COMMUTE.with_jam(at_km, km, hours)
            self.assertEqual(refused.exception.field, field)


class Habits(unittest.TestCase):
    def test_the_foot_counts_and_small_things_hardly_do(self) -> None:
        found = habits(CAR, COMMUTE, FROST, START)
        self.assertGreater(found.gentle_km, 0)
        self.assertGreater(found.brisk_km, 0)
        by = {each.key: each.km for each in found.small}
        done = simulate(CAR, COMMUTE, FROST, START)
        kwh, hours = float(done.energy_kwh[0]), float(done.hours[0])
        for key, watts in SMALL_W.items():
            self.assertAlmostEqual(by[key], COMMUTE.distance_km * watts * hours / 1000 / kwh, delta=1e-9)
        self.assertLess(by["phone"], 0.005 * COMMUTE.distance_km)
        damp, dry = (
            float(simulate(CAR, COMMUTE, replace(FROST, relative_humidity=each), START).soc_used[0]) for each in (DAMP, DRY)
        )
        self.assertLess(damp, dry)  # damp air is lighter (psychrometrics), by next to nothing
        self.assertLess(abs(by["damp"]), 0.1)

    def test_a_phone_is_nothing(self) -> None:
        """Handbook: charging a phone (17 Wh) is under 0.05 % of a 50 kWh pack."""
        self.assertLess(17 / 50_000, 0.0005)

    def test_what_stops_take_and_give_back_is_what_a_cycle_without_regen_lacks(self) -> None:
        """UDDS, 40 CFR 86: the energy with and without braking differs by what braking returns."""
        from frost_tally.core.drive.cycles import schedule

        mild, speeds = Conditions(ambient_c=22.0), schedule("udds")
        put_in, back = stops(CAR, mild)
        none = replace(CAR, drivetrain=replace(CAR.drivetrain, regen_kw=0.0))
        km = float(speeds.sum()) / 1000
        lacks = 1000 * (cycle_energy_kwh(none, speeds, mild) - cycle_energy_kwh(CAR, speeds, mild)) / km
        self.assertAlmostEqual(back, lacks, delta=0.01)
        self.assertAlmostEqual(back / put_in, CAR.drivetrain.regen_efficiency * CAR.drivetrain.efficiency, delta=0.03)


class RestsOn(unittest.TestCase):
    def test_each_number_moves_the_end_as_driving_it_anew_says(self) -> None:
        day = DayAsEntered(CAR, COMMUTE, FROST, START)
        moves = dict(what_moves(day))
        self.assertEqual(list(moves), sorted(moves, key=lambda name: -abs(moves[name])))
        heavier = CAR.with_values({"mass_kg": CAR.body.mass_kg * 1.1})
        expected = float(simulate(CAR, COMMUTE, FROST, START).soc_used[0] - simulate(heavier, COMMUTE, FROST, START).soc_used[0])
        self.assertAlmostEqual(moves["mass_kg"], expected, delta=1e-9)
        self.assertTrue(moves["leave_soc"] > 0 > moves["km"])
        self.assertTrue(moves["ambient_c"] > 0 > moves["motorway_kmh"])
        self.assertNotIn("tyre_kpa", dict(what_moves(replace(day, conditions=replace(FROST, tyre_gauge_kpa=None)))))


class Tenths(unittest.TestCase):
    RATE = charge_rate(Supply(name="s", voltage_v=230, phases=1, breaker_a=16), CAR)

    def test_both_ends_are_slower(self) -> None:
        """Common practice: a cold pack is warmed first, and above 97 % the power falls."""
        minutes = fill_up(CAR, self.RATE, 0.0, 1.0, -12.0, air_c=-12.0).tenths_min
        self.assertEqual(len(minutes), 10)
        self.assertGreater(minutes[0], 1.15 * minutes[5])
        self.assertGreater(minutes[9], 1.2 * minutes[5])
        self.assertEqual(len(fill_up(CAR, self.RATE, 0.35, 0.8, 10.0, air_c=10.0).tenths_min), 4)

    def test_outlets_by_name_have_the_amperes_of_their_plugs(self) -> None:
        """Common practice: 120 V × 12 A; a dryer outlet 24 A; a range outlet 40 A; NEC 210.20(A) for 80 % of the breaker."""
        wide = replace(CAR, charger=replace(CAR.charger, ac_limit_a=80.0, ac_limit_kw=50.0, phases=1))
        for kind, amps in (("household", 12.0), ("dryer", 24.0), ("range", 40.0), ("wall_one", 48.0)):
            self.assertAlmostEqual(charge_rate(USUAL_SUPPLIES[Code.NORTH_AMERICA][kind], wide).amps, amps)
        for kind, kw in (("household", 2.3), ("caravan", 3.68), ("wall_three", 11.04)):
            three = replace(wide, charger=replace(wide.charger, phases=3))
            self.assertAlmostEqual(charge_rate(USUAL_SUPPLIES[Code.IEC][kind], three).wall_kw, kw, delta=0.01)


class Alarms(unittest.TestCase):
    def of(self, psi: tuple[float, ...], placard: float, tyre_c: float = 20.0) -> set[str]:
        look = [Reading(wheel, 0.0, each * 6.894757, tyre_c) for wheel, each in zip(("FL", "FR", "RL", "RR"), psi, strict=False)]
        return {each.wheel for each in alarms(look, placard * 6.894757)}

    def test_one_far_under_the_others_is_said_at_the_first_look(self) -> None:
        self.assertEqual(self.of((28, 36, 36, 36), 42), {"FL"})
        self.assertEqual(self.of((42, 41, 42.5, 40), 42), set())
        self.assertEqual(self.of((36, 36, 35.5, 36), 42), set())
        kpa = 1 / 6.894757
        self.assertEqual(self.of((235 * kpa, 235 * kpa, 200 * kpa, 236 * kpa), 250 * kpa), {"RL"})

    def test_all_far_under_the_placard_too_but_not_for_the_cold(self) -> None:
        """UN R141 (from memory): a warning at 20 % under; frost alone takes about a tenth."""
        self.assertEqual(self.of((33, 33, 33, 33), 42), {"FL", "FR", "RL", "RR"})
        self.assertEqual(self.of((37, 37, 37, 37), 42, -10.0), set())
        self.assertEqual(len(alarms([Reading("", 0.0, 180.0, 20.0)], 250.0)), 1)


class Reach(unittest.TestCase):
    BAY = Bay(width_m=2.6, post_m=-1.5, post_height_m=1.2, car_length_m=4.4, car_width_m=1.8)

    def test_a_port_that_faces_the_wall_needs_least(self) -> None:
        for port, nose_in in ((Port.FRONT_LEFT, True), (Port.REAR_LEFT, False), (Port.NOSE, True)):
            nose, tail = ways(self.BAY, port)
            self.assertEqual(nose.needed_m < tail.needed_m, nose_in, port)

    def test_the_path_is_straight_where_the_car_is_not_in_its_way(self) -> None:
        nose, _ = ways(self.BAY, Port.REAR_LEFT)
        self.assertEqual(len(nose.path), 2)
        straight = np.hypot(-0.9 + 1.5, 0.5 + 0.86 * 4.4)
        self.assertAlmostEqual(nose.needed_m, 1.1 * (straight + 1.2 + 0.8), delta=1e-9)
        across, _ = ways(self.BAY, Port.REAR_RIGHT)
        self.assertEqual(len(across.path), 3)
        self.assertGreater(across.needed_m, nose.needed_m + 1.0)

    def test_mirrored_bays_are_the_same(self) -> None:
        other = replace(self.BAY, post_m=1.5)
        for left, right in ((Port.FRONT_LEFT, Port.FRONT_RIGHT), (Port.REAR_LEFT, Port.REAR_RIGHT), (Port.NOSE, Port.NOSE)):
            for a, b in zip(ways(self.BAY, left), ways(other, right), strict=True):
                self.assertAlmostEqual(a.needed_m, b.needed_m, delta=1e-9)

    def test_a_second_bay_is_farther_and_a_bay_that_cannot_be_is_refused(self) -> None:
        near, far = ways(self.BAY, Port.FRONT_LEFT), ways(self.BAY, Port.FRONT_LEFT, 2.6)
        self.assertTrue(all(b.needed_m > a.needed_m for a, b in zip(near, far, strict=True)))
        with self.assertRaisesRegex(OutOfRange, "The bay must be between"):
            ways(replace(self.BAY, width_m=0.0), Port.NOSE)
