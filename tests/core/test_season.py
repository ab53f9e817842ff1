"""The season's dates: the first frost of early years, tyres by the daily mean, and nothing where no frost comes."""

import unittest
from datetime import date, timedelta

import numpy as np

from frost_tally.core.park.season import ITEMS, due, season_of

SUMMER = date(2026, 7, 15)


class Dates(unittest.TestCase):
    def years(self, *firsts: int, single: int = 0) -> list[np.ndarray]:
        found = []
        for first in firsts:
            low = np.full(330, 8.0)
            low[first : first + 60] = -2.0
            if single:
                low[single] = -0.5
            found.append(low)
        return found

    def test_an_early_year_counts_and_one_cold_night_in_august_does_not(self) -> None:
        lows = self.years(80, 90, 100, 110, single=20)
        means = [low + 4 for low in lows]
        dates = season_of(SUMMER, lows, means)
        self.assertEqual(dates.frost, SUMMER + timedelta(days=87))
        assert dates.tyres is not None
        assert dates.frost is not None
        self.assertLessEqual(dates.tyres, dates.frost + timedelta(days=3))

    def test_where_no_frost_comes_nothing_is_due(self) -> None:
        dates = season_of(SUMMER, [np.full(330, 12.0)] * 3, [np.full(330, 18.0)] * 3)
        self.assertIsNone(dates.frost)
        self.assertTrue(all(due(each, dates) is None for each in ITEMS.values()))

    def test_items_lie_before_the_frost_and_evenings_have_no_day(self) -> None:
        lows = self.years(90)
        dates = season_of(SUMMER, lows, [low + 6 for low in lows])
        assert dates.frost is not None
        for each in ITEMS.values():
            found = due(each, dates)
            self.assertEqual(found is None, each.lead_days is None)
            if found is not None and not each.by_tyres:
                self.assertEqual((dates.frost - found).days, each.lead_days)
        evening = [each for each in ITEMS.values() if each.lead_days is None]
        self.assertEqual((len(evening), sum(each.minutes for each in evening)), (4, 6))
