"""A night again: the page says what the service computed, every code has its words, and many nights come out as the command says."""

import io
import json
import re
from contextlib import redirect_stdout
from dataclasses import replace
from datetime import date, time
from pathlib import Path
from unittest import mock

from sqlalchemy import update

import frost_tally.core.live.runner as runner
from frost_tally import cli, cli_tonight
from frost_tally.core.live.faults import FaultKind
from frost_tally.core.live.lines import ALARMS
from frost_tally.household.models import HabitRow
from frost_tally.services.hindsight import hindsight_room
from frost_tally.services.replay import Dropped, ReplayRoom, nights_again, replay_room
from frost_tally.web.rooms.replay.words import FAULTS, SHORT
from frost_tally.web.words.runner import LINES
from tests.web.client import ApartCase
from tests.web.test_api import seen

SLEEPS = {"kind_1": "asleep", "at_1": "02:00", "minutes_1": "300"}


class Room(ApartCase):
    def room(self, car: int = 1, **inputs: object) -> ReplayRoom:
        return replay_room(self.read(), car, lambda usual: replace(usual, **inputs))  # type: ignore[arg-type]

    def test_without_faults_it_is_the_plan_of_tonight(self) -> None:
        for car in (1, 2):
            done = self.room(car).done
            told = self.client.get("/api/v1/tonight", params={"car": car}).json()
            self.assertAlmostEqual(done.runner.soc, told["limit_soc"], delta=0.01)
            self.assertAlmostEqual(done.need_soc, min(told["limit_soc"], told["need_soc"]), delta=0.02)
            self.assertFalse(done.runner.told)
            self.assertLessEqual(done.runner.cost, told["cost"] + 0.02)  # tonight's has its warm-up too

    def test_a_sleeping_car_is_woken_and_nobody_who_watches_leaves_it_empty(self) -> None:
        page = seen(self.client.get("/tonight/replay", params=SLEEPS).text)
        done = self.room(dropped=(Dropped("asleep", time(2), 300.0),)).done
        self.assertIn(f"Marten leaves with {100 * done.runner.soc:.0f} %", page)
        self.assertIn(f"With nobody who watches: {100 * done.alone.soc:.0f} %", page)
        self.assertIn("tried to wake it, once", page)
        self.assertGreater(done.runner.soc, done.alone.soc + 0.2)
        self.assertIn('data-handle="at_1"', self.client.get("/tonight/replay", params=SLEEPS).text)

    def test_by_hand_and_by_timer_the_runner_stands_beside_their_own_way(self) -> None:
        for how, words in (("hand", "By hand"), ("timer", "By its timer")):
            with self.household.recording() as session:
                session.execute(update(HabitRow).where(HabitRow.car_id == 1).values(control=how))
            done = self.room(dropped=(Dropped("power_cut", time(3, 50), 60.0),)).done
            self.assertGreater(done.alone.soc, done.request.soc + 0.1)  # it goes on by itself when the power is back
            page = seen(self.client.get("/tonight/replay?car=1").text)
            self.assertIn(words, page)

    def test_each_fault_can_be_dropped_and_moved_and_bad_ones_say_so(self) -> None:
        for kind in FaultKind:
            with self.subTest(kind=kind.value):
                answer = self.client.get(
                    "/tonight/replay/live", params={"kind_1": kind.value, "at_1": "04:10", "minutes_1": "90", "amps": "8"}
                )
                self.assertEqual(answer.status_code, 200)
                self.assertIn(SHORT[kind], answer.text)
        for wrong in (
            {"kind_1": "ghost"},
            {"kind_1": "asleep", "at_1": "25:00"},
            {"minutes_1": "0"},
            {"seed": "-1"},
            {"soc": "101"},
        ):
            self.assertEqual(self.client.get("/tonight/replay/live", params=wrong).status_code, 422, wrong)

    def test_each_night_of_the_log_can_be_lived_through_again_from_the_page_of_hindsight(self) -> None:
        rows = re.findall(r'href="(/tonight/replay[^"]*left_on=([0-9-]+))"', self.client.get("/log/hindsight?car=1&now=1").text)
        self.assertGreater(len(rows), 5)
        nights = {f"{each.departure:%Y-%m-%d}": each for each in hindsight_room(self.read(), 1, wait_s=60.0).nights}
        for address, left_on in (rows[0], rows[-1]):
            room, was = self.room(left_on=date.fromisoformat(left_on)), nights[left_on]
            self.assertEqual((room.done.request.departure, room.done.request.target_soc), (was.departure, was.soc))
            self.assertLessEqual(room.done.runner.cost, was.was + 0.02)  # linked, by the cheapest hours
            assert room.past
            self.assertAlmostEqual(room.past.was, was.was, places=6)
            page = seen(self.client.get(address.replace("&amp;", "&")).text)
            self.assertIn(f"as it was charged: {100 * was.soc:.0f} % for €{was.was:.2f}", page)
        cut = self.room(left_on=date.fromisoformat(rows[0][1]), dropped=(Dropped("late", time(6, 0)),)).done
        self.assertLess(cut.runner.soc, nights[rows[0][1]].soc)
        none = self.client.get("/tonight/replay/live?left_on=2031-01-01")
        self.assertEqual(none.status_code, 422)
        self.assertIn("The log has no night at home", none.text)

    def test_a_number_draws_the_same_faults_again(self) -> None:
        first, again, other = (self.room(seed=seed).done.faults for seed in (11, 11, 12))
        self.assertEqual(first, again)
        self.assertNotEqual(first, other)

    def test_without_an_outlet_it_leads_to_where_one_is_set_up(self) -> None:
        self.assertEqual(self.client.get("/tonight/replay?car=1").status_code, 200)
        with self.household.recording() as session:
            session.connection().exec_driver_sql("UPDATE habit SET outlet_id = NULL WHERE car_id = 1")
            session.connection().exec_driver_sql("UPDATE written SET times = times + 1")
        self.assertNotEqual(self.client.get("/tonight/replay?car=1").url.path, "/tonight/replay")


class Nights(ApartCase):
    def test_the_command_says_what_the_nights_came_to_and_the_same_number_the_same(self) -> None:
        found = nights_again(self.read(), 1, 6, 5)
        self.assertEqual(found.nights, 6)
        self.assertEqual(found.silent, 0)
        self.assertLessEqual(found.short, found.short_alone)
        told = []
        for more in (["--json"], []):
            out = io.StringIO()
            with (
                redirect_stdout(out),
                mock.patch.object(cli_tonight, "open_home", return_value=self.household),
                self.assertRaises(SystemExit),
            ):
                cli.app(["replay", "--demo", "--nights", "6", "--faults", "5", "--car", "1", *more])
            told.append(out.getvalue())
        self.assertEqual(json.loads(told[0])["cost"], found.cost)
        self.assertIn("6 nights", told[1])


class Words(ApartCase):
    def test_every_code_and_every_fault_has_its_words(self) -> None:
        codes = set(re.findall(r'_go\([^"]*?"(\w+)"', Path(runner.__file__).read_text()))
        codes |= set(re.findall(r'_replan\([^"]*?"(\w+)"', Path(runner.__file__).read_text()))
        self.assertGreater(len(codes), 10)
        self.assertLessEqual(codes | set(ALARMS), set(LINES))
        self.assertEqual(set(FAULTS), {"", *(each.value for each in FaultKind)})
        self.assertEqual(set(SHORT), set(FaultKind))
