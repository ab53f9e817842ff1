"""Room 5: the stand and its advice, the 12 V battery, washer fluid, the season list, and the line in Tonight and Day."""

import re
from datetime import UTC, datetime, timedelta
from html import unescape

import httpx2 as httpx
from sqlalchemy import delete, select, update

from frost_tally.demo.history import SEASON
from frost_tally.household.models import DepartureRow, EventRow, PersonRow, PresentRow, ReadingRow, SmallBatteryRow
from frost_tally.web.words.season import TITLES
from tests.web.client import WebCase


def plain(answer: httpx.Response) -> str:
    """What a page says, without its marks."""
    text = re.sub(r"<[^>]+>", "", unescape(answer.text)).replace("\xa0", " ").replace("\u2060", "")
    return " ".join(text.split())


class ParkedCase(WebCase):
    def events(self) -> list[EventRow]:
        with self.tables() as session:
            return list(session.scalars(select(EventRow).where(EventRow.kind == "season").order_by(EventRow.id)))

    def at(self, moment: datetime) -> None:
        with self.household.recording() as session:
            session.execute(update(PresentRow).values(clock=moment))


class Away(ParkedCase):
    def test_two_weeks_with_cameras_say_what_to_switch_off_or_to_leave_with(self) -> None:
        said = plain(self.client.get("/parked?days=14&out_c=-8&cameras=day&soc=80&charger_km=14"))
        self.assertRegex(said, r"After 14 days Marten comes back to \d+ % \(\d+–\d+\)")
        self.assertIn("Switch off watch cameras", said)
        self.assertRegex(said, r"The next charger is 14 km away: that and the reserve need \d+ % in −8 °C")
        self.assertRegex(said, r"off: \d+ %, \d+ km, \d+ days more")
        self.assertIn("would be empty", plain(self.client.get("/parked?days=30&out_c=-8&cameras=away&soc=60&charger_km=14")))
        self.assertIn(": enough.", plain(self.client.get("/parked?days=3&soc=80&out_c=5&charger_km=10")))
        self.assertIn("not even 100 %", plain(self.client.get("/parked?days=300&soc=90&out_c=-8&charger_km=14")))

    def test_a_stand_in_february_is_planned_by_its_dates_and_that_weather(self) -> None:
        """The 14th of January is today."""
        said = plain(self.client.get("/parked?leaves_on=2027-07-01&back_on=2027-07-20&soc=80"))
        self.assertRegex(said, r"After 19 days \(1 July 2027 to 20 July 2027\) Marten comes back to \d+ %")
        summer, winter = (
            float(re.search(r"(−?\d+) °C on average", plain(self.client.get(f"/parked?soc=80&{query}")))[1].replace("−", "-"))  # type: ignore[index]
            for query in ("leaves_on=2027-07-01&back_on=2027-07-20", "leaves_on=2027-02-01&back_on=2027-02-20")
        )
        self.assertGreater(summer, winter + 10)
        for name, wrong in (
            ("leaves_on", "2027-01-13"),
            ("leaves_on", "2029-01-01"),
            ("back_on", "2027-01-14"),
            ("back_on", "soon"),
        ):
            answer = self.client.get(f"/parked/live?{name}={wrong}")
            self.assertEqual(answer.status_code, 422, (name, wrong))
            self.assertIn(f'data-field="{name}"', answer.text)

    def test_a_month_at_home_plugged_in(self) -> None:
        said = plain(self.client.get("/parked?days=30&plugged=yes&at_home=yes"))
        self.assertIn("it is held at 50 % from the wall", said)
        self.assertIn("12 V battery may be half empty", said)
        self.assertNotEqual(
            *(plain(self.client.get(f"/parked?days=9&cameras=not_home&at_home={each}")) for each in ("yes", "no"))
        )
        high = plain(self.client.get("/parked?days=30&plugged=yes&limit=90"))
        self.assertIn("about 50 % would be better", high)

    def test_bad_levers_say_so_and_good_ones_change_it(self) -> None:
        base = plain(self.client.get("/parked/live?soc=80"))
        for query in ("cameras=away", "polls=often", "climate_h=2", "keep_warm=yes", "days=40", "out_c=20", "charger_km=90"):
            self.assertNotEqual(plain(self.client.get(f"/parked/live?soc=80&{query}")), base, query)
        for name, wrong in (
            ("soc", "0"),
            ("days", "0"),
            ("days", "1.5"),
            ("climate_h", "25"),
            ("charger_km", "-1"),
            ("out_c", "warm"),
            ("limit", "5"),
        ):
            answer = self.client.get(f"/parked/live?{name}={wrong}")
            self.assertEqual((answer.status_code, list(self.errors(answer))), (422, [name]))


class SmallBattery(ParkedCase):
    def test_what_is_entered_changes_the_verdict_and_is_undone(self) -> None:
        self.assertIn("12 V battery", plain(self.client.get("/parked/twelve-volt")))
        done = self.post(
            "/parked/twelve-volt", page="/parked/twelve-volt", car="1", fitted_on="2021-10-01", tops_up="yes", boot="no"
        )
        self.assertIn("should be replaced before the winter", plain(done))
        self.assertIn("The pack tops it up", plain(done))
        self.assertIn("“Open a door now and then” is no plan for this car", plain(done))
        self.undo(done)
        with self.tables() as session:
            self.assertIsNone(session.get(SmallBatteryRow, 1))
        wrong = self.post(
            "/parked/twelve-volt", page="/parked/twelve-volt", car="1", fitted_on="2031-10-01", tops_up="yes", boot="no"
        )
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("still to come", plain(wrong))
        self.assertIn('value="2031-10-01"', wrong.text)

    def test_a_low_reading_is_said_in_tonight_and_day(self) -> None:
        with self.household.recording() as session:
            session.add(ReadingRow(car_id=1, kind="twelve_volt", read_at=self.read().now, value=12.1, unit="V", temp_c=5.0))
        for path in ("/tonight", "/day"):
            self.assertIn("The 12 V battery wants charging now", plain(self.client.get(path)), path)
        self.assertIn("at rest it shows half or less", plain(self.client.get("/parked/twelve-volt")))


class Washer(ParkedCase):
    def test_mixes_and_what_no_concentrate_stands(self) -> None:
        said = plain(self.client.get("/parked/washer?alcohol=ethanol&strength=60&target_c=-20&tank_l=4&now_l=2&now_c=-5"))
        self.assertRegex(said, r"For −20 °C: \d\d % concentrate, the rest water, 29 % alcohol by mass")
        self.assertRegex(said, r"Add 1\.\d L of concentrate, then add 0\.\d L of water")
        full = plain(self.client.get("/parked/washer?alcohol=ethanol&strength=60&target_c=-20&tank_l=4&now_l=4&now_c=-3"))
        self.assertRegex(full, r"Let out \d\.\d L, then add \d\.\d L of concentrate")
        weak = plain(self.client.get("/parked/washer?alcohol=ethanol&strength=10&target_c=-20"))
        self.assertIn("Not even undiluted does this concentrate stand", weak)
        label = plain(self.client.get("/parked/washer?alcohol=label&label_pure_c=-60&label_mixed_c=-20&target_c=-20"))
        self.assertIn("50 % concentrate", label)

    def test_bad_fields_keep_what_was_typed(self) -> None:
        for query, words in (("strength=lots", "will not do"), ("tank_l=40", "1 to 15"), ("now_l=9", "What is in it"), ("alcohol=label&label_pure_c=-10&label_mixed_c=-30", "must freeze earlier")):  # fmt: skip
            answer = self.client.get(f"/parked/washer?{query}")
            self.assertEqual(answer.status_code, 422, query)
            self.assertIn(words, plain(answer))
        self.assertIn('value="lots"', self.client.get("/parked/washer?strength=lots").text)


class Season(ParkedCase):
    years = 1.1

    def test_the_evening_before_frost_is_four_lines_and_one_tap(self) -> None:
        self.assertTrue(SEASON.items() <= TITLES.items(), "the demo's log speaks of the list's items")
        said = plain(self.client.get("/parked/season"))
        self.assertRegex(said, r"Frost tonight, −\d+ °C: 4 things, 6 minutes\.")
        self.assertIn("4 things to do, 6 minutes", plain(self.client.get("/tonight")))
        self.assertIn("4 things to do, 6 minutes", plain(self.client.get("/day")))
        one = self.post("/parked/season", page="/parked/season", car="1", item="wipers_up")
        self.assertRegex(plain(one), r"3 things, 5 minutes")
        done = self.post("/parked/season", page="/parked/season", car="1", item="evening")
        self.assertIn("all is done", plain(done))
        self.assertNotIn("things to do", plain(self.client.get("/tonight")))
        self.assertIn("3 things", plain(self.undo(done)))
        self.at(self.read().now + timedelta(days=1))
        self.assertRegex(plain(self.client.get("/parked/season")), r"4 things", "every evening anew")

    def test_items_of_the_season_are_ticked_by_somebody_and_come_again(self) -> None:
        with self.household.deciding("a second person") as session:
            session.add(PersonRow(name="Somebody else"))
        before = len(self.events())
        done = self.post("/parked/season", page="/parked/season", car="1", item="emergency", who="Somebody else")
        self.assertRegex(plain(done), r"done on 14 January 2027 by Somebody else; again by \w+ 2027")
        self.assertEqual((len(self.events()), self.events()[-1].who), (before + 1, "Somebody else"))
        self.post("/parked/season", page="/parked/season", car="1", item="emergency")
        self.assertEqual(len(self.events()), before + 1, "done is done")
        self.assertEqual(self.post("/parked/season", page="/parked/season", car="1", item="nonsense").status_code, 422)
        with self.household.recording() as session:
            session.add(
                EventRow(
                    car_id=1,
                    kind="season",
                    at=datetime(2025, 10, 3, 12, tzinfo=UTC),
                    item="emergency",
                    note="as it was called then",
                )
            )
        self.assertIn("Before: 3 October 2025", plain(self.client.get("/parked/season")))
        typed = {"car": "1", "at_day": "2027-01-14", "at_time": "08:00", "item": "kit", "note": "", "who": ""}
        self.post("/log/season/new", page="/log/new/season", **typed)
        self.assertEqual((self.events()[-1].item, self.events()[-1].note), ("kit", TITLES["kit"]))
        self.assertRegex(plain(self.client.get("/parked/season")), r"gloves in the car.{0,200}done on 14 January 2027")

    def test_a_first_season_begins_with_what_is_done_already(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(EventRow).where(EventRow.kind == "season"))
            session.execute(update(PresentRow).values(clock=datetime(2027, 5, 20, 12, tzinfo=UTC)))
        said = plain(self.client.get("/parked/season"))
        self.assertIn("first winter with this list: tick what is done already", said)
        self.assertNotIn("overdue", plain(self.client.get("/tonight")))
        self.assertIn("A first winter with the season list", plain(self.client.get("/tonight")))
        none = self.post("/parked/season", page="/parked/season", car="1", item="ticked")
        self.assertEqual((none.status_code, len(self.events())), (422, 0))
        some = {"is-washer": "yes", "is-tyres": "yes", "is-kit": "yes"}
        done = self.post("/parked/season", page="/parked/season", car="1", item="ticked", **some)
        self.assertEqual([each.item for each in self.events()], ["washer", "kit", "tyres"])
        self.assertIn("3 of 15 of the season’s items are done", plain(done))
        self.assertIn("items are overdue", plain(self.client.get("/tonight")))
        self.undo(done)
        self.assertEqual(self.events(), [], "one decision, one undo")

    def test_in_summer_all_of_it_lies_ahead_and_the_calendar_reminds(self) -> None:
        self.at(datetime(2026, 8, 2, 12, tzinfo=UTC))
        said = plain(self.client.get("/parked/season"))
        self.assertRegex(said, r"0 of 15 of the season’s items are done")
        self.assertRegex(
            said, r"The first frost is likely about \d+ (September|October); next: 12 V battery looked at, by \d+ \w+"
        )
        self.assertNotIn("This evening", said)
        feed = self.client.get("/parked/season.ics").text
        self.assertEqual(feed.count("BEGIN:VEVENT"), 15)
        self.assertIn("washer mix for the winter", feed)


class Empty(ParkedCase):
    demo = False

    def test_without_a_car_it_leads_to_setting_up(self) -> None:
        for path in (
            "/parked",
            "/parked/season",
            "/parked/twelve-volt",
            "/parked/washer",
            "/parked/frozen",
            "/parked/season.ics",
        ):
            self.assertTrue(str(self.client.get(path).url).endswith("/setup/car"), path)


class LongStand(ParkedCase):
    def test_days_without_a_departure_are_said(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(DepartureRow).where(DepartureRow.car_id == 1))
            day = (self.read().now + timedelta(days=12)).date()
            session.add(
                DepartureRow(
                    car_id=1, uid="far", name="Home again", at=datetime(2027, 1, 1, 9).time(), on_date=day, since=day, km=10
                )
            )
        self.assertRegex(plain(self.client.get("/tonight")), r"It stands for 1\d days: leave it at about half")
