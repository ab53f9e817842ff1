"""The counters of the tables, and whether what is kept under them declares all that it reads."""

import sqlite3
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta

from sqlalchemy import event, insert, text

from frost_tally.demo import EVENING
from frost_tally.household import everything
from frost_tally.household.home import Home
from frost_tally.household.models import ReadingRow, WayRow
from frost_tally.household.store import backup, restore
from frost_tally.household.written import counted, times
from frost_tally.services import clock, compare, outlets, remembered, weekly
from tests.household.test_store import InFolder

LEVEL = {
    "car_id": 1,
    "kind": "level",
    "unit": "1",
    "value": 0.5,
    "source": "owner",
    "assumed": [],
    "sure": [],
    "read_at": EVENING,
}


class Counters(InFolder):
    def test_whoever_writes_in_whatever_way_raises_the_counter_and_only_that(self) -> None:
        home = self.home()

        def mapper() -> None:
            with home.recording() as session:
                session.add(ReadingRow(**LEVEL))

        def statement() -> None:
            with home.recording() as session:
                session.execute(insert(ReadingRow), [LEVEL] * 3)

        def plain() -> None:
            with closing(sqlite3.connect(self.database)) as connection, connection:
                connection.execute("UPDATE reading SET value = 0.4 WHERE id = 1")

        def away() -> None:
            with home.deciding("gone") as session:
                session.execute(text("DELETE FROM reading WHERE value = 0.5"))

        for write in (mapper, statement, plain, away):
            before, others = times(home.engine, ["reading"]), times(home.engine, set(counted()) - {"reading", "undo"})
            write()
            self.assertNotEqual(times(home.engine, ["reading"]), before, write.__name__)
            self.assertEqual(times(home.engine, set(counted()) - {"reading", "undo"}), others, write.__name__)

    def test_what_fails_raises_nothing_and_what_replaces_everything_raises_all(self) -> None:
        home = self.home()
        before = times(home.engine, counted())
        with self.assertRaises(ZeroDivisionError), home.recording() as session:
            session.add(ReadingRow(**LEVEL))
            session.flush()
            raise ZeroDivisionError
        self.assertEqual(times(home.engine, counted()), before)
        with self.assertRaises(KeyError):
            times(home.engine, ["nothing"])
        copy = backup(self.database, self.backups)
        home.delete_all(self.backups)
        for name in counted():
            self.assertNotEqual(times(home.engine, [name]), before, name)
        with home.recording() as session:
            session.add(WayRow(name="x", km=1.0, country_km=0.0))
        emptied = times(home.engine, ["way"])
        home.engine.dispose()
        restore(copy, self.database, self.backups)
        self.assertNotEqual(times(self.home().engine, ["way"]), emptied, "another store")

    def test_tables_made_anew_go_on_counting(self) -> None:
        self.home().engine.dispose()
        with closing(sqlite3.connect(self.database)) as connection:
            found = connection.execute("SELECT count(*) FROM sqlite_master WHERE type = 'trigger'").fetchone()[0]
        self.assertEqual(found, 3 * len(everything.names()))


class Declared(InFolder):
    """SQLite's authorizer hears of every column that a statement reads."""

    def read_by(self, home: Home, work: Callable[[], object]) -> set[str]:
        seen = set[str]()

        def hear(action: int, table: str | None, *_: object) -> int:
            if action == sqlite3.SQLITE_READ and table:
                seen.add(table)
            return sqlite3.SQLITE_OK

        home.engine.dispose()
        event.listen(home.engine, "connect", lambda connection, _: connection.set_authorizer(hear))
        home.replaced()
        work()
        return seen

    def test_results_of_a_year_read_what_they_declare(self) -> None:
        home = self.home()
        now = clock.now(home)
        asked: dict[str, frozenset[str]] = {}
        kept, remembered_ = dict[str, Callable[[], object]](), remembered.remembered

        def noting(
            home: Home, what: tuple[object, ...], work: Callable[[], object], wait_s: float, reads: frozenset[str]
        ) -> object:
            asked[str(what[0])], kept[str(what[0])] = reads, work
            return remembered_(home, what, work, wait_s, reads)

        modules = (compare, outlets, weekly)
        for module in modules:
            module.remembered = noting  # type: ignore[attr-defined]
            self.addCleanup(setattr, module, "remembered", remembered_)
        compare.comparison(home, now)
        outlets.outlets_bench(home, now, 1, lambda usual: usual, 60.0)
        weekly.weekly_room(home, now, 1, lambda usual: usual, 60.0)
        self.assertEqual(set(asked), {"compare", "bench", "weekly"})
        for name, work in kept.items():
            seen = self.read_by(home, work) - {"state", "written", "sqlite_master"}
            self.assertLessEqual(seen, asked[name], name)
            self.assertGreaterEqual(
                seen | {"small_battery", "season", "weather", "meter"}, asked[name], f"{name} declares too much"
            )


class Held(InFolder):
    def test_a_result_falls_with_its_tables_and_with_its_day_alone(self) -> None:
        home, worked = self.home(), list[int]()

        def work() -> int:
            worked.append(1)
            return len(worked)

        def asked(day: datetime) -> int:
            return remembered.remembered(home, ("it", day.date()), work, 5.0, ("way", "car"))

        self.assertEqual([asked(EVENING), asked(EVENING)], [1, 1])
        with home.recording() as session:
            session.add(ReadingRow(**LEVEL))
        self.assertEqual(asked(EVENING), 1, "nothing that it reads")
        with home.recording() as session:
            session.add(WayRow(name="x", km=1.0, country_km=0.0))
        self.assertEqual(asked(EVENING.astimezone(UTC)), 2)
        self.assertEqual(asked(EVENING + timedelta(days=1)), 3)
