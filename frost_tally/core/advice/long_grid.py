"""The grid of a long day: its marks, levels and temperatures, what driving between and stopping takes, and the best from any state on.

Dynamic programming backwards over the marks of the way; the state is the level and the pack's temperature on a grid, linear between its
places. From a mark the car drives to any later one (not past a stop that people want), with the pack warmed on the way or not, and leaves
each with any level of the grid that its post can give. A post that is passed is a look at the level: what the cautious side needs from
there on is asked of the level that is likely there, for who finds less can stop. Why: docs/decisions/0046.
"""

from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from ..basis import Basis, figure
from ..car import Preheats
from ..charge.stop_table import Post, StopTable, place, stop_table
from ..drive.stages import Stages, stages
from ..units import Array, Flags, Ints
from .long_way import Goal, LongDayRequest
from .worth import CAUTIOUS, DAY_DOUBT

WARMS_FROM_MIN = figure("long_day.warms_from", 1.0, "min", Basis.COMMON_PRACTICE, "warming on the way has to save so much")
HEADROOM, BEYOND = 1e-9, 9.0
NEVER, FAR = 1e12, 1e6
"""The weight of what cannot be; what is mixed with it, above FAR, cannot be either."""
SURE_SOC = 0.0005
"""What a stop that ends with just what the way needs leaves above it."""
HOTTEST_C = 38.0
"""The warmest pack of the grid, °C: from 25 °C on all take the same."""
WEIGHTS = {Goal.TIME: (1.0, 1e-3, 1e-3), Goal.MONEY: (1e-3, 1.0, 1e-3), Goal.STOPS: (1e-3, 1e-4, 10.0)}
"""What a minute, a unit of money and a stop weigh: the goal first, the others among equals."""


class Ahead(NamedTuple):
    """Driving on to later marks, by way (a mark, warmed or not, in order) and state: which mark, whether the pack is warmed on the way,
    level used, level needed on leaving so that no look on the way says stop, pack on arrival (°C). Shapes (ways,), the last three
    (ways, *states).
    """

    to: Ints
    warms: Flags
    used: Array
    needs: Array
    end_c: Array


class Onward(NamedTuple):
    """By state: what the rest of the way weighs (above FAR: does not get there), the next mark, whether the pack is warmed on the way."""

    weight: Array
    to: Ints
    warmed: Array


class WayGrid:
    """The tables of one request."""

    def __init__(self, ask: LongDayRequest) -> None:
        self.ask, self.car = ask, ask.car
        self._kinds: dict[Post, tuple[StopTable, Array]] = {}
        self.posts = tuple(sorted(ask.posts, key=lambda each: each.km))
        self.marks = [0.0, *(each.km for each in self.posts), ask.way.distance_km]
        self.levels: Array = ask.grid.level * np.arange(round(1 / ask.grid.level) + 1.0)
        low = ask.grid.kelvin * np.floor(min(ask.conditions.ambient_c, ask.start.pack_c) / ask.grid.kelvin)
        self.warm: Array = np.arange(low, max(HOTTEST_C, low + ask.grid.kelvin) + ask.grid.kelvin, ask.grid.kelvin)
        self.doubt = CAUTIOUS * DAY_DOUBT
        most_soc = 1.0 - ask.reserve_soc + ask.grid.level
        driven: Stages = stages(
            self.car,
            ask.way,
            ask.conditions,
            ask.start.cabin_c,
            tuple(self.marks),
            leaving_c=tuple(self.warm.tolist()),
            most_soc=most_soc,
        )
        self.hours = np.where(np.isfinite(driven.hours), driven.hours, 0.0)[:, :, 0]
        used, end_c = np.minimum(driven.used, BEYOND), driven.end_c
        self.used, self.end_c = np.stack([used, used + driven.warm_used]), np.stack([end_c, end_c + driven.warm_k])
        self.looks = [False, *(each.pack_kw(self.car) > 0 for each in self.posts), False]
        within = used.min(axis=2) < BEYOND
        self.reach = [self._reach(i, within[i]) for i in range(len(self.marks))]
        self.may_warm = ask.warms and self.car.pack.preheats is not Preheats.NO and self.car.pack.heater_kw > 0
        self.start = np.array([ask.start.soc]), np.array([ask.start.pack_c])

    def _reach(self, i: int, within: Flags) -> int:
        """The last mark that can be driven to from one: within a full pack, and not past a stop that people want."""
        until = i
        while until + 1 < len(self.marks) and within[until + 1] and (until == i or not self.stands(until)):
            until += 1
        return until

    def table(self, post: Post) -> StopTable:
        """How long stops at a post take."""
        return stop_table(
            self.car, post.pack_kw(self.car), self.ask.conditions.ambient_c, tuple(self.levels.tolist()), tuple(self.warm.tolist()),
            stands_min=post.stands_min, before=self.ask.before,
        )  # fmt: skip

    def solve(self) -> Array:
        """What the rest of the way weighs on arriving: by stops still to make (a single layer when any number will do), mark, level and
        temperature of the grid.
        """
        count, counted = len(self.marks), self.ask.exactly is not None
        layers = 1 if self.ask.exactly is None else self.ask.exactly + 1
        shape = (layers, count, len(self.levels), len(self.warm))
        arriving = np.full(shape, NEVER)
        arriving[0, -1] = 0.0
        for i in range(count - 2, 0, -1):
            leaving = [self.onward(i, each, self.levels[:, None], self.warm).weight for each in arriving]
            for layer in range(counted, layers):
                arriving[layer, i] = self._stand(self.posts[i - 1], leaving[layer - counted])
        return arriving

    def ahead(self, i: int, pack_c: Array) -> Ahead:
        """From mark i with some temperatures, every later mark within reach, in order."""
        last, (low, part) = len(self.marks) - 1, place(pack_c, self.warm)
        to = np.arange(i + 1, self.reach[i] + 1)
        kinds = 2 if self.may_warm else 1

        def at(values: Array) -> Array:
            under, over = values[:kinds, i, to][..., low], values[:kinds, i, to][..., low + 1]
            return np.asarray(under + part * (over - under))

        used, end_c = at(self.used), at(self.end_c)
        cold, looks = used[0], np.array(self.looks)[to]
        # what is used until the latest look before each mark, and what all looks before it need
        seen = np.zeros_like(cold)
        seen[1:] = np.maximum.accumulate(np.where(_wide(looks, cold), cold, 0.0), axis=0)[:-1]
        asks = np.where(_wide(looks, cold), self.ask.reserve_soc + cold + self.doubt * (cold - seen), 0.0)
        passes = np.zeros_like(cold)
        passes[1:] = np.maximum.accumulate(asks, axis=0)[:-1]
        needs = np.maximum(passes, self.ask.reserve_soc + used + self.doubt * (used - seen))
        needs = np.where(_wide(to == last, cold), np.maximum(needs, self.ask.end_soc + used), needs)
        if kinds > 1 and to.size and to[-1] == last:
            needs[1, -1] = np.inf  # nobody warms a pack for the end
        by_way = (len(to) * kinds, *pack_c.shape)
        return Ahead(
            np.repeat(to, kinds), np.tile(np.arange(kinds) > 0, len(to)),
            *(np.moveaxis(each, 0, 1).reshape(by_way) for each in (used, needs, end_c)),
        )  # fmt: skip

    def drive(self, i: int, j: int, pack_c: float, warms: bool = False) -> tuple[float, float, float]:
        """Level used, hours and the pack on arrival (°C) from a mark to a later one, with a pack of some temperature, warmed or not."""
        low, part = place(np.array([pack_c]), self.warm)
        used, end_c = (float(_between(each[int(warms), i, j], low, part)[0]) for each in (self.used, self.end_c))
        return used, float(self.hours[i, j]), end_c

    def stands(self, mark: int) -> bool:
        """Whether people want to stop at a mark."""
        return 0 < mark < len(self.marks) - 1 and self.posts[mark - 1].stands_min > 0

    def onward(self, i: int, arriving: Array, soc: Array, pack_c: Array) -> Onward:
        """From mark i with some levels and temperatures: the best later mark to drive to, and whether the pack is warmed on the way."""
        ahead = self.ahead(i, pack_c)
        shape = np.broadcast_shapes(soc.shape, pack_c.shape)
        if not ahead.to.size:
            return Onward(np.full(shape, NEVER), np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=bool))
        spread = (-1, *(1,) * (len(shape) - pack_c.ndim), *pack_c.shape)
        used, needs, end_c = (each.reshape(spread) for each in (ahead.used, ahead.needs, ahead.end_c))
        driven = WEIGHTS[self.ask.goal][0] * (60.0 * self.hours[i, ahead.to] + ahead.warms * WARMS_FROM_MIN)
        weight = self._arriving(arriving, ahead.to, soc - used, end_c) + _wide(driven, used)
        weight[soc < needs - HEADROOM] = NEVER
        best = weight.argmin(axis=0)
        least = np.take_along_axis(weight, best[None], axis=0)[0]
        to = np.where(least < NEVER, ahead.to[best], 0)
        return Onward(np.minimum(least, NEVER), to, ahead.warms[best] & (to > 0))

    def needs(self, mark: int, goals: Array, leave_c: Array) -> list[float]:
        """The levels that just do for driving on to each later mark, among goals (in order) and the temperatures left with."""
        spares = goals - SURE_SOC - self.ahead(mark, leave_c).needs
        return [float(np.interp(0.0, spare, goals)) for spare in spares if spare[0] < 0 < spare[-1]]

    def _arriving(self, arriving: Array, to: Ints, soc: Array, pack_c: Array) -> Array:
        """What the rest of the way weighs on arriving at marks, for levels and temperatures between the grid's places; by way first."""
        level = np.maximum(soc + HEADROOM, 0.0) / self.ask.grid.level
        low = np.minimum(level.astype(np.int64), len(self.levels) - 2)
        warm, part = place(pack_c, self.warm)
        wide, flat = len(self.warm), arriving.ravel()
        at = _wide(to * (len(self.levels) * wide), low) + low * wide + warm
        under, over = (_between(flat, at + more, part) for more in (0, wide))
        return np.asarray(under + np.clip(level - low, 0.0, 1.0) * (over - under))

    def _stand(self, post: Post, leaving: Array) -> Array:
        """At a post with every level and temperature of the grid: what the best stop and the rest of the way weigh."""
        table, weight = self._weighed(replace(post, km=0.0, name=""))
        best = np.minimum.reduceat(weight + _between(leaving.ravel(), table.leaves, table.part), table.firsts)
        return best.reshape(leaving.shape)

    def _weighed(self, kind: Post) -> tuple[StopTable, Array]:
        """The table of a kind of post and what its stops weigh: the same wherever it stands."""
        if kind not in self._kinds:
            table = self.table(kind)
            weight = self.weight(kind, table.minutes, table.kwh)
            if kind.stands_min <= 0:  # nobody stops for nothing
                weight[table.firsts] = NEVER
            self._kinds[kind] = table, weight
        return self._kinds[kind]

    def weight(self, post: Post, minutes: Array, kwh: Array) -> Array:
        """What stops at a post weigh that take so long, and so much."""
        minute, money, stop = WEIGHTS[self.ask.goal]
        fixed = 0.0 if post.stands_min > 0 else self.ask.stop_min
        return np.asarray(
            np.minimum(minute * (minutes + fixed) + money * post.price_per_kwh * post.billed(self.car) * kwh + stop, NEVER)
        )


def _wide(values: npt.NDArray[Any], like: Array) -> npt.NDArray[Any]:
    """Values of ways, to go with arrays of ways and states."""
    return values.reshape(-1, *(1,) * (like.ndim - 1))


def _between(values: Array, low: Ints, part: Array) -> Array:
    """Values between places of an array and the next: `part` 0 to 1 of the step."""
    under = values.take(low)
    return np.asarray(under + part * (values.take(low + 1) - under))
