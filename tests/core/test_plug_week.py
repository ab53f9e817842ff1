"""A week of nights at once, against every way to plug in (brute force)."""

import itertools
import unittest
from dataclasses import replace

import numpy as np

from frost_tally.core.charge.plug_week import GRID, WeekAsk, plan_week
from frost_tally.core.errors import Refusal


def week(seed: int) -> WeekAsk:
    """A random week whose levels lie on the grid."""
    draw = np.random.default_rng(seed)
    likely = np.round(GRID * draw.uniform(0, 0.45, 7)) / GRID * (draw.random(7) < 0.75)
    return WeekAsk(
        soc=round(GRID * float(draw.uniform(0.2, 0.8))) / GRID,
        limit=float(draw.choice([0.6, 0.7, 0.8])),
        reserve=0.1,
        usable_kwh=60.0,
        wall_kw=float(draw.choice([3.7, 11.0])),
        pack_kw=float(draw.choice([3.0, 10.0])),
        likely_soc=likely,
        cautious_soc=1.1 * likely,
        prices=[draw.uniform(0.05, 0.5, 48) for _ in range(7)],
        stay_lost_soc=np.round(GRID * draw.uniform(0, 0.04, 7)) / GRID,
        warm_cost=draw.uniform(0, 0.5, 7),
        plug_lost_soc=np.round(GRID * draw.uniform(0, 0.02, 7)) / GRID,
        wear_per_kwh=0.02,
    )


def lived(ask: WeekAsk, ways: tuple[bool, ...]) -> tuple[float, float]:
    """What is missing and what it costs to plug in on some nights, with no word of the core's: levels, cheapest hours, end valued."""
    level, missing, money = ask.soc, 0.0, 0.0
    for night, plug in enumerate(ways):
        need = 1.1 * ask.likely_soc[night] + ask.reserve if ask.likely_soc[night] > 0 else 0.0
        lost = ask.plug_lost_soc[night]
        target = max(ask.limit, min(1.0, np.ceil(GRID * (need + lost) - 1e-9) / GRID))
        if plug:
            prices, left, hours = sorted(ask.prices[night]), max(0.0, target - level) * ask.usable_kwh, 0.0
            for price in prices:
                into = min(left, 0.25 * ask.pack_kw)
                money += price * into / ask.pack_kw * ask.wall_kw + ask.wear_per_kwh * into
                level, left, hours = level + into / ask.usable_kwh, left - into, hours + 0.25
            money += ask.plug_worth + ask.warm_cost[night]
            level = max(0.0, level - lost)
        else:
            level = max(0.0, level - ask.stay_lost_soc[night])
        missing += max(0.0, need - level - 0.0025)
        level = max(0.0, level - ask.likely_soc[night])
    cheapest = min(float(each.min()) for each in ask.prices) * ask.wall_kw / ask.pack_kw + ask.wear_per_kwh
    return missing, money - cheapest * ask.usable_kwh * (level - ask.soc)


class Weeks(unittest.TestCase):
    def test_no_choice_of_nights_is_better(self) -> None:
        """All 128 choices of nights, to the limit or to what the day needs; within what the grid of half per cents rounds."""
        for seed in range(40):
            ask = week(seed)
            made = plan_week(ask)
            best = min(lived(ask, ways) for ways in itertools.product((False, True), repeat=7))
            with self.subTest(seed=seed):
                self.assertLessEqual(sum(made.short_soc), best[0] + 0.0176)
                if best[0] == 0.0:
                    self.assertLessEqual(made.net, best[1] + 0.12)

    def test_as_needed_never_costs_more_and_every_night_never_less(self) -> None:
        for seed in range(40):
            ask = week(seed)
            made, free, every = plan_week(ask), plan_week(replace(ask, as_needed=True)), plan_week(ask, every=True)
            with self.subTest(seed=seed):
                if sum(made.short_soc) < 0.005:
                    self.assertLessEqual(free.net, made.net + 0.12)
                    self.assertLessEqual(made.net, every.net + 0.12)
                for plan in (made, free, every):
                    for level, needs, short in zip(plan.leaves_soc, ask.needs_soc, plan.short_soc, strict=True):
                        self.assertAlmostEqual(short, max(0.0, needs - level))

    def test_days_at_home_need_no_cable_and_a_full_charge_stands_on_its_night(self) -> None:
        ask = replace(week(3), likely_soc=np.zeros(7), cautious_soc=np.zeros(7), stay_lost_soc=np.zeros(7))
        self.assertEqual(plan_week(ask).targets, (None,) * 7)
        self.assertEqual([each == 1.0 for each in plan_week(replace(ask, full_on=4)).targets], [i == 4 for i in range(7)])
        with self.assertRaises(Refusal):
            plan_week(replace(ask, prices=[]))
