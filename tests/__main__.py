"""Run every test: `python -m tests`, or a part: `python -m tests core reference`."""

import sys
import unittest
import warnings
from pathlib import Path

HERE = Path(__file__).parent


def main() -> int:
    warnings.simplefilter("ignore", ResourceWarning)
    parts = sys.argv[1:] or ["core", "formats", "reference", "household", "web", "browser"]
    suite = unittest.TestSuite(
        unittest.defaultTestLoader.discover(str(HERE / part), "test_*.py", top_level_dir=str(HERE.parent)) for part in parts
    )
    result = unittest.TextTestRunner(verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors)
    print(f"{result.testsRun - failed - len(result.skipped)} passed, {failed} failed, {len(result.skipped)} skipped")
    return 0 if result.wasSuccessful() and result.testsRun else 1


if __name__ == "__main__":
    sys.exit(main())
