"""The store under faults: what is damaged, foreign, newer, half made or in use is said in a sentence, and nothing is lost."""

import os
import sqlite3
import sys
import tempfile
import unittest
from collections.abc import Callable
from contextlib import closing, redirect_stderr, redirect_stdout
from io import StringIO
from pathlib import Path
from unittest import mock

from filelock import FileLock

from frost_tally import cli
from frost_tally.household import store, whole_file
from frost_tally.household.store import backup, claim, migrate, open_store, restore
from frost_tally.household.whole_file import StoreError

from .test_store import InFolder


def zeros(first: int, last: int) -> Callable[[bytes], bytes]:
    return lambda whole: whole[:first] + bytes(last - first) + whole[last:]


DAMAGES: dict[str, Callable[[bytes], bytes]] = {
    "a note": lambda whole: b"milk, eggs\n" * 200,
    "no header": zeros(0, 100),
    "half of it": lambda whole: whole[: len(whole) // 2],
    "pages gone": zeros(3 * 4096, 30 * 4096),
}
OTHERS = {
    "newer": ("UPDATE alembic_version SET version_num = '9999'", "newer Frost Tally"),
    "no version": ("DELETE FROM alembic_version", "not Frost Tally’s"),
    "foreign": ("DROP TABLE alembic_version", "not Frost Tally’s"),
}


class Faults(InFolder):
    """A household on disk, closed, with a sound copy beside it."""

    def setUp(self) -> None:
        super().setUp()
        self.household().engine.dispose()
        self.copy = backup(self.database, self.backups)
        self.whole = self.copy.read_bytes()

    def put(self, content: bytes, at: Path | None = None) -> Path:
        at = at or self.database
        for end in ("-wal", "-shm"):
            at.with_name(at.name + end).unlink(missing_ok=True)
        at.write_bytes(content)
        return at

    def drives(self) -> int:
        engine = open_store(self.database, self.backups)
        try:
            with engine.connect() as connection:
                return int(connection.exec_driver_sql("SELECT count(*) FROM drive").scalar_one())
        finally:
            engine.dispose()

    def test_what_cannot_be_opened_is_said_left_alone_and_the_newest_whole_copy_is_named(self) -> None:
        for name, harm in DAMAGES.items():
            damaged = harm(self.whole)
            self.put(damaged)
            with self.subTest(name), self.assertRaisesRegex(StoreError, f"newest whole copy is {self.copy}"):
                open_store(self.database, self.backups)
            self.assertEqual(self.database.read_bytes(), damaged)
            restore(self.copy, self.database, self.backups)
            self.assertGreater(self.drives(), 10)
        for name, (statement, words) in OTHERS.items():
            with closing(sqlite3.connect(self.put(self.whole))) as other:
                other.execute(statement)
                other.commit()
            with self.subTest(name), self.assertRaisesRegex(StoreError, words):
                open_store(self.database, self.backups)

    def test_a_file_as_folder_and_a_folder_as_file_are_said(self) -> None:
        note = self.put(b"x", self.folder / "note")
        with self.assertRaisesRegex(StoreError, "cannot be used as a folder"):
            open_store(note / "home.db", self.backups)
        (self.folder / "odd.db").mkdir()
        with self.assertRaisesRegex(StoreError, "not a file"):
            open_store(self.folder / "odd.db", self.backups)

    def test_a_migration_that_fails_or_is_killed_changes_nothing_and_leaves_no_copies(self) -> None:
        self.database.unlink()
        migrate(self.database, "0001")
        old, copies = self.database.read_bytes(), sorted(self.backups.iterdir())
        with (
            mock.patch.object(store, "check_store", side_effect=StoreError("it is damaged")),
            self.assertRaisesRegex(StoreError, "unchanged"),
        ):
            open_store(self.database, self.backups)
        self.assertEqual((self.database.read_bytes(), sorted(self.backups.iterdir())), (old, copies))
        self.database.with_name(f"{self.database.name}.new").write_bytes(self.whole[:5000])  # as a killed one leaves it
        open_store(self.database, self.backups).dispose()
        self.assertEqual(len(list(self.backups.iterdir())), len(copies) + 1)
        self.assertFalse(self.database.with_name(f"{self.database.name}.new").exists())

    def test_a_copy_that_was_cut_short_never_has_a_copys_name(self) -> None:
        full = mock.patch.object(whole_file, "sync", side_effect=OSError(28, "No space left on device"))
        with full, self.assertRaisesRegex(StoreError, "no room left on the disk"):
            backup(self.database, self.backups)
        self.assertEqual(list(self.backups.iterdir()), [self.copy])

    def test_only_whole_copies_of_this_or_an_older_version_are_restored(self) -> None:
        three, newer = self.folder / "three.db", self.put(self.whole, self.folder / "newer.db")
        with closing(sqlite3.connect(three)) as made:
            for table in ("household", "car", "alembic_version"):
                made.execute(f"CREATE TABLE {table} (x)")
            made.commit()
        with closing(sqlite3.connect(newer)) as made:
            made.execute(OTHERS["newer"][0])
            made.commit()
        half = self.put(self.whole[: len(self.whole) // 2], self.folder / "half.db")
        empty = self.put(b"", self.folder / "empty.db")
        for path in (three, newer, half, empty, self.folder, self.folder / "none.db", self.database):
            with self.subTest(path.name), self.assertRaises(StoreError):
                restore(path, self.database, self.backups)
        odd, heard = self.put(self.whole, self.folder / "50 % of it? #1.db"), list[int]()
        kept = restore(odd, self.database, self.backups, lambda rows: heard.append(rows["drive"]))
        self.assertTrue(kept is not None and kept.exists())
        self.assertEqual(heard, [self.drives()])

    def test_an_older_copy_is_brought_up_to_date_on_its_way_in(self) -> None:
        old = self.folder / "old.db"
        migrate(old, "0004")
        restore(old, self.database, self.backups)
        self.assertEqual(self.drives(), 0)

    def test_a_copy_that_stays_locked_is_not_waited_for_for_ever(self) -> None:
        with closing(sqlite3.connect(self.copy)) as holder, mock.patch.object(whole_file, "PATIENCE_S", 0.2):
            holder.execute("BEGIN EXCLUSIVE")
            with self.assertRaisesRegex(StoreError, "locked"):
                restore(self.copy, self.database, self.backups)

    def test_one_server_at_a_time_and_no_restore_under_it(self) -> None:
        with FileLock(f"{self.database}.lock"):
            for act in (lambda: claim(self.database), lambda: restore(self.copy, self.database, self.backups)):
                with self.assertRaisesRegex(StoreError, "running"):
                    act()
        claim(self.database).release()

    def test_only_the_owner_reads_folder_and_files(self) -> None:
        engine = open_store(self.database, self.backups)
        engine.connect().close()
        for path in (self.database, self.copy, *self.database.parent.glob("*-wal")):
            self.assertEqual(path.stat().st_mode & 0o777, 0o600, path)
        for path in (self.database.parent, self.backups):
            self.assertEqual(path.stat().st_mode & 0o777, 0o700, path)
        engine.dispose()


class CommandLine(unittest.TestCase):
    """What a command says when it cannot start, in a sentence."""

    def said(self, *words: str, **settings: str) -> tuple[object, str]:
        """The exit code, and all that was said."""
        told, given = StringIO(), {f"FROST_TALLY_{name.upper()}": value for name, value in settings.items()}
        with tempfile.TemporaryDirectory() as folder:
            given = {"FROST_TALLY_DATA_DIR": folder, **given}
            asked = mock.patch.dict(os.environ, given), mock.patch.object(sys, "argv", ["frost-tally", *words])
            with asked[0], asked[1], redirect_stderr(told), redirect_stdout(told), self.assertRaises(SystemExit) as left:
                cli.main()
        return left.exception.code, told.getvalue()

    def test_settings_that_cannot_be_are_said_with_their_names(self) -> None:
        for name, value in (
            ("port", "0"), ("port", "99999"), ("data_dir", ""), ("data_dir", " "), ("host", ""), ("host", "0.0.0.0"), ("host", "192.168.1.7"), ("host", "::"),
            ("allowed_hosts", '["*"]'), ("allowed_hosts", "[]"), ("allowed_hosts", "x"), ("log_level", "LOUD"), ("threads", "0"),
        ):  # fmt: skip
            code, said = self.said("serve", **{name: value})
            with self.subTest(name, value=value):
                self.assertEqual(code, 2)
                self.assertIn(name, said.lower())
                self.assertNotIn("Traceback", said)

    def test_a_port_in_use_is_said_before_any_address(self) -> None:
        import socket

        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            code, said = self.said("serve", port=str(taken.getsockname()[1]))
        self.assertEqual((code, "is at" in said), (2, False))
        self.assertIn("choose another", said)

    def test_what_was_not_foreseen_is_a_sentence_and_its_trace_is_there_when_asked_for(self) -> None:
        with mock.patch.object(cli, "open_home", side_effect=RuntimeError("odd")):
            code, said = self.said("tonight")
            self.assertEqual((code, "Traceback" in said), (2, False))
            self.assertIn("not foreseen: RuntimeError: odd", said)
            with self.assertRaises(RuntimeError):
                self.said("tonight", debug="1")
