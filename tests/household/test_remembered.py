"""What is kept between pages, and when it is not."""

import tempfile
import threading
import time
import unittest
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from frost_tally.core.errors import Refusal
from frost_tally.household.models import CarRow, PresentRow
from frost_tally.household.parts import in_order
from frost_tally.household.store import open_store
from frost_tally.household.unit_of_work import Household
from frost_tally.services.log_data.size import bytes_of
from frost_tally.services.shared.derived import NotYet, _Memory, derived, derived_later
from frost_tally.settings import Settings
from tests.homes import home_in, read, tables


class Remembered(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.settings = Settings(data_dir=Path(folder.name), demo=True)
        self.household = home_in(self.settings)
        self.addCleanup(self.household.engine.dispose)
        self.worked: list[str] = []

    def work(self) -> int:
        self.worked.append(threading.current_thread().name)
        time.sleep(0.05)
        return len(self.worked)

    def year(self, wait_s: float) -> int:
        return derived_later(read(self.household), "year", lambda log: self.work(), wait_s, ("drive",))

    def test_what_several_ask_at_once_is_worked_out_once_and_kept_until_something_is_written(self) -> None:
        threads = [threading.Thread(target=lambda: derived(read(self.household), "it", self.work)) for _ in range(8)]
        for each in threads:
            each.start()
        for each in threads:
            each.join()
        self.assertEqual((len(self.worked), derived(read(self.household), "it", self.work)), (1, 1))
        with self.household.recording() as session:
            session.get_one(PresentRow, 1).out_now_c = -3.0
        self.assertEqual(derived(read(self.household), "it", self.work), 2)

    def test_what_is_kept_is_bounded_in_bytes_and_the_oldest_goes_first(self) -> None:
        memory = _Memory(10_000_000)
        for i in range(40):
            memory.future(i, lambda future: future.set_result(np.zeros(125_000)))  # a megabyte each
        self.assertTrue(9_000_000 < memory.bytes <= 10_000_000, memory.bytes)
        for i in range(100):  # rows of any length are one kind: what is known of sizes is bounded too
            memory._size(tuple(float(each) for each in range(i)))
        self.assertLess(len(memory._sizes), 8)
        found = [memory.future(i, lambda future: future.set_result(np.ones(9))).result().sum() for i in (39, 0)]
        self.assertEqual(found, [0, 9])

    def test_about_the_room_that_a_result_takes(self) -> None:
        for result, least in (
            ([float(i) for i in range(10_000)], 320_000),
            (np.zeros((100, 100))[:50], 40_000),
            ("x" * 5_000, 5_000),
        ):
            self.assertTrue(least <= bytes_of(result) <= 1.5 * least + 45_000, bytes_of(result))

    def test_an_hour_that_comes_twice_is_two_hours(self) -> None:
        at = datetime(2027, 10, 31, 2, 30, tzinfo=ZoneInfo("Europe/Oslo"))
        found = [derived(read(self.household), ("room", each, None), self.work) for each in (at, at.replace(fold=1), at)]
        self.assertEqual(found, [1, 2, 1])

    def test_another_process_that_writes_is_noticed(self) -> None:
        """A second engine on the same file stands for it."""
        with tables(self.household) as session:
            self.assertEqual(in_order(session, CarRow)[0].name, "Marten")
        derived(read(self.household), "it", self.work)
        other = Household(open_store(self.settings.database, self.settings.backups), self.household.world)
        with other.deciding("Renamed") as session:
            in_order(session, CarRow)[0].name = "Stoat"
        other.engine.dispose()
        self.assertEqual(derived(read(self.household), "it", self.work), 2)
        with tables(self.household) as session:
            self.assertEqual(in_order(session, CarRow)[0].name, "Stoat")

    def test_a_refusal_is_said_to_all_and_not_kept(self) -> None:
        def refuse() -> int:
            self.work()
            raise Refusal("No.", "km")

        for _ in range(2):
            with self.assertRaisesRegex(Refusal, "^No\\.$"):
                derived(read(self.household), "that", refuse)
        self.assertEqual(len(self.worked), 2)

    def test_a_year_is_worked_out_beside_the_pages(self) -> None:
        with self.assertRaises(NotYet):
            self.year(0.0)
        self.assertEqual(self.year(5.0), 1)
        self.assertEqual(len(self.worked), 1)
        self.assertTrue(self.worked[0].startswith("yearly results"))
