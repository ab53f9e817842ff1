"""The store: backups before migrations, restore, transactions, and the demo household."""

import gzip
import re
import sqlite3
import tempfile
import unittest
from contextlib import ExitStack, closing
from pathlib import Path

from sqlalchemy import create_engine, func, inspect, select, text
from sqlalchemy.exc import IntegrityError

from frost_tally.demo.filling import EVENING, fill
from frost_tally.demo.world import demo_world
from frost_tally.household.facts import level_now, tyres_now
from frost_tally.household.models import Base, CarRow, DriveRow, OutletRow, PersonRow, PlaceRow, PlanRow, ReadingRow, TariffRow
from frost_tally.household.parts import in_order
from frost_tally.household.store import backup, migrate, open_store, restore, versions
from frost_tally.household.unit_of_work import Household, Stale
from frost_tally.household.whole_file import StoreError
from frost_tally.services.shared import clock
from frost_tally.services.shared.home import NotSetUp
from frost_tally.services.tonight import keeping as nights
from frost_tally.services.tonight.room import tonight
from tests.homes import home_at, read, tables


class InFolder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.database, self.backups = self.folder / "home" / "household.db", self.folder / "home" / "backups"

    def household(self, demo: bool = True) -> Household:
        home = home_at(self.database, self.backups, demo)
        self.addCleanup(home.engine.dispose)
        return home


TYPES = {
    "VARCHAR": "TEXT",
    "DATETIME": "TEXT",
    "DATE": "TEXT",
    "TIME": "TEXT",
    "JSON": "TEXT",
    "BOOLEAN": "INTEGER",
    "FLOAT": "REAL",
    "BIGINT": "INTEGER",
    "DOUBLE": "REAL",
}
MAPPED = re.compile(rf"\b({'|'.join(TYPES)})(\(\d+\))?\b(?=[ ,\n)])")


class Store(InFolder):
    def test_migrations_give_the_tables_of_the_models(self) -> None:
        made = inspect(self.household(False).engine)
        self.assertGreater(len(Base.metadata.sorted_tables), 20)
        for table in Base.metadata.sorted_tables:
            self.assertEqual({c["name"] for c in made.get_columns(table.name)}, {c.name for c in table.columns})

    def test_a_store_of_every_version_since_tables_are_strict_is_brought_up_to_date(self) -> None:
        """As it was left by the version of its day: made with that one's steps, and its tables STRICT."""
        self.database.parent.mkdir(parents=True)
        since = sorted(each for each in versions() if each >= "0033")
        self.assertGreater(len(since), 5)
        for version in since:
            with self.subTest(version):
                self.database.unlink(missing_ok=True)
                migrate(self.database, version)
                with closing(sqlite3.connect(self.database)) as connection, connection:
                    connection.execute("PRAGMA writable_schema = ON")
                    made = connection.execute(
                        "SELECT name, sql FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name != 'alembic_version'"
                    ).fetchall()
                    for name, how in made:
                        strict = f"{MAPPED.sub(lambda found: TYPES[found[1]], how).rstrip()}{',' if 'WITHOUT ROWID' in how else ''} STRICT"
                        connection.execute("UPDATE sqlite_master SET sql = ? WHERE type = 'table' AND name = ?", (strict, name))
                    connection.execute("PRAGMA writable_schema = RESET")
                with closing(sqlite3.connect(self.database)) as connection:
                    self.assertGreater(connection.execute("SELECT sum(strict) FROM pragma_table_list").fetchone()[0], 20)
                open_store(self.database, self.backups).dispose()

    def test_a_first_file_keeps_its_place_units_and_bands_through_the_migration(self) -> None:
        self.database.parent.mkdir(parents=True)
        migrate(self.database, "0001")
        engine = create_engine(f"sqlite:///{self.database}")
        with engine.begin() as made:
            made.execute(
                text(
                    "INSERT INTO household VALUES (1, 7, 'Uphill', 'America/Toronto', 200, 'heated', 12, 'CAD', 'mi', 'F', 'psi', 'typed', -2, -9, 1, NULL)"
                )
            )
            made.execute(text("INSERT INTO tariff (id, name, standing_per_day) VALUES (1, 'Two', 0.2)"))
            made.execute(
                text(
                    "INSERT INTO tariff_band (tariff_id, name, price_per_kwh, start, \"end\", days) VALUES (1, 'n', 0.1, '22:00:00', '06:00:00', '0123456')"
                )
            )
            made.execute(text("INSERT INTO outlet VALUES (1, 'Wall', 240, 1, 40, 'north_america', NULL, NULL, NULL)"))
        engine.dispose()
        home = self.household(False)
        with tables(home) as session:
            self.assertEqual(
                (in_order(session, PlaceRow)[0].name, in_order(session, PlaceRow)[0].zone), ("Uphill", "America/Toronto")
            )
            self.assertEqual(
                (in_order(session, PersonRow)[0].distance_unit, in_order(session, PersonRow)[0].currency), ("mi", "CAD")
            )
            self.assertEqual([band.name for band in in_order(session, TariffRow)[0].bands], ["n"])
            self.assertEqual((in_order(session, OutletRow)[0].place.name, read(home).revision), ("Uphill", 7))

    def test_what_was_known_by_its_english_title_gets_a_key(self) -> None:
        self.database.parent.mkdir(parents=True)
        migrate(self.database, "0017")
        with closing(sqlite3.connect(self.database)) as old, old:
            old.execute("PRAGMA foreign_keys = OFF")
            for kind, note in (
                ("season", "wipers up"),
                ("season", "chains in the boot"),
                ("other", "display calibrated"),
                ("other", "wipers up"),
            ):
                old.execute(
                    "INSERT INTO event (car_id, at, kind, note, source, assumed) VALUES (1, '2026-10-01 08:00:00.000000', ?, ?, 'owner', '[]')",
                    (kind, note),
                )
        migrate(self.database)
        with closing(sqlite3.connect(self.database)) as now:
            found = now.execute("SELECT kind, item, note FROM event ORDER BY id").fetchall()
        self.assertEqual(
            found,
            [
                ("season", "wipers_up", "wipers up"), ("season", "", "chains in the boot"), ("calibrated", "", ""), ("other", "", "wipers up"),
            ],
        )  # fmt: skip

    def test_a_store_of_today_without_a_table_or_a_column_is_said_and_unchanged(self) -> None:
        self.household().engine.dispose()
        whole = self.database.read_bytes()
        for change, said in (
            ("DROP TABLE reading", "the table “reading” is not there"),
            ("ALTER TABLE drive RENAME COLUMN note TO remark", "“drive” lacks note"),
        ):
            self.database.write_bytes(whole)
            with closing(sqlite3.connect(self.database)) as connection, connection:
                connection.execute(change)
            with self.assertRaisesRegex(StoreError, f"is not whole: {said}. It is unchanged"):
                open_store(self.database, self.backups)

    def test_the_power_of_a_post_moves_out_of_its_note(self) -> None:
        self.database.parent.mkdir(parents=True)
        migrate(self.database, "0015")
        with closing(sqlite3.connect(self.database)) as old, old:
            old.execute("PRAGMA foreign_keys = OFF")
            for at, note in enumerate(("150 kW", "62.5 kW", "two of 150 kW", "0 kW")):
                old.execute(
                    "INSERT INTO charge (car_id, site, place, begun_at, source, assumed, note) VALUES (1, 'fast', '', ?, 'owner', '[]', ?)",
                    (f"2025-01-0{at + 1} 10:00:00", note),
                )
        migrate(self.database)
        with closing(sqlite3.connect(self.database)) as new:
            found = new.execute("SELECT post_kw, note FROM charge ORDER BY begun_at").fetchall()
        self.assertEqual(found, [(150.0, ""), (62.5, ""), (None, "two of 150 kW"), (None, "0 kW")])

    def test_a_store_of_plans_mixed_with_facts_carries_everything_over(self) -> None:
        """The fixture was made by the code before facts and plans were apart: kept, noted, learnt, looked at, kept for good."""
        self.database.parent.mkdir(parents=True)
        self.database.write_bytes(gzip.decompress((Path(__file__).parent / "data" / "store_0005.db.gz").read_bytes()))
        with closing(sqlite3.connect(self.database)) as old:
            old.row_factory = sqlite3.Row
            before = {
                name: old.execute(f"SELECT * FROM {name}").fetchall()
                for name in ("car", "night", "tyre", "reading", "leaving", "usual_day", "departure", "price")
            }
        home = self.household(False)
        self.assertEqual(len(list(self.backups.glob("*.db"))), 1)
        nights = before["night"]
        noted = [row for row in nights if row["actual_arrival"] is not None and not row["withdrawn"]]
        self.assertGreater(len(noted), 100)
        with tables(home) as session:
            count = {table.name: session.scalar(select(func.count()).select_from(table)) for table in Base.metadata.sorted_tables}
            self.assertEqual((count["night_plan"], count["drive"]), (len(nights), len(noted)))
            self.assertEqual((count["meter"], count["habit"], count["learnt"]), (len(before["reading"]), 2, 1))
            self.assertEqual([count[name] for name in ("leaving", "usual_day", "departure", "price")],
                             [len(before[name]) for name in ("leaving", "usual_day", "departure", "price")])  # fmt: skip
            drives = session.scalars(select(DriveRow).order_by(DriveRow.plan_id)).all()
            self.assertEqual([(d.plan_id, d.km, d.soc_start, d.soc_end) for d in drives],
                             [(n["id"], n["km"], n["actual_departure"], n["actual_arrival"]) for n in sorted(noted, key=lambda n: n["id"])])  # fmt: skip
            wheels = session.scalars(select(ReadingRow).where(ReadingRow.part != "")).all()
            self.assertEqual(sorted((r.car_id, r.part, r.value, r.temp_c) for r in wheels),
                             sorted((t["car_id"], t["wheel"], t["kpa"], t["tyre_c"]) for t in before["tyre"]))  # fmt: skip
            for car, row in zip(before["car"], read(home).home.cars, strict=True):
                tyres = tyres_now(session, row)
                now = (
                    level_now(session, row.id),
                    tyres.kpa,
                    tyres.read_c,
                    row.habit.limit,
                    row.habit.cabin_c,
                    row.habit.motorway_kmh,
                )
                self.assertEqual(
                    now,
                    tuple(car[name] for name in ("soc_now", "tyre_kpa", "tyre_read_c", "habit_limit", "cabin_c", "motorway_kmh")),
                )
                self.assertEqual(row.learnt.heat if row.learnt else 1.0, car["learnt_heat"])
        kept = tonight(read(Household(home.engine, demo_world(home.engine))))
        self.assertEqual((kept.inputs.limit, kept.inputs.km), (0.9, 140.0))

    def test_wal_and_foreign_keys_are_on(self) -> None:
        with self.household().engine.connect() as connection:
            self.assertEqual(connection.execute(text("PRAGMA journal_mode")).scalar(), "wal")
            self.assertEqual(connection.execute(text("PRAGMA foreign_keys")).scalar(), 1)

    def test_a_copy_restores_to_the_same_rows_and_keeps_what_was_there(self) -> None:
        home = self.household()
        copy = backup(self.database, self.backups)
        with home.recording() as session:
            session.query(DriveRow).delete()
            session.query(PlanRow).delete()
        home.engine.dispose()
        kept = restore(copy, self.database, self.backups)
        self.assertTrue(kept is not None and kept.exists())
        with tables(self.household(False)) as session:
            self.assertGreater(session.query(PlanRow).count(), 10)

    def test_what_is_not_a_copy_changes_nothing(self) -> None:
        self.household().engine.dispose()
        before = self.database.read_bytes()
        wrong, other = self.folder / "notes.txt", self.folder / "other.db"
        wrong.write_text("not a database at all, but long enough to be looked at" * 40)
        with closing(sqlite3.connect(other)) as connection:
            connection.execute("CREATE TABLE household (id)")
        for path in (wrong, other, self.folder / "missing.db"):
            with self.assertRaises(StoreError):
                restore(path, self.database, self.backups)
        self.assertEqual(self.database.read_bytes(), before)
        with self.assertRaises(StoreError):
            backup(self.folder / "none.db", self.backups)


class Together(InFolder):
    def test_however_many_read_somebody_can_write(self) -> None:
        """A limit of connections made forty clients wait for each other, each holding the one that another needed."""
        home = self.household()
        with ExitStack() as readers:
            for _ in range(40):
                readers.enter_context(home.reading())
            with home.deciding("beside them") as session:
                session.get_one(CarRow, 1).name = "Marten the second"
            self.assertIsNotNone(home.version())


class Changes(InFolder):
    def test_a_failed_change_leaves_nothing_behind(self) -> None:
        home = self.household()
        before = read(home).revision
        with self.assertRaises(IntegrityError), home.deciding("x") as session:
            in_order(session, CarRow)[0].name = "changed"
            session.add(DriveRow(car_id=99, left_at=EVENING, noted_at=EVENING, km=1, soc_start=0, soc_end=0))
        with tables(home) as session:
            self.assertEqual((in_order(session, CarRow)[0].name, read(home).revision), ("Marten", before))

    def test_an_older_page_cannot_change_anything(self) -> None:
        home = self.household()
        seen = read(home).revision
        with home.deciding("x", seen):
            pass
        with self.assertRaises(Stale), home.deciding("x", seen):
            self.fail("the stale change began")

    def test_an_empty_household_is_not_set_up(self) -> None:
        home = self.household(False)
        with self.assertRaises(NotSetUp):
            tonight(read(home))

    def test_the_demo_is_the_same_each_time_and_frosty(self) -> None:
        home = self.household()
        first, second = (tonight(read(home)) for _ in range(2))
        self.assertEqual(first.plan.blocks, second.plan.blocks)
        self.assertLess(first.inputs.out_low_c, -8)
        fill(home)
        with tables(home) as session:
            self.assertEqual([row.name for row in in_order(session, CarRow)], ["Marten", "Dray"])

    def test_keep_note_and_undo(self) -> None:
        home = self.household()
        night = tonight(read(home))
        keeping = nights.keep(home, night, night.revision, night.plan.request.departure)
        kept = tonight(read(home)).kept
        assert kept is not None
        noting = nights.note(home, kept.id, 0.8, 0.3, clock.move_on(home))
        with tables(home) as session:
            drive = session.scalars(select(DriveRow).where(DriveRow.plan_id == kept.id)).one()
            self.assertEqual((drive.soc_start, drive.soc_end, drive.km, level_now(session, 1)), (0.8, 0.3, kept.km, 0.3))
            self.assertIn("km", drive.assumed)
            blocks = session.get_one(PlanRow, kept.id).blocks
            self.assertAlmostEqual(
                sum(b.kw * (b.end - b.begin).total_seconds() / 3600 for b in blocks), kept.wall_kwh, delta=1e-6
            )
            self.assertEqual([b.kind for b in blocks], ["charge", "warm_up"])
        home.undo(noting)
        home.undo(keeping)
        with tables(home) as session:
            self.assertEqual(session.scalars(select(DriveRow).where(DriveRow.plan_id == kept.id)).all(), [])
            self.assertEqual((session.get_one(PlanRow, kept.id).withdrawn, level_now(session, 1)), (True, 0.41))
