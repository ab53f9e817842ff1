"""A day of a new home on a clock of its own: to plug in, under way, to leave, away, and the morning after a night nobody looked at."""

import re
from datetime import datetime, timedelta
from html import unescape
from zoneinfo import ZoneInfo

from sqlalchemy import delete, update

from frost_tally.core.coming.event import Event
from frost_tally.core.coming.level import Source
from frost_tally.core.coming.night import CarNight
from frost_tally.household.models import DepartureRow, HabitRow, NightCheckRow, OutletRow, PlaceRow, ReadingRow
from frost_tally.services.shared.now import _missed, now_of
from frost_tally.services.tonight.keeping import note_level_now
from frost_tally.services.tonight.room import tonight
from frost_tally.services.week import week
from tests.web.client import WebCase
from tests.web.test_garage import CAR, OUTLET, PLACE

TORONTO = ZoneInfo("America/Toronto")


class Clock:
    """A clock that a test moves."""

    def __init__(self, moment: datetime) -> None:
        self.moment = moment

    def now(self) -> datetime:
        return self.moment


class OneDay(WebCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        self.clock = Clock(datetime(2027, 1, 17, 18, 40, 23, tzinfo=TORONTO))  # a Sunday
        self.household.world.__dict__["clock"] = self.clock
        for name, fields in (
            ("car", CAR),
            ("outlet", OUTLET),
            ("place", {**PLACE, "garage_heated_c": "12", "garage": "outdoor"}),
        ):
            self.post(f"/setup/{name}", page=f"/setup/{name}", **fields)

    def at(self, *moment: int) -> str:
        self.clock.moment = datetime(2027, 1, *moment, tzinfo=TORONTO)  # type: ignore[misc, arg-type]
        page = unescape(self.client.get("/tonight").text)
        return " ".join(re.sub(r"<[^>]+>", " ", page.split('id="verdict"')[1].split("<section")[0]).replace("\xa0", " ").split())

    def question(self) -> str:
        page = unescape(self.client.get("/tonight").text).replace("\xa0", " ")
        found = re.search(r'id="level-title">(.*?)</h2>', page)
        return found[1] if found else ""

    def test_the_room_speaks_of_what_comes_next(self) -> None:
        self.assertRegex(self.at(17, 18, 45, 11), r"Plug in")
        self.assertEqual(self.question(), "")
        self.post("/tonight/keep")
        block = tonight(self.read()).plan.blocks[0]
        middle = (block.start + (block.end - block.start) * 0.6).astimezone(TORONTO)
        self.assertIn("Under way: by now it should have", self.at(middle.day, middle.hour, middle.minute, 7))
        self.assertEqual(self.question(), "", "after a kept plan nobody is asked")
        leave = self.at(18, 6, 40, 31)
        self.assertRegex(leave, r"Leave at 07:30 with (79|80) % ?, warm-up at")
        self.assertNotIn("No charging tonight", leave)
        away = self.at(18, 12, 3, 59)
        self.assertRegex(away, r"Away, home at about 16:30 with \d+ % ?, .*an errand of \d+ mi more keeps the reserve")
        self.assertIs(tonight(self.read()).event, Event.AWAY)
        home = self.at(18, 17, 30, 2)
        self.assertRegex(home, r"Plug in")
        self.assertIs(now_of(self.read()).level.source, Source.DROVE)

    def test_the_morning_after_a_night_by_habit_is_not_last_evening(self) -> None:
        """A typed level of the evening stood in the morning: "No charging tonight, the outlet is too weak, leave you 25 %"."""
        said = self.at(18, 6, 50, 12)
        level = now_of(self.read()).level
        self.assertGreater(level.likely, 0.75)
        self.assertRegex(said, r"Leave at 07:30 with (79|80) %")
        self.assertRegex(
            self.question(),
            r"Read on Sunday at 18:40: 40 %\. By now likely (79|80) % \((39|40)–8\d\), if the night charged it as planned",
        )
        with self.household.recording() as session:
            session.execute(update(HabitRow).values(control="hand"))
        careful = self.at(18, 6, 50, 12)
        self.assertLess(
            tonight(self.read()).inputs.soc_now, 0.45, "a start that cannot correct itself counts on the cautious end"
        )
        self.assertRegex(self.question(), r"planned from 4\d %")
        self.assertNotIn("with 80 %", careful)

    def test_a_night_that_is_under_way_as_it_was_kept_stands_by_hand_too(self) -> None:
        with self.household.recording() as session:
            session.execute(update(HabitRow).values(control="hand"))
        self.post("/tonight/keep")
        home = tonight(self.read()).arrival.likely
        self.assertIn("Under way: by now it should have", self.at(18, 1, 30, 7))
        self.assertRegex(self.at(18, 6, 40, 31), r"Leave at 07:30 with (79|80) %")
        self.assertAlmostEqual(tonight(self.read()).arrival.likely, home, delta=0.01)

    def test_the_level_is_typed_in_one_field_and_undone(self) -> None:
        self.at(19, 18, 50, 5)
        self.assertRegex(self.question(), r"after the nights and drives since then")
        bad = self.post("/tonight/level", level="140", car="1")
        self.assertEqual(bad.status_code, 422)
        self.assertIn('value="140"', bad.text)
        done = self.post("/tonight/level", level="57", car="1")
        self.assertEqual((self.question(), tonight(self.read()).inputs.soc_now), ("", 0.57))
        self.undo(done)
        self.assertNotEqual(self.question(), "")

    def doubt(self) -> str:
        page = unescape(self.client.get("/tonight").text).replace("\xa0", " ")
        self.assertLessEqual(len(re.findall(r'id="(?:doubt|level|record|moved)"', page)), 1, "asks at most one thing")
        found = re.search(r'id="doubt-title">(.*?)</h2>', page)
        return found[1] if found else ""

    def checks(self) -> list[tuple[bool, bool, bool]]:
        with self.household.recording() as session:
            return [(each.kept, each.charged, each.told) for each in session.query(NightCheckRow)]

    def test_a_level_that_contradicts_its_night_asks_whether_it_charged_and_the_answer_is_learnt(self) -> None:
        self.at(17, 18, 45, 11)
        self.post("/tonight/keep")
        self.at(18, 6, 50, 31)
        before = _missed(self.read(), self.home.cars[0], True)
        self.post("/tonight/level", level="41", car="1")
        self.assertRegex(self.doubt(), r"You read 41 %; after the night to Monday, 7\d–8\d % were expected\. Did it charge\?")
        bad = self.post("/tonight/charged", happened="perhaps", car="1")
        self.assertEqual((bad.status_code, self.checks()), (422, []))
        told = self.post("/tonight/charged", happened="missed", car="1")
        self.assertEqual((self.doubt(), self.checks()), ("", [(True, False, True)]))
        self.assertGreater(_missed(self.read(), self.home.cars[0], True), before + 0.02)
        self.assertEqual(self.post("/tonight/charged", happened="missed", car="1").status_code, 422)
        self.at(18, 12, 0, 9)
        self.assertLess(now_of(self.read()).level.high, 0.5, "what was not charged by then did not come in the last half hour")
        self.at(18, 6, 50, 31)
        self.undo(told)
        self.assertNotEqual(self.doubt(), "")
        misread = self.post("/tonight/charged", happened="misread", car="1")
        self.assertEqual((self.doubt(), now_of(self.read()).level.source), ("", Source.NIGHT))
        self.undo(misread)
        self.post("/tonight/charged", happened="misread", car="1")
        self.post("/tonight/level", level="79", car="1")
        self.assertEqual((self.doubt(), self.checks()), ("", [(True, True, False)]), "it charged, as the level shows")
        self.clock.moment += timedelta(minutes=20)
        self.post("/tonight/level", level="64", car="1")
        self.assertIn("Read: 64 % at 07:10 and 79 % at 06:50. The later counts.", self.at(18, 7, 11, 3))

    def test_a_kept_plan_whose_level_moved_asks_whether_to_keep_it_anew_and_shows_both(self) -> None:
        self.at(17, 18, 45, 11)
        self.post("/tonight/keep")
        self.assertNotIn("Keep it anew", self.client.get("/tonight").text)
        self.clock.moment += timedelta(minutes=25, seconds=13)
        self.post("/tonight/level", level="12", car="1")
        page = unescape(self.client.get("/tonight").text).replace("\xa0", " ")
        both = re.search(r'id="moved">(.*?)</div>', page, re.S)
        assert both is not None
        self.assertRegex(
            both[1], r"(?s)Kept for this night at 18:45: to 80 %.*As things are now: to 80 %, leaving Monday at 07:30"
        )
        self.post("/tonight/keep")
        self.assertNotIn("Keep it anew", self.client.get("/tonight").text)

    def test_a_level_that_nobody_read_is_asked_and_planned_from_the_floor(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(ReadingRow))
        self.at(18, 18, 50, 5)
        self.assertIn("Nobody has read the level yet. Planned as if at the floor, 20 %", self.question())
        self.at(30, 18, 50, 5)
        self.assertEqual(tonight(self.read()).inputs.soc_now, 0.2)

    def test_weather_typed_on_sunday_is_not_now_on_wednesday(self) -> None:
        self.at(17, 19, 0, 3)
        sunday = tonight(self.read()).inputs.out_now_c
        self.at(20, 19, 0, 3)
        wednesday, night = tonight(self.read()).inputs, tonight(self.read())
        self.assertNotAlmostEqual(wednesday.out_low_c, -14 * 5 / 9, delta=1.0)
        self.assertLess(
            abs(wednesday.out_now_c - night.state.owned.place.january_c), abs(sunday - night.state.owned.place.january_c) + 9.0
        )
        self.clock.moment += timedelta(seconds=41)
        self.assertEqual(self.client.get("/week").status_code, 200)


class OneCable(WebCase):
    def test_the_morning_after_the_other_cars_night_is_not_charged(self) -> None:
        """A car that was told to leave the cable stood at 79 % "if the night charged it as planned"."""
        evening = datetime(2027, 1, 15, 18, 40, 11, tzinfo=ZoneInfo("Europe/Oslo"))
        self.household.world.clock.set(evening)  # type: ignore[attr-defined]
        for car, soc in ((1, 0.27), (2, 0.5)):
            note_level_now(self.household, car, evening, soc, None)
        rooms = {car: tonight(self.read(), car) for car in (1, 2)}
        left = next(car for car, room in rooms.items() if not room.in_turn)
        self.assertIn("Leave the cable to", self.client.get(f"/tonight?car={left}").text)
        self.household.world.clock.set(evening + timedelta(hours=10))  # type: ignore[attr-defined]
        for car, room in rooms.items():
            level = now_of(self.read(), car).level.likely
            self.assertAlmostEqual(level, room.plan.soc_at(evening + timedelta(hours=10)), delta=0.02, msg=str(car))


class Elsewhere(WebCase):
    """A weekend away in the demo, 90 km out on Saturday and home on Monday."""

    def away(self, km: str, *, outlet: bool) -> list[CarNight]:
        self.moment = datetime(2027, 1, 15, 18, 40, 11, tzinfo=ZoneInfo("Europe/Oslo"))
        self.at(self.moment)
        with self.household.recording() as session:
            cabin = PlaceRow(name="Cabin", zone="Europe/Oslo", altitude_m=700, garage="outdoor")
            session.add(cabin)
            if outlet:
                session.add(OutletRow(name="Porch", voltage_v=230, phases=1, breaker_a=16, code="iec", cable_a=10, place=cabin))
            session.flush()
            number = cabin.id
        entered = self.post(
            "/week/departures", page="/week", car="1", number="", name="To the cabin", at="09:00", on_date="2027-01-16", km=km,
            nights="2", place_id=str(number), warm_up="nothing", day_id="0",
        )  # fmt: skip
        self.assertIn("2 nights away", unescape(entered.text))
        refused = self.post(f"/garage/remove/place/{number}", page="/garage")
        self.assertIn("still used by", unescape(refused.text))
        return [each.night for each in week(self.read(), 1).nights]

    def at(self, moment: datetime) -> None:
        self.household.world.clock.set(moment)  # type: ignore[attr-defined]

    def test_nights_at_a_place_with_an_outlet_charge_there_and_the_way_home_is_driven_once(self) -> None:
        nights = self.away("90", outlet=True)
        self.assertEqual([each.stay.away is not None for each in nights[:4]], [False, True, True, False])
        self.assertFalse(nights[1].plugged or nights[2].plugged, "not at home")
        out, home = nights[0], nights[2]
        self.assertEqual((out.inputs.km, home.inputs.km), (90, 90))
        self.assertEqual(out.evening.trip.distance_km, 90)
        self.assertEqual(tonight(self.read(), 1).nights.longest_km, 112, "out alone is not the longest day of the week")
        self.assertGreater(home.leaves_soc, out.home_soc + 0.2, "2.3 kW over two nights")
        self.assertLess(home.home_soc, home.leaves_soc - 0.2)
        page = unescape(self.client.get("/week?car=1").text)
        for words in ("Sunday, stays there", "Monday, way home, 90 km", "out: elsewhere"):
            self.assertIn(words, page.replace("\xa0", " "))
        self.at(self.moment + timedelta(days=1, hours=3))
        said = unescape(self.client.get("/tonight?car=1").text)
        self.assertIn("Not here", said)
        self.assertNotIn("plug in tonight", said)
        there = now_of(self.read(), 1)
        self.assertEqual((there.away and there.away.home_at.day, there.nights[0].leaves.day), (18, 17))
        with self.household.recording() as session:
            session.execute(update(HabitRow).values(control="hand"))  # counts on the cautious end, to which this night still adds
        self.at(self.moment + timedelta(days=2, hours=1))
        careful, last = now_of(self.read(), 1), week(self.read(), 1).nights[0].night
        self.assertGreater(last.leaves_soc, careful.soc + 0.2, "what is left of a night there charges, too")
        self.at(self.moment + timedelta(days=3, hours=1))
        back = now_of(self.read(), 1)
        self.assertIsNone(back.away)
        self.assertAlmostEqual(back.level.likely, home.home_soc, delta=0.05, msg="the level carried on is the one foreseen")

    def test_of_a_car_that_nobody_leaves_with_afterwards_the_room_speaks_of_the_first_night_at_home(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(DepartureRow))
            session.execute(update(HabitRow).values(days_a_week=0.0))
        nights = self.away("90", outlet=True)
        self.at(self.moment + timedelta(days=1, hours=2))
        room = tonight(self.read(), 1)
        self.assertEqual(room.before_drive.stay.begin.day, 18)
        self.assertAlmostEqual(room.before_drive.soc, nights[2].home_soc, delta=0.05, msg="the way home is driven before it")
        page = unescape(self.client.get("/tonight?car=1").text).replace("\xa0", " ")
        self.assertIn(
            f"{round(100 * room.before_drive.soc)} % at 18:30", page, "the picture begins with the level of its own evening"
        )

    def test_without_an_outlet_there_it_leaves_home_with_both_ways(self) -> None:
        nights = self.away("75", outlet=False)
        self.assertLess(nights[2].leaves_soc, nights[1].soc)
        self.assertGreaterEqual(nights[2].arrival.low, now_of(self.read(), 1).owned.habit.reserve - 0.03)
        self.assertGreater(nights[0].leaves_soc, 0.8)
