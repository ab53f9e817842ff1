"""Two cars and one cable: by hand, against every other way, and what a second cable changes."""

import unittest
from dataclasses import replace
from itertools import product

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.charge.rota import NOBODY, Sharer, plan_rota
from frost_tally.core.errors import Refusal


def car(name: str, use: list[float], **more: float) -> Sharer:
    values = {"soc": 0.6, "limit": 0.8, "reserve": 0.1, "usable_kwh": 60.0, "wall_kw": 11.0, "pack_kw": 10.0} | more
    prices = [np.repeat([0.3, 0.1, 0.3], [12, 20, 12]) for _ in use]
    return Sharer(name=name, use_soc=np.array(use), prices=prices, **values)


def lived(cars: list[Sharer], nights: tuple[int, ...]) -> tuple[float, float]:
    """What is missing and what it costs, plainly, one night after another."""
    missing = cost = 0.0
    for number, each in enumerate(cars):
        level = each.soc
        for night, use in enumerate(each.use_soc.tolist()):
            if nights[night] == number:
                hours = np.sort(each.prices[night])
                wanted = max(0.0, each.limit - level) * each.usable_kwh / each.pack_kw
                for price in hours.tolist():
                    part = min(0.25, wanted)
                    wanted, cost, level = (
                        wanted - part,
                        cost + part * price * each.wall_kw,
                        level + part * each.pack_kw / each.usable_kwh,
                    )
            lack = max(0.0, use + each.reserve - level) if use > 0 else 0.0
            missing += lack
            level = level - use + lack
    return missing, cost


class Shared(unittest.TestCase):
    def test_alternate_nights_of_ordinary_commuting_leave_nobody_under_the_floor(self) -> None:
        """Common practice: two cars sharing one lead on alternate nights, ordinary commuting: feasible."""
        found = plan_rota([car("a", [0.25] * 7), car("b", [0.25] * 7)], had=0)
        self.assertTrue(found.feasible)
        self.assertGreaterEqual(float(found.returns_soc.min()), 0.1 - 1e-9)
        self.assertLess(found.swaps, 7)

    def test_whose_day_needs_it_has_the_cable_and_who_is_short_is_told(self) -> None:
        found = plan_rota([car("a", [0.65, 0.1], soc=0.3), car("b", [0.1, 0.65], soc=0.3)])
        self.assertEqual(found.nights, (0, 1))
        hard = plan_rota([car("a", [0.65], soc=0.3), car("b", [0.65], soc=0.5)])
        self.assertFalse(hard.feasible)
        self.assertEqual([round(each, 3) for each in hard.short_soc[:, 0]], [0.0, 0.25])
        both = plan_rota([car("a", [0.65], soc=0.3), car("b", [0.65], soc=0.5)], cables=2)
        self.assertTrue(both.feasible)

    def test_nothing_needed_means_no_swap(self) -> None:
        found = plan_rota([car("a", [0.0] * 4, soc=0.8), car("b", [0.0] * 4, soc=0.8)], had=1)
        self.assertEqual((found.swaps, found.cost), (0, 0.0))
        with self.assertRaises(Refusal):
            plan_rota([car("a", [0.1] * 8)])

    @settings(max_examples=25, deadline=None)
    @given(
        st.lists(st.floats(0, 0.6), min_size=4, max_size=4),
        st.lists(st.floats(0, 0.6), min_size=4, max_size=4),
        st.floats(0.2, 0.8),
    )
    def test_it_is_the_best_of_all_81_ways(self, one: list[float], other: list[float], soc: float) -> None:
        cars = [car("a", one, soc=soc), replace(car("b", other), wear_per_kwh=0.0)]
        found = plan_rota(cars, swap_worth=0.0)
        mine = lived(cars, found.nights)
        self.assertAlmostEqual(mine[0], float(found.short_soc.sum()), places=6)
        self.assertAlmostEqual(mine[1], found.cost, places=6)
        every = [lived(cars, ways) for ways in product((NOBODY, 0, 1), repeat=4)]
        least = min(missing for missing, _ in every)
        self.assertLessEqual(mine[0], least + 0.001)
        self.assertLessEqual(mine[1], min(cost for missing, cost in every if missing <= least + 1e-9) + 1e-6)
