"""The store under faults: what is damaged, foreign, newer, half made or in use is said in a sentence, and nothing is lost."""

import os
import socket
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

from frost_tally import cli, cli_tonight
from frost_tally.household import store, whole_file
from frost_tally.household.store import backup, claim, migrate, open_store, restore
from frost_tally.household.whole_file import StoreError
from tests.guide import in_bold, of_the_code, says, without_a_word

from .test_store import InFolder


def zeros(first: int, last: int) -> Callable[[bytes], bytes]:
    return lambda whole: whole[:first] + bytes(last - first) + whole[last:]


DAMAGES: dict[str, Callable[[bytes], bytes]] = {
    "a note": lambda whole: b"milk, eggs\n" * 200,
    "no header": zeros(0, 100),
    "half of it": lambda whole: whole[: len(whole) // 2],
    "pages gone": zeros(3 * 4096, 30 * 4096),
}
BEHIND = "PRAGMA ignore_check_constraints = ON; UPDATE habit SET people = 99.0"
OTHERS = {
    "newer": ("UPDATE alembic_version SET version_num = '9999'", "newer Frost Tally"),
    "no version": ("DELETE FROM alembic_version", "not Frost Tally’s"),
    "foreign": ("DROP TABLE alembic_version", "not Frost Tally’s"),
}


def command(*words: str, **settings: str) -> tuple[object, str]:
    """The exit code of a command that cannot start, and all that it said."""
    told, given = StringIO(), {f"FROST_TALLY_{name.upper()}": value for name, value in settings.items()}
    with tempfile.TemporaryDirectory() as folder:
        given = {"FROST_TALLY_DATA_DIR": folder, **given}
        asked = mock.patch.dict(os.environ, given), mock.patch.object(sys, "argv", ["frost-tally", *words])
        with asked[0], asked[1], redirect_stderr(told), redirect_stdout(told):
            try:
                cli.main()
            except SystemExit as left:
                return left.code, told.getvalue()
    raise AssertionError("it started")


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
            code, said = command("tonight", data_dir=str(self.database.parent))  # which looks at what it reads alone
            self.assertEqual((code, "not foreseen" in said, "damaged" in said), (2, False, True), said)
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

    def test_every_sentence_of_the_guide_is_said_and_every_one_that_is_said_stands_there(self) -> None:
        full = sqlite3.OperationalError("database or disk is full")
        odd = self.folder / "odd"
        odd.mkdir()

        def start(content: bytes = b"", statement: str = "", at: Path | None = None) -> None:
            file = self.put(content or self.whole, at or self.database)
            if statement:
                with closing(sqlite3.connect(file)) as other:
                    other.executescript(statement)
            open_store(file, self.backups).dispose()

        def old(problem: Exception) -> None:
            self.database.unlink()
            migrate(self.database, "0001")
            with mock.patch.object(store, "check_store", side_effect=problem):
                open_store(self.database, self.backups)

        def held(file: Path, how: str, act: Callable[[], object]) -> None:
            with closing(sqlite3.connect(file)) as holder, mock.patch.object(whole_file, "PATIENCE_S", 0.1):
                holder.execute(how)
                holder.execute("SELECT count(*) FROM car").fetchone()
                act()

        def back(copy: Path) -> object:
            return restore(copy, self.database, self.backups)

        def while_full(act: Callable[[], object]) -> None:
            with mock.patch.object(whole_file, "sync", side_effect=OSError(28, "No space left on device")):
                act()

        def not_ours() -> None:
            with mock.patch("os.access", return_value=False):
                start()

        def orphans() -> None:
            with closing(sqlite3.connect(other := self.put(self.whole, self.folder / "orphans.db"))) as made:
                made.executescript("PRAGMA foreign_keys = OFF; UPDATE drive SET car_id = 99")
            back(other)

        def between() -> None:
            """Locked after it was looked at."""
            with mock.patch.object(store, "version_of", return_value=store.head()):
                held(self.copy, "BEGIN EXCLUSIVE", lambda: back(self.copy))

        def unmade() -> None:
            with mock.patch.object(store, "migrate", side_effect=full):
                open_store(odd / "new.db", self.backups)

        def read_elsewhere() -> None:
            with closing(sqlite3.connect(self.database)) as other:
                other.execute("PRAGMA journal_mode = WAL")
            held(self.database, "BEGIN", lambda: whole_file.put(self.put(self.whole, odd / "beside.db"), self.database))

        def locked() -> None:
            with FileLock(f"{self.database}.lock"):
                claim(self.database)

        def busy() -> None:
            with socket.socket() as taken:
                taken.bind(("127.0.0.1", 0))
                taken.listen()
                said("serve", port=str(taken.getsockname()[1]))

        def said(*words: str, **settings: str) -> None:
            code, told = command(*words, **settings)
            self.assertEqual((code, "is at" in told), (2, False))
            raise StoreError(told)

        def unforeseen() -> None:
            with mock.patch.object(cli_tonight, "open_home", side_effect=RuntimeError("odd")):
                said("tonight")

        provoked: dict[str, Callable[[], object]] = {
            "… cannot be used as a folder": lambda: open_store(self.put(b"x", self.folder / "note") / "home.db", self.backups),
            "… cannot be written to": not_ours,
            "… is not a file": lambda: open_store(odd, self.backups),
            "… cannot be opened": lambda: held(self.database, "BEGIN EXCLUSIVE", lambda: open_store(self.database, self.backups)),
            "… is damaged (…). It is unchanged. The newest whole copy is …": lambda: start(statement=BEHIND),
            "… is damaged, or no data of Frost Tally": lambda: start(b"milk, eggs\n" * 200),
            "… is a database, but not Frost Tally’s": lambda: start(statement="DROP TABLE alembic_version"),
            "… was written by a newer Frost Tally": lambda: start(statement=OTHERS["newer"][0]),
            "… is not whole: …. It is unchanged": lambda: start(statement="ALTER TABLE event RENAME COLUMN note TO words"),
            "… lacks …": lambda: start(statement="ALTER TABLE event RENAME COLUMN note TO words"),
            "the table … is not there": lambda: start(statement="DROP TABLE usual_day"),
            "… could not be brought up to date. It is unchanged": lambda: old(full),
            "it is damaged": orphans,
            "… could not be made": unmade,
            "… could not be replaced. It is unchanged": read_elsewhere,
            "There is no data to copy yet at …": lambda: backup(odd / "none.db", self.backups),
            "… could not be copied": lambda: while_full(lambda: backup(self.database, self.backups)),
            "there is no room left on the disk": lambda: while_full(lambda: backup(self.database, self.backups)),
            "… is the data itself. Copies are in …": lambda: back(self.database),
            "… is empty": lambda: back(self.put(b"", self.folder / "empty.db")),
            "… could not be read. Nothing was changed": between,
            "somebody else keeps it locked": between,
            "Frost Tally is running on … already": locked,
            "Port … cannot be used": busy,
            "name a folder, or leave the setting out": lambda: said("serve", data_dir=" "),
            "Others could reach it on …, and nobody can sign in yet: `frost-tally person add NAME` lets somebody in": lambda: (
                said("serve", host="0.0.0.0")
            ),
            "it is an address, such as 127.0.0.1 or 0.0.0.0": lambda: said("serve", host="home"),
            "a certificate and its key go together: set TLS_CERTIFICATE and TLS_KEY": lambda: said("serve", tls_key="x.key"),
            "letters leave this machine by TLS alone: set SMTP_SECURITY to starttls or tls": lambda: said(
                "serve", smtp_host="mail.example.org", smtp_security="none"
            ),
            "… is not there: `frost-tally certificate` makes a certificate and its key": lambda: said(
                "serve", tls_key="x.key", tls_certificate="x.pem", port="8697"
            ),
            "for a pattern lets every other site in": lambda: said("serve", allowed_hosts='["*"]'),
            "That was not foreseen": unforeseen,
        }
        listed = in_bold("Starting")
        self.assertEqual(sorted(provoked), sorted(set(listed)))
        for i, (sentence, act) in enumerate(provoked.items()):
            self.database = self.folder / str(i) / "household.db"
            self.database.parent.mkdir()
            self.put(self.whole)
            with self.subTest(sentence):
                with self.assertRaises(StoreError) as failed:
                    act()
                self.assertTrue(says(str(failed.exception), sentence), str(failed.exception))
        code = [
            *(each for file in ("household/store.py", "household/whole_file.py") for each in of_the_code(file, "StoreError", "plainly")),
            *of_the_code("serve.py", "CannotStart"), *of_the_code("settings.py", "ValueError"),
        ]  # fmt: skip
        self.assertGreater(len(code), 20)
        self.assertEqual(without_a_word(code, listed), [])


class CommandLine(unittest.TestCase):
    """What a command says when it cannot start, in a sentence."""

    def test_settings_that_cannot_be_are_said_with_their_names(self) -> None:
        for name, value in (
            ("port", "0"), ("port", "99999"), ("data_dir", ""), ("data_dir", " "), ("host", ""), ("host", "tally.home.arpa"), ("tls_key", "x.key"), ("trusted_proxies", '["home"]'),
            ("allowed_hosts", '["*"]'), ("allowed_hosts", "[]"), ("allowed_hosts", "x"), ("log_level", "LOUD"), ("threads", "0"),
        ):  # fmt: skip
            code, said = command("serve", **{name: value})
            with self.subTest(name, value=value):
                self.assertEqual(code, 2)
                self.assertIn(name, said.lower())
                self.assertNotIn("Traceback", said)

    def test_what_was_not_foreseen_is_a_sentence_and_its_trace_is_there_when_asked_for(self) -> None:
        with mock.patch.object(cli_tonight, "open_home", side_effect=RuntimeError("odd")):
            code, said = command("tonight")
            self.assertEqual((code, "Traceback" in said), (2, False))
            self.assertIn("not foreseen: RuntimeError: odd", said)
            with self.assertRaises(RuntimeError):
                command("tonight", debug="1")
