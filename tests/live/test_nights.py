"""Whole nights over a real socket: what the runner makes of them, with faults, in both versions of the protocol."""

from datetime import UTC, datetime, timedelta
from typing import Any

from frost_tally.access.door import Purpose
from frost_tally.household.facts import note_level
from frost_tally.household.parts import write_habit
from frost_tally.household.plans import note_start_check
from frost_tally.services.shared.now import now_of
from frost_tally.services.tonight.room import tonight
from frost_tally.standins.charge_point.garage import Act
from tests.homes import tables
from tests.live.garage import LiveCase, Wire, waited

NEED = 0.637
"""What Marten's day needs in the demo."""


class NightCase(LiveCase):
    """1.6, where a test does not say another."""

    def plugged(self, at: str = "19:00", **guest: Any) -> Wire:
        """A point with Marten on its cable."""
        wire = self.wire()
        self.pass_until(at, wire)
        self.do(wire, Act.PLUG, self.guest(limit=0.8, **guest))
        return wire

    def level(self, wire: Wire) -> float:
        """The level of the car on a cable."""
        assert wire.garage.house is not None
        return wire.garage.house.running.soc

    def known(self, name: str) -> float:
        """The level of a car as the home knows it now."""
        with self.household.reading() as snapshot:
            return now_of(snapshot, self.car(name).id).level.likely


class CarriedOut(NightCase):
    """Nights that go as planned."""

    def test_a_night_is_carried_out_as_tonight_has_it_and_stands_in_the_log(self) -> None:
        for version in ("1.6", "2.0.1"):
            with self.subTest(version=version):
                self.version = version
                wire = self.plugged()
                self.pass_until("07:09", wire)
                self.assertAlmostEqual(self.level(wire), 0.8, delta=0.005)
                self.assertEqual(self.codes(), ["plugged_in", "draws", "reached"])
                drawn = wire.garage.register_kwh - 1234.5
                self.do(wire, Act.UNPLUG)
                ((car, kwh, soc),) = self.charges()
                self.assertEqual(car, self.car().id)
                self.assertAlmostEqual(kwh, drawn, delta=0.002)
                self.assertAlmostEqual(soc or 0.0, 0.8, delta=0.01)
                self.assertEqual(self.codes()[-1], "taken")
                self.doCleanups()
                self.setUp()

    def test_what_the_car_does_not_tell_is_counted(self) -> None:
        wire = self.plugged(tells=False)
        self.pass_until("07:09", wire)
        level = self.level(wire)
        with self.household.reading() as snapshot:
            now = now_of(snapshot, self.car().id)
        self.assertTrue(now.plugged)
        self.assertAlmostEqual(now.level.likely, level, delta=0.015)
        self.assertLess(now.level.high - now.level.low, 0.05)
        self.do(wire, Act.UNPLUG)
        ((_, _, soc),) = self.charges()
        self.assertIsNone(soc)  # a guess is never written as a fact

    def test_a_profile_that_reaches_the_need_stands_in_the_point_before_anybody_plugs_in(self) -> None:
        wire = self.wire()
        self.pass_until("18:20", wire)
        default = wire.garage.default
        assert default is not None
        at = self.clock.at.replace(hour=22)
        self.assertEqual(default.amps(at), 0.0)
        self.assertGreater(default.amps(at + timedelta(hours=6)), 10.0)
        self.server.should_exit = True  # and then this program dies
        self.do_alone(wire)
        self.assertGreater(self.level(wire), NEED)

    def do_alone(self, wire: Wire) -> None:
        """A night in which nobody but the point lives."""
        wire.client.do(Act.PLUG, self.guest(limit=0.8))
        for _ in range((13 * 60 - 20) // 5):
            self.clock.at += timedelta(minutes=5)
            waited("the point", lambda: wire.garage.house is not None and wire.garage.now >= self.clock.at)

    def test_the_night_on_which_clocks_change_is_carried_out_at_the_right_hours(self) -> None:
        self.clock.at = datetime(2027, 3, 27, 18, 30, tzinfo=self.zone).astimezone(UTC)
        with self.household.recording() as session:
            note_level(session, self.car().id, self.clock.at, 0.41)
        wire = self.plugged("19:00")
        plan = self.nights._watched[1, self.car().id].runner.plan
        assert plan is not None
        seen = set[bool]()
        for _ in range(14):
            self.pass_until((self.clock.at + timedelta(hours=1)).astimezone(self.zone).strftime("%H:%M"), wire)
            inside = any(each.start < self.clock.at - timedelta(minutes=5) and self.clock.at < each.end for each in plan.blocks)
            edge = any(
                abs((edge - self.clock.at).total_seconds()) < 900 for each in plan.blocks for edge in (each.start, each.end)
            )
            if self.clock.at < plan.request.departure and not edge and self.codes()[-1] != "reached":
                seen.add(inside)
                self.assertEqual(wire.garage.kw > 0, inside, self.clock.at)
        self.assertEqual(seen, {False, True})
        self.assertAlmostEqual(self.level(wire), 0.8, delta=0.02)

    def test_what_its_owner_changes_in_the_evening_is_carried_out(self) -> None:
        wire = self.wire()
        self.pass_until("19:00", wire)
        self.do(wire, Act.PLUG, self.guest(limit=0.95))
        self.pass_until("20:00", wire)
        with self.household.deciding("limit") as session:
            write_habit(session, self.car().id, limit=0.7)
        self.pass_until("06:30", wire)
        self.assertEqual(self.codes()[:2], ["plugged_in", "changed"])
        self.assertAlmostEqual(self.level(wire), 0.7, delta=0.02)  # the car would take more

    def test_a_point_that_nobody_ever_heard_is_not_missed(self) -> None:
        for _ in range(6):
            self.clock.at += timedelta(minutes=5)
            self.nights.look()
        self.assertEqual(self.lines(), [])

    def test_a_password_that_is_taken_back_hangs_up(self) -> None:
        wire = self.plugged()
        for each in self.access.tokens():
            self.access.revoke(each.id)
        self.nights.look()
        waited("the line to be closed", lambda: wire.client.refused > 0)
        self.assertFalse(self.ready(self.point))


class Faulty(NightCase):
    """Nights in which something fails."""

    def test_half_the_current_is_planned_anew_with(self) -> None:
        wire = self.plugged()
        self.pass_until("03:50", wire)
        self.do(wire, Act.WEAK)
        self.pass_until("07:09", wire)
        self.assertIn("less_current", self.codes())
        self.assertGreater(self.level(wire), NEED)
        with self.household.reading() as snapshot:
            started = tonight(snapshot, self.car().id).started
        assert started.noted is not None
        self.assertAlmostEqual(started.noted.check.amps or 0.0, 8.0, delta=0.3)  # Tonight counts on what flows, too

    def test_a_car_that_sleeps_is_woken(self) -> None:
        wire = self.plugged()
        self.pass_until("02:00", wire)
        self.do(wire, Act.SLEEP)
        self.pass_until("07:09", wire)
        self.assertIn("wakes", self.codes())
        self.assertGreater(self.level(wire), NEED)

    def test_a_power_cut_in_the_cheap_hours_is_made_up_for(self) -> None:
        wire = self.plugged()
        self.pass_until("04:00", wire)
        self.do(wire, Act.CUT)
        self.pass_until("07:09", wire)
        codes = self.codes()
        self.assertIn("lost", codes)
        self.assertIn("heard_again", codes)
        self.assertGreater(self.level(wire), NEED)
        self.do(wire, Act.UNPLUG)
        self.assertAlmostEqual(sum(kwh for _, kwh, _ in self.charges()), wire.garage.register_kwh - 1234.5, delta=0.1)

    def test_a_point_that_is_silent_goes_on_with_what_stands_in_it(self) -> None:
        wire = self.plugged()
        self.pass_until("04:30", wire)
        before = self.level(wire)
        self.do(wire, Act.SILENCE)
        self.pass_until("05:05", wire)
        self.assertGreater(self.level(wire), before + 0.08)
        self.assertEqual(self.codes()[-1], "lost")
        self.pass_until("07:09", wire)
        self.assertAlmostEqual(self.level(wire), 0.8, delta=0.01)

    def test_a_server_that_begins_anew_in_the_night_goes_on_where_it_was(self) -> None:
        wire = self.plugged()
        self.pass_until("04:30", wire)
        self.server.should_exit = True
        level, place = self.level(wire), self.port
        self.begin()
        self.assertNotEqual(self.port, place)
        wire.client.address = self.address
        waited("the point", lambda: self.ready(self.point))
        self.pass_until("04:40", wire)
        self.assertEqual(self.codes()[:2], ["plugged_in", "draws"])
        self.assertGreater(self.level(wire), level)
        self.pass_until("07:09", wire)
        self.assertAlmostEqual(self.level(wire), 0.8, delta=0.01)
        self.do(wire, Act.UNPLUG)
        ((_, kwh, _),) = self.charges()
        self.assertAlmostEqual(kwh, wire.garage.register_kwh - 1234.5, delta=0.002)


class Shared(NightCase):
    """Several cars, and several points."""

    def test_another_car_on_the_cable_is_planned_for_and_its_turn_told_of(self) -> None:
        wire = self.wire()
        self.pass_until("19:00", wire)
        self.do(wire, Act.PLUG, self.guest("Dray", limit=1.0))
        self.pass_until("20:00", wire)
        self.assertEqual(self.codes("Dray"), ["plugged_in"])
        self.assertEqual(self.codes("Marten"), ["wrong_car"])
        self.do(wire, Act.UNPLUG)
        self.do(wire, Act.PLUG, self.guest("Marten", limit=0.8))
        self.pass_until("07:09", wire)
        self.assertGreater(self.level(wire), NEED)
        self.assertEqual(self.codes("Marten")[:3], ["wrong_car", "freed", "plugged_in"])

    def test_an_evening_swap_on_one_cable_serves_both_cars(self) -> None:
        self.clock.at = self.evening + timedelta(days=1)  # the evening on which the cable goes over at half past eight
        wire = self.wire()
        self.pass_until("18:35", wire)
        self.do(wire, Act.PLUG, self.guest("Dray", soc=self.known("Dray"), limit=0.9, tag=""))  # no card says which car it is
        self.pass_until("20:29", wire)
        self.assertEqual((self.codes("Dray")[0], self.codes("Marten")), ("plugged_in", []))
        self.do(wire, Act.UNPLUG)
        self.pass_until("20:31", wire)
        self.do(wire, Act.PLUG, self.guest("Marten", soc=self.known("Marten"), limit=0.8, tag=""))
        self.assertEqual(self.codes("Marten"), ["plugged_in"])
        need = self.lines("Marten")[0].values["need"]
        self.pass_until("09:29", wire)
        self.assertGreater(self.level(wire), need - 0.01)
        self.do(wire, Act.UNPLUG)
        self.assertEqual([car for car, _, _ in self.charges()], [self.car("Dray").id, self.car("Marten").id])

    def test_two_points_serve_two_cars(self) -> None:
        with tables(self.household) as session, session.begin():
            run = session.connection().exec_driver_sql
            run("UPDATE outlet SET point = 'second' WHERE name = 'Three-phase 16 A, offered'")
            run("UPDATE habit SET outlet_id = (SELECT id FROM outlet WHERE point = 'second') WHERE car_id = 2")
        first, second = self.wire(), self.wire("second", self.access.make_token(Purpose.POINT, "second"), "2.0.1")
        self.pass_until("19:00", first, second)
        for wire, guest in ((first, self.guest(limit=0.8)), (second, self.guest("Dray", limit=0.9))):
            wire.client.do(Act.PLUG, guest)
        self.pass_until("05:09", first, second)
        self.assertEqual([self.codes(name)[0] for name in ("Marten", "Dray")], ["plugged_in", "plugged_in"])
        need = self.lines("Dray")[0].values["need"]
        self.assertGreater(self.level(second), need - 0.01)
        self.pass_until("07:09", first, second)
        self.assertGreater(self.level(first), NEED)


class Blocked(NightCase):
    """What its owner saw when the cable went in comes first."""

    def test_a_plug_that_is_hot_ends_the_charge(self) -> None:
        wire = self.plugged()
        self.pass_until("04:20", wire)
        self.assertGreater(wire.garage.kw, 0.0)
        with self.household.deciding("hot") as session:
            note_start_check(session, self.car().id, self.clock.at, ["hot"], None)
        self.look(wire)
        waited("the end of the charge", lambda: not wire.client.number)
        level = self.level(wire)
        self.pass_until("06:30", wire)
        self.assertAlmostEqual(self.level(wire), level, delta=0.005)
        self.assertEqual(self.codes()[-1], "blocked")
        self.assertEqual(len(self.charges()), 1)
