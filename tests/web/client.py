"""A client on an app in this process, with its own household."""

import asyncio
import html
import re
import tempfile
import unittest
from collections.abc import Coroutine
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import Any, TypeVar

import httpx2 as httpx
import structlog
from sqlalchemy.orm import Session
from starlette.testclient import TestClient

from frost_tally.core.home import Home
from frost_tally.household.models import HabitRow, OutletRow
from frost_tally.household.snapshot import Snapshot
from frost_tally.settings import Settings
from tests.homes import app_on, home_in, read, tables
from tests.uncounted import uncounted

structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(50))
Result = TypeVar("Result")
PREFERENCES = {"weight_unit": "kg", "hours": "24", "week_start": "mon", "decimal_mark": "."}
"""Somebody's way of writing, as a form has it."""


def aside(work: Coroutine[Any, Any, Result]) -> Result:
    """What asynchronous work gives, done in a thread of its own: the browser tests may keep a loop in this one. Its lines are not
    counted as reached, for counting takes half of its time.
    """
    with uncounted(), ThreadPoolExecutor(1) as pool:
        return pool.submit(lambda: asyncio.run(work)).result()


def hidden(page: str) -> dict[str, str]:
    """The hidden fields of a page."""
    found = dict(re.findall(r'<input type="hidden" name="(\w+)"[^>]*? value="([^"]*)"', page))
    found |= dict(re.findall(r'<button[^>]*? name="(token)" value="([^"]*)"', page))
    return {name: html.unescape(value) for name, value in found.items()}


class Patient(TestClient):
    """Asks again for what takes a moment to work out (202), as a page does."""

    def get(self, *args: Any, **more: Any) -> httpx.Response:
        while (answer := super().get(*args, **more)).status_code == 202:
            pass
        return answer


class WebCase(unittest.TestCase):
    """Each test has an app on a fresh household; `demo` says which."""

    demo = True
    years = 0.05

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.settings = Settings(data_dir=Path(folder.name), demo=self.demo)
        self.household = home_in(self.settings, self.years)
        self.addCleanup(self.household.engine.dispose)
        self.client = Patient(app_on(self.settings, self.household), base_url="http://127.0.0.1:8642", follow_redirects=True)

    def read(self, now: datetime | None = None) -> Snapshot:
        """What a page reads of the household, as at a moment (None: the present)."""
        return read(self.household, now)

    @property
    def home(self) -> Home:
        """The home as it is by now."""
        return self.read().home

    def tables(self) -> Session:
        """A session to look at rows, or to change them behind the app's back."""
        return tables(self.household)

    def fields(self, path: str) -> dict[str, str]:
        """What a browser would send of the page's hidden fields."""
        return hidden(self.client.get(path).text)

    def post(self, path: str, /, page: str = "/tonight", **typed: str) -> httpx.Response:
        """Post a form with the token of its page."""
        return self.client.post(path, data={**self.fields(page), **typed})

    def undo(self, done: httpx.Response) -> httpx.Response:
        """Press Undo on the page that says what was done."""
        return self.post("/undo", page=str(done.url))

    def errors(self, answer: httpx.Response) -> dict[str, str]:
        """What an answer to pulled levers says of those that will not do."""
        return {name: html.unescape(words) for name, words in re.findall(r'<li data-field="(\w+)">(.*?)</li>', answer.text)}


class ApartCase(WebCase):
    """The demo with a wall unit for each car, so that every night is each one's own."""

    def setUp(self) -> None:
        super().setUp()
        with self.household.recording() as session:
            unit = session.get_one(OutletRow, 1)
            own = {each.name: getattr(unit, each.name) for each in OutletRow.__table__.columns if each.name != "id"}
            session.get_one(HabitRow, 2).outlet = OutletRow(**own)
