"""Tables that hold their types and their sense, and a store that has what cannot be: it comes up, names it, and can be mended."""

import sqlite3
from contextlib import closing

from sqlalchemy import select

from frost_tally.household import strict
from frost_tally.household.models import AsideRow, Base, CarRow, ChargeRow, DriveRow
from frost_tally.household.sound import check_sound
from frost_tally.household.store import check_store, migrate, open_store
from tests.homes import home_in
from tests.web.client import WebCase
from tests.web.test_used_car import plain

LOOSE = ("car", "charge", "drive", "reading", "night_plan", "plan_block", "departure", "aside")


class Strict(WebCase):
    years = 0.2

    def loosened(self) -> sqlite3.Connection:
        """The store as one of an older version was: tables that take anything."""
        self.household.engine.dispose()
        connection = sqlite3.connect(self.settings.database)
        connection.execute("PRAGMA foreign_keys=OFF")
        for name in LOOSE:
            columns = ", ".join(f'"{each.name}"' for each in Base.metadata.tables[name].columns)
            connection.execute(
                f'CREATE TABLE "loose_{name}" ({columns.replace(chr(34) + "id" + chr(34), "id INTEGER PRIMARY KEY", 1)})'
            )
            connection.execute(f'INSERT INTO "loose_{name}" SELECT {columns} FROM "{name}"')
            connection.execute(f'DROP TABLE "{name}"')
            connection.execute(f'ALTER TABLE "loose_{name}" RENAME TO "{name}"')
        return connection

    def again(self, connection: sqlite3.Connection, migrated: bool = True) -> None:
        """A start of today's version on it."""
        connection.commit()
        connection.close()
        if migrated:
            migrate(self.settings.database)
        check_store(self.settings.database)
        self.household.engine.dispose()
        self.household._homes.clear()
        self.client.app.state.household = self.household = home_in(self.settings)  # type: ignore[attr-defined]
        self.addCleanup(self.household.engine.dispose)

    def test_every_table_is_strict_with_its_checks_and_made_as_it_is_wanted(self) -> None:
        with closing(sqlite3.connect(self.settings.database)) as connection:
            loose = {
                name for (name,) in connection.execute("SELECT name FROM pragma_table_list WHERE schema = 'main' AND strict = 0")
            }
            self.assertEqual(loose - {"sqlite_schema", "sqlite_sequence", "alembic_version"}, set())
            made = dict(connection.execute("SELECT name, sql FROM sqlite_master WHERE type = 'table'"))
            for name, (wanted, _) in strict._wanted().items():
                self.assertEqual(strict._body(made[name]), strict._body(wanted), "renew it: a migration of its own makes it anew")
            for wrong in (
                "UPDATE car SET soh = 'good'", "UPDATE car SET soh = 9e99", "UPDATE car SET soh = 40", "UPDATE car SET heat_pump = 7",
                "UPDATE car SET name = x'00'", "UPDATE car SET preset = 'tank'", "UPDATE car SET fast_points = '[1, 2'",
                "UPDATE drive SET left_at = 'yesterday'", "UPDATE drive SET left_at = 5", "UPDATE place SET zone = 'here; there'",
                "UPDATE departure SET at = '25 o clock'", "UPDATE charge SET soc_end = 7",
            ):  # fmt: skip
                with self.subTest(wrong=wrong), self.assertRaises(sqlite3.IntegrityError):
                    connection.execute(wrong)

    def test_a_home_with_what_cannot_be_comes_up_names_it_and_is_mended(self) -> None:
        with self.tables() as session:
            drives, charges = session.query(DriveRow).count(), session.query(ChargeRow).count()
        connection = self.loosened()
        connection.execute("UPDATE car SET soh = 'good', most_kw = 'lots' WHERE id = 1")
        connection.execute("UPDATE drive SET left_at = 'yesterday' WHERE id = (SELECT max(id) FROM drive)")
        connection.execute("UPDATE charge SET begun_at = '2027-01-02 03:04:05' WHERE id = (SELECT max(id) FROM charge)")
        connection.execute("UPDATE charge SET soc_end = 7 WHERE id = (SELECT min(id) FROM charge)")
        self.again(connection)
        self.assertIn("values in the data cannot be and were put aside", plain(self.client.get("/tonight")))
        page = plain(self.client.get("/log/data"))
        for words in (
            "Health today: “good” cannot be. “100 %” stands there instead",
            "Nothing stands there instead",
            "“yesterday” cannot be",
            "The whole entry was put aside",
        ):
            self.assertIn(words.casefold(), page.casefold())
        with self.tables() as session:
            self.assertEqual(session.query(DriveRow).count(), drives - 1)
            self.assertEqual(session.query(ChargeRow).count(), charges, "a level beyond the top stands at the top")
            self.assertTrue(0.2 <= session.get_one(CarRow, 1).soh <= 1.2)
            self.assertIsNone(session.get_one(CarRow, 1).most_kw)
            alike = session.scalars(select(ChargeRow).order_by(ChargeRow.id.desc())).first()
            assert alike is not None
            self.assertEqual(str(alike.begun_at), "2027-01-02 03:04:05+00:00", "another form of a moment is no slip")
        before = len(self.asides())
        done = self.post("/log/data/settle", page="/log/data", aside=str(self.asides()[0].id))
        self.assertEqual(len(self.asides()), before - 1)
        self.undo(done)
        self.assertEqual(len(self.asides()), before)
        open_store(self.settings.database, self.settings.backups).dispose()

    def test_what_no_table_can_refuse_is_put_aside_at_the_next_start(self) -> None:
        self.household.engine.dispose()
        connection = sqlite3.connect(self.settings.database)
        for statement in (
            "UPDATE place SET zone = 'Mars/Base'", "UPDATE car SET fast_points = '[[1, \"fast\"]]' WHERE id = 1",
            "UPDATE night_plan SET levers = '[4]' WHERE id = (SELECT max(id) FROM night_plan)", "UPDATE drive SET assumed = '{\"km\": 1}'",
        ):  # fmt: skip
            connection.execute(statement)
        self.again(connection, migrated=False)
        for path in ("/tonight", "/log", "/garage"):
            self.assertEqual(self.client.get(path).status_code, 200, path)
        page = plain(self.client.get("/log/data"))
        for words in ("Time zone: “Mars/Base” cannot be. “UTC” stands there instead", "“[4]” cannot be"):
            self.assertIn(words, page)
        self.assertIn("/garage/edit/place/1", self.client.get("/log/data").text)
        check_sound(self.settings.database)

    def asides(self) -> list[AsideRow]:
        with self.tables() as session:
            return list(session.scalars(select(AsideRow).order_by(AsideRow.id)))

    def test_children_of_a_row_that_went_go_after_it_and_numbers_go_on(self) -> None:
        with self.household.deciding("something") as session:
            session.get_one(CarRow, 1).name = "Pine Marten"
        connection = self.loosened()
        plans = connection.execute("SELECT count(*) FROM night_plan").fetchone()[0]
        last = connection.execute("SELECT seq FROM sqlite_sequence WHERE name = 'undo'").fetchone()[0]
        number = connection.execute("SELECT max(plan_id) FROM drive").fetchone()[0]
        connection.execute("UPDATE night_plan SET departure = 'soon' WHERE id = ?", (number,))
        block = {"plan_id": number, "kind": "charge", "begin": "2027-01-02 03:04:05.000000", "end": "2027-01-02 04:04:05.000000"}
        names = [each.name for each in Base.metadata.tables["plan_block"].columns if each.name != "id"]
        values = [block.get(each, 1.0) for each in names]
        listed = ", ".join(f'"{each}"' for each in names)
        connection.execute(f"INSERT INTO plan_block ({listed}) VALUES ({', '.join('?' * len(names))})", values)
        self.again(connection)
        with closing(sqlite3.connect(self.settings.database)) as found:
            self.assertEqual(found.execute("SELECT count(*) FROM night_plan").fetchone()[0], plans - 1)
            self.assertIsNone(found.execute("PRAGMA foreign_key_check").fetchone())
            self.assertEqual(
                found.execute("SELECT count(*) FROM drive WHERE plan_id = ?", (number,)).fetchone()[0], 0, "it stays alone"
            )
            self.assertEqual(found.execute("SELECT seq FROM sqlite_sequence WHERE name = 'undo'").fetchone()[0], last)
        self.assertTrue(any(each.place.startswith("plan_block.") for each in self.asides()))
