"""Charge points on the page: named and given passwords in the Garage, followed on Tonight, told of by letters."""

import re
from dataclasses import replace
from datetime import datetime, timedelta

from frost_tally.access.door import Access, Purpose
from frost_tally.core.charge.control import How
from frost_tally.core.live.heard import Heard, Socket
from frost_tally.core.live.lines import Line, State
from frost_tally.household import points as store
from frost_tally.household.models import HabitRow
from frost_tally.household.points import Report
from frost_tally.services.tonight.point import latest
from frost_tally.services.tonight.reminding import due_now
from frost_tally.services.tonight.room import tonight
from frost_tally.web.door import OPENS
from tests.web.client import WebCase


class InTheGarage(WebCase):
    """Names, passwords, and who knocked."""

    page = "/garage/points"

    def secret(self, text: str) -> str:
        """The password that a page shows."""
        found = re.search(r'aria-label="The password".*?<code>([0-9a-f]{40})</code>', text, re.DOTALL)
        return found[1] if found else ""

    def test_a_point_is_named_gets_a_password_and_its_cars_are_linked(self) -> None:
        with self.tables() as session, session.begin():
            for row in session.query(HabitRow):
                row.control = How.HAND
        done = self.post("/garage/points/name", page=self.page, outlet="1", point="north-1")
        self.assertIn("Marten is linked; Dray is linked", done.text)
        self.assertEqual({each.habit.control.how for each in self.home.cars}, {How.LINKED})
        first = self.secret(self.post("/garage/points/password", page=self.page, outlet="1").text)
        second = self.secret(self.post("/garage/points/password", page=self.page, outlet="1").text)
        self.assertTrue(first and second and first != second)
        access = Access(self.settings.access)
        self.addCleanup(access.engine.dispose)
        self.assertIsNone(access.token(first))  # the one before lets in no more
        found = access.token(second)
        assert found is not None
        self.assertEqual((found.name, found.purpose.value), ("north-1", "point"))
        self.assertNotIn(second, self.client.get(self.page).text)  # shown once
        self.assertNotIn(second.encode(), self.settings.access.read_bytes())  # and kept as its hash
        self.post("/garage/points/name", page=self.page, outlet="1", point="other")
        self.assertIsNone(access.token(second))  # of a name that is gone

    def test_linking_is_taken_back_with_the_name(self) -> None:
        with self.tables() as session, session.begin():
            for row in session.query(HabitRow):
                row.control = How.HAND
        self.undo(self.post("/garage/points/name", page=self.page, outlet="1", point="north-1"))
        self.assertEqual({each.habit.control.how for each in self.home.cars}, {How.HAND})
        self.assertEqual(self.home.outlets[0].point, "barn")

    def test_names_that_cannot_be_are_said_at_their_field_and_stay(self) -> None:
        self.post("/garage/points/name", page=self.page, outlet="2", point="socket")
        for typed, said in (
            ("my point", "without spaces"),
            ("x" * 37, "36 letters"),
            ("..", "36 letters"),
            ("socket", "Another outlet"),
        ):
            answer = self.post("/garage/points/name", page=self.page, outlet="1", point=typed)
            self.assertEqual(answer.status_code, 422, typed)
            self.assertIn(said, answer.text)
            self.assertIn(f'value="{typed}"', answer.text)
        self.assertEqual([each.point for each in self.home.outlets[:2]], ["barn", "socket"])
        self.assertIn("Name the point first", self.post("/garage/points/password", page=self.page, outlet="4").text)

    def test_a_points_password_opens_no_page(self) -> None:
        secret = self.secret(self.post("/garage/points/password", page=self.page, outlet="1").text)
        access = Access(self.settings.access)
        self.addCleanup(access.engine.dispose)
        found = access.token(secret)
        assert found is not None
        self.assertIs(found.purpose, Purpose.POINT)
        self.assertNotIn(found.purpose, OPENS)


class OnTonight(WebCase):
    """What a point told, as Tonight shows it."""

    def told(
        self, socket: Socket, minutes: float = 0.0, *, car_id: int | None = 1, codes: tuple[str, ...] = (), **more: object
    ) -> None:
        """The point of the wall unit told something some minutes ago, and the runner decided."""
        now = self.read().now - timedelta(minutes=minutes)
        heard = Heard(at=now, **more).stands(now, socket, "GroundFailure" if socket is Socket.FAULT else "")  # type: ignore[arg-type]
        with self.household.recording() as session:
            store.write_report(session, 1, Report(at=now, car_id=car_id, online=True, heard=heard, level=0.41))
            if codes:
                departure = self.departure()
                values = {"soc": 0.41, "to": 0.8, "need": 0.64, "cost": 3.0, "kw": 7.0, "amps": 8.0}
                store.write_lines(session, 1, 1, departure, [Line(now, State.CHARGES, each, values) for each in codes])

    def departure(self) -> datetime:
        """When Marten leaves next."""
        return tonight(self.read(), 1).plan.request.departure

    def part(self, car: int = 1, path: str = "/tonight/point") -> str:
        """The point's part alone or within its page, without tags."""
        text = self.client.get(path, params={"car": car}).text
        return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", text)).replace("\u202f", " ").replace("\u00a0", " ")

    def test_each_way_that_it_stands_is_said(self) -> None:
        self.assertEqual(self.part().strip(), "")  # nobody heard it yet
        for socket, car_id, said in (
            (Socket.FREE, None, "no cable is in"), (Socket.HOLDS, 1, "the cable is in, and it waits"), (Socket.OFFERS, 1, "draws none"),
            (Socket.CHARGES, 1, "it draws 7.0 kW"), (Socket.FAULT, 1, "a fault (GroundFailure)"), (Socket.HOLDS, 2, "Dray is on its cable"),
            (Socket.CLOSED, None, "out of service"),
        ):  # fmt: skip
            flows = socket is Socket.CHARGES
            self.told(socket, car_id=car_id, plugged=car_id is not None, kw=7.0 * flows, amps=10.1 * flows)
            self.assertIn(said, self.part(), socket)
            self.assertIn(said.split(" (")[0], self.part(path="/tonight"))

    def test_a_point_that_was_not_heard_for_long_is_said_to_be_so(self) -> None:
        self.told(Socket.HOLDS, 45, plugged=True)
        self.assertIn("not heard since 17:27", self.part())
        self.assertNotIn("Plugged in.", self.client.get("/tonight").text)

    def test_a_cable_that_is_in_is_not_asked_for(self) -> None:
        self.assertIn("Plug in", self.client.get("/tonight").text)
        self.told(Socket.HOLDS, plugged=True)
        page = self.client.get("/tonight").text
        self.assertIn("Plugged in.", page)
        self.assertNotIn("Plug in ", re.sub(r"<[^>]+>", "", page.split('id="verdict"')[1].split("</h1>")[0]))

    def test_alarms_stand_until_they_are_mended(self) -> None:
        self.told(Socket.OFFERS, plugged=True, codes=("plugged_in", "stalled"))
        self.assertIn("It still draws none, at 41 %; the day needs 64 %", self.part())
        self.assertIn("alert-warning", self.client.get("/tonight/point?car=1").text)
        self.told(Socket.CHARGES, plugged=True, kw=7.0, codes=("draws_again",))
        self.assertNotIn("alert-warning", self.client.get("/tonight/point?car=1").text)

    def test_its_owner_says_which_car_it_is(self) -> None:
        self.told(Socket.HOLDS, plugged=True)
        before = latest(self.read(), 1)
        self.post("/tonight/on-cable", car="1", outlet="1", on="2")
        self.assertIn("Dray is on its cable", self.part())
        self.assertGreater(latest(self.read(), 1), before)
        self.told(Socket.FREE, car_id=None)
        answer = self.post("/tonight/on-cable", car="1", outlet="1", on="2")
        self.assertIn("No cable is in at that point", answer.text)

    def test_a_stream_is_for_outlets_with_a_point_alone(self) -> None:
        self.assertEqual(self.client.get("/tonight/point/events?car=99").status_code, 204)
        with self.tables() as session, session.begin():
            session.connection().exec_driver_sql("UPDATE outlet SET point = ''")
        self.assertEqual(self.client.get("/tonight/point/events?car=1").status_code, 204)

    def test_there_is_no_simulated_point_to_play_with_where_there_is_none(self) -> None:
        self.assertIn("no simulated point", self.post("/tonight/stand-in", car="1", act="plug").text)

    def test_what_a_night_ran_into_is_told_once(self) -> None:
        class Mail:
            """A mail server that takes nothing."""

            def send(self, letter: object) -> None:
                raise AssertionError

        with self.tables() as session, session.begin():
            session.connection().exec_driver_sql("UPDATE person SET email = 'a@b.example', mailed = 1")
        self.household = replace(self.household, world=replace(self.household.world, mail=Mail()))
        self.told(Socket.OFFERS, plugged=True, codes=("plugged_in", "stalled"))
        kinds = [each.reminder.kind.value for each in due_now(self.read()) if each.night.car_id == 1]
        self.assertEqual(kinds, ["stalled"])  # and nobody is asked to plug in
        self.told(Socket.CHARGES, plugged=True, kw=7.0, codes=("draws_again",))
        self.assertEqual([each for each in due_now(self.read()) if each.night.car_id == 1], [])

    def counted(self, hours: float = 2.0) -> float | None:
        """What the point gave Marten in the last hours."""
        now = self.read().now
        with self.tables() as session:
            return store.counted_between(session, 1, 1, now - timedelta(hours=hours), now)

    def reported(self, minutes: float, added: float, car_id: int | None = 1, plugged: bool = True) -> None:
        """The point told something some minutes ago."""
        at = self.read().now - timedelta(minutes=minutes)
        heard = Heard(at=at, plugged=plugged, socket=Socket.HOLDS if plugged else Socket.FREE)
        with self.household.recording() as session:
            store.write_report(session, 1, Report(at=at, car_id=car_id, online=True, heard=heard, added=added, level=0.5))

    def test_energy_is_a_fact_only_while_the_point_was_heard(self) -> None:
        for minutes in (120, 100):
            self.reported(minutes, 0.0)
        self.assertIsNone(self.counted())  # nobody knows what it gave afterwards
        now = self.read().now
        for hours in (0.1, 0.49, 0.51, 1.5):
            self.assertEqual(self.counted(hours), store.counted_unheard(now - timedelta(hours=hours), now), hours)
        self.reported(5, 0.3)
        self.assertEqual(self.counted(), 0.3)  # its register went on, and the cable stayed in
        self.reported(4, 0.3, plugged=False)
        self.reported(3, 0.3, None, plugged=False)
        self.assertEqual(self.counted(), 0.3)

    def test_another_car_in_between_leaves_a_gap_unknown(self) -> None:
        for minutes, car_id in ((120, 1), (100, 1), (20, None), (5, 1)):
            self.reported(minutes, 0.1, car_id, plugged=car_id is not None)
        self.assertIsNone(self.counted())

    def test_a_pulled_cable_begins_a_new_stay(self) -> None:
        for minutes, plugged in ((90, True), (80, True), (79, False), (30, True), (20, True)):
            self.reported(minutes, 0.0, 1, plugged)
        now = self.read().now
        with self.tables() as session:
            told = store.stay_of(session, 1, now - timedelta(hours=16))
            self.assertEqual([round((now - each.at) / timedelta(minutes=1)) for each in told], [30, 20])
            self.assertEqual([store.on_cable_at(session, 1, now - timedelta(minutes=each)) for each in (85, 78, 10)], [1, 0, 1])
