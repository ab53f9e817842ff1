"""A page shows one state of the household, whoever writes while it is made."""

import re
from collections.abc import Callable
from contextlib import AbstractContextManager
from datetime import datetime
from random import Random
from unittest import mock

from fastapi.routing import APIRoute

from frost_tally.household.models import CarRow
from frost_tally.household.parts import in_order
from frost_tally.household.snapshot import Snapshot
from frost_tally.household.unit_of_work import Household
from frost_tally.services import garage
from frost_tally.web.app import ROOMS
from tests.drilled import count, seed_of
from tests.uncounted import uncounted
from tests.web.client import WebCase, hidden


class OneState(WebCase):
    def rename(self, name: str) -> None:
        with self.household.deciding("Renamed") as session:
            in_order(session, CarRow)[0].name = name

    def test_what_is_written_while_a_page_is_made_is_on_the_next_one(self) -> None:
        """One reading saw revision 1, and then 2."""
        made = garage.cars_on_outlets

        def meanwhile(snapshot: Snapshot) -> tuple[garage.CarOnOutlet, ...]:
            self.rename("Stoat")
            return made(snapshot)

        with mock.patch.object(garage, "cars_on_outlets", meanwhile):
            page = self.client.get("/garage").text
        self.assertIn("Marten", page)
        self.assertNotIn("Stoat", page)
        late = self.client.post("/garage/look", data={**hidden(page), "person": "1"})
        self.assertEqual(late.status_code, 200, "looking in other units is no decision")
        late = self.client.post("/garage/remove/car/2", data=hidden(page))
        self.assertEqual(late.status_code, 409)
        self.assertIn("Renamed", late.text)
        self.assertIn("Stoat", self.client.get("/garage").text)

    @uncounted()
    def test_every_page_reads_once(self) -> None:
        opened: list[datetime | None] = []
        reading: Callable[..., AbstractContextManager[Snapshot]] = Household.reading

        def counted(household: Household, now: datetime | None = None) -> AbstractContextManager[Snapshot]:
            opened.append(now)
            return reading(household, now)

        paths = sorted(
            {
                each.path
                for room in ROOMS
                for each in room.router.routes
                if isinstance(each, APIRoute) and "GET" in (each.methods or ()) and not re.search("{|/live$", each.path)
            }
        )
        several = {}
        with mock.patch.object(Household, "reading", counted):
            for path in Random(seed_of(self.id())).sample(paths, max(12, count(len(paths)))):
                opened.clear()
                answer = self.client.get(path, follow_redirects=False)
                if answer.status_code == 200 and "being worked out" not in answer.text and "data-ask" not in answer.text:
                    several[path] = opened.count(None)  # who works beside the page reads as at its moment
        self.assertGreater(len(several), 4)
        self.assertEqual({path: count for path, count in several.items() if count > 1}, {})

    def test_a_reading_is_closed_with_the_answer(self) -> None:
        for path in ("/tonight", "/no-such-page", "/warm-up?km=-4", "/log/charge/99999"):
            self.client.get(path)
            self.assertEqual(self.household.engine.pool.checkedout(), 0, path)  # type: ignore[attr-defined]

    def test_an_unknown_car_is_said_with_those_that_there_are(self) -> None:
        for path in ("/tonight", "/day", "/battery", "/parked", "/week", "/day/tyres", "/garage/outlets", "/day/long"):
            answer = self.client.get(f"{path}?car=99")
            self.assertEqual(answer.status_code, 422, path)
            self.assertRegex(answer.text, r"There is no car 99\. There are: 1 Marten, 2 Dray\.")
