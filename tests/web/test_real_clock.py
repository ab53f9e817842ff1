"""An owner's home by the machine's own clock, whose moments have fractions of a second: slips of quick entries, mended and undone."""

import re
from datetime import timedelta
from html import unescape

from sqlalchemy import delete

from frost_tally.household.models import CarRow, ChargeRow, DriveRow, PriceRow, ReadingRow, TariffRow
from frost_tally.household.parts import in_order
from frost_tally.services.tariffs import listed
from tests.web.client import WebCase
from tests.web.test_garage import CAR, OUTLET, PLACE

FORM = r'<form method="post" action="/log/doubt".*?</form>'


class RealClock(WebCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        for name, fields in (("car", CAR), ("outlet", OUTLET), ("place", {**PLACE, "garage_heated_c": "12"})):
            self.post(f"/setup/{name}", page=f"/setup/{name}", **fields)
        with self.household.recording() as session:
            session.execute(delete(ReadingRow))

    def quick(self, soc: int, odometer: str = "") -> None:
        done = self.post("/log/new", page="/log/new?car=1", car="1", soc=str(soc), odometer=odometer)
        self.assertEqual(done.status_code, 200, done.text)

    def taps(self) -> list[dict[str, str]]:
        """What is offered to mend, with the fields of each tap."""
        found = []
        for form in re.findall(FORM, self.client.get("/log/doubts").text, re.S):
            fields = dict(re.findall(r'name="(\w+)" value="([^"]*)"', form))
            found += [{**fields, "how": how} for how in re.findall(r'name="how" value="(\w+)"', form)]
        return found

    def counts(self) -> tuple[int, ...]:
        with self.tables() as session:
            return tuple(session.query(each).count() for each in (DriveRow, ChargeRow, ReadingRow))

    def test_slips_of_quick_entries_are_mended_by_each_offered_tap_and_undone(self) -> None:
        for levels, expected in (((80, 41), "level_down"), ((41, 90), "level_up")):
            with self.household.recording() as session:
                for kind in (DriveRow, ChargeRow, ReadingRow):
                    session.execute(delete(kind))
                outlet = in_order(session, CarRow)[0].habit.outlet
                in_order(session, CarRow)[0].habit.outlet = None  # nothing to have charged from: the rise is a slip
            for level in levels:
                self.quick(level)
            with self.household.recording() as session:
                in_order(session, CarRow)[0].habit.outlet_id = outlet.id if outlet else None
                for charge in session.query(ChargeRow):
                    session.delete(charge)
            taps, before = self.taps(), self.counts()
            self.assertEqual([each["how"] for each in taps if each["code"] == expected], ["mend", "right"], levels)
            for tap in taps:
                done = self.post("/log/doubt", page="/log/doubts", **tap)
                self.assertEqual(done.status_code, 200, (tap, unescape(done.text)))
                self.assertEqual([each for each in self.taps() if each["code"] == expected], [], tap)
                self.assertEqual(self.counts() == before, tap["how"] == "right")
                self.assertIn("Taken back", self.undo(done).text)
                self.assertEqual((self.counts(), len(self.taps())), (before, len(taps)), tap)

    def test_nobody_publishes_prices_to_an_owners_home(self) -> None:
        """The simulated feed is the demo's."""
        self.assertIsNone(self.household.world.prices)
        with self.household.recording() as session:
            session.query(TariffRow).update({"feed": "stand-in"})
        number = listed(self.read())[0].contract.id
        self.assertNotIn("simulated feed", self.client.get("/garage/tariffs").text)
        refused = self.post(f"/garage/tariffs/{number}/fetch", page="/garage/tariffs", how="now")
        self.assertEqual(refused.status_code, 422)
        with self.tables() as session:
            self.assertEqual(session.query(PriceRow).count(), 0)

    def test_a_file_of_negative_prices_opens_in_every_room(self) -> None:
        """Hours of −20 to 0 ct, as dated series have them (common practice)."""
        first = self.read().now.replace(minute=0, second=0, microsecond=0)
        for dear in (0.0, 0.3):
            rows = ["start,minutes,price_per_kwh"] + [
                f"{(first + timedelta(hours=h)).isoformat()},60,{-0.2 + (0.2 + dear) * (h * 7 % 11) / 10:.3f}" for h in range(200)
            ]
            number = listed(self.read())[0].contract.id
            token = self.fields("/garage/tariffs")["token"]
            shown = self.client.post(
                "/garage/import/prices",
                data={"token": token, "tariff": str(number)},
                files={"file": ("p.csv", "\n".join(rows).encode())},
            )
            self.assertEqual(self.post(shown.url.path, page=shown.url.path).status_code, 200)
            for path in ("/tonight", "/day", "/warm-up", "/week", "/week", "/week/departures.ics", "/garage"):
                for query in ("", "?control=hand&soc_now=12&limit=100"):
                    self.assertLess(self.client.get(path + query).status_code, 500, path + query)
