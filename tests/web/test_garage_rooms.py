"""The garage through its routes: parts and undo, bench, painting, comparing, files with preview; and what each refuses."""

import io
import json
import re
from dataclasses import replace
from datetime import datetime, timedelta
from html import unescape
from unittest import mock
from zoneinfo import ZoneInfo

import httpx2 as httpx
import numpy as np
from sqlalchemy import select, update

from frost_tally.core.car import PRESETS
from frost_tally.core.charge.prices import Series
from frost_tally.household.models import BandRow, CarRow, DepartureRow, MeterRow, OutletRow, PersonRow, PriceRow, TariffRow
from frost_tally.household.parts import household_row, in_order
from frost_tally.household.prices import put_prices, with_prices
from frost_tally.services.another_car import AnotherCar, another_car
from frost_tally.services.compare import comparison
from frost_tally.services.shared import derived
from frost_tally.services.tonight.keeping import keep
from frost_tally.services.tonight.room import tonight
from frost_tally.services.weekly import weekly_room
from frost_tally.web.words.garage import house_words
from tests.web.client import PREFERENCES, ApartCase, WebCase

OSLO = ZoneInfo("Europe/Oslo")
OUTLET = {
    "name": "New",
    "place_id": "1",
    "code": "iec",
    "voltage_v": "230",
    "phases": "1",
    "breaker_a": "20",
    "shared_a": "",
    "install_cost": "300",
}


def csv_of(count: int, start: datetime = datetime(2026, 1, 20, tzinfo=OSLO), step: int = 15) -> str:
    """Meter readings of a made-up house."""
    first = int(start.timestamp())
    rows = (f"{datetime.fromtimestamp(first + 60 * step * i, OSLO).isoformat()},{0.1 + 0.05 * (i % 7):.2f}" for i in range(count))
    return "start,kwh\n" + "\n".join(rows) + "\n"


class Parts(WebCase):
    def edit(self, what: str, which: str, /, **fields: str) -> httpx.Response:
        return self.post(f"/garage/edit/{what}/{which}", page=f"/garage/edit/{what}/{which}", **fields)

    def test_an_outlet_is_added_used_and_taken_away_again_by_undo(self) -> None:
        done = self.edit("outlet", "new", **OUTLET)
        self.assertIn("Undo", done.text)
        with self.tables() as session:
            new = in_order(session, OutletRow)[-1]
            self.assertEqual((new.name, new.install_cost, new.place.name), ("New", 300.0, "Skarfell"))
        self.undo(done)
        with self.tables() as session:
            self.assertNotIn("New", [each.name for each in in_order(session, OutletRow)])

    def test_an_outlet_that_is_thought_of_on_the_bench_comes_back_to_it_and_changes_no_question(self) -> None:
        page = "/garage/edit/outlet/new?offer=wall_three&back=bench"
        shown = self.client.get(page).text
        self.assertLess(shown.index('name="breaker_a"'), shown.index("Name, volts, lead, hours"))
        self.assertGreater(shown.index('name="voltage_v"'), shown.index("Name, volts, lead, hours"))
        kept = self.post("/garage/edit/outlet/new", page=page, **{**OUTLET, "phases": "3", "breaker_a": "32", "install_cost": ""})
        self.assertTrue(str(kept.url).split("?")[0].endswith("/garage/outlets"))
        with self.tables() as session:
            self.assertIsNone(in_order(session, OutletRow)[-1].install_cost)
        bench = self.client.get(f"{kept.url}&now=1").text
        self.assertIn("a cost that nobody has told yet", bench)
        self.assertRegex(bench, r"For Marten, <b>Wall unit</b> is enough\.")

    def test_what_is_in_use_stays_and_what_is_not_can_be_put_away_and_back(self) -> None:
        self.assertIn("is still used by Marten, Dray", self.post("/garage/remove/outlet/1", page="/garage/edit/outlet/1").text)
        self.assertIn("is the only one", self.post("/garage/remove/person/1", page="/garage/edit/person/1").text)
        gone = self.post("/garage/remove/outlet/2", page="/garage/edit/outlet/2")
        self.assertIn("“Barn socket” put away.", gone.text)
        self.assertNotIn("Barn socket", self.client.get("/garage").text)
        self.assertIn("Barn socket", self.undo(gone).text)

    def test_bad_input_is_said_at_its_field_and_keeps_what_was_typed(self) -> None:
        for changes, right in (({"breaker_a": "0"}, "6 to 125 A"), ({"voltage_v": "120", "phases": "3"}, "three phases"), ({"cable_a": "10", "selector_a": "16"}, "above the lead"),
                               ({"shared_a": "25"}, "between 0 and 20 A"), ({"place_id": "77"}, "choose one of"), ({"install_cost": "-5"}, "0 to 100000")):  # fmt: skip
            answer = self.edit("outlet", "new", **{**OUTLET, **changes})
            with self.subTest(changes=changes):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, answer.text)
                self.assertIn('name="name" value="New"', answer.text)
        with self.tables() as session:
            self.assertEqual(len(in_order(session, OutletRow)), 4)

    def test_a_car_that_could_no_longer_charge_is_said_and_nothing_changes(self) -> None:
        answer = self.edit("outlet", "1", **{**OUTLET, "name": "Wall unit", "breaker_a": "16", "shared_a": "13"})
        self.assertIn("Marten could not charge then: Only 3.0 A are left", answer.text)
        with self.tables() as session:
            self.assertEqual(in_order(session, OutletRow)[0].breaker_a, 32)

    def test_somebody_elses_units_and_money_show_in_their_browser_only(self) -> None:
        self.edit(
            "person",
            "new",
            name="Loft",
            distance_unit="mi",
            **PREFERENCES,
            temperature_unit="F",
            pressure_unit="psi",
            currency="NOK",
            per_contract="11.5",
        )
        with self.tables() as session:
            loft = in_order(session, PersonRow)[-1].id
        before = self.client.get("/tonight").text
        self.post("/garage/look", page="/garage", person=str(loft))
        after = self.client.get("/tonight").text
        self.assertIn("€", before)
        for words in ("NOK\u00a0", "mi", "°F"):
            self.assertIn(words, after)
        wrong = self.edit(
            "person",
            "new",
            name="x",
            distance_unit="mi",
            **PREFERENCES,
            temperature_unit="F",
            pressure_unit="psi",
            currency="QQQ",
            per_contract="1",
        )
        self.assertIn("three letters of a currency", wrong.text)

    def test_a_second_place_gives_its_car_its_own_clock(self) -> None:
        self.edit(
            "place", "new", name="Hut", zone="America/Toronto", altitude_m="900", garage="outdoor", january_c="-14", july_c="15"
        )
        self.edit("outlet", "new", **{**OUTLET, "place_id": "2"})
        self.assertEqual(self.edit("place", "new", name="x", zone="Nowhere", altitude_m="0", garage="outdoor").status_code, 422)
        with self.household.recording() as session:
            in_order(session, CarRow)[1].habit.outlet = in_order(session, OutletRow)[-1]
        self.assertEqual(str(tonight(self.read(), 2).zone), "America/Toronto")
        self.assertEqual(str(tonight(self.read(), 1).zone), "Europe/Oslo")


class OutletsBench(WebCase):
    def test_set_up_says_what_the_bench_says_of_an_hour(self) -> None:
        line = self.client.get("/setup/outlet?car=1").text.replace("\u00a0", " ")
        said = re.search(r"An hour gives (\d+ km) of your usual day when mild, (\d+) km in January’s mean", line)
        assert said is not None
        bench = self.client.get("/garage/outlets?car=1&now=1").text.replace("\u00a0", " ")
        row = re.search(r"(?s)Gained when mild.*?<td>([^<]*)</td>", bench)
        assert row is not None
        self.assertEqual(row[1], said[1])
        self.assertLess(int(said[2]), int(said[1].split()[0]))

    def test_the_bench_waits_then_names_the_cheapest_that_is_enough(self) -> None:
        derived._LATER.clear()  # another test may have asked
        self.assertIn("data-go", self.client.get("/garage/outlets").text)
        page = self.client.get("/garage/outlets?now=1").text
        self.assertIn("<b>Wall unit</b> is enough", page)
        self.assertIn("Never raise a breaker", page)
        self.assertNotIn("data-go", self.client.get("/garage/outlets").text)
        far = self.client.get("/garage/outlets/live?car=1&day_km=112&limit=80&outlet=2&outlet=4").text
        self.assertIn("One-phase 16 A, offered</b> is enough, for €280", far)
        self.assertIn("charge elsewhere", far)

    def test_levers_that_cannot_be_are_said(self) -> None:
        for query, right in (
            ("day_km=0&outlet=1", "1 to 1500 km"),
            ("day_km=80&limit=5&outlet=1", "30 to 100 %"),
            ("day_km=80&outlet=", "at least one outlet"),
        ):
            answer = self.client.get(f"/garage/outlets/live?{query}")
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, " ".join(self.errors(answer).values()))


class Painting(ApartCase):
    def setUp(self) -> None:
        super().setUp()
        page = self.client.get("/garage/tariffs/1").text
        self.state = self.fields("/garage/tariffs/1") | {
            name: self.value(page, name)
            for name in ("name", "standing", "region", "valid_from", "valid_to", "c0_name", "c0_price", "c1_name", "c1_price")
        }

    def value(self, page: str, name: str) -> str:
        return page.split(f'name="{name}" value="')[1].split('"')[0]

    def act(self, action: str, **fields: str) -> httpx.Response:
        return self.client.post("/garage/tariffs/draft", data={**self.state, "colour": "0", "action": action, **fields})

    def test_a_stroke_is_drawn_and_nothing_is_kept_before_keep(self) -> None:
        done = self.act("stroke", stroke_rows="1,2", stroke_first="32", stroke_after="36")
        week = self.value(done.text, "s0_week").split()
        self.assertEqual({week[row][32:36] for row in (1, 2)}, {"aaaa"})
        self.assertEqual(week[0][32:36], "bbbb")
        self.assertEqual(len(self.bands()), 2)
        self.act("keep", s0_week=" ".join(week))
        self.assertEqual(len(self.bands()), 5)

    def bands(self) -> list[BandRow]:
        with self.tables() as session:
            return list(in_order(session, TariffRow)[0].bands)

    def test_days_and_times_paint_the_same_as_a_stroke(self) -> None:
        by_time = self.act("paint", paint_days="end", paint_from="13:00", paint_to="15:30", colour="0")
        week = self.value(by_time.text, "s0_week").split()
        self.assertEqual((week[5][52:62], week[5][62], week[4][52]), ("a" * 10, "b", "b"))
        for fields, right in (
            ({"paint_days": "end", "paint_from": "13:07", "paint_to": "15:00"}, "quarter hour"),
            ({"paint_days": "x", "paint_from": "1:00", "paint_to": "2:00"}, "Choose the days"),
        ):
            answer = self.act("paint", **fields)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)

    def test_a_gap_is_pointed_at_and_cannot_be_kept(self) -> None:
        torn = self.act("stroke", stroke_rows="6", stroke_first="8", stroke_after="12", colour="none")
        self.assertIn("Sunday 02:00–03:00 has no price", torn.text)
        self.assertIn('class="gap"', torn.text)
        refused = self.act("keep", s0_week=self.value(torn.text, "s0_week"))
        self.assertEqual(refused.status_code, 422)
        self.assertIn("Nothing was saved yet", refused.text)
        self.assertEqual(len(self.bands()), 2)

    def test_wrong_fields_are_named_and_keep_what_was_typed(self) -> None:
        for name, typed, right in (("c0_price", "cheap", "−5 to 20"), ("standing", "99", "0 to 50"), ("region", "ZZ", "not a region known"), ("valid_from", "soon", "not a date"),
                                   ("c1_name", "night", "same name"), ("name", "", "up to 40 letters")):  # fmt: skip
            answer = self.act("keep", **{name: typed})
            with self.subTest(field=name):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(right, answer.text)
                self.assertIn(f'name="{name}" value="{typed}"', answer.text)
        self.assertIn("Another tariff has this name", self.act("keep", name="Hollow Tarn Three-Step").text)

    def test_seasons_are_added_overlap_and_go(self) -> None:
        one = self.act("add_season")
        first = {
            "s1_week": self.value(one.text, "s1_week"),
            "s1_name": "Winter",
            "s1_first": "1 Nov",
            "s1_last": "31 March",
            "shown": "1",
        }
        two = self.act("add_season", **first)
        second = {"s2_week": self.value(two.text, "s2_week"), "s2_name": "Deep", "s2_first": "02-01", "s2_last": "10 feb"}
        self.assertIn("“Winter” and “Deep” both hold from 1 February to 10 February", self.act("look", **first, **second).text)
        self.assertIn("is not a day of the year", self.act("look", **{**first, "s1_first": "31 Feb"}).text)
        self.assertNotIn('name="s2_week"', self.act("drop_season:2", **first, **second).text)
        self.act("keep", **first)
        with self.tables() as session:
            self.assertEqual([season.name for season in in_order(session, TariffRow)[0].seasons], ["Winter"])

    def test_new_prices_from_a_day_on_leave_old_costs_as_they_were_and_can_be_undone(self) -> None:
        self.unlist()
        night = tonight(self.read(), 2)
        keep(self.household, night, night.revision, night.plan.request.departure)
        before = night.plan.cost
        self.state["revision"] = self.fields("/garage/tariffs/1")["revision"]
        done = self.act("keep_from", c0_price="0.5", replaces_from="2027-01-15")
        after = tonight(self.read(), 2)
        self.assertEqual(after.kept.cost, before)  # type: ignore[union-attr]
        self.assertGreater(after.plan.cost, 1.5 * before)
        self.assertIn("until 14 Jan 2027, then", done.text)
        self.undo(done)
        self.assertAlmostEqual(tonight(self.read(), 2).plan.cost, before)
        self.assertIn("first day of the new prices", self.act("keep_from", replaces_from="").text)

    def test_json_and_ocpi_go_out_and_come_in_as_a_draft(self) -> None:
        for name, ours in (("tariff.json", True), ("ocpi.json", False)):
            content = self.client.get(f"/garage/tariffs/2/{name}").content
            self.assertEqual(json.loads(content).get("format") == "frost-tally-tariff", ours)
            page = self.upload("/garage/import/tariff", name, content)
            self.assertIn("Not kept yet", page.text)
            self.assertEqual(page.text.count('name="s1_week"'), 1)
        for content, right in ((b"{}", "no tariff object"), (b"nonsense", "not JSON"), (b"", "Choose a file")):
            self.assertIn(right, self.upload("/garage/import/tariff", "x.json", content).text)
        dated = self.client.get("/garage/tariffs/3/tariff.json").content.replace(b"Half-Hourly", b"Quarterly")
        page = self.upload("/garage/import/tariff", "dated.json", dated)
        found = dict(re.findall(r'name="(\w+)"[^>]*? value="([^"]*)"', page.text))
        self.client.post("/garage/tariffs/draft", data={**found, "action": "keep"})
        with self.tables() as session:
            new = in_order(session, TariffRow)[-1]
            self.assertEqual(new.name, "Hollow Tarn Quarterly")
            self.assertEqual(
                session.query(PriceRow).filter_by(tariff_id=new.id).count(),
                session.query(PriceRow).filter_by(tariff_id=3).count(),
            )
        self.assertIn("$schema", self.client.get("/garage/tariffs/schema.json").text)

    def unlist(self) -> None:
        """The van's departures go by its usual time again."""
        with self.household.recording() as session:
            session.query(DepartureRow).delete()

    def upload(self, path: str, name: str, content: bytes, **fields: str) -> httpx.Response:
        return self.client.post(path, data={"token": self.state["token"], **fields}, files={"file": (name, content)})

    def test_dated_prices_by_csv_and_from_the_feed_move_tonight(self) -> None:
        self.unlist()
        before = tonight(self.read(), 2).plan.blocks[0].start
        cheap_at = int(datetime(2027, 1, 14, 19, tzinfo=OSLO).timestamp())
        rows = "start,minutes,price_per_kwh\n" + "\n".join(
            f"{datetime.fromtimestamp(cheap_at + 900 * i, OSLO).isoformat()},15,{0.01 if i < 16 else 0.4}" for i in range(44)
        )
        shown = self.upload("/garage/import/prices", "p.csv", rows.encode(), tariff="1")
        self.assertIn("<b>44</b> prices would be added", shown.text)
        taken = self.post(shown.url.path, page=shown.url.path)
        after = tonight(self.read(), 2).plan.blocks[0].start
        self.assertLess(after.astimezone(OSLO), datetime(2027, 1, 14, 23, tzinfo=OSLO))
        self.assertLess(after, before)
        self.undo(taken)
        self.assertEqual(tonight(self.read(), 2).plan.blocks[0].start, before)
        with self.household.recording() as session:
            session.query(PriceRow).delete()
        self.assertIn("144 dated prices", self.post("/garage/tariffs/3/fetch", page="/garage/tariffs", how="now").text)

    def test_a_foreign_file_of_prices_is_chosen_once_and_known_then(self) -> None:
        """Per MWh, a comma before decimals, day first, a semicolon between cells: common practice of exchanges' files."""
        rows = [f"{15 + h // 24:02d}.01.2027 {h % 24:02d}:00;{80 + h},50" for h in range(48)]
        file = "\n".join(["Leveringstime;Spotpris (EUR/MWh)", *rows]).encode()
        asked = self.upload("/log/import", "spot.csv", file)
        self.assertTrue(asked.url.path.startswith("/garage/prices/"))
        guessed = re.findall(r'<option value="([\w/]+)" selected>', asked.text)
        self.assertEqual(guessed, ["0", "1", "MWh", "3", "dmy", "Europe/Oslo", "yes"])  # number 3 is the demo's hourly tariff
        self.assertIn("This is needed", self.post(asked.url.path, page=asked.url.path, at_price="1", zone="Europe/Oslo").text)
        more = {
            "at_start": "0",
            "at_price": "1",
            "per": "MWh",
            "comma": "yes",
            "dates": "dmy",
            "zone": "Europe/Oslo",
            "tax": "25",
            "added": "0,05",
        }
        shown = self.post(asked.url.path, page=asked.url.path, **more, tariff="new", new_name="By the hour")
        self.assertIn("<b>48</b> prices would be added", shown.text)
        made = self.read().home.contracts[-1]
        mean = sum(80.5 + h for h in range(48)) / 48 / 1000 * 1.25 + 0.05
        self.assertEqual((made.name, bool(made.feed)), ("By the hour", True))
        self.assertAlmostEqual(made.tariff.bands[0].price_per_kwh, mean, places=6)
        self.post(shown.url.path, page=shown.url.path)
        with self.household.reading() as snapshot:
            at = datetime(2027, 1, 15, tzinfo=OSLO)
            dated = with_prices(snapshot.log, made, (at, at + timedelta(days=2))).prices(at, at + timedelta(hours=2), 60)
        self.assertEqual(
            [round(each.price_per_kwh, 6) for each in dated], [round(p / 1000 * 1.25 + 0.05, 6) for p in (80.5, 81.5)]
        )
        with self.household.recording() as session:  # with one tariff of hours the next file of this header needs no choice
            session.execute(update(TariffRow).where(TariffRow.id != made.id).values(feed=""))
        again = self.upload("/log/import", "spot.csv", file)
        self.assertTrue(again.url.path.startswith("/garage/taking/"))
        self.assertIn("Nothing in this file is new", again.text)

    def test_a_new_hourly_tariff_has_no_price_of_ours(self) -> None:
        self.assertEqual(self.client.get("/garage/tariffs/new?shape=dated").url.path, "/garage/prices")
        self.assertIn("Nothing entered", self.post("/garage/prices/new", page="/garage/prices", name="H").text)
        self.post("/garage/prices/new", page="/garage/prices", name="H", mean_price="0.19")
        self.assertEqual([each.price_per_kwh for each in self.read().home.contracts[-1].tariff.bands], [0.19])
        for bad in (b"", b"a;b\n", b"\xff\xfe\x00", b"when;what\nnow;then\n"):
            answer = self.upload("/garage/prices/file", "x.csv", bad)
            self.assertIn(answer.status_code, (200, 422))
            self.assertNotIn("would be added", answer.text)

    def test_a_tariff_in_use_stays_another_goes(self) -> None:
        self.assertIn("still charge on", self.post("/garage/tariffs/1/remove", page="/garage/tariffs").text)
        self.assertIn("“Hollow Tarn Half-Hourly” put away.", self.post("/garage/tariffs/3/remove", page="/garage/tariffs").text)
        self.assertNotIn("Half-Hourly", self.client.get("/garage/tariffs").text)


class Another(WebCase):
    def made(self, **changed: object) -> AnotherCar:
        return another_car(self.read(), 1, lambda usual: replace(usual, **changed))  # type: ignore[arg-type]

    def test_the_year_on_each_class_beside_ones_own_and_fuel(self) -> None:
        room = self.made()
        years = {each.key: each for each in room.years}
        self.assertEqual(set(years), {"own", *PRESETS})
        at_home = weekly_room(self.read(), 1, lambda usual: usual, 60.0).made.home_cost
        self.assertAlmostEqual(room.own.home_cost, at_home or 0.0, places=6)  # what the weekly post is held against
        self.assertGreater(years["pick_up"].wall_kwh, years["tall_family"].wall_kwh)
        self.assertGreater(years["tall_family"].wall_kwh, years["family_saloon"].wall_kwh)
        self.assertTrue(all(each.cold_km < each.mild_km for each in room.years))
        self.assertLessEqual(room.best.short_days, room.own.short_days)
        self.assertAlmostEqual(self.made(fuel_l=8.0, fuel_price=2.0).fuel_cost, room.km * 0.16)
        page = self.client.get("/garage/another?now=1").text
        self.assertIn("Heavy pick-up", page)
        self.assertEqual(self.client.get("/garage/another/live?usable_kwh=3").status_code, 422)
        self.assertEqual(self.client.get("/garage/another/live?garage=cave").status_code, 422)

    def test_a_larger_pack_misses_no_more_and_a_heated_garage_wastes_no_more(self) -> None:
        packs = [self.made(usable_kwh=each).own for each in (30.0, 58.0, 90.0)]
        self.assertEqual(sorted((each.short_days for each in packs), reverse=True), [each.short_days for each in packs])
        self.assertGreater(packs[0].way_cost, packs[2].way_cost)
        self.assertTrue(all(each.stops >= each.short_days for each in packs))
        self.assertEqual(self.made().here, self.made().own)
        self.assertRegex(
            unescape(self.client.get("/garage/another?now=1&garage=heated").text), "Standing in a heated garage Marten takes"
        )
        warm, cold = (self.made(garage=each).own for each in ("heated", "outdoor"))
        self.assertLess(warm.wall_kwh + warm.way_cost, cold.wall_kwh + cold.way_cost + 1e-6)


class Comparing(WebCase):
    def test_a_year_that_takes_too_long_is_said(self) -> None:
        with mock.patch("frost_tally.web.rooms.compare.page.comparison", side_effect=derived.NotYet):
            late = self.client.get("/garage/compare/months.csv")
        self.assertEqual((late.status_code, late.headers["retry-after"]), (503, "60"))
        self.assertIn("still being worked out", late.text)

    def test_where_few_days_have_prices_of_their_own_these_are_compared(self) -> None:
        first = datetime(2027, 1, 4, tzinfo=OSLO)
        start = np.arange(10 * 24) * 3600 + int(first.timestamp())
        with self.household.recording() as session:
            session.query(PriceRow).delete()
            put_prices(session, 3, Series(start, start + 3600, np.full(len(start), 0.5)))
        made = comparison(self.read())
        place = made.numbers.index(3)
        self.assertTrue(0.01 < made.dated[place] < 0.05)
        self.assertTrue(9 * len(made.cars) - 4 <= made.dated_nights <= 10 * len(made.cars), made.dated_nights)
        kwh = sum(
            float(plan.wall_kwh[(year.nights.plug_in_s >= start[0]) & (year.nights.departure_s <= start[-1] + 3600)].sum())
            for plan, year in zip(made.years[place].cars, made.cars, strict=True)
        )
        self.assertAlmostEqual(made.on_dated[place], 0.5 * kwh, delta=0.01 * kwh)

    def test_it_is_asked_for_again_until_it_is_there(self) -> None:
        derived._LATER.clear()
        first = self.client.get("/garage/compare")
        self.assertIn('data-ask="/garage/compare/live?now=1"', first.text)
        self.assertIn("would have cost", self.client.get("/garage/compare/live?now=1").text)
        self.assertNotIn("data-ask", self.client.get("/garage/compare").text)

    def test_the_comparison_adds_up_and_follows_its_levers(self) -> None:
        derived._LATER.clear()
        self.assertIn("data-go", self.client.get("/garage/compare").text)
        page = self.client.get("/garage/compare?now=1").text
        made = comparison(self.read())
        for year in made.years:
            self.assertAlmostEqual(float(year.months.sum()), year.total, delta=1e-6)
            self.assertAlmostEqual(float(year.car_months.sum()), float(sum(plan.cost.sum() for plan in year.cars)), delta=1e-6)
            self.assertIn(year.tariff.name, page)
        moved = comparison(self.read(), lambda ask: type(ask)(ask.tariff, 0.2, ask.trips))
        self.assertTrue(all(b.house_cost < a.house_cost for a, b in zip(made.years, moved.years, strict=True)))
        csv = self.client.get("/garage/compare/months.csv").text.splitlines()
        self.assertEqual(len(csv), 1 + 12 * len(made.years))

    def test_levers_that_cannot_be_are_said(self) -> None:
        for query, right in (
            ("shift=80&trips=usual&tariff=1", "0 to 50 %"),
            ("shift=5&trips=usual&tariff=", "one to 6 tariffs"),
            ("shift=5&trips=moon&tariff=1", "choose one of"),
            ("trips=usual&tariff=99", "is gone"),
        ):
            answer = self.client.get(f"/garage/compare/live?{query}")
            self.assertEqual(answer.status_code, 422, query)
            self.assertIn(right, " ".join(self.errors(answer).values()))


class Readings(WebCase):
    def upload(self, content: str | bytes, name: str = "meter.csv") -> httpx.Response:
        data = content.encode() if isinstance(content, str) else content
        return self.client.post(
            "/garage/import/readings",
            data={"token": self.fields("/garage/house")["token"]},
            files={"file": (name, io.BytesIO(data))},
        )

    def count(self) -> int:
        with self.tables() as session:
            return len(session.scalars(select(MeterRow.start_s)).all())

    def test_a_year_of_quarter_hours_is_previewed_taken_whole_and_undone(self) -> None:
        shown = self.upload(csv_of(35_040))
        self.assertIn("<b>35040</b> readings would be added", shown.text)
        self.assertEqual(self.count(), 0)
        taken = self.post(shown.url.path, page=shown.url.path)
        self.assertEqual(self.count(), 35_040)
        again = self.upload(csv_of(35_040))
        self.assertIn("Nothing in this file is new", again.text)
        self.assertIn("meter readings for 98 %", house_words(comparison(self.read()).house_source))
        self.undo(taken)
        self.assertEqual(self.count(), 0)

    def test_bad_rows_are_named_and_nothing_is_kept_until_it_is_said(self) -> None:
        shown = self.upload(csv_of(20).replace("0.15", "much", 1) + "2026-13-01T00:00+01:00,1\n")
        for words in (
            "“much” is not a number",
            "is not a time from 1970 to 2100 such as",
            "2 cannot be used",
            "Leave the bad rows out",
        ):
            self.assertIn(words, shown.text)
        self.assertEqual(self.count(), 0)
        self.post(shown.url.path, page=shown.url.path)
        self.assertEqual(self.count(), 19)
        changed = self.upload(csv_of(20).replace("0.10", "0.90", 1))
        self.assertIn("<b>1</b> readings would be added, <b>1</b> changed", changed.text)
        self.undo(self.post(changed.url.path, page=changed.url.path))
        with self.tables() as session:
            self.assertEqual(min(session.scalars(select(MeterRow.kwh)).all()), 0.1)

    def test_what_cannot_be_read_changes_nothing(self) -> None:
        for content, right in (
            ("", "Choose a file"),
            ("a,b\n1,2\n", "columns"),
            (b"\x00\xff\xfe", "not UTF-8"),
            ("<x>", "not sound XML"),
        ):
            answer = self.upload(content)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(right, answer.text)
        self.assertEqual(self.client.get("/garage/taking/none").status_code, 422)
        self.assertEqual(self.client.post("/garage/import/readings", files={"file": ("x", b"start,kwh\n")}).status_code, 403)
        self.assertEqual(self.client.post("/garage/import/readings", content=b"x" * 25_000_000).status_code, 413)

    def test_monthly_figures_are_kept_and_undone(self) -> None:
        months = {f"m{i}": str(100 * i) for i in range(1, 13)}
        done = self.post("/garage/house", page="/garage/house", **months, house_shape="heating", shift="10")
        with self.tables() as session:
            self.assertEqual((household_row(session).house_kwh[11], household_row(session).shift), (1200.0, 0.1))
        self.assertIn("your monthly figures, electric heating", house_words(comparison(self.read()).house_source))
        self.undo(done)
        with self.tables() as session:
            self.assertEqual(household_row(session).house_kwh, [])
        self.assertIn(
            "0 to 20000 kWh",
            self.post("/garage/house", page="/garage/house", **{**months, "m3": "-4"}, house_shape="heating", shift="10").text,
        )


class EmptyGarage(WebCase):
    demo = False

    def test_every_garage_page_leads_an_empty_household_to_its_first_step(self) -> None:
        for path in ("/garage", "/garage/outlets", "/garage/compare"):
            self.assertTrue(str(self.client.get(path).url).endswith("/setup/car"), path)
        for path in ("/garage/tariffs", "/garage/house", "/garage/tariffs/new?shape=winter", "/garage/edit/place/new"):
            self.assertEqual(self.client.get(path).status_code, 200, path)
