"""As their owner reads them: units by language, what people type, alarms in every room, papers, and the Why page."""

import re
import unittest
from datetime import date

from sqlalchemy import update

from frost_tally.core.basis import figures
from frost_tally.formats.values import typed_clock, typed_number
from frost_tally.household.models import PersonRow
from frost_tally.services.habits import effects
from frost_tally.services.setup import progress
from frost_tally.web.locale_defaults import SETS, locale_defaults_of, set_of
from frost_tally.web.units import Units, units_from
from tests.web.client import WebCase

AMERICAN = locale_defaults_of("en-US,en;q=0.9").units
NORWEGIAN = locale_defaults_of("nb-NO,nb;q=0.9").units


class Customs(unittest.TestCase):
    def test_language_and_clock_say_where(self) -> None:
        """Unicode CLDR: measurement systems, week data, hour cycles and currencies of territories."""
        cases = (
            ("en-US,en;q=0.9", "", ("mi", "F", "psi", "lb", "12", "sun", ".", "USD", "north_america")),
            ("en-GB,en;q=0.9", "", ("mi", "C", "psi", "kg", "24", "mon", ".", "GBP", "iec")),
            ("nb-NO,nb;q=0.9", "", ("km", "C", "kPa", "kg", "24", "mon", ",", "NOK", "iec")),
            ("de", "Europe/Berlin", ("km", "C", "kPa", "kg", "24", "mon", ",", "EUR", "iec")),
            ("en", "America/Denver", ("mi", "F", "psi", "lb", "12", "sun", ".", "USD", "north_america")),
            ("fr-CA", "", ("km", "C", "kPa", "kg", "24", "sun", ",", "CAD", "north_america")),
            ("*;q=x,<>", "Nowhere/Place", ("km", "C", "kPa", "kg", "24", "mon", ".", "EUR", "iec")),
        )
        for languages, zone, expected in cases:
            u, code = (found := locale_defaults_of(languages, zone)).units, found.code
            have = (u.distance, u.temperature, u.pressure, u.weight, u.hours, u.week_start, u.decimal, u.currency, code)
            self.assertEqual(have, expected, languages)
        self.assertEqual(
            (set_of(AMERICAN, "north_america"), set_of(NORWEGIAN, "iec"), set_of(NORWEGIAN, "north_america")), ("us", "km", "ca")
        )
        self.assertEqual(set(SETS), {"km", "us", "gb", "ca"})

    def test_dates_are_in_the_owners_order(self) -> None:
        day = date(2027, 1, 5)
        written = {order: Units(date_order=order) for order in ("dmy", "mdy", "ymd")}
        self.assertEqual([each.date(day, year=True) for each in written.values()], ["5 Jan 2027", "Jan 5, 2027", "2027-01-05"])
        self.assertEqual([each.date(day, weekday="A", month="B") for each in written.values()],
                         ["Tuesday 5 January", "Tuesday January 5", "Tuesday January 5"])  # fmt: skip
        orders = {each: locale_defaults_of(each).units.date_order for each in ("en-US", "en-GB", "nb-NO", "en-CA", "sv-SE")}
        self.assertEqual(orders, {"en-US": "mdy", "en-GB": "dmy", "nb-NO": "dmy", "en-CA": "ymd", "sv-SE": "ymd"})  # CLDR

    def test_units_travel_in_a_form(self) -> None:
        for units in (AMERICAN, NORWEGIAN, Units()):
            self.assertEqual(units_from(units.code, Units(currency="CHF", date_order=units.date_order)), units)
        for bad in ("", "x", "mi|F|psi|USD|lb|12|sun|;", AMERICAN.code + "|x", AMERICAN.code.replace("USD", "U$D")):
            self.assertEqual(units_from(bad, NORWEGIAN), NORWEGIAN)


class Typed(unittest.TestCase):
    def test_numbers_as_people_write_them(self) -> None:
        """ "1,150" was read as 1.15, and an outlet was paid back in 0.1 years."""
        for text, number in (("1,150", 1150), ("1,15", 1.15), ("1 150", 1150), ("1’150.5", 1150.5), ("1.150,5", 1150.5), ("−3,5", -3.5),
                             ("1,150,000", 1_150_000), ("0,215", 0.215), (".5", 0.5)):  # fmt: skip
            self.assertAlmostEqual(typed_number(text), number, msg=text)
        self.assertEqual(typed_number("0,215", ",", fine=True), 0.215)
        self.assertEqual(typed_number("1,155", ",", fine=True), 1.155)
        for text, mark in (
            ("1,150", ","),
            ("1.150", ","),
            ("1.150", "."),
            ("1,15,0", "."),
            ("1 15", "."),
            ("", "."),
            ("1e999", "."),
        ):
            with self.assertRaises(ValueError, msg=text):
                typed_number(text, mark)

    def test_units_and_money_beside_a_number(self) -> None:
        for text, quantity, si in (("$0.21", "price", 0.21), ("21 ¢/kWh", "price", 0.21), ("42 psi", "pressure", 289.58), ("600 ft", "height", 182.88),
                                   ("250 kPa", "pressure", 250), ("-5 °C", "temperature", -5), ("14 °F", "temperature", -10), ("20 km", "distance", 20),
                                   ("1,850 kg", "mass", 1850), ("80 %", "percent", 0.8), ("90 min", "hours", 1.5), ("3600 W", "power", 3.6)):  # fmt: skip
            self.assertAlmostEqual(AMERICAN.read(text, quantity), si, delta=0.01, msg=text)
        for text, quantity in (
            ("€0.21", "price"),
            ("42 kPa psi", "pressure"),
            ("5 kg", "distance"),
            ("ten", "count"),
            ("$5", "distance"),
        ):
            with self.assertRaises(ValueError, msg=text):
                AMERICAN.read(text, quantity)
        self.assertEqual((NORWEGIAN.read("kr 0,95", "price"), NORWEGIAN.read("95 øre", "price")), (0.95, 0.95))

    def test_what_a_field_shows_is_read_back(self) -> None:
        for units in (AMERICAN, NORWEGIAN):
            for quantity, si in (("distance", 45.0), ("temperature", -7.5), ("pressure", 262.0), ("mass", 1851.0), ("price", 1.155), ("money", 1150.0),
                                 ("height", 410.0), ("area", 0.63), ("speed", 110.0), ("length", 1.85), ("percent", 0.8)):  # fmt: skip
                shown = units.field(si, quantity)
                self.assertEqual(units.field(units.read(shown, quantity), quantity), shown, (quantity, shown))

    def test_times_as_people_write_them(self) -> None:
        for text, shown in (
            ("10 pm", "22:00"),
            ("10:30 p.m.", "22:30"),
            ("7", "07:00"),
            ("730", "07:30"),
            ("22.30", "22:30"),
            ("12 am", "00:00"),
        ):
            self.assertEqual(f"{typed_clock(text):%H:%M}", shown)
        for text in ("25:00", "13 pm", "7:75", "soon", ""):
            with self.assertRaises(ValueError, msg=text):
                typed_clock(text)
        self.assertEqual(
            (AMERICAN.clock(typed_clock("0:05")), AMERICAN.full_hour(24), Units().full_hour(6, ":00")),
            ("12:05\u00a0am", "12\u00a0am", "06:00"),
        )


class Rooms(WebCase):
    def text(self, path: str) -> str:
        page = re.sub(r"<[^>]+>", " ", self.client.get(path).text)
        return re.sub(r"\s+", " ", page.replace("\u00a0", " "))

    def test_a_tyre_far_under_the_others_is_an_alarm_in_every_room(self) -> None:
        for path in ("/tonight", "/day", "/day/tyres"):
            self.assertNotIn("Do not drive far", self.text(path))
        self.post(
            "/day/tyres",
            page="/day/tyres?car=1",
            car="1",
            FL="193 kPa",
            FR="36 psi",
            RL="249",
            RR="2.48 bar",
            tyre_c="5",
            warm="no",
        )
        for path in ("/tonight", "/day", "/day/tyres"):
            self.assertIn("The front left tyre has 209 kPa where the others have 267 kPa", self.text(path), path)
            self.assertIn("Do not drive far", self.text(path))

    def test_sliders_have_points_where_people_write_commas(self) -> None:
        with self.household.recording() as session:
            session.execute(update(PersonRow).values(decimal_mark=",", pressure_unit="bar"))
        for path in ("/tonight", "/day", "/warm-up", "/garage/outlets?now=1&outlet=1&outlet=2"):
            page = self.client.get(path).text
            ranges = re.findall(r'type="range" min="([^"]*)" max="([^"]*)" step="([^"]*)" value="([^"]*)"', page)
            self.assertTrue(ranges)
            for low, high, step, value in ranges:
                self.assertLessEqual(float(low), float(high))
                self.assertGreater(float(step), 0)
                self.assertTrue(value)
        self.assertIn('name="tyre_kpa" value="2,5"', self.client.get("/tonight").text)
        self.assertEqual(self.client.get("/tonight?tyre_kpa=2,35").status_code, 200)

    def test_near_empty_a_car_gives_less(self) -> None:
        low = self.client.get("/day?leave_soc=60").text
        self.assertIn("reserve lamp, 13", low)
        self.assertIn("less power", self.text("/day?leave_soc=60"))
        self.assertNotIn("reserve lamp", self.client.get("/day?leave_soc=100").text)

    def test_the_day_has_jams_windows_and_damp_air(self) -> None:
        plain = self.text("/day")
        self.assertNotEqual(plain, self.text("/day?jam_min=60&jam_km=5&jam_at_km=20"))
        self.assertIn("close the windows", self.text("/day?windows=yes"))
        for query, right in (
            ("jam_min=60&jam_at_km=500", "between 0 and 110 km"),
            ("jam_min=1&jam_km=50", "50"),
            ("humidity=500", "10 to 100"),
        ):
            answer = self.client.get(f"/day?{query}")
            self.assertEqual(answer.status_code, 422, query)
            self.assertIn(right, " ".join(self.errors(answer).values()))
        self.assertIn("no time on the way", self.text("/day"))
        for trip in (6, 12):
            self.assertNotEqual(plain, self.text(f"/day?town_{trip}=5"))
            self.assertIn(f'name="town_{trip}"', self.client.get("/day?fields=all").text)
            self.assertEqual(self.client.get(f"/warm-up?trips={trip}").status_code, 200)

    def test_town_and_motorway_have_their_own_levers(self) -> None:
        """Common practice: drag tells on the motorway, heat and stops in town."""
        made = effects(self.read(), 1)
        self.assertGreater(made.motorway_wh["box"], 3 * made.town_wh["box"])
        self.assertGreater(made.town_wh["cooler"], made.motorway_wh["cooler"])
        self.assertGreater(made.town_wh["gentle"], made.motorway_wh.get("gentle", 0.0))
        page = self.text("/day/matters")
        self.assertIn("charging a phone 10 W", page)
        self.assertIn(f"{made.full.label_km:.0f} km", page)

    def test_papers_for_the_electrician_and_the_utility(self) -> None:
        paper = self.text("/garage/papers/electrician?car=1&outlet=2&run_m=20")
        for words in (
            "230 V",
            "Breaker 16 A",
            "lead",
            "IEC 60364-7-722",
            "2.5 mm² copper loses 2.8 V",
            "Never raise a breaker",
            "residual-current",
        ):
            self.assertIn(words, paper)
        self.assertIn("1 to 200", self.text("/garage/papers/electrician?run_m=x"))
        utility = self.text("/garage/papers/utility")
        self.assertIn("cheap night hours", utility)
        self.assertRegex(utility, r"January \d+")
        self.assertIn("It does not reach", self.text("/garage/papers/reach?lead_m=2"))
        self.assertEqual(self.client.get("/garage/papers/reach?lead_m=two").status_code, 422)

    def test_why_finds_and_every_number_has_its_room(self) -> None:
        page = self.client.get("/basis").text
        for each in figures():
            self.assertIn(f'id="{each.key}"', page)
        for words in ("lost regen", "cold air", "80 %", "habit limit", "energy for the day"):
            self.assertIn("As the screens have it", self.client.get("/basis", params={"find": words}).text, words)
        found = self.client.get("/basis?find=regen+half").text
        self.assertIn('id="pack.regen_half_at"', found)
        self.assertNotIn('id="tyres.winter_factor"', found)
        self.assertIn("Nothing here has", self.client.get("/basis?find=zzz").text)
        self.assertIn("What changes the level at the end of the day: level when leaving", page)
        for path in ("/tonight", "/day", "/warm-up", "/garage/outlets?now=1&outlet=1&outlet=2"):
            linked = set(re.findall(r'href="/basis#([^"]+)"', self.client.get(path).text))
            self.assertTrue(linked, path)
            self.assertEqual(linked - {each.key for each in figures()}, set())

    def test_a_stroke_in_one_season_may_be_painted_in_the_others(self) -> None:
        fields = self.fields("/garage/tariffs/2")
        typed = dict(
            re.findall(r'<input class="form-control[^>]*name="(\w+)" value="([^"]*)"', self.client.get("/garage/tariffs/2").text)
        )
        every = {**fields, **typed, "colour": "1", "paint_days": "all", "paint_from": "10 pm", "paint_to": "05:00"}
        answer = self.client.post("/garage/tariffs/draft", data={**every, "action": "paint"}).text
        self.assertIn("Winter and public holidays have none of what you painted", answer)
        again = dict(re.findall(r'<input type="hidden" name="(\w+)"[^>]*? value="([^"]*)"', answer))
        spread = self.client.post("/garage/tariffs/draft", data={**every, **again, "action": "spread"}).text
        self.assertNotIn("none of what you painted", spread)
        self.assertNotEqual(again["s1_week"], dict(re.findall(r'name="(s1_week)" value="([^"]*)"', spread))["s1_week"])

    def test_another_class_or_outlet_keeps_what_was_typed(self) -> None:
        fields = self.fields("/garage/edit/car/new") | {"name": "Sled", "usable_kwh_new": "61", "act": "class:small_van"}
        page = self.client.post("/garage/edit/car/new/draft", data=fields).text
        self.assertIn('value="61"', page)
        self.assertIn('value="Sled"', page)
        self.assertIn('name="preset" value="small_van"', page)
        outlet = self.fields("/garage/edit/outlet/new") | {"breaker_a": "25 A", "act": "kind:household"}
        page = self.client.post("/garage/edit/outlet/new/draft", data=outlet).text
        self.assertIn('value="25 A"', page)
        self.assertIn('value="Household socket"', page)
        self.assertEqual(len(self.home.cars), 2)


class Empty(WebCase):
    demo = False

    def test_no_step_is_taken_before_the_one_that_it_needs(self) -> None:
        token = self.fields("/setup/car")
        for path in (
            "/setup/outlet",
            "/setup/place",
            "/setup/outlet/draft",
            "/setup/place/draft",
            "/setup/nowhere",
            "/setup/nowhere/draft",
        ):
            answer = self.client.post(path, data={**token, "act": "kind:dryer", "breaker_a": "x"})
            self.assertEqual((answer.status_code, answer.url.path), (200, "/setup/car"), path)
        self.assertEqual(self.client.get("/setup/car?car=9").status_code, 200)
        for path in ("/day/matters", "/garage/papers/electrician", "/garage/papers/utility", "/garage/papers/reach", "/basis"):
            self.assertEqual(self.client.get(path).status_code, 200, path)

    def test_units_follow_at_once_and_nothing_is_kept_by_it(self) -> None:
        self.client.headers["accept-language"] = "en-US"
        fields = self.fields("/setup/car")
        self.assertEqual(units_from(fields["shown_in"], Units(date_order="mdy")), AMERICAN)
        page = self.client.post(
            "/setup/car/draft", data={**fields, "mass_kg": "4,000", "placard_kpa": "soft", "act": "units:ca"}
        ).text
        self.assertIn('value="1814.4"', page)
        self.assertIn('value="soft"', page)
        self.assertIn('name="shown_in" value="km|C|kPa|USD|kg|12|sun|."', page)
        self.assertIsNone(progress(self.read()).owned)
        self.assertIn("ac_phases", page)
        self.assertIn('<option value="1" selected>', page)
