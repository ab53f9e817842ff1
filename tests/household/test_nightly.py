"""Copies of every night: which stay, and that one of them brings the home back; and what `doctor` says."""

import socket
import sqlite3
import sys
from contextlib import closing, redirect_stdout
from datetime import UTC, date, datetime, timedelta
from io import StringIO
from os import environ
from unittest import mock

from frost_tally import cli
from frost_tally.household.nightly import copy_of_the_night, nightly_copies, staying
from frost_tally.household.store import backup, restore
from tests.household.test_log_store import dump
from tests.household.test_store import InFolder


class Nightly(InFolder):
    def setUp(self) -> None:
        super().setUp()
        self.database, self.backups = self.folder / "demo.db", self.folder / "backups"
        self.kept = self.household()

    def rows(self) -> set[str]:
        return {each for each in dump(self.kept).splitlines() if each.startswith("INSERT") and '"state"' not in each}

    def test_seven_nights_four_weeks_and_twelve_months_stay(self) -> None:
        """Common practice: lived through three years night by night, as copies go when they are made."""
        there, begun = set[date](), date(2024, 1, 1)
        for i in range(1100):
            there = staying({*there, begun + timedelta(days=i)})
        last = begun + timedelta(days=1099)
        self.assertTrue({last - timedelta(days=i) for i in range(7)} <= there)
        self.assertEqual(len({each.isocalendar()[:2] for each in there if last - each < timedelta(days=28)}), 4)
        months = sorted({(each.year, each.month) for each in there})
        self.assertEqual(len(months), 12)
        self.assertLessEqual(len(there), 7 + 4 + 12)
        self.assertEqual(staying(there), there)

    def test_one_a_day_others_copies_left_alone_and_a_night_brings_the_home_back(self) -> None:
        own, before = backup(self.database, self.backups), self.rows()
        now = datetime.now(UTC).date()
        made = copy_of_the_night(self.database, self.backups, now)
        assert made is not None
        self.assertIsNone(copy_of_the_night(self.database, self.backups, now))
        for i in range(400):  # as if it had run for over a year
            night = now - timedelta(days=i + 1)
            (self.backups / f"demo-{night:%Y%m%d}T030000000000-nightly.db").touch()
        made.unlink()
        made = copy_of_the_night(self.database, self.backups, now)
        assert made is not None
        self.assertTrue(own.exists())
        self.assertLessEqual(len(nightly_copies(self.database, self.backups)), 23)
        self.kept.engine.dispose()
        with closing(sqlite3.connect(self.database)) as connection, connection:
            connection.execute("UPDATE car SET name = 'Lost'")
        restore(made, self.database, self.backups)
        self.kept = self.household()
        self.assertEqual(self.rows(), before)

    def test_doctor_says_what_is_wrong_and_what_to_do(self) -> None:
        code, said = self.doctor()
        self.assertEqual(code, 0, said)
        self.assertIn("is whole", said)
        code, said = self.doctor(FROST_TALLY_HOST="0.0.0.0", FROST_TALLY_PORT="8698")
        self.assertEqual(code, 1)
        for words in ("frost-tally person add", "frost-tally certificate", "FROST_TALLY_ALLOWED_HOSTS"):
            self.assertIn(words, said)
        self.kept.engine.dispose()
        with self.database.open("r+b") as file:
            file.seek(4096)
            file.write(b"\xff" * 20_000)
        code, said = self.doctor()
        self.assertEqual((code, "WRONG data" in said), (1, True), said)

    def test_doctor_asks_whether_the_mail_server_answers(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as free:
            port = free.getsockname()[1]
            here = {"FROST_TALLY_SMTP_HOST": "127.0.0.1", "FROST_TALLY_SMTP_PORT": str(port), "FROST_TALLY_SMTP_SECURITY": "none"}
            self.assertIn("well  mail: Letters go by", self.doctor(**here)[1])
        code, said = self.doctor(**here)
        self.assertEqual(code, 1)
        self.assertIn("WRONG mail", said)

    def doctor(self, **more: str) -> tuple[int, str]:
        said = StringIO()
        home = {"FROST_TALLY_DATA_DIR": str(self.folder), "FROST_TALLY_PORT": "8699", **more}
        with (
            mock.patch.dict(environ, home),
            mock.patch.object(sys, "argv", ["frost-tally", "doctor", "--demo"]),
            redirect_stdout(said),
            self.assertRaises(SystemExit) as done,
        ):
            cli.main()
        return int(done.exception.code or 0), said.getvalue()
