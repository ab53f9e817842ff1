"""A timer that is set once: the best one start for all nights of a season, and what it costs beside a start for each night."""

from dataclasses import dataclass, replace
from datetime import time

import numpy as np

from ..errors import Refusal
from ..units import S_PER_H, Array
from .charger import Charger
from .control import Control, How
from .courses import Nights
from .many_nights import ManyNights
from .many_starts import FIVE_MIN_S
from .prices import CELL_S, PriceCells
from .year import YearPlan, plan_year

LOOKED_AT, ABOUT, UNDER_LIMIT = 9, 0.003, 0.005


@dataclass(frozen=True, eq=False, kw_only=True)
class SeasonTimer:
    """The one start (local), the nights under it and with a start for each, how many of the nights end under the limit in each way, and
    what every start promises to cost (money, inf where it does not fit into all nights; shape (288,), by five minutes of the local day).
    """

    start: time
    once: YearPlan
    nightly: YearPlan
    once_short: int
    nightly_short: int
    promised: Array

    @property
    def more(self) -> float:
        """What one start costs more than a start for each night, with wear; money."""
        return float((self.once.cost + self.once.wear - self.nightly.cost - self.nightly.wear).sum())


def season_timer(hung: Charger, nights: Nights, prices: PriceCells) -> SeasonTimer:
    """The start that fills the most of some nights, and of those the cheapest: every step of the timer's clock is priced by the hours that
    each night draws, and the best of them are lived through, levels handed on (`plan_year`).

    Raises: Refusal for no nights, or prices that do not cover them.
    """
    if not len(nights.plug_in_s):
        raise Refusal("A season has at least one night.")
    timer = replace(hung, control=replace(hung.control, how=How.TIMER))
    nightly = plan_year(timer, nights, prices)
    promised, lacking_h = _promised(timer, nights, prices, nightly)
    allowed, lived = np.flatnonzero(timer.control.of_day()).tolist(), dict[int, YearPlan]()
    tried = _promising(promised, lacking_h)
    while tried:  # first those that promise the least, then what lies beside the best of them
        for each in tried:
            lived[each] = plan_year(replace(timer, control=set_to(timer.control, _clock(each))), nights, prices)
        best = min(lived, key=lambda each: (_short(lived[each]), float((lived[each].cost + lived[each].wear).sum()), -each))
        place = allowed.index(best)
        tried = [each for each in allowed[max(0, place - 1) : place + 2] if each not in lived]
    return SeasonTimer(
        start=_clock(best),
        once=lived[best],
        nightly=nightly,
        once_short=_short(lived[best]),
        nightly_short=_short(nightly),
        promised=np.where(lacking_h <= 0.0, promised, np.inf),
    )


def set_to(control: Control, start: time) -> Control:
    """A timer that is set to one start and left so."""
    return replace(control, how=How.TIMER, only=start)


def _clock(five_minutes: int) -> time:
    return time(five_minutes // 12, 5 * (five_minutes % 12))


def _short(plan: YearPlan) -> int:
    """On how many nights the limit is not reached."""
    return int(np.count_nonzero(plan.short_soc > UNDER_LIMIT))


def _promising(promised: Array, lacking_h: Array) -> list[int]:
    """Five minutes of the day that promise the least: those that lack the least, of those the cheapest; of many that cost about the same
    some from the first to the last, for wear and cold tell them apart.
    """
    full = np.flatnonzero(lacking_h <= lacking_h.min() + 1e-6)
    least = promised[full].min()
    equal = full[promised[full] <= least + ABOUT * abs(least)]
    spread = equal[np.unique(np.linspace(0, len(equal) - 1, LOOKED_AT).round().astype(int))]
    return [int(each) for each in spread]


def _promised(hung: Charger, nights: Nights, prices: PriceCells, nightly: YearPlan) -> tuple[Array, Array]:
    """Money of all nights from each five minutes of the local day on, drawing for as long as the night draws with its own start, and the
    hours that do not fit: shape (288,) each; inf and many for what is no start of the timer.
    """
    many, hours = ManyNights(hung, nights, prices, np.ones(len(nights.plug_in_s), dtype=bool)), nightly.drawn_h
    every, end_s = np.arange(len(hours)), np.maximum(0.0, nights.stay_s - many.margin_s)
    cells = many.cells(slice(None), nights.stay_s)
    money, lacking = np.full(288, np.inf), np.full(288, np.inf)
    edge_s = CELL_S * np.arange(cells.room_h.shape[1]) - S_PER_H * cells.begin_h[:, None]
    for each in np.flatnonzero(hung.control.of_day()):
        begin_s = edge_s + FIVE_MIN_S * (each % 3)
        here = (cells.local == each // 3) & (begin_s >= 0) & (begin_s < end_s[:, None]) & many.house.open_at(every, begin_s)
        begin = np.where(here.any(axis=1), begin_s[every, here.argmax(axis=1)], end_s)
        until = np.minimum(begin + S_PER_H * hours, many.house.until(every, begin, end_s))
        from_s = nights.plug_in_s
        money[each] = float((prices.paid(from_s + until) - prices.paid(from_s + begin)).sum()) * hung.rate.wall_kw
        lacking[each] = float((hours - (until - begin) / S_PER_H).sum())
    return money, np.where(np.abs(lacking) < 0.01, 0.0, lacking)
