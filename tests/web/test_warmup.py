"""Warm-up through its routes: verdicts, levers, habits, departures with undo, leavings and the feed."""

from dataclasses import replace
from datetime import datetime, timedelta
from functools import partial

from sqlalchemy import delete

from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.household.models import CarRow, LeavingRow, PersonRow
from frost_tally.household.parts import in_order
from frost_tally.household.unit_of_work import Household
from frost_tally.services.departures.feed import week_ahead
from frost_tally.services.departures.left import settle
from frost_tally.services.departures.room import departures
from frost_tally.services.shared.now import now_of
from frost_tally.services.warmup.room import warm_up_room
from tests.web.client import ApartCase, WebCase

WORK = {"name": "Night shift", "at": "21:40", "km": "12", "warm_up": "advised", "day_0": "yes", "day_3": "yes", "region": "no"}


class Room(WebCase):
    def said(self, query: str) -> str:
        page = self.client.get(f"/warm-up/live?{query}")
        self.assertEqual(page.status_code, 200, page.text[:200])
        return page.text.split('id="verdict">')[1].split("</h1>")[0]

    def test_the_verdict_follows_distance_and_temperature(self) -> None:
        self.assertIn("seats only", self.said("km=2"))
        self.assertIn("<b>cabin</b>", self.said("km=20"))
        self.assertIn("cabin and pack", self.said("km=100"))
        self.assertIn("seats only", self.said("km=2&out_c=8"))
        self.assertIn("nothing", self.said("km=60&out_c=16"))

    def test_everything_is_said_where_it_matters(self) -> None:
        page = self.client.get("/warm-up?km=100").text
        for words in ("The five choices against doing nothing", "Unplug before driving", "Screens and lights must be clear", "The way home",
                      "then switched off", ["comfort", "worth"][1], "from memory", "unplugged: cabin only"):  # fmt: skip
            self.assertIn(words, page)
        self.assertIn("Once, before the first trip", self.client.get("/warm-up?km=40&trips=4&out_c=-18&parked_h=1").text)
        unplugged = self.client.get("/warm-up?km=10&plugged=no").text.replace("\u00a0", " ")
        self.assertRegex(unplugged, r"It takes \d\.\d kWh from the pack")
        self.assertRegex(unplugged, r"all of it comes from the pack: the level falls by \d+ %")
        with self.household.recording() as session:
            in_order(session, CarRow)[0].preheats = "unknown"
        self.assertIn("Nobody knows yet", self.client.get("/warm-up?km=100").text)

    def test_the_way_home_is_counted_when_it_is_switched_on(self) -> None:
        now = self.read().now
        cold, warm = (warm_up_room(self.read(now), 1, partial(replace, warm_home=on)) for on in (False, True))
        gone = cold.advice.best.arrival_soc - warm.advice.option(cold.advice.best.choice).arrival_soc
        assert cold.home
        self.assertAlmostEqual(
            gone * 112.0 / (cold.advice.best.start.soc - cold.advice.best.arrival_soc), cold.home.km, delta=0.1
        )
        self.assertLess(warm.advice.best.cold_min, cold.advice.best.cold_min)

    def test_what_cannot_be_is_said_at_its_field(self) -> None:
        for query, field, right in (("km=0", "km", "0.5 to 500 km"), ("out_c=-80", "out_c", "−45 to 35"), ("trips=20", "trips", "1 to 12"), ("depart=x", "depart", "07:10"),
                                    ("show=sauna", "show", "late charging"), ("pack_price=-1", "pack_price", "0 to"), ("cabin_c=50", "cabin_c", "10 to 28")):  # fmt: skip
            answer = self.client.get(f"/warm-up/live?{query}")
            with self.subTest(query=query):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, self.errors(answer)[field])
        page = self.client.get("/warm-up?km=nine")
        self.assertEqual(page.status_code, 422)
        self.assertIn('value="nine"', page.text)

    def test_a_habit_is_kept_used_tonight_and_taken_back(self) -> None:
        done = self.post("/warm-up/keep", page="/warm-up", car="1", show="seats", km="2")
        self.assertIs(now_of(self.read(), 1).defaults.warm_up, WarmUpChoice.SEATS)
        self.assertNotIn("warm-up at", self.client.get("/tonight").text.split("</h1>")[0])
        self.undo(done)
        self.assertIn("warm-up at", self.client.get("/tonight").text.split("</h1>")[0])
        refused = self.post("/warm-up/keep", page="/warm-up", car="1", show="seats", km="90")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("warm people come before range", refused.text)

    def test_the_owners_minutes_win_and_bad_ones_are_asked_again(self) -> None:
        self.assertIn("which is a guess", self.client.get("/warm-up?car=1").text)
        for typed, told in (
            ({"minutes": "5", "soak_c": "-20"}, "cars have 0.5 to 15"),
            ({"minutes": "400", "soak_c": "-5"}, "3 to 240"),
        ):
            refused = self.post("/warm-up/minutes", page="/warm-up", car="1", **typed)
            self.assertEqual(refused.status_code, 422)
            self.assertIn(told, refused.text)
            self.assertIn(f'value="{typed["minutes"]}"', refused.text)
        self.assertEqual(self.home.cars[0].warm_notes, ())
        noted = self.post("/warm-up/minutes", page="/warm-up", car="1", minutes="50", soak_c="-5", kwh="")
        self.assertRegex(
            noted.text.replace("\u00a0", " "),
            r"By your minutes the pack takes \d\d minutes at −\d+ °C, not \d\d as its class would",
        )
        advice = warm_up_room(self.read(), 1).advice
        lead = advice.option(WarmUpChoice.CABIN_AND_PACK).plan.warm.pack_lead_s
        self.assertGreater(lead, 20 * 60)
        both = self.post("/warm-up/minutes", page="/warm-up", car="1", minutes="70", soak_c="-15", kwh="5")
        self.assertIn("as your notes tell", both.text)
        gone = self.post("/warm-up/minutes", page="/warm-up", car="1", away="1")
        self.assertEqual(len(self.home.cars[0].warm_notes), 1)
        self.undo(gone)
        self.assertEqual([each.kwh for each in self.home.cars[0].warm_notes], [None, 5.0])
        self.assertEqual(self.post("/warm-up/minutes", page="/warm-up", car="1", away="7").status_code, 422)

    def test_late_charging_stays_in_the_cheap_hours(self) -> None:
        late = self.client.get("/tonight/live?warm_up=late").text.split("</h1>")[0]
        self.assertIn("–06:00", late.split("Charging")[1])


class Departures(ApartCase):
    def test_one_is_entered_changed_put_away_and_back(self) -> None:
        done = self.post("/week/departures", page="/week", car="1", **WORK)
        self.assertIn("21:40, Mon, Thu, not on holidays of NO; 12\u00a0km one way; warm-up as advised that day.", done.text)
        row = departures(self.read(), 1).owned.departures[-1]
        changed = self.post("/week/departures", page=f"/week?edit={row.id}", **{**WORK, "car": "1", "at": "22:00"})
        again = departures(self.read(), 1).owned.departures[-1]
        self.assertEqual((again.uid, f"{again.schedule.at:%H:%M}"), (row.uid, "22:00"))
        self.undo(changed)
        self.assertEqual(departures(self.read(), 1).owned.departures[-1].schedule.at, row.schedule.at)
        gone = self.post("/week/departures", page="/week", car="1", away=str(row.id))
        self.assertIn("“Night shift” put away", gone.text)
        back = self.undo(gone)
        self.assertIn("Night shift", back.text)

    def test_wrong_ones_keep_what_was_typed_and_change_nothing(self) -> None:
        before = len(departures(self.read(), 1).listed)
        for typed, right in (({"name": ""}, "Nothing entered"), ({"at": "25:00"}, "07:10"), ({"km": "0"}, "0.5 to 500"), ({"region": "ZZ"}, "not a region"), ({"region": "public"}, "not a region"), ({"day_0": "", "day_3": ""}, "Choose the weekdays"),
                             ({"on_date": "2027-02-01"}, "Either weekdays or one date"), ({"on_date": "soon"}, "2027-01-16"), ({"on_date": "2020-01-01", "day_0": "", "day_3": ""}, "has passed"),
                             ({"warm_up": "sauna"}, "as advised")):  # fmt: skip
            answer = self.post("/week/departures", page="/week", **{**WORK, "car": "1", **typed})
            with self.subTest(typed=typed):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, answer.text)
                self.assertIn('value="12"' if "km" not in typed else 'value="0"', answer.text)
        self.assertEqual(len(departures(self.read(), 1).listed), before)

    def test_tonight_follows_the_list(self) -> None:
        self.post("/week/departures", page="/week", car="1", **{**WORK, "at": "05:15", "day_4": "yes"})
        self.assertIn('name="depart" value="05:15"', self.client.get("/tonight?car=1").text)
        van = self.client.get("/tonight?car=2").text
        self.assertIn("No need to plug in tonight. On Friday, plug in before", van)
        self.assertIn("Saturday’s 138", van)
        self.assertIn("next departure on the list is on Saturday at 05:40", self.client.get("/warm-up?car=2").text)

    def test_a_missed_departure_is_noted_by_the_car_or_by_hand(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(LeavingRow))
        page = self.client.get("/week?car=1").text
        self.assertIn("did it leave?", page)
        due = page.split('name="due" value="')[1].split('"')[0].replace("&#43;", "+")
        done = self.post("/week/departures/left", page="/week", car="1", due=due, name="Work", outcome="missed")
        self.assertIn("<td>stayed</td>", done.text)
        self.assertIn("switched off after 20 minutes", done.text)
        made = departures(self.read(), 1)
        self.assertGreater(made.leavings[0].kwh, 0.2)
        self.assertIsNone(made.open)
        self.undo(done)
        self.assertIsNotNone(departures(self.read(), 1).open)
        self.post("/tonight/clock", car="1")
        noted = departures(self.read(), 1).leavings
        self.assertEqual(noted[0].source, "car")
        self.assertIn("spent_kwh", self.client.get("/week/departures/left.csv?car=1").text)
        for bad in ({"due": "x"}, {"due": "2027-01-14T03:33:00+01:00"}, {"outcome": "flew"}):
            answer = self.post("/week/departures/left", page="/week", **{"car": "1", "due": due, "outcome": "missed", **bad})
            self.assertEqual(answer.status_code, 422)

    def test_the_feed_is_a_calendar_and_the_week_is_planned(self) -> None:
        answer = self.client.get("/week/departures.ics?car=1")
        self.assertEqual(answer.headers["content-type"], "text/calendar; charset=utf-8")
        self.assertTrue(answer.text.startswith("BEGIN:VCALENDAR"))
        self.assertEqual(self.client.get("/week/departures.ics?car=99").status_code, 422)
        week = week_ahead(self.read(), 1)
        self.assertEqual([f"{each.at:%a}" for each in week], ["Fri", "Sat", "Mon", "Tue", "Wed", "Thu"])
        self.assertTrue(all(each.at - each.night.plan.warm_start < timedelta(hours=2) for each in week))


class Empty(WebCase):
    demo = False

    def test_an_empty_household_is_led_to_its_set_up(self) -> None:
        self.assertIn("/setup", str(self.client.get("/warm-up").url))
        self.assertIn("/setup", str(self.client.get("/week").url))


class OwnHousehold(WebCase):
    def test_another_persons_units_and_a_car_that_always_stays(self) -> None:
        with self.household.recording() as session:
            person = in_order(session, PersonRow)[0]
            person.distance_unit, person.temperature_unit = "mi", "F"
            session.execute(delete(LeavingRow))
        page = self.client.get("/warm-up?km=60").text.replace("\u00a0", " ")
        self.assertIn("this trip, 60 mi", page)
        self.assertRegex(page, "in a coat 59 °F will do")
        self.assertIn("35 mi one way", self.client.get("/week").text.replace("\u00a0", " "))

        class Stays:
            def left_at(self, car: str, due: datetime) -> datetime | None:
                return None

        now = self.read().now
        self.assertGreater(settle(Household(self.household.engine, replace(self.household.world, car_link=Stays())), now), 8)
        self.assertEqual(settle(Household(self.household.engine, replace(self.household.world, car_link=Stays())), now), 0)
        self.assertTrue(all(each.outcome == "missed" for each in departures(self.read(now), 1).leavings))

    def test_seats_as_a_habit_reach_tonights_day(self) -> None:
        usual, seats = (self.client.get(f"/tonight/live?km=20&warm_up={kind}").text for kind in ("cabin", "seats"))
        left = [int(page.split("leave you <b>")[1].split("\u00a0%")[0]) for page in (usual, seats)]
        self.assertGreater(left[1], left[0])
