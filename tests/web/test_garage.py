"""Setting up through its routes: steps, bad input, several cars, and what is entered against what is of the class."""

import re
from datetime import timedelta

import httpx2 as httpx
from sqlalchemy import update

from frost_tally.core.charge.tariff import WEEKDAYS, WEEKEND
from frost_tally.core.log.kinds import Entry
from frost_tally.household.facts import tyres_now
from frost_tally.household.log import write_entry
from frost_tally.household.models import DriveRow
from frost_tally.household.parts import write_habit
from frost_tally.services.log_entry.room import whole
from frost_tally.services.setup import own_numbers, progress
from frost_tally.services.shared.past import noted_days, recent_errors
from frost_tally.services.tonight import keeping as nights
from frost_tally.services.tonight.room import tonight
from tests.web.client import WebCase

CAR = {
    "name": "Birch", "chemistry": "LFP", "usable_kwh_new": "52", "soh": "97", "ac_limit_kw": "7.4", "ac_phases": "1", "heat_pump": "no",
    "preheats": "unknown", "warm_up": "cabin_and_pack", "placard_kpa": "250", "winter_tyres": "yes", "mass_kg": "1700", "drag_area_m2": "0.66",
    "rolling_coefficient": "0.0095", "pack_heater_kw": "3", "cabin_heater_kw": "4.5", "preset": "small_hatch",
}  # fmt: skip
OUTLET = {
    "name": "Wall", "code": "north_america", "voltage_v": "240", "phases": "1", "breaker_a": "40", "tariff": "T", "currency": "EUR",
    "cheap_price": "0,10", "cheap_from": "23:00", "cheap_to": "06:00", "dear_price": "0.3",
}  # fmt: skip
PLACE = {
    "place": "Uphill", "zone": "America/Toronto", "altitude_m": "200", "garage": "heated", "garage_heated_c": "50", "distance_unit": "mi",
    "temperature_unit": "F", "pressure_unit": "psi", "soc_now": "40", "plug_in": "19:00", "depart": "07:30", "town_km": "10", "country_km": "0",
    "motorway_km": "20", "motorway_kmh": "100", "out_now_c": "-2", "out_low_c": "-14",
}  # fmt: skip

PLAIN = {name: text for name, text in PLACE.items() if not name.endswith("_unit")} | {
    "garage": "outdoor",
    "garage_heated_c": "12",
}


class SettingUp(WebCase):
    demo = False

    def step(self, name: str, /, **fields: str) -> httpx.Response:
        return self.post(f"/setup/{name}", page=f"/setup/{name}", **fields)

    def test_all_steps_in_order_lead_to_tonight_in_the_owners_units(self) -> None:
        self.assertTrue(self.client.get("/tonight").url.path == "/setup/car")
        self.assertTrue(self.client.get("/setup/place").url.path == "/setup/car")
        self.assertTrue(self.step("car", **CAR).url.path == "/setup/outlet")
        self.assertTrue(self.step("outlet", **OUTLET).url.path == "/setup/place")
        hot = self.step("place", **PLACE)
        self.assertEqual(hot.status_code, 422)
        self.assertIn("−5 to 30 °C", hot.text)
        done = self.step("place", **{**PLACE, "garage_heated_c": "12"})
        self.assertTrue(done.url.path == "/tonight")
        self.assertIn("Cabin only: nobody knows yet", done.text)
        self.assertIn("psi low", done.text.replace("\u00a0", " "))
        self.assertIn("speed 62", done.text)
        self.assertIn("°F", done.text)
        self.assertEqual(self.client.get("/day?out_c=91").status_code, 200)
        again = self.client.get("/setup/place").text
        self.assertIn('name="out_low_c" value="6.8"', again)
        entered = {each.key: each.basis.value for each in own_numbers(self.read())[0][1]}
        self.assertEqual((entered["usable_kwh_new"], entered["drag_area_m2"]), ("entered", "common practice"))

    def test_a_day_as_planned_is_no_error_where_the_weather_is_typed(self) -> None:
        """Past days are driven again in the air that their plan went by, not in the low of the morning."""
        for name, fields in (("car", CAR), ("outlet", OUTLET), ("place", {**PLACE, "garage_heated_c": "12"})):
            self.step(name, **fields)
        now = self.read().now
        night = tonight(self.read(now))
        nights.keep(self.household, night, night.revision, night.plan.request.departure)
        kept = tonight(self.read(now)).kept
        assert kept is not None
        nights.note(self.household, kept.id, night.plan.soc_departure, night.arrival.likely, now)
        reading = self.read()
        car = reading.home.car()
        used, days = night.plan.soc_departure - night.arrival.likely, noted_days(reading, car, 5)
        self.assertAlmostEqual(float(days.air_c[0]), night.conditions.ambient_c, delta=1e-6)
        self.assertAlmostEqual(float(days.soc_used[0]), used, delta=1e-6)
        self.assertAlmostEqual(recent_errors(reading, car, tyres_now(reading.log, car))[0], 0.0, delta=0.05)

    def test_past_days_are_driven_as_they_were_then(self) -> None:
        """A habit that is changed stays that of the days before; what was noted of a drive (air, load, what was warmed) counts for it."""
        for name, fields in (("car", CAR), ("outlet", OUTLET), ("place", PLACE)):
            self.step(name, **fields)
        left = self.read().now - timedelta(days=2)
        with self.household.deciding("Drives") as session:
            for i in range(3):
                at = {"left_at": left + timedelta(hours=9 * i), "home_at": left + timedelta(hours=9 * i + 2)}
                values = whole("drive", {**at, "km": 40.0, "soc_start": 0.8, "soc_end": 0.6})
                write_entry(session, Entry(kind="drive", car_id=1, values=values), left)

        def errors() -> tuple[float, ...]:
            reading = self.read()
            return recent_errors(reading, reading.home.car(), tyres_now(reading.log, reading.home.car()))

        def note(**values: object) -> None:
            with self.household.recording() as session:
                session.execute(update(DriveRow).where(DriveRow.id == 3).values(**values))

        before = errors()
        with self.household.deciding("The habit") as habit:
            write_habit(habit, 1, warm_up="nothing", cabin_c=16.0, people=4)
        self.assertEqual(errors(), before)
        changes = ({"preheated": "nothing"}, {"preheated": "seats"}, {"out_c": -25.0}, {"load_kg": 500.0})
        found = [before]
        for values in changes:
            note(**{"preheated": "", "out_c": None, "load_kg": None, **values})
            found.append(errors())
        for each in (*found[:3], found[4]):  # an air that was noted tells of the place, too
            for one, other in zip(each[:2], before[:2], strict=True):
                self.assertAlmostEqual(one, other, places=9)
        cold, seats, frost, heavy = (each[2] for each in found[1:])
        self.assertLess(cold, before[2], "the model takes more from a cold cabin")
        self.assertGreater(seats, before[2], "less with the seats alone")
        self.assertLess(frost, before[2] - 0.1, "more in hard frost")
        self.assertLess(heavy, before[2], "and with a load")
        self.household.undo(habit.number)
        self.assertEqual(self.read().home.car().before, ())

    def test_each_wrong_entry_is_said_and_nothing_is_kept(self) -> None:
        cases = (("usable_kwh_new", "900", "5 to 250 kWh"), ("soh", "", "Nothing entered"), ("chemistry", "coal", "NMC or NCA"), ("name", "", "Nothing entered"),
                 ("ac_phases", "2", "choose one of 1, 3"), ("placard_kpa", "2,5", "150 to 600 kPa"), ("warm_up", "sauna", "cabin and pack"))  # fmt: skip
        for name, typed, right in cases:
            with self.subTest(field=name):
                answer = self.step("car", **{**CAR, name: typed})
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, answer.text)
                self.assertIn('value="1700"', answer.text)
                self.assertIsNone(progress(self.read()).owned)

    def test_two_cars_on_one_cable_in_one_walk(self) -> None:
        self.step("car", **CAR)
        self.step("outlet", **OUTLET, control="timer")
        again = self.step("place", **PLAIN, then="another")
        self.assertEqual((again.url.path, again.url.params["walk"]), ("/setup/car", "another"))
        cable = self.post("/setup/car", page=str(again.url), **{**CAR, "name": "Second"})
        self.assertEqual(cable.url.path, "/setup/outlet")
        self.assertNotIn('name="breaker_a"', cable.text)
        day = self.post("/setup/outlet", page=str(cable.url), control="hand")
        self.assertEqual(day.url.path, "/setup/place")
        done = self.post("/setup/place", page=str(day.url), **PLAIN | {"town_km": "30"})
        first, second = self.read().home.cars
        self.assertEqual((done.url.path, done.url.params["car"], second.name), ("/tonight", str(second.id), "Second"))
        self.assertEqual((second.at, second.pays, len(self.read().home.outlets)), (first.at, first.pays, 1))
        self.assertEqual([each.habit.control.how.value for each in (first, second)], ["timer", "hand"])
        self.assertGreater(second.habit.km, first.habit.km)

    def test_what_nobody_knows_has_a_way_on(self) -> None:
        self.step("car", **CAR | {"soh": "100"}, age_years="6")
        self.assertTrue(0.8 < self.read().home.cars[0].car.pack.soh < 0.97)
        self.assertIsNone(self.read().home.cars[0].health_told)
        without = {name: text for name, text in OUTLET.items() if "price" not in name and "cheap" not in name}
        self.step("outlet", **without, prices="unknown")
        tonight = self.step("place", **PLAIN | {"place": ""})
        self.assertIn("typical ones from memory", tonight.text)
        self.assertTrue(self.read().home.cars[0].pays.typical)
        self.step("outlet", **without, prices="one", mean_price="0.2", again="1")
        self.assertNotIn("typical ones from memory", self.client.get("/tonight").text)
        self.assertEqual([each.price_per_kwh for each in self.read().home.cars[0].pays.tariff.bands], [0.2])

    def test_without_a_socket_it_leads_to_the_weekly_post(self) -> None:
        self.step("car", **CAR)
        day = self.step("outlet", kind="none")
        self.assertEqual(day.url.path, "/setup/place")
        post = self.post("/setup/place", page=str(day.url), **PLAIN)
        self.assertEqual(post.url.path, "/day/long/weekly")
        page = self.client.get("/day/long/weekly?now=1").text
        self.assertRegex(re.sub(r"<[^>]+>", "", page), r"\d+ visits a year to the post cost .* and \d+ hours\.")
        for path in ("/tonight", "/day", "/warm-up", "/setup"):
            self.assertEqual(self.client.get(path).url.path, "/day/long/weekly", path)
        for path in ("/battery", "/log", "/garage", "/basis", "/parked/season"):
            self.assertEqual(self.client.get(path).status_code, 200, path)

    def test_a_weekend_of_its_own_is_a_departure_of_its_own(self) -> None:
        self.step("car", **CAR)
        self.step("outlet", **OUTLET)
        self.assertIn("How far does it drive", self.step("place", **PLAIN, weekend="other").text)
        self.step("place", **PLAIN, weekend="home")
        self.assertEqual(self.read().home.cars[0].habit.days_a_week, 5)
        self.step("place", **PLAIN, weekend="same")
        self.assertEqual(self.read().home.cars[0].habit.days_a_week, 7)
        self.step("place", **PLAIN, weekend="other", weekend_km="50")
        listed = self.read().home.cars[0].departures
        self.assertEqual([(each.schedule.days, round(each.km, 1)) for each in listed], [(WEEKDAYS, 15.0), (WEEKEND, 25.0)])

    def test_outlets_and_tariffs_that_cannot_be(self) -> None:
        self.step("car", **CAR)
        for changes, right in (({"voltage_v": "120", "phases": "3"}, "three phases"), ({"breaker_a": "7"}, "under 6 A"), ({"cable_a": "10", "selector_a": "16"}, "above the lead"),
                               ({"breaker_a": "0"}, "6 to 125 A")):  # fmt: skip
            answer = self.step("outlet", **{**OUTLET, **changes})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)
        for changes, right in (({"cheap_to": "23:00"}, "same time"), ({"cheap_price": "0.5"}, "above the dear"), ({"cheap_from": "22:50"}, "quarter hours"),
                               ({"currency": "XXQ"}, "three letters")):  # fmt: skip
            answer = self.step("outlet", **{**OUTLET, **changes})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)
        self.assertEqual(progress(self.read()).next_step, "outlet")

    def test_a_stale_step_keeps_what_was_typed(self) -> None:
        answer = self.step("car", **{**CAR, "revision": "7"})
        self.assertEqual(answer.status_code, 409)
        self.assertIn('value="Birch"', answer.text)


class SeveralCars(WebCase):
    def test_the_garage_lists_both_and_changes_the_one_that_was_meant(self) -> None:
        self.assertIn("Dray", self.client.get("/garage").text)
        shown = self.client.get("/setup/car?car=2").text
        self.assertIn('value="Dray"', shown)
        self.post("/setup/car", page="/setup/car?car=2", **{**CAR, "name": "Dray", "car": "2", "again": "1"})
        self.assertEqual(self.home.car(2).car.pack.usable_kwh_new, 52)
        self.assertEqual(self.home.car().name, "Marten")

    def test_replacing_many_bands_by_two_is_said_before(self) -> None:
        self.assertIn("replaces the 6 bands", self.client.get("/setup/outlet").text)
