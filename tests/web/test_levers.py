"""Levers, in every room that has them: what was shown changes nothing, what will not do is named, and all else counts."""

import re
from dataclasses import replace
from datetime import time, timedelta

from frost_tally.demo.skarfell import EVENING
from frost_tally.household.facts import note_level, note_tyres
from frost_tally.household.models import HabitRow, PersonRow
from frost_tally.household.parts import in_order
from frost_tally.services.tonight.room import tonight
from frost_tally.web.levers import LeverRoom
from frost_tally.web.rooms.compare import page as compare
from frost_tally.web.rooms.day import page as day
from frost_tally.web.rooms.outlets import page as outlets
from frost_tally.web.rooms.tonight import page as tonight_room
from frost_tally.web.rooms.warmup import page as warmup
from tests.web.client import WebCase

ROOMS: tuple[LeverRoom, ...] = (tonight_room.ROOM, day.ROOM, warmup.ROOM, outlets.ROOM, compare.ROOM)  # type: ignore[type-arg]
UNITS = {"metric": ("km", "C", "kPa"), "bar": ("km", "C", "bar"), "imperial": ("mi", "F", "psi")}


class LeverCase(WebCase):
    def units(self, distance: str, temperature: str, pressure: str) -> None:
        with self.household.recording() as session:
            person = in_order(session, PersonRow)[0]
            person.distance_unit, person.temperature_unit, person.pressure_unit = distance, temperature, pressure

    def sent(self, page: str) -> list[tuple[str, str]]:
        """What a browser sends of the levers' form, untouched."""
        form = re.search(r'<form method="get".*?</form>', page, re.S)
        assert form
        found = []
        for tag in re.findall(r"<input[^>]*>|<select.*?</select>", form[0], re.S):
            name, value = re.search(r'name="(\w+)"', tag), re.search(r'value="([^"]*)"', tag)
            if tag.startswith("<select"):
                value = re.search(r'<option value="([^"]*)" selected', tag) or re.search(r'<option value="([^"]*)"', tag)
            if name and value and not ('type="checkbox"' in tag and "checked" not in tag):
                found.append((name[1], value[1]))
        return found

    def pulled(self, answer: str) -> list[str]:
        return str(re.findall(r'data-pulled="([^"]*)"', answer)[0]).split()


class Untouched(LeverCase):
    def test_submitting_what_was_shown_changes_nothing(self) -> None:
        """In miles, °F and psi the untouched form of Tonight once moved the arrival by 1.4 points and switched the wind off."""
        with self.household.recording() as session:
            odd = session.get_one(HabitRow, 1)
            odd.motorway_km, odd.motorway_kmh, odd.cabin_c = 61.7, 109.9, 20.3
            note_level(session, 1, EVENING, 0.4137)
            note_tyres(session, 1, EVENING, 247.3, 8.0)
        for system, units in UNITS.items():
            self.units(*units)
            for room in ROOMS:
                with self.subTest(room=room.path, units=system):
                    plain = self.client.get(f"{room.path}/live")
                    page = self.client.get(room.path, params={"now": "1", "fields": "all"}).text
                    sent = self.sent(page)
                    self.assertGreaterEqual(
                        {name for name, _ in sent}, set(room.form.model_fields) - {"motorway_kmh", "pack_heat"}
                    )
                    again = self.client.get(f"{room.path}/live", params=sent)
                    self.assertEqual(again.status_code, 200)
                    self.assertEqual(self.pulled(again.text), [])
                    self.assertEqual(again.text, plain.text)

    def test_a_pulled_form_sent_again_is_the_same_again(self) -> None:
        self.units("mi", "F", "psi")
        query = {"km": "81.37", "tyre_kpa": "33.33", "out_low_c": "1.7", "limit": "87.4"}
        first = self.client.get("/tonight", params=query).text
        again = self.client.get("/tonight", params=self.sent(first)).text
        self.assertEqual(self.pulled(again), self.pulled(first))
        shown = [re.sub(r'name="token" value="[^"]+"', "", each.split('id="levers"')[0]) for each in (again, first)]
        self.assertEqual(*shown)

    def test_no_token_stands_in_an_address(self) -> None:
        for room in ROOMS:
            names = [name for name, _ in self.sent(self.client.get(room.path, params={"now": "1"}).text)]
            self.assertGreater(len(names), 1, room.path)
            self.assertNotIn("token", names)


class Refused(LeverCase):
    def test_every_bad_field_is_reported_and_every_good_one_counts(self) -> None:
        answer = self.client.get("/tonight/live?limit=abc&km=99999&people=3")
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(set(self.errors(answer)), {"limit", "km"})
        self.assertEqual(self.pulled(answer.text), ["people"])
        self.assertIn(re.search('id="outcome">(.*?)</p>', self.client.get("/tonight/live?people=3").text)[0], answer.text)  # type: ignore[index]
        page = self.client.get("/tonight?limit=abc&km=99999&people=3").text
        for shown in ('name="limit" value="abc"', 'name="km" value="99999"', 'name="people" value="3"'):
            self.assertIn(shown, page)

    def test_a_flat_tyre_drops_only_itself(self) -> None:
        for path, frost in (("/tonight", "out_low_c=-40&out_now_c=-40"), ("/day", "out_c=-40")):
            answer = self.client.get(f"{path}/live?tyre_kpa=100&{frost}&people=3")
            self.assertEqual(list(self.errors(answer)), ["tyre_kpa"])
            self.assertIn("flat", self.errors(answer)["tyre_kpa"])
            self.assertEqual(set(self.pulled(answer.text)), {"people", *re.findall(r"out\w*_c", frost)})

    def test_a_frost_too_hard_for_the_usual_tyres_is_said_at_the_frost(self) -> None:
        with self.household.recording() as session:
            note_tyres(session, 1, EVENING, 105.0, 8.0)
        answer = self.client.get("/day/live?people=3&out_c=-40")
        self.assertIn("flat", self.errors(answer)["out_c"])
        self.assertEqual(self.pulled(answer.text), ["people"])

    def test_a_bad_field_keeps_the_good_ones_on_the_bench_and_the_day(self) -> None:
        bench = self.client.get("/garage/outlets/live?day_km=nine&limit=60&outlet=2")
        self.assertEqual((list(self.errors(bench)), set(self.pulled(bench.text))), (["day_km"], {"limit", "outlet"}))
        none = "&".join(f"{road}_{i}=0" for road in ("town", "country", "motorway") for i in (1, 2))
        empty = self.client.get(f"/day/live?{none}&people=4")
        self.assertEqual(list(self.errors(empty)), ["town_1"])
        self.assertIn("people", self.pulled(empty.text))

    def test_a_bad_name_for_a_day_keeps_the_page_and_its_levers(self) -> None:
        for name in ("", "x" * 50):
            answer = self.post("/day/keep", page="/day", day_name=name, people="4", roof_box="yes")
            self.assertEqual(answer.status_code, 422)
            self.assertIn("up to 40 letters", answer.text)
            self.assertIn(f'name="day_name" maxlength="60" autocomplete="off" value="{name}"', answer.text)
            self.assertEqual(set(self.pulled(answer.text)), {"people", "roof_box"})


class Kept(LeverCase):
    def test_what_is_kept_is_tonight_until_it_is_put_back(self) -> None:
        kept = self.post("/tonight/keep", limit="91", km="131", soc_now="44")
        self.assertIn("undo=", str(kept.url))
        for page in (kept.text, self.client.get("/tonight").text):
            self.assertIn('name="limit" value="91"', page)
            self.assertIn('name="km" value="131"', page)
            self.assertEqual(self.pulled(page), [])
            self.assertIn("131\u00a0km leave you", page)
        night = tonight(self.read())
        self.assertEqual((night.inputs.limit, night.inputs.km, night.inputs.soc_now), (0.91, 131.0, 0.44))
        self.assertEqual(
            self.client.get("/tonight/live").text, self.client.get("/tonight/live", params=self.sent(kept.text)).text
        )
        with self.household.recording() as session:
            note_level(session, 1, EVENING + timedelta(minutes=5), 0.39)
        self.assertEqual(tonight(self.read()).inputs.soc_now, 0.39)  # a later reading counts all the same
        back = self.post("/tonight/put-back", car="1")
        self.assertIn('name="limit" value="80"', back.text)
        self.assertNotIn("Kept for this night", back.text)
        self.assertIn('name="limit" value="91"', self.undo(back).text)

    def test_other_rooms_stand_on_what_is_kept(self) -> None:
        self.post("/tonight/keep", limit="91", people="4", km="140")
        page = self.client.get("/day").text
        self.assertIn('name="leave_soc" value="91"', page)
        self.assertIn('name="people" value="4"', page)
        self.assertIn("140\u00a0km", page)

    def test_kept_for_good_changes_exactly_what_was_pulled(self) -> None:
        self.units("mi", "F", "psi")
        for limit in ("75", "85"):
            with self.tables() as session:
                before = {c.name: getattr(session.get_one(HabitRow, 1), c.name) for c in HabitRow.__table__.columns}
            sent = dict(self.sent(self.client.get("/tonight").text))
            self.post("/tonight/keep-for-good", **{**sent, "limit": limit})
            with self.tables() as session:
                after = {c.name: getattr(session.get_one(HabitRow, 1), c.name) for c in HabitRow.__table__.columns}
            self.assertEqual({name for name in after if after[name] != before[name]}, {"limit"})
            self.post("/tonight/keep")  # with a warm-up that was decided for this night, and is no habit


class Listed(LeverCase):
    def test_the_list_says_when_the_car_leaves(self) -> None:
        """On Friday morning Tonight planned Saturday 07:10 although the list said 10:00."""
        self.post("/tonight/clock")
        night = tonight(self.read())
        self.assertEqual((self.read().now - EVENING).total_seconds(), 3600 * (13 + 48 / 60))
        self.assertEqual(f"{night.plan.request.departure.astimezone(night.zone):%a %H:%M}", "Sat 10:00")
        later = tonight(self.read(), override=lambda usual: replace(usual, depart=time(11, 30)))
        self.assertEqual(f"{later.plan.request.departure.astimezone(night.zone):%a %H:%M}", "Sat 11:30")

    def test_a_household_without_a_link_to_its_car_gets_no_invented_leavings(self) -> None:
        self.household.world.__dict__["car_link"] = None
        with self.tables() as session:
            before = session.connection().exec_driver_sql("SELECT count(*) FROM leaving").scalar()
        self.post("/tonight/clock")
        with self.tables() as session:
            self.assertEqual(session.connection().exec_driver_sql("SELECT count(*) FROM leaving").scalar(), before)


class OwnClock(WebCase):
    demo = False

    def test_nobody_moves_the_clock_of_an_own_household(self) -> None:
        token = self.fields("/setup/car")["token"]
        answer = self.client.post("/tonight/clock", data={"token": token})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("goes by itself", answer.text)
        with self.tables() as session:
            self.assertEqual(session.connection().exec_driver_sql("SELECT count(*) FROM leaving").scalar(), 0)
