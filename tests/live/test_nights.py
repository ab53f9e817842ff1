"""Whole nights over a real socket: what the runner makes of them, with faults, in both versions of the protocol."""

from datetime import timedelta
from typing import Any

from frost_tally.services.shared.now import now_of
from frost_tally.services.tonight.room import tonight
from frost_tally.standins.charge_point.garage import Act
from tests.live.garage import LiveCase, Wire, waited

NEED = 0.637
"""What Marten's day needs in the demo."""


class Night(LiveCase):
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

    def test_a_server_that_begins_anew_in_the_night_goes_on_where_it_was(self) -> None:
        wire = self.plugged()
        self.pass_until("04:30", wire)
        self.server.should_exit = True
        level, place = self.level(wire), self.port
        self.begin()
        self.assertNotEqual(self.port, place)
        wire.client.address = self.address
        waited("the point", lambda: any(each.talk and each.ready for each in self.points._places.values()))
        self.pass_until("04:40", wire)
        self.assertEqual(self.codes()[:2], ["plugged_in", "draws"])
        self.assertGreater(self.level(wire), level)
        self.pass_until("07:09", wire)
        self.assertAlmostEqual(self.level(wire), 0.8, delta=0.01)
        self.do(wire, Act.UNPLUG)
        ((_, kwh, _),) = self.charges()
        self.assertAlmostEqual(kwh, wire.garage.register_kwh - 1234.5, delta=0.002)
