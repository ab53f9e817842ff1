"""The counters of the tables, and whether what is kept under them declares all that it reads."""

import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta

from sqlalchemy import insert, text

from frost_tally.demo.skarfell import EVENING
from frost_tally.household import everything
from frost_tally.household.models import ReadingRow, WayRow
from frost_tally.household.store import backup, restore
from frost_tally.household.written import counted, times
from frost_tally.services.shared import derived
from tests.homes import read
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
        home = self.household()

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
        home = self.household()
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
        self.assertNotEqual(times(self.household().engine, ["way"]), emptied, "another store")

    def test_tables_made_anew_go_on_counting(self) -> None:
        self.household().engine.dispose()
        with closing(sqlite3.connect(self.database)) as connection:
            found = connection.execute("SELECT count(*) FROM sqlite_master WHERE type = 'trigger'").fetchone()[0]
        self.assertEqual(found, 3 * len(everything.names()))


class Held(InFolder):
    def test_a_result_falls_with_its_tables_and_with_its_day_alone(self) -> None:
        home, worked = self.household(), list[int]()

        def work() -> int:
            worked.append(1)
            return len(worked)

        def asked(day: datetime) -> int:
            return derived.derived(read(home), ("it", day.date()), work, ("way", "car"))

        self.assertEqual([asked(EVENING), asked(EVENING)], [1, 1])
        with home.recording() as session:
            session.add(ReadingRow(**LEVEL))
        self.assertEqual(asked(EVENING), 1, "nothing that it reads")
        with home.recording() as session:
            session.add(WayRow(name="x", km=1.0, country_km=0.0))
        self.assertEqual(asked(EVENING.astimezone(UTC)), 2)
        self.assertEqual(asked(EVENING + timedelta(days=1)), 3)
