"""A page that stayed open: over an hour, a week, midnight, new year, a change of the clock; and a page in somebody else's units."""

import html
import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any, cast
from zoneinfo import ZoneInfo

from fastapi.routing import APIRoute

from frost_tally.household.models import PersonRow, PlanRow, ReadingRow
from frost_tally.web.app import ROOMS
from frost_tally.web.guard import form_now
from frost_tally.web.page import PERSON_COOKIE
from tests.web.client import WebCase, hidden

ZONE = ZoneInfo("Europe/Oslo")
WEEK = timedelta(days=7, seconds=13)
TYRES = {"car": "1", "tyre_c": "4", "warm": "no", "FL": "240"}
ELSEWHERE = "mi|F|psi|USD|lb|12|sun|."


class OldTabs(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.headers["sec-fetch-site"] = "same-origin"

    def at(self, moment: datetime) -> None:
        cast(Any, self.household.world.clock).set(moment)

    def later(self, by: timedelta = WEEK) -> None:
        self.at(self.household.world.clock.now() + by)

    def rows(self) -> list[object]:
        """Everything in the store, to see that nothing changed."""
        with self.household.engine.connect() as at:
            names = [each[0] for each in at.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'")]
            return [at.exec_driver_sql(f"SELECT * FROM {name}").fetchall() for name in sorted(names)]

    def of_the_present(self) -> Iterator[str]:
        """Every form that means the moment at which it is sent."""
        for route in (each for room in ROOMS for each in room.router.routes if isinstance(each, APIRoute)):
            if any(each.call is form_now for each in route.dependant.dependencies):
                yield route.path

    def test_what_would_count_for_now_is_asked_for_again_from_a_page_of_another_time(self) -> None:
        paths, page = list(self.of_the_present()), self.fields("/tonight")
        self.assertGreaterEqual(len(paths), 8)
        for by in (WEEK, -2 * WEEK):  # also where the machine's clock was set back
            self.later(by)
            before = self.rows()
            for path in paths:
                answer = self.client.post(path, data={**page, "car": "1", "soc": "44"})
                with self.subTest(path, by=by):
                    self.assertEqual(answer.status_code, 409)
                    self.assertIn("This page is of another time", answer.text)
                    self.assertIn("44", answer.text)
            self.assertEqual(self.rows(), before)
        self.assertEqual(self.client.post("/tonight/level", data={**page, "opened": "", "soc": "44"}).status_code, 409)

    def test_sent_again_it_counts_for_the_later_time(self) -> None:
        page = self.fields("/day/tyres")
        self.later()
        answer = self.client.post("/day/tyres", data={**page, **TYRES})
        again = hidden(answer.text)
        self.assertEqual((answer.status_code, again["FL"]), (409, "240"))
        self.assertEqual(self.client.post("/day/tyres", data=again).status_code, 200)
        with self.tables() as session:
            noted = session.query(ReadingRow).order_by(ReadingRow.id.desc()).first()
            assert noted
            self.assertLess(abs(noted.read_at - self.household.world.clock.now().astimezone(UTC)), timedelta(minutes=1))

    def test_an_evening_over_midnight_new_year_and_both_changes_of_the_clock_goes_through(self) -> None:
        for moment in (
            datetime(2026, 12, 31, 23, 30, 17, tzinfo=ZONE),
            datetime(2027, 3, 28, 1, 40, 59, tzinfo=ZONE),
            datetime(2027, 10, 31, 2, 31, 1, tzinfo=ZONE),
            datetime(2028, 2, 28, 23, 59, 58, tzinfo=ZONE),
        ):
            self.at(moment)
            page = self.fields("/tonight")
            self.later(timedelta(minutes=59, seconds=3))
            answer = self.client.post("/tonight/level", data={**page, "car": "1", "level": "47"})
            with self.subTest(moment.isoformat()):
                self.assertEqual((answer.status_code, "47" in answer.text), (200, True))

    def test_a_night_that_was_shown_is_decided_about_and_no_other(self) -> None:
        shown = self.fields("/tonight")
        self.later()
        before = self.rows()
        for path in ("/tonight/keep", "/tonight/keep-for-good", "/tonight/put-back"):
            answer = self.client.post(path, data={**shown, "limit": "91"})
            with self.subTest(path):
                self.assertIn(answer.status_code, (409, 422))
                self.assertIn("That departure has passed", html.unescape(answer.text))
                self.assertEqual(self.rows(), before)
        now = self.fields("/tonight")
        self.assertEqual(self.client.post("/tonight/keep", data={**now, "limit": "91"}).status_code, 200)
        self.assertEqual(self.client.post("/tonight/put-back", data=now).status_code, 409, "a page from before it was kept")
        with self.tables() as session:
            kept = session.query(PlanRow).order_by(PlanRow.id.desc()).limit(1).one()
            self.assertEqual((kept.departure.isoformat(), kept.withdrawn), (now["departure"], False))

    def test_a_form_is_read_in_the_units_of_its_page(self) -> None:
        with self.household.recording() as session:
            own = {"distance_unit": "mi", "temperature_unit": "F", "pressure_unit": "psi", "currency": "USD", "per_contract": 1.1}
            session.add(other := PersonRow(name="Ida", **own))
        page = self.fields("/day/tyres")
        self.client.cookies.set(PERSON_COOKIE, str(other.id))
        self.client.post("/day/tyres", data={**page, **TYRES})
        there = self.fields("/day/tyres")
        self.client.cookies.set(PERSON_COOKIE, "1")
        self.client.post("/day/tyres", data={**there, **TYRES, "tyre_c": "39.2", "FL": "34.8091"})
        with self.tables() as session:
            first, second = session.query(ReadingRow).order_by(ReadingRow.id.desc()).limit(2)
            self.assertAlmostEqual(first.value, 240.0, delta=0.1)
            self.assertAlmostEqual(second.value, 240.0, delta=0.1)
            self.assertAlmostEqual(first.temp_c or 0.0, 4.0, delta=0.1)
            self.assertEqual(second.temp_c, 4.0)

    def test_an_address_means_the_same_to_whoever_opens_it(self) -> None:
        for path, own, elsewhere in (
            ("/tonight", "km=99.8&motorway_kmh=104.6&out_now_c=-10", "km=62&motorway_kmh=65&out_now_c=14"),
            ("/warm-up", "out_c=-10&km=16.1", "out_c=14&km=10"),
            ("/day", "tyre_kpa=241.3&wind_mps=4", "tyre_kpa=35&wind_mps=8.9"),
            ("/day/long", "km=498.9&limit_kmh=104.6&every_km=40.2", "km=310&limit_kmh=65&every_km=25"),
            ("/parked/washer", "target_c=-30&now_c=-10", "target_c=-22&now_c=14"),
        ):
            said = [self.client.get(f"{path}?car=1&{each}").text for each in (own, f"{elsewhere}&shown_in={ELSEWHERE}")]
            typed = [dict(re.findall(r'<input[^>]*name="(\w+)"[^>]*value="([^"]*)"', each)) for each in said]
            for name in (each.partition("=")[0] for each in own.split("&")):
                with self.subTest(path, name=name):
                    self.assertAlmostEqual(float(typed[0][name]), float(typed[1][name]), delta=0.06)
