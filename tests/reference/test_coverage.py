"""The arrival band on held-back days of the demo's log, and what learning says of itself."""

import tempfile
import unittest
from pathlib import Path

from bench.coverage import SEEDS, coverage, demo_cars
from frost_tally.demo import open_home
from frost_tally.settings import Settings


class Coverage(unittest.TestCase):
    def test_a_band_that_says_eighty_holds_eighty_before_and_after_learning(self) -> None:
        """Handbook: 75–85 % of held-back days, here of two cars and two seeds; the bench prints the other seeds. The factors lie within three standard errors."""
        with tempfile.TemporaryDirectory() as folder:
            home = open_home(Settings(data_dir=Path(folder), demo=True), 0.05)
            found = [coverage(row, seed + i) for seed in SEEDS[:2] for i, row in enumerate(demo_cars(home), 1)]
            home.engine.dispose()
        days = sum(each.days for each in found)
        for share in (
            sum(each.before * each.days for each in found) / days,
            sum(each.after * each.days for each in found) / days,
        ):
            self.assertTrue(0.75 <= share <= 0.85, share)
        for each in found:
            self.assertLess(each.wide_after, each.wide_before)
            self.assertTrue(all(abs(away) < 3 for away in each.away), each.away)
