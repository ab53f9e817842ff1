"""Room 4: health and its reasons, what the owner enters, guides over days, schools that Tonight follows, the report and its file."""

import csv
import io
import re
from datetime import timedelta
from html import unescape
from typing import TypeVar

import httpx2 as httpx
from sqlalchemy import delete, select, update

from frost_tally.household.models import (
    BatteryRow,
    CapacityRow,
    CarRow,
    ChargeRow,
    DriveRow,
    EventRow,
    GuideRow,
    PresentRow,
    ReadingRow,
)
from frost_tally.household.parts import part_row, set_values, write_health
from frost_tally.services.battery import room as battery
from frost_tally.services.battery.life import battery_of
from tests.web.client import WebCase

Row = TypeVar("Row", CapacityRow, EventRow, GuideRow)


def plain(answer: httpx.Response) -> str:
    """What a page says, without its marks."""
    text = re.sub(r"<[^>]+>", "", unescape(answer.text)).replace("\xa0", " ").replace("\u2060", "")
    return " ".join(text.split())


class BatteryCase(WebCase):
    def rows(self, table: type[Row], **same: object) -> list[Row]:
        with self.tables() as session:
            return list(session.scalars(select(table).filter_by(**same).order_by("id")))

    def car(self, number: int = 1) -> CarRow:
        with self.tables() as session:
            return session.get_one(CarRow, number)

    def at_clock(self, **later: float) -> None:
        """Let the demo's clock go on."""
        with self.household.recording() as session:
            session.execute(update(PresentRow).values(clock=self.read().now + timedelta(**later)))

    def step(self, **typed: str) -> httpx.Response:
        return self.post("/battery/guide/step", page="/battery/guide?car=1", **typed)


class Health(BatteryCase):
    years = 1.1

    def test_the_room_says_how_healthy_how_fast_and_who_can_be_told_apart(self) -> None:
        said = plain(self.client.get("/battery"))
        self.assertRegex(said, r"Marten: \d\d\.\d kWh of 58 kWh, 9\d % \(likely 9\d–\d\d\)\.")
        self.assertRegex(
            said,
            r"It loses \d\.\d points in the coming year \(± \d\.\d\), \d\.\d a year on average to 20\d\d; 80 % not before 20\d\d",
        )
        self.assertRegex(said, r"Dray stands at \d\d %: (the two cannot be told apart|Dray has kept more)")
        self.assertRegex(said, r"is worth a test over \d\d %")
        self.assertIn("No number is invented for it", said)
        health = battery.health(self.read(), 1)
        parts = sum(each.so_far for each in health.causes.values()) + health.besides
        self.assertAlmostEqual(parts, 1 - health.battery.trend.health, places=9)
        band = health.battery.trend.band
        self.assertTrue(band[0] < 0.955 < band[1] + 0.01, "the demo's own truth, 95 %")

    def test_two_tests_are_held_against_each_other(self) -> None:
        first, last = (each.id for each in self.rows(CapacityRow, car_id=1)[:: len(self.rows(CapacityRow, car_id=1)) - 1])
        said = plain(self.client.get(f"/battery?car=1&a={last}&b={first}"))
        self.assertRegex(said, r"points apart, ± \d\.\d: they (cannot be told apart|differ)")
        self.assertEqual(self.client.get("/battery?car=1&a=999999999&b=oops").status_code, 200)

    def test_first_day_and_warranty_are_kept_with_their_bounds_and_undone(self) -> None:
        typed = {"car": "1", "new_on": "2023-05-02", "warranty_soh": "70", "warranty_years": "8", "warranty_km": "160000"}
        for field, wrong, words in (
            ("warranty_soh", "20", "50 to 95"),
            ("warranty_years", "x", "will not do"),
            ("new_on", "2031-01-01", "still to come"),
            ("new_on", "2026-12-24", "The log begins on"),
            ("warranty_km", "12", "10000 to 1000000"),
        ):
            answer = self.post("/battery/facts", page="/battery", **{**typed, field: wrong})
            self.assertEqual(answer.status_code, 422, field)
            self.assertIn(words, plain(answer))
            self.assertIn(f'value="{wrong}"', answer.text, "what was typed stays")
        done = self.post("/battery/facts", page="/battery", **typed)
        self.assertIn("First day and warranty kept", done.text)
        self.assertRegex(plain(done), r"The chance to be under that by then is (under 1|\d+) in 100")
        with self.tables() as session:
            kept = session.get_one(BatteryRow, 1)
        self.assertEqual((kept.new_on and kept.new_on.isoformat(), kept.warranty_km), ("2023-05-02", 160000))
        self.undo(done)
        with self.tables() as session:
            self.assertNotEqual(session.get_one(BatteryRow, 1).new_on, kept.new_on)
        empty = self.post(
            "/battery/facts", page="/battery", car="1", new_on="", warranty_soh="", warranty_years="", warranty_km=""
        )
        self.assertIn("from the log’s pace", plain(empty))

    def test_the_cars_own_figure_is_a_percentage_and_nothing_else(self) -> None:
        page = self.client.get("/log/new/capacity_test?how=car").text
        self.assertIn('name="soh"', page)
        for other in ("soc_from", "soc_to", "kwh", "pack_c"):
            self.assertNotIn(f'name="{other}"', page)
        self.assertNotIn(
            'value="car"', self.client.get("/log/new/capacity_test").text.split('name="how"')[1].split("</select>")[0]
        )
        typed = {"page": "/log/new/capacity_test?how=car", "car": "1", "how": "car", "at_day": "2027-01-14", "at_time": "08:00"}
        self.assertIn("40 to 105", plain(self.post("/log/capacity_test/new", **typed, soh="300")))
        self.post("/log/capacity_test/new", **typed, soh="93,5")
        latest = max(battery_of(self.read(), self.read().home.car(1)).tests, key=lambda each: each.test.at)
        self.assertAlmostEqual(latest.capacity.kwh / 58.0, 0.935, places=6)
        self.assertIn('value="93.5"', self.client.get(f"/log/capacity_test/{latest.test.id}").text)

    def test_a_step_is_marked_where_the_software_changed_and_taken_out_again(self) -> None:
        update_row = self.rows(EventRow, car_id=1, kind="update")[0]
        before = battery.health(self.read(), 1).battery.trend
        self.post("/battery/step", page="/battery", car="1", event=str(update_row.id))
        (step,) = self.rows(EventRow, car_id=1, kind="step")
        after = battery.health(self.read(), 1).battery.trend
        self.assertEqual((len(before.steps), len(after.steps)), (0, 1))
        self.assertGreater(after.loss_per_year_sigma, before.loss_per_year_sigma - 1e-9)
        self.post("/battery/step", page="/battery", car="1", event=str(step.id), marked="1")
        self.assertEqual(self.rows(EventRow, car_id=1, kind="step"), [])
        self.assertEqual(self.post("/battery/step", page="/battery", car="2", event=str(update_row.id)).status_code, 422)

    def test_plans_reckon_with_what_was_measured_when_asked_to(self) -> None:
        with self.household.recording() as session:
            session.execute(update(CarRow).where(CarRow.id == 1).values(soh=1.0))
        self.assertIn("Let them reckon with", plain(self.client.get("/battery")))
        done = self.post("/battery/reckon", page="/battery", car="1")
        self.assertAlmostEqual(self.car().soh, battery.health(self.read(), 1).battery.trend.health, delta=0.001)
        self.assertNotIn("Let them reckon with", plain(done))
        self.undo(done)
        self.assertEqual(self.car().soh, 1.0)

    def test_report_and_file_hide_nothing(self) -> None:
        said = plain(self.client.get("/battery/report"))
        tests = self.rows(CapacityRow, car_id=1)
        for each in tests:
            self.assertIn(f"{each.at.day} {each.at:%B %Y}", said)
        self.assertIn("none of this is the maker’s own measurement", said)
        table = list(csv.DictReader(io.StringIO(self.client.get("/battery/history.csv?car=1").text)))
        self.assertEqual(sum(row["kind"] == "test" for row in table), len(tests))
        self.assertEqual(table[-1]["kind"], "trend")
        for row in table:
            self.assertAlmostEqual(float(row["capacity_kwh"]) / 58, float(row["health"]), delta=1e-4)

    def test_the_life_in_the_log_is_kept_until_something_in_it_changes(self) -> None:
        now = self.read().now
        first = battery.health(self.read(now), 1).battery

        def read(day: str) -> None:
            typed = {"read_at_day": day, "read_at_time": "12:00", "value": "44"}
            self.assertIn("noted", self.post("/log/level/new", page="/log/new/level", car="1", **typed).text)

        self.post(
            "/parked/twelve-volt", page="/parked/twelve-volt?car=1", car="1", fitted_on="2024-03-01", tops_up="yes", boot="no"
        )
        self.post("/garage/house", page="/garage/house", shift="20")
        again = battery.health(self.read(now), 1).battery
        self.assertIs(again.everyday, first.everyday, "what is no part of it leaves it as it was")
        read("2026-09-01")
        self.assertIsNot(battery.health(self.read(now), 1).battery.everyday, first.everyday)


class Guided(BatteryCase):
    def test_a_test_is_led_over_two_days_and_ends_in_the_log(self) -> None:
        self.assertRegex(plain(self.client.get("/battery/guide")), r"60 to 40 % it would tell nothing: ± \d\.\d kWh")
        self.post("/battery/guide/start", page="/battery/guide", car="1", kind="drive_down")
        for typed, words in (
            ({"plan_from": "60", "plan_to": "58"}, "at least 5 % apart"),
            ({"plan_from": "10", "plan_to": "90"}, "the other way round"),
            ({"plan_from": "", "plan_to": "10"}, "Nothing entered"),
        ):
            answer = self.step(**typed)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, plain(answer))
        self.assertIn("tells nothing", plain(self.step(plan_from="60", plan_to="40")))
        self.post("/battery/guide/back", page="/battery/guide?car=1")
        said = plain(self.step(plan_from="100", plan_to="10"))
        self.assertRegex(said, r"From 100 % to 10 % it will tell the capacity to ± 1\.\d kWh, good")
        self.step()
        self.at_clock(hours=20)
        self.assertIn("What spoils it", plain(self.client.get("/battery/guide?car=1")), "goes on where it was, on any device")
        self.step(soc_from="100")
        self.step()
        self.assertIn("check energy and levels", plain(self.step(soc_to="9", kwh="12", pack_c="17", stopped="no")))
        self.assertEqual(len(self.rows(GuideRow, ended_at=None)), 1, "nothing was filed")
        before = len(self.rows(CapacityRow, car_id=1))
        done = self.step(soc_to="9", kwh="50.1", pack_c="17", stopped="no")
        self.assertRegex(plain(done), r"Filed: 5\d\.\d kWh \(± 1\.\d kWh, good\)")
        tests = self.rows(CapacityRow, car_id=1)
        self.assertEqual((len(tests), tests[-1].soc_from, tests[-1].soc_to, tests[-1].kwh), (before + 1, 1.0, 0.09, 50.1))
        self.assertNotEqual(self.car().soh, 0.95, "plans reckon with it")
        self.undo(done)
        self.assertEqual((len(self.rows(CapacityRow, car_id=1)), self.car().soh), (before, 0.95))

    def test_a_car_that_stops_early_is_told_as_what_it_may_be(self) -> None:
        self.post("/battery/guide/start", page="/battery/guide", car="1", kind="drive_down")
        for typed in ({"plan_from": "100", "plan_to": "10"}, {}, {"soc_from": "100"}, {}):
            self.step(**typed)
        done = plain(self.step(soc_to="14", kwh="44", pack_c="", stopped="yes"))
        self.assertIn("A weak cell shows only low down", done)
        self.assertIn("the car ended it: maybe a weak cell", done)

    def test_two_mornings_tell_whether_the_pack_is_warmed_with_the_cabin(self) -> None:
        cold = {"out_1": "-9", "pack_1": "-4", "braking_1": "hardly"}
        for warm, told, words in (
            (
                {"out_2": "-7", "pack_2": "9", "braking_2": "less"},
                "yes",
                "warms its pack; plans reckon with it, 11 °C more than the weather",
            ),
            ({"out_2": "-8", "pack_2": "-3", "braking_2": "hardly"}, "no", "leaves its pack cold"),
            ({"out_2": "-8", "pack_2": "", "braking_2": "less"}, "yes", "warms its pack"),
            ({"out_2": "1", "pack_2": "", "braking_2": "full"}, "unknown", "these mornings do not tell"),
        ):
            self.post("/battery/guide/start", page="/battery/guide", car="1", kind="trial")
            before = self.car().preheats
            for typed in ({}, cold, {}):
                self.step(**typed)
            done = self.step(**warm)
            self.assertIn(words, plain(done))
            self.assertEqual(self.car().preheats, before if told == "unknown" else told)
            self.undo(done)
            self.assertEqual(self.car().preheats, before)
            self.post("/battery/guide/drop", page="/battery/guide?car=1")

    def test_the_others_end_in_the_log_as_well(self) -> None:
        ways = {
            "charge_up": (
                ({"plan_from": "10", "plan_to": "90"}, {}, {"soc_from": "11"}, {}),
                {"soc_to": "90", "kwh": "48", "counted": "wall", "pack_c": "16"},
                "wall",
            ),
            "car_test": (({"soc_from": "18"}, {}), {"figure": "94"}, "car"),
        }
        for kind, (steps, last, how) in ways.items():
            self.post("/battery/guide/start", page="/battery/guide", car="1", kind=kind)
            for typed in steps:
                self.step(**typed)
            if kind == "car_test":
                self.assertIn("About 12 h to go", plain(self.client.get("/battery/guide?car=1")))
            self.step(**last)
            self.assertEqual(self.rows(CapacityRow, car_id=1)[-1].how, how)
        self.assertAlmostEqual(self.rows(CapacityRow, car_id=1)[-1].kwh, 0.94 * 58)
        self.post("/battery/guide/start", page="/battery/guide", car="1", kind="calibrate")
        for typed in ({"soc_from": "21"}, {}, {}, {"soc_to": "100"}, {}):
            self.step(**typed)
        self.assertEqual(self.rows(EventRow, car_id=1)[-1].kind, "calibrated")
        self.assertNotIn("may have drifted", plain(self.client.get("/battery")))

    def test_one_guide_at_a_time_left_without_a_trace_and_undone(self) -> None:
        start = {"page": "/battery/guide", "car": "1"}
        self.post("/battery/guide/start", **start, kind="car_test")
        self.post("/battery/guide/start", **start, kind="calibrate")
        self.assertEqual([each.kind for each in self.rows(GuideRow)], ["car_test"])
        stale = self.post("/battery/guide/step", page="/battery/guide?car=1", step="3", soc_from="18")
        self.assertIn("went on elsewhere", plain(stale))
        left = self.post("/battery/guide/drop", page="/battery/guide?car=1")
        self.assertEqual(self.rows(GuideRow), [])
        self.undo(left)
        self.assertEqual(len(self.rows(GuideRow)), 1)
        self.assertEqual(self.post("/battery/guide/start", **start, kind="nonsense").status_code, 422)


class Schools(BatteryCase):
    def test_the_limit_is_kept_and_tonight_follows(self) -> None:
        said = plain(self.client.get("/battery/schools"))
        self.assertRegex(said, r"(Keep 80 %|is worth more than your 80 %)")
        done = self.post("/battery/schools/keep", page="/battery/schools", car="1", limit="70")
        self.assertIn("70 % is Marten’s everyday limit", plain(done))
        self.assertEqual(self.car().habit.limit, 0.7)
        self.assertIn('id="l-limit" name="limit" value="70"', self.client.get("/tonight?car=1").text)
        self.undo(done)
        self.assertEqual(self.car().habit.limit, 0.8)

    def test_levers_change_the_picture_and_bad_ones_say_so(self) -> None:
        base = plain(self.client.get("/battery/schools/live"))
        for query in (
            "late=no",
            "climate=hot",
            "stands=heated&heated_c=25",
            "weekly_full=yes",
            "years=3",
            "limit=66",
            "pack_price=300",
        ):
            self.assertNotEqual(plain(self.client.get(f"/battery/schools/live?{query}")), base, query)
        for name, wrong in (("limit", "20"), ("years", "0"), ("stop_worth", "-1"), ("weeks", "lots"), ("heated_c", "90")):
            answer = self.client.get(f"/battery/schools/live?{name}={wrong}")
            self.assertEqual((answer.status_code, list(self.errors(answer))), (422, [name]))
        self.assertEqual(self.post("/battery/schools/keep", page="/battery/schools", car="1", limit="7").status_code, 422)
        self.assertIn("66 %, yours", plain(self.client.get("/battery/schools?limit=66")))


class Empty(BatteryCase):
    demo = False

    def test_without_a_car_it_leads_to_setting_up_and_without_a_log_it_says_what_it_rests_on(self) -> None:
        for path in ("/battery", "/battery/guide", "/battery/schools", "/battery/report", "/battery/history.csv"):
            self.assertTrue(str(self.client.get(path).url).endswith("/setup/car"), path)


class NoLog(BatteryCase):
    def test_a_car_without_a_log_is_judged_by_packs_like_it(self) -> None:
        with self.household.recording() as session:
            for table in (DriveRow, ChargeRow, ReadingRow, CapacityRow, EventRow, BatteryRow):
                session.execute(delete(table))
        said = plain(self.client.get("/battery"))
        self.assertIn("Nothing was measured yet: this is what packs like it do", said)
        self.assertIn("None yet. The test guide says beforehand", said)
        self.assertNotIn("80 % not before", said)
        self.assertIn("as packs are usually scaled to them", said)
        self.assertIn("The log has too few charges to tell how much of its energy came fast", said)
        self.assertIn("Lived on your usual day", plain(self.client.get("/battery/schools")))
        self.assertEqual(self.client.get("/battery/report").status_code, 200)
        done = self.post("/battery/facts", page="/battery", car="1", new_on="2019-05-02")
        self.assertRegex(plain(done), r"Marten: \d\d\.\d kWh of 58 kWh, (8|9)\d %")
        before = battery_of(self.read(), self.read().home.car(1)).trend
        with self.household.deciding("typed") as session:
            set_values(part_row(session, "car", 1), {"soh": 0.8})
        told = battery_of(self.read(), self.read().home.car(1)).trend
        with self.household.deciding("nobody knows its first day") as session:
            session.execute(delete(BatteryRow))
        unknown = battery_of(self.read(), self.read().home.car(1))
        self.assertAlmostEqual(unknown.trend.health, 0.8, delta=0.03, msg="a pack that has lost so much is not new")
        self.assertGreater(unknown.age_days, 5 * 365)
        told = unknown.trend
        self.assertLess(told.health, before.health - 0.03, "a health that was typed is a first test")
        self.assertLess(told.sigma, before.sigma)
        with self.household.deciding("reckon") as session:
            write_health(session, 1, 0.9)
        self.assertAlmostEqual(battery_of(self.read(), self.read().home.car(1)).trend.health, told.health, places=3)
