"""What a kept result reads is what it declares: SQLite's authorizer hears of every table that a statement reads."""

import re
import sqlite3
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable
from importlib import import_module
from pkgutil import walk_packages
from unittest import mock

from fastapi.routing import APIRoute

from frost_tally import services
from frost_tally.household.snapshot import Snapshot
from frost_tally.web.app import ROOMS
from tests.uncounted import uncounted
from tests.web.client import WebCase

OF_THE_STORE = {"sqlite_master", "state", "written", "present"}
NOT_HERE = {"weather", "price", "meter"}
"""Tables that are asked only where somebody took files over; the demo's weather is the world's, its cars' prices are painted."""


class Declared(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.heard, self.declared = defaultdict[str, set[str]](set), dict[str, set[str]]()
        self.listening, self.kept = list[set[str]](), dict[Hashable, tuple[object, set[str]]]()
        for each in walk_packages(services.__path__, "frost_tally.services."):
            module = import_module(each.name)
            for name, double in (("derived", self.derived), ("derived_later", self.later)):
                if hasattr(module, name) and not each.name.endswith(".derived"):
                    self.enterContext(mock.patch.object(module, name, double))

    def hear(self, action: int, table: str | None, *_: object) -> int:
        for each in self.listening if action == sqlite3.SQLITE_READ and table else ():
            each.add(str(table))
        return sqlite3.SQLITE_OK

    def derived(
        self, snapshot: Snapshot, what: Hashable, work: Callable[[], object], reads: Iterable[str] | None = None
    ) -> object:
        if reads is None:
            return work()
        name = str(what[0] if isinstance(what, tuple) else what)
        self.declared[name] = self.declared.get(name, set()) | set(reads)
        if what not in self.kept:
            # with an authorizer set anew, what a connection has prepared is prepared again
            snapshot.log.connection().connection.driver_connection.set_authorizer(self.hear)  # type: ignore[union-attr]
            self.listening.append(set())
            self.kept[what] = work(), self.listening.pop()
        result, heard = self.kept[what]
        for each in (self.heard[name], *self.listening):
            each |= heard
        return result

    def later(
        self, snapshot: Snapshot, what: Hashable, work: Callable[[Snapshot], object], wait_s: float, reads: Iterable[str]
    ) -> object:
        return self.derived(snapshot, what, lambda: work(snapshot), reads)

    @uncounted()
    def test_a_kept_result_reads_what_it_declares(self) -> None:
        routes = (each for room in ROOMS for each in room.router.routes if isinstance(each, APIRoute))
        paths = {each.path for each in routes if "GET" in (each.methods or ())}
        for weather in (self.household.world.weather, None):  # the world's, and that of a home where it is typed
            self.household.world.__dict__["weather"] = weather
            self.kept.clear()
            for path in sorted(each for each in paths if not re.search("{|/live$|/side$|[.]csv$|[.]ics$|[.]json$", each)):
                self.assertLess(self.client.get(path, params={"car": "1", "now": "1"}).status_code, 500, path)
        self.assertGreater(len(self.declared), 10)
        for name, declared in self.declared.items():
            with self.subTest(result=name):
                self.assertLessEqual(self.heard[name] - OF_THE_STORE, declared)
                self.assertGreaterEqual(self.heard[name] | NOT_HERE, declared, "it declares too much")
