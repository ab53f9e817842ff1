"""Tests by class: what they are called, and running one."""

import ast
import gc
import importlib
import io
import os
import pkgutil
import time
import unittest
import warnings
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import cast

from coverage import Coverage

import frost_tally

HERE = Path(__file__).parent
UNMEASURED = (
    "reference", "browser", "core.test_control", "core.test_long_day", "household.test_faults", "household.test_log_store",
    "household.test_store", "household.test_undo", "web.test_edge", "web.test_faults", "web.test_levers", "web.test_rooms_agree",
)  # fmt: skip
"""What reaches hardly more than the others reach, again and again."""
PARTS = ("browser", "reference", "web", "live", "household", "core", "formats")


@dataclass
class Ran:
    """What came of some tests."""

    count: int = 0
    failed: int = 0
    skipped: int = 0
    text: str = ""
    spent: list[tuple[float, str]] = field(default_factory=list)

    def __iadd__(self, other: "Ran") -> "Ran":
        self.count, self.failed, self.skipped = self.count + other.count, self.failed + other.failed, self.skipped + other.skipped
        self.spent += other.spent
        return self


class _Timed(unittest.TextTestResult):
    spent: list[tuple[float, str]]

    def startTest(self, test: unittest.TestCase) -> None:
        self._begun = time.perf_counter()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:
        super().stopTest(test)
        self.spent.append((time.perf_counter() - self._begun, test.id()))


@cache
def _measuring(rooms: bool) -> Coverage:
    """What measures this process; it has seen every module begin. Of tests of the rooms the core is left out: it has its own."""
    measuring = Coverage(data_suffix=f"{os.getpid()}-{rooms}")
    if rooms:
        measuring.set_option("run:omit", [*cast(list[str], measuring.get_option("run:omit")), "*/core/*"])
    measuring.start()
    for each in pkgutil.walk_packages(frost_tally.__path__, "frost_tally."):
        if "migrations" not in each.name and "__main__" not in each.name:
            importlib.import_module(each.name)
    measuring.stop()
    gc.collect()
    gc.freeze()  # what every test needs stays: the collector need not look at it again and again
    gc.set_threshold(20_000)
    return measuring


def run(name: str) -> Ran:
    """Run a class of tests, or whatever else a name stands for; what it reaches is measured where somebody wants to know."""
    if "COVERAGE_FILE" not in os.environ:
        return _run(name)
    _measuring(rooms=False)
    measuring = _measuring(rooms=name.startswith(("tests.web", "tests.household")))
    if name.removeprefix("tests.").startswith(UNMEASURED):
        return _run(name)
    measuring.start()
    try:
        return _run(name)
    finally:
        measuring.stop()
        measuring.save()


def _run(name: str) -> Ran:
    warnings.simplefilter("ignore", ResourceWarning)
    out, spent = io.StringIO(), list[tuple[float, str]]()
    kind = type("Timed", (_Timed,), {"spent": spent})
    suite = unittest.TestSuite() if _no_tests(name) else unittest.defaultTestLoader.loadTestsFromName(name)
    done = unittest.TextTestRunner(out, verbosity=0, resultclass=kind).run(suite)
    failed = len(done.failures) + len(done.errors) + len(done.unexpectedSuccesses)
    return Ran(done.testsRun, failed, len(done.skipped), out.getvalue() if failed else "", spent)


def _no_tests(name: str) -> bool:
    """Whether it is a class, and not one of tests."""
    module, _, last = name.rpartition(".")
    kind = getattr(importlib.import_module(module), last, None) if last[:1].isupper() else None
    return isinstance(kind, type) and not issubclass(kind, unittest.TestCase)


def names(wanted: list[str]) -> Iterator[str]:
    """Classes of the wanted parts, those of the browser first; names as they are. Nothing is loaded for that."""
    for each in wanted:
        if each not in PARTS:
            yield each
            continue
        for path in sorted((HERE / each).glob("test_*.py"), key=lambda path: -path.stat().st_size):
            for part in ast.parse(path.read_text()).body:
                if isinstance(part, ast.ClassDef) and part.bases:
                    yield f"tests.{each}.{path.stem}.{part.name}"
