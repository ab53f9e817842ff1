"""Run every test: `python -m tests`; some: `python -m tests core web`, `python -m tests tests.web.test_day.KeptDays`; every test, and how
many of our lines they reach: `python -m tests --measured`, which takes half as long again.

Classes of tests are shared out to two processes: a third gains nothing, for the browser takes what they leave. At the end stand the slowest ten and one line of counts.
"""

import io
import os
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor, as_completed
from multiprocessing import get_context

from coverage import Coverage

from tests.classes import PARTS, Ran, names, run

PROCESSES = 2
SLOWEST = 10
FLOOR = 90.0


def main() -> int:
    begun, all_of_it = time.perf_counter(), Ran()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["FROST_TALLY_TEST_HOMES"] = folder
        wanted, measured = [each for each in sys.argv[1:] if each != "--measured"], "--measured" in sys.argv
        if measured:
            os.environ["COVERAGE_FILE"] = f"{folder}/coverage"
        with ProcessPoolExecutor(PROCESSES, get_context("spawn")) as pool:
            waiting = {pool.submit(run, name): name for name in names(wanted or list(PARTS))}
            for done in as_completed(waiting):
                ran = done.result()
                all_of_it += ran
                spent = sum(seconds for seconds, _ in ran.spent)
                if ran.count:
                    print(f"{'failed' if ran.failed else 'ok    '} {waiting[done]}: {ran.count} in {spent:.1f} s")
                print(ran.text, end="", flush=True)
        reached = _reached() if measured else None
    print("\nThe slowest:")
    for seconds, test in sorted(all_of_it.spent, reverse=True)[:SLOWEST]:
        print(f"  {seconds:6.1f} s  {test}")
    if reached is not None:
        print(f"\n{reached:.1f} % of the lines are reached; the floor is {FLOOR:.0f} %.")
    passed = all_of_it.count - all_of_it.failed - all_of_it.skipped
    print(f"\n{time.perf_counter() - begun:.0f} s in all.")
    print(f"{passed} passed, {all_of_it.failed} failed, {all_of_it.skipped} skipped")
    below = reached is not None and reached < FLOOR
    return 0 if all_of_it.count and not all_of_it.failed and not below else 1


def _reached() -> float:
    """How many of our lines the tests ran, per cent."""
    measured = Coverage()
    measured.combine()
    return float(measured.report(file=io.StringIO()))


if __name__ == "__main__":
    sys.exit(main())
