"""The day through its routes: verdicts, levers, what they refuse, and learning with its undo."""

from sqlalchemy import delete

from frost_tally.core.drive.day_inputs import PRESETS
from frost_tally.core.drive.tyre_log import TyreReading
from frost_tally.household.facts import tyres_now
from frost_tally.household.models import CarRow, DriveRow
from frost_tally.household.parts import in_order
from frost_tally.services.day.room import day
from frost_tally.services.tyres import tyre_log
from tests.formats.test_gpx import gpx
from tests.web.client import WebCase


class Day(WebCase):
    def test_every_start_gives_a_verdict_a_fan_and_a_tally_that_adds_up(self) -> None:
        for key, said in (
            ("usual", "<b>enough</b>"),
            ("errand", "<b>enough</b>"),
            ("jam", "<b>enough</b>"),
            ("long", "<b>too far</b>"),
        ):
            page = self.client.get(f"/day?day={key}").text
            made = day(self.read(), None, key)
            with self.subTest(day=key):
                self.assertIn(said, page)
                self.assertIn("The level along the day", page)
                assert made.tally
                self.assertAlmostEqual(
                    made.tally.mild_km - sum(s.lost_km for s in made.tally.steps), made.tally.expected_km, delta=1e-9
                )
                self.assertEqual(made.trip.distance_km, sum(leg.distance_km for leg in made.trip.drives))
        self.assertEqual(set(PRESETS), {"usual", "errand", "jam", "long"})
        self.assertIn("reserve is reached after about", page)

    def test_levers_change_the_day_as_they_should(self) -> None:
        def arrival(**levers: str) -> float:
            query = "&".join(f"{name}={value}" for name, value in levers.items())
            page = self.client.get(f"/day/live?{query}")
            self.assertEqual(page.status_code, 200, page.text[:200])
            return float(page.text.split("come home with <b>")[1].split("\u00a0%")[0])

        base = arrival(motorway_kmh="110")
        for worse in (
            {"roof_box": "yes"},
            {"surface": "slush"},
            {"wind_mps": "12"},
            {"out_c": "-25"},
            {"luggage_kg": "900"},
            {"motorway_kmh": "140"},
            {"climb_m": "3000"},
        ):
            self.assertLess(arrival(**worse), base, worse)
        for better in ({"climate": "no"}, {"leave_soc": "95"}, {"out_c": "12"}, {"motorway_kmh": "80"}):
            self.assertGreater(arrival(**better), base, better)
        for more in ("motorway_3=40&parked_2=0.5", "motorway_3=20&country_4=10&town_6=10"):
            self.assertIn("152", self.client.get(f"/day/live?{more}").text)

    def test_what_cannot_be_is_said_at_its_field(self) -> None:
        none = "&".join(f"{road}_{i}=0" for road in ("town", "country", "motorway") for i in (1, 2))
        for query, field, right in (("motorway_1=2000", "motorway_1", "0 to 1000 km"), ("out_c=-70", "out_c", "−45 to 45"), (none, "town_1", "at least one leg"), ("tyre_kpa=100&out_c=-40", "tyre_kpa", "flat"),
                                    ("style=wild", "style", "gentle"), ("people=0", "people", "1 to 9")):  # fmt: skip
            answer = self.client.get(f"/day/live?{query}")
            with self.subTest(query=query):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, self.errors(answer)[field])
        page = self.client.get("/day?out_c=-70")
        self.assertEqual(page.status_code, 422)
        self.assertIn('value="-70"', page.text)

    def test_tyres_and_the_dashboard_stand_beside_ours(self) -> None:
        page = self.client.get("/day").text.replace("\u00a0", " ")
        self.assertRegex(
            page,
            r"Read 250 kPa at 8 °C; at −\d+ °C that is 22\d kPa, against 250 kPa on the placard\. Here, at −\d °C, set 2\d\d kPa cold: add \d+ kPa",
        )
        self.assertRegex(page, r"A dashboard would show \d+ km or \d+ km")

    def test_too_few_noted_days_are_refused(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(DriveRow))
        answer = self.post("/day/learn", page="/day", car="1")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("8 noted days are needed", answer.text)


class LongLog(WebCase):
    years = 0.6

    def test_learning_lowers_the_error_on_held_back_days_is_used_and_undone(self) -> None:
        before = day(self.read()).arrival.likely
        done = self.post("/day/learn", page="/day", car="1")
        self.assertRegex(done.text, r"Learnt from 1\d\d days: motion × 1\.0\d")
        made = day(self.read())
        learnt = made.night.owned.learnt
        assert learnt is not None
        self.assertGreater(learnt.days, 100)
        self.assertLess(learnt.after, 0.6 * learnt.before)
        self.assertAlmostEqual(learnt.base, 1.07, delta=0.03)
        self.assertLess(made.arrival.likely, before)
        self.undo(done)
        self.assertAlmostEqual(day(self.read()).arrival.likely, before, delta=1e-9)


class KeptDaysAndTracks(WebCase):
    def test_a_day_is_kept_chosen_changed_put_away_and_back(self) -> None:
        done = self.post("/day/keep", page="/day", day_name="Market", motorway_1="90", people="3")
        self.assertIn("day=own-4", str(done.url))
        made = day(self.read(), 1, "own-4")
        self.assertEqual((made.inputs.trips[0].motorway, made.inputs.people), (90.0, 3))
        self.assertNotEqual(day(self.read(), 1).inputs.trips[0].motorway, 90.0)
        self.post("/day/keep", page="/day?day=own-4", day_name="Market", motorway_1="70")
        self.assertEqual(day(self.read(), 1, "own-4").inputs.trips[0].motorway, 70.0)
        gone = self.post("/day/put-away", page="/day?day=own-4")
        self.assertNotIn("own-4", gone.text)
        self.assertIn("Market", self.undo(gone).text)
        for typed, right in (({"day_name": ""}, "up to 40 letters"), ({"day_name": "x", "out_c": "-90"}, "−45 to 45")):
            answer = self.post("/day/keep", page="/day", **typed)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)

    def test_a_track_becomes_the_first_trip(self) -> None:
        token = self.fields("/day")["token"]
        send = {"data": {"token": token, "car": "1"}, "files": {"file": ("way.gpx", gpx([(30, 12), (110, 30)]))}}
        page = self.client.post("/day/track", **send)  # type: ignore[arg-type]
        self.assertIn("The first trip is the track way.gpx: 42 minutes of driving", page.text)
        self.assertRegex(page.text, 'name="motorway_1" value="5[45]')
        self.assertRegex(page.text, "6[01]\u00a0km")
        for content, right in ((b"", "Choose a GPX"), (b"<a/>", "not with “gpx”")):
            answer = self.client.post("/day/track", data={"token": token, "car": "1"}, files={"file": ("x.gpx", content)})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)


class TyreLog(WebCase):
    years = 1.0

    def test_the_leaking_wheel_is_named_and_a_look_is_noted_and_undone(self) -> None:
        self.assertIn("look at the rear left tyre", self.client.get("/day/tyres?car=2").text)
        self.assertIn("no wheel falls", self.client.get("/day/tyres?car=1").text)
        before = tyre_log(self.read(), 2)
        done = self.post(
            "/day/tyres",
            page="/day/tyres?car=2",
            car="2",
            how="note",
            FL="270",
            FR="271",
            RL="250",
            RR="",
            tyre_c="-4",
            warm="no",
        )
        self.assertEqual(len(tyre_log(self.read(), 2).readings), len(before.readings) + 3)
        with self.tables() as session:
            self.assertEqual(tyres_now(session, in_order(session, CarRow)[1]), TyreReading(250.0, -4.0))
        self.undo(done)
        self.assertEqual(tyre_log(self.read(), 2).readings, before.readings)
        self.post("/day/tyres", page="/day/tyres?car=2", car="2", how="sensors")
        self.assertEqual(tyre_log(self.read(), 2).looks[0][3], "car")
        self.assertIn("gauge_kpa", self.client.get("/day/tyres/readings.csv?car=2").text)

    def test_wrong_readings_are_said_at_their_wheel(self) -> None:
        for typed, right in (
            ({"FL": "2,5"}, "50 to 600 kPa"),
            ({}, "at least one wheel"),
            ({"FL": "250", "tyre_c": "99"}, "−45 to 70"),
        ):
            answer = self.post(
                "/day/tyres", page="/day/tyres?car=1", **{"car": "1", "how": "note", "tyre_c": "3", "warm": "no", **typed}
            )
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)
