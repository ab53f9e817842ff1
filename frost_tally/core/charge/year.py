"""A year of nights under a tariff: each planned at least cost, all at once.

The nights hang together only through the level: what a window was too short for is missing the next evening. Everything else is arrays with
a row for each night, or for each of its schedules. What is weighed, and how, is the night planner's (docs/decisions/0053): the two agree
within 0.3 % in 699 weeks of 700.
"""

from dataclasses import dataclass

import numpy as np

from ..battery.cold import CHARGE_FROM_C
from ..car import PARKED_W_PER_K, STANDBY_PER_DAY
from ..heat.lumped import relax
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H, Array
from .charger import Charger as Charger
from .charger import charger as charger
from .courses import Courses
from .courses import Nights as Nights
from .many_nights import ManyNights
from .night_cells import LATE, NightCells
from .prices import CELL_S, PriceCells
from .schedules import tapers
from .taper import taper_share

ROUNDS = 3
"""How often waiting is worked out anew at most; a row of nights settles after two or three."""
NEAR_FROST_K, WEAK, SAME_SOC, SAME_START_SOC = 1.0, 1.5, 1e-4, 1e-5
"""Nights so near frost are simulated; outlets that bring less than so many packs a night may fall short; levels so near are the same, but
where one start, or a full pack, is reached or missed by less.
"""


@dataclass(frozen=True, kw_only=True)
class YearPlan:
    """Result by night: shape (nights,). `short_soc` is what is missing to the limit, `drawn_h` how long the wall gave, `short_kwh` what the
    days would have used beyond an empty pack, `wear` money (0 when the pack's price is not asked for).
    """

    wall_kwh: Array
    cost: Array
    wear: Array
    pack_kwh: Array
    lost_kwh: Array
    soc_departure: Array
    short_soc: Array
    drawn_h: Array
    short_kwh: Array

    @property
    def short_nights(self) -> int:
        """Days that the wall alone did not carry."""
        return int(np.count_nonzero(self.short_kwh > 0.01))


def plan_year(hung: Charger, nights: Nights, prices: PriceCells) -> YearPlan:
    """Plan every night at least cost up to the limit; the first evening begins with the limit less the first day's use.

    Raises: Refusal when the prices do not cover the nights.
    """
    return _Year(hung, nights, prices).plan()


@dataclass(frozen=True, kw_only=True)
class _Through:
    """The nights one after the other, their hours by price and warm: cells, hours drawn in them (nights, cells), and by night the level
    when plugged in, what it needs and the most that it can get (kWh), and the level at departure before the warm-up.
    """

    window: NightCells
    drawn_h: Array
    soc: Array
    need_kwh: Array
    most_kwh: Array
    level_soc: Array


class _Year:
    """The nights one after the other, with the levels that they hand on."""

    def __init__(self, hung: Charger, nights: Nights, prices: PriceCells) -> None:
        self.hung, self.nights, self.stay_s, self.capacity = hung, nights, nights.stay_s, hung.car.pack.usable_kwh
        self.idle_c = relax(
            nights.pack_c,
            nights.air_c,
            0.0,
            conductance=PARKED_W_PER_K,
            capacity=hung.car.pack.capacity_j_per_k,
            seconds=self.stay_s,
        )
        frost = np.minimum(nights.pack_c, self.idle_c) < CHARGE_FROM_C[hung.car.pack.chemistry] + NEAR_FROST_K
        late, full = hung.choice is WarmUpChoice.LATE, tapers(hung.limit_soc)
        # Late charging goes by price alone; where nothing else tells hours apart a night costs what its hours by price say, but for the
        # warmth that a warm-up of the pack finds.
        unequal = ((frost | (hung.pack_price > 0)) & (not late)) | hung.control.kind.one_start | full
        # where the house leaves less a quarter hour may have two powers, and its mean is off by half a per cent
        held = hung.held.amps > 0 and hung.rate.held_to(hung.held.amps) is not hung.rate
        self.simulated = unequal | frost | (hung.choice is WarmUpChoice.CABIN_AND_PACK) | held
        self.many = ManyNights(hung, nights, prices, unequal)

    def plan(self) -> YearPlan:
        """All nights: what each needs, the best of its schedules, and what that leaves for the next."""
        through = self._through()
        price, soc, chosen = self._price(through), through.soc, self._by_price(through)
        once = self.hung.control.kind.one_start or tapers(self.hung.limit_soc)
        same_soc = SAME_START_SOC if once else SAME_SOC
        # a target out of reach may use what is left of the margin before departure
        off = np.flatnonzero(self.simulated | (through.need_kwh > through.most_kwh - 1e-6))
        # What is simulated may hand on another level than its hours by price, and the next night begins with that. A round settles one
        # night more at the least, mostly all: but a level near the brim may tip every night after it, one by one.
        for _ in range(len(soc) + 1):
            if off.size:
                chosen.put(off, self.many.chosen(off, price, soc))
            handed = self._handed(chosen, soc)[0]
            off = np.flatnonzero(np.abs(handed - soc) > same_soc)
            if not off.size:
                break
            soc = soc.copy()
            soc[off] = handed[off]
        return self._result(chosen, soc)

    def _by_price(self, through: _Through) -> Courses:
        """The nights by their hours by price, where nothing else tells hours apart."""
        rate, never = self.hung.rate, np.full(len(self.stay_s), np.inf)
        hours = through.drawn_h.sum(axis=1)
        return Courses(
            bill=through.window.cost(through.drawn_h, rate.wall_kw),
            wear=np.zeros(len(hours)),
            wall_kwh=hours * rate.wall_kw,
            pack_kwh=through.need_kwh.copy(),
            highest_soc=through.level_soc.copy(),
            level_soc=through.level_soc.copy(),
            pack_c=self.idle_c.copy(),
            drawn_s=S_PER_H * hours,
            begin_s=never.copy(),
            done_s=self.stay_s.copy(),
            reached_s=np.where(through.need_kwh < through.most_kwh - 1e-9, 0.0, never),
        )

    def _through(self) -> _Through:
        """The nights with their levels handed on, by their hours by price; waiting, which drains a little, settles in rounds."""
        kw, lead_s = self.hung.rate.pack_kw, self.many.warm_up(self.idle_c)[0]
        end_s = np.maximum(0.0, self.stay_s - np.maximum(self.many.margin_s, lead_s))
        window = self.many.cells(slice(None), end_s)
        most, before_h, after_h = self._most(window, end_s), np.zeros(len(end_s)), self.stay_s / S_PER_H
        drain, warm_kwh = STANDBY_PER_DAY * self.capacity / 24.0, self.many.warm_up(self.idle_c)[2]
        drawn = stored = need = level = np.zeros(len(end_s))
        for _ in range(ROUNDS):
            stored, need, level = self._levels(most, drain * before_h, drain * after_h, warm_kwh)
            drawn = window.cheapest(need / kw, np.full(len(need), LATE))
            _, until_h = window.edges(drawn)
            before_h = np.maximum(until_h - drawn.sum(axis=1), 0.0)
            after_h = self.stay_s / S_PER_H - until_h
        soc, level_soc = stored / self.capacity, level / self.capacity
        return _Through(window=window, drawn_h=drawn, soc=soc, need_kwh=need, most_kwh=most, level_soc=level_soc)

    def _levels(self, most_kwh: Array, before_kwh: Array, after_kwh: Array, warm_kwh: Array) -> tuple[Array, Array, Array]:
        """Night after night, kWh: the level when plugged in, what is charged, and the level at departure before the warm-up takes its part.

        Standing takes a little before the last drawn moment, and after it.
        """
        limit, count, use = float(self.many.full_soc.max()) * self.capacity, len(most_kwh), self.nights.use_kwh
        found, stored = [], max(0.0, limit - (float(use[-1]) if count else 0.0))
        for most, before, after, warm, used in zip(
            *(each.tolist() for each in (most_kwh, before_kwh, after_kwh, warm_kwh, use)), strict=True
        ):
            charged = min(max(0.0, limit - stored + before), most)
            level = max(0.0, stored + charged - before - after)
            found.append((stored, charged, level))
            stored = max(0.0, level - warm - used)
        plugged, charges, levels = np.array(found).reshape(count, 3).T
        return plugged, charges, levels

    def _most(self, window: NightCells, end_s: Array) -> Array:
        """The most that each night can bring into an empty pack, kWh; where frost may take its share, simulated."""
        ready = window.ready_h() if self.hung.control.kind.one_start else window.whole_h[:, None]
        first = np.argmax(ready, axis=1)
        most = ready[np.arange(len(first)), first] * self.hung.rate.pack_kw
        rows = np.flatnonzero(self.simulated & (most < WEAK * self.capacity))
        if rows.size:
            begin_s = np.maximum(0.0, CELL_S * first[rows] - S_PER_H * window.begin_h[rows])
            drawn = self.many.house.drawn(rows, begin_s, self.many.house.until(rows, begin_s, end_s[rows]))
            done = self.many.courses(rows, np.zeros(len(rows)), drawn)
            most[rows] = np.where(np.isfinite(done.reached_s), np.inf, done.highest_soc * self.capacity)
        return np.asarray(most)

    def _price(self, through: _Through) -> Array:
        """What a kWh in the pack costs on each night: its hours by price over what they bring, at least nothing."""
        paid = through.window.cost(through.drawn_h, self.hung.rate.wall_kw)
        return np.maximum(0.0, np.where(through.need_kwh > 0.5, paid / np.maximum(through.need_kwh, 1e-9), 0.0))

    def _handed(self, chosen: Courses, soc: Array) -> tuple[Array, Array, Array, Array]:
        """Night after night with the schedules that were taken from some levels: the level when plugged in and at departure, by how much
        another need than theirs changes what they draw (a share), and what a day lacks (kWh).
        """
        warm_kwh = self.many.warm_up(chosen.pack_c)[2]
        # Of more at the beginning a night that falls short has as much more at its end, but in the taper: ds/dt = P(s) from s₀ to s₁ in a
        # given time has ds₁/ds₀ = P(s₁)/P(s₀).
        passed = taper_share(chosen.highest_soc) / taper_share(soc)
        columns = (soc, chosen.level_soc, chosen.pack_kwh, warm_kwh, self.nights.use_kwh, np.isfinite(chosen.reached_s), passed)
        found, stored = [], float(soc[0]) * self.capacity if len(soc) else 0.0
        for thought, at_end, put_in, warm, used, full, passes in zip(*(each.tolist() for each in columns), strict=True):
            more = stored - thought * self.capacity
            # what another level hands on is a guess until the night is simulated anew: never more than a full pack
            leaving = max(0.0, min(self.capacity, at_end * self.capacity + (0.0 if full else passes * more)) - warm)
            share = max(0.0, 1.0 - more / put_in) if full and put_in > 1e-6 else 1.0
            found.append((stored / self.capacity, leaving / self.capacity, share, max(0.0, used - leaving)))
            stored = max(0.0, leaving - used)
        plugged, leaves, shares, short = np.array(found).reshape(len(soc), 4).T
        return plugged, leaves, shares, short

    def _result(self, chosen: Courses, soc: Array) -> YearPlan:
        """Everything by night. What a schedule leaves differs a little from what the next was planned from: that one draws as much more."""
        _, leaves, share, short = self._handed(chosen, soc)
        lead_s, warm_wall, _ = self.many.warm_up(chosen.pack_c)
        return YearPlan(
            wall_kwh=chosen.wall_kwh * share + warm_wall,
            cost=chosen.bill * share + self.many.warm_cost(slice(None), lead_s, warm_wall),
            wear=chosen.wear,
            pack_kwh=chosen.pack_kwh * share,
            lost_kwh=np.maximum((chosen.wall_kwh - chosen.pack_kwh) * share, 0.0),
            soc_departure=leaves,
            short_soc=np.where(np.isfinite(chosen.reached_s), 0.0, np.maximum(0.0, self.hung.limit_soc - chosen.highest_soc)),
            drawn_h=chosen.drawn_s / S_PER_H,
            short_kwh=short,
        )
