"""The long day: where to stop, how low to arrive and how full to leave, so that the way takes least time, money or stops.

Dynamic programming backwards over the marks of the way; the state is the level and the pack's temperature on a grid, linear between its
places. From a mark the car drives to any later one (not past a stop that people want), with the pack warmed on the way or not, and leaves
each with any level of the grid that its post can give. Forwards, the day is lived through exactly, and each choice taken anew from
where it has come to; there a stop may also end with just what the next marks need.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from ..basis import Basis, figure
from ..car import Preheats
from ..charge.fast import Stops, stops
from ..charge.stop_table import Post, StopTable, place, stop_table
from ..drive.stages import Stages, between, stages
from ..errors import require
from ..units import Array, Ints
from .long_way import COARSE, MOST_POSTS, Goal, LongDay, LongDayRequest, Stop
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


def plan(request: LongDayRequest) -> LongDay:
    """The best plan. Raises: OutOfRange or Refusal, with their field, for what cannot be asked."""
    return _Planner(request.checked()).plan()


def by_stops(request: LongDayRequest, most: int = 6) -> list[float | None]:
    """Door to door (min) with no stop, one, two, … at the coarse grid; None where that many do not get there."""
    planner = _Planner(replace(request.checked(), exactly=most, goal=Goal.TIME, grid=COARSE))
    least = [planner.onward(0, value, *planner.start).weight[0] for value in planner.solve()[0]]
    return [float(each) - WEIGHTS[Goal.TIME][2] * n if each < FAR else None for n, each in enumerate(least)]


def fixed_marks(request: LongDayRequest, spacing_km: float, kw: float, price: float) -> tuple[Post, ...]:
    """One post about every so many km, for a way whose posts nobody has listed. Raises: OutOfRange."""
    require(spacing_km, 5, 500, "A post about every", "km", "every_km")
    count = int((request.way.distance_km - 1.0) // spacing_km)
    return tuple(Post(spacing_km * (i + 1), kw, price) for i in range(min(count, MOST_POSTS)))


class Onward(NamedTuple):
    """By state: what the rest of the way weighs (above FAR: does not get there), the next mark, whether the pack is warmed on the way."""

    weight: Array
    to: Ints
    warmed: Array


Next = Callable[[int, int, float, float], tuple[int, bool]]
Until = Callable[[int, int, Stops], float]


class _Planner:
    """The tables of one request, and the plan that they give."""

    def __init__(self, ask: LongDayRequest) -> None:
        self.ask, self.car = ask, ask.car
        self.posts = tuple(sorted(ask.posts, key=lambda each: each.km))
        self.marks = [0.0, *(each.km for each in self.posts), ask.way.distance_km]
        self.levels: Array = ask.grid.level * np.arange(round(1 / ask.grid.level) + 1.0)
        low = ask.grid.kelvin * np.floor(min(ask.conditions.ambient_c, ask.start.pack_c) / ask.grid.kelvin)
        self.warm: Array = np.arange(low, max(HOTTEST_C, low + ask.grid.kelvin) + ask.grid.kelvin, ask.grid.kelvin)
        self.doubt = CAUTIOUS * DAY_DOUBT
        most_soc = (1.0 - ask.reserve_soc) / (1.0 + self.doubt) + ask.grid.level
        driven: Stages = stages(
            self.car, ask.way, ask.conditions, ask.start.cabin_c, tuple(self.marks), tuple(self.warm.tolist()), most_soc
        )
        self.hours = np.where(np.isfinite(driven.hours), driven.hours, 0.0)[:, :, 0]
        used, end_c = np.minimum(driven.used, BEYOND), driven.end_c
        self.used, self.end_c = np.stack([used, used + driven.warm_used]), np.stack([end_c, end_c + driven.warm_k])
        self.within = used.min(axis=2) < BEYOND
        self.may_warm = ask.warms and self.car.pack.preheats is not Preheats.NO and self.car.pack.heater_kw > 0
        self.start = np.array([ask.start.soc]), np.array([ask.start.pack_c])

    def table(self, post: Post) -> StopTable:
        """How long stops at a post take."""
        return stop_table(
            self.car, post.pack_kw(self.car), self.ask.conditions.ambient_c, tuple(self.levels.tolist()), tuple(self.warm.tolist()),
            post.stands_min, self.ask.before,
        )  # fmt: skip

    def solve(self) -> tuple[Array, Array]:
        """What the rest of the way weighs on arriving, and on leaving: by stops still to make (a single layer when any number will do),
        mark, level and temperature of the grid.
        """
        count, counted = len(self.marks), self.ask.exactly is not None
        layers = 1 if self.ask.exactly is None else self.ask.exactly + 1
        shape = (layers, count, len(self.levels), len(self.warm))
        arriving, leaving = np.full(shape, NEVER), np.full(shape, NEVER)
        arriving[0, -1] = 0.0
        for i in range(count - 2, 0, -1):
            for layer in range(layers):
                leaving[layer, i] = self.onward(i, arriving[layer], self.levels[:, None], self.warm).weight
            for layer in range(counted, layers):
                arriving[layer, i] = self._stand(self.posts[i - 1], leaving[layer - counted, i])
        return arriving, leaving

    def onward(self, i: int, arriving: Array, soc: Array, pack_c: Array) -> Onward:
        """From mark i with some levels and temperatures: the best later mark to drive to, and whether the pack is warmed on the way."""
        minute, last = WEIGHTS[self.ask.goal][0], len(self.marks) - 1
        shape = np.broadcast_shapes(soc.shape, pack_c.shape)
        weight, to, warmed = np.full(shape, NEVER), np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=bool)
        here = place(pack_c, self.warm)
        for j in range(i + 1, last + 1):
            for warms in (0, 1) if self.may_warm and j < last else (0,):
                if not self.within[i, j]:
                    continue
                used = _between(self.used[warms, i, j], *here)
                arrives = soc - used
                able = arrives - self.doubt * used >= self.ask.reserve_soc - HEADROOM
                if j == last:
                    able &= arrives >= self.ask.end_soc - HEADROOM
                driven = minute * (60.0 * self.hours[i, j] + warms * WARMS_FROM_MIN)
                rest = (
                    self._arriving(arriving[j], arrives, _between(self.end_c[warms, i, j], *here))
                    if j < last
                    else arriving[j, 0, 0]
                )
                better = able & (driven + rest < weight - 1e-12)
                weight = np.where(better, driven + rest, weight)
                to[better], warmed[better] = j, warms
            if j < last and self.posts[j - 1].stands_min > 0:
                break  # people want to stop here
        return Onward(weight, to, warmed)

    def _arriving(self, arriving: Array, soc: Array, pack_c: Array) -> Array:
        """What the rest of the way weighs for levels and temperatures between the grid's places."""
        level = np.maximum(soc + HEADROOM, 0.0) / self.ask.grid.level
        low = np.minimum(level.astype(np.int64), len(self.levels) - 2)
        warm, part = place(pack_c, self.warm)
        flat, at = arriving.ravel(), low * len(self.warm) + warm
        under, over = (_between(flat, at + more, part) for more in (0, len(self.warm)))
        return np.asarray(under + np.clip(level - low, 0.0, 1.0) * (over - under))

    def _stand(self, post: Post, leaving: Array) -> Array:
        """At a post with every level and temperature of the grid: what the best stop and the rest of the way weigh."""
        table = self.table(post)
        weight = self._weight(post, table.minutes, table.kwh)
        if post.stands_min <= 0:  # nobody stops for nothing
            weight[table.firsts] = NEVER
        best = np.minimum.reduceat(weight + _between(leaving.ravel(), table.leaves, table.part), table.firsts)
        return best.reshape(leaving.shape)

    def _weight(self, post: Post, minutes: Array, kwh: Array) -> Array:
        """What stops at a post weigh that take so long, and so much."""
        minute, money, stop = WEIGHTS[self.ask.goal]
        fixed = 0.0 if post.stands_min > 0 else self.ask.stop_min
        return np.asarray(
            np.minimum(minute * (minutes + fixed) + money * post.price_per_kwh * post.billed(self.car) * kwh + stop, NEVER)
        )

    def plan(self) -> LongDay:
        """The best way through, lived through."""
        arriving, _ = self.solve()
        counted, layers = self.ask.exactly is not None, len(arriving)
        if self.onward(0, arriving[-1], *self.start).weight[0] > FAR:
            return self._stranded()

        def next_mark(made: int, mark: int, soc: float, pack_c: float) -> tuple[int, bool]:
            best = self.onward(mark, arriving[layers - 1 - counted * made], np.array([soc]), np.array([pack_c]))
            return int(best.to[0]), bool(best.warmed[0])

        def until(made: int, mark: int, done: Stops) -> float:
            return self._goal(mark, arriving[layers - 1 - counted * made], done)

        return self.live(next_mark, until)

    def _goal(self, mark: int, arriving: Array, done: Stops) -> float:
        """The best level to leave a mark with, of the grid or just what the next ones need, after a stop that has begun."""
        post, soc = self.posts[mark - 1], float(done.soc[0, 0])
        least = soc + (post.stands_min <= 0) * self.ask.grid.level  # nobody stops for nothing
        goals = np.append(least, self.levels[self.levels > least + HEADROOM])
        goals = np.unique(np.append(goals, self._needs(mark, goals, done.after(goals)[1])))
        minutes, leave_c, kwh = done.after(goals)
        spent = self._weight(post, np.maximum(minutes, post.stands_min), kwh)
        return float(goals[np.argmin(spent + self.onward(mark, arriving, goals, leave_c).weight)])

    def _needs(self, mark: int, goals: Array, leave_c: Array) -> list[float]:
        """The levels that just do for driving on to each later mark, among goals (in order) and the temperatures left with."""
        found, last, here = list[float](), len(self.marks) - 1, place(leave_c, self.warm)
        for j in range(mark + 1, last + 1):
            for warms in (0, 1) if self.may_warm and j < last else (0,):
                used = _between(self.used[warms, mark, j], *here)
                spare = (
                    goals
                    - SURE_SOC
                    - np.maximum(used * (1 + self.doubt) + self.ask.reserve_soc, used + self.ask.end_soc * (j == last))
                )
                if spare[0] < 0 < spare[-1]:
                    found.append(float(np.interp(0.0, spare, goals)))
        return found

    def live(self, next_mark: Next, until: Until) -> LongDay:
        """Drive and charge without the grid: `next_mark` says where to drive and whether the pack is warmed on the way, from how many stops
        are made, mark, level and temperature; `until` to which level, from stops made, mark and the stop at its post.
        """
        ask, usable = self.ask, self.car.pack.usable_kwh
        level, pack_c, mark, driving, used = ask.start.soc, ask.start.pack_c, 0, 0.0, 0.0
        made, points = list[Stop](), [(0.0, level, 0.0)]
        while True:
            j, warm = next_mark(len(made), mark, level, pack_c)
            took, hours, pack_c = self._drive(mark, j, pack_c, warm)
            driving, used, mark = driving + 60.0 * hours, used + took, j
            level, low, high = level - took, level - (1 + self.doubt) * took, level - (1 - self.doubt) * took
            points.append((self.marks[j], level, 0.0))
            if j == len(self.marks) - 1:
                break
            post = self.posts[j - 1]
            done = stops(
                self.car, np.array([level]), np.array([pack_c]), post.pack_kw(self.car), ask.conditions.ambient_c, ask.before
            )
            made.append(self._stop(post, done, until(len(made) + 1, j, done), low, high, warm))
            level, pack_c = made[-1].leave_soc, made[-1].leave_c
            points.append((self.marks[j], level, made[-1].minutes))
        return LongDay(
            request=ask,
            stops=tuple(made),
            driving_min=driving,
            standing_min=sum(each.minutes for each in made),
            end_soc=level,
            end_low=low,
            end_high=high,
            used_kwh=used * usable,
            charged_kwh=sum(each.leave_soc - each.arrive_soc for each in made) * usable,
            cost=sum(each.cost for each in made),
            points=tuple(points),
        )

    def _drive(self, mark: int, j: int, pack_c: float, warm: bool) -> tuple[float, float, float]:
        """Level used, hours and the pack on arrival (°C) from a mark to a later one."""
        ask, begin, set_c = self.ask, self.marks[mark], self.ask.conditions.cabin_set_c
        inside_c = ask.start.cabin_c if mark == 0 or set_c is None else set_c
        way = between(ask.way, begin, [ask.way.distance_km])
        leg = stages(self.car, way, ask.conditions, inside_c, (0.0, self.marks[j] - begin), (pack_c,), BEYOND)
        used, hours, end_c, warm_used, warm_k = (
            float(each[0, 1, 0]) for each in (leg.used, leg.hours, leg.end_c, leg.warm_used, leg.warm_k)
        )
        return used + warm * warm_used, hours, end_c + warm * warm_k

    def _stop(self, post: Post, done: Stops, goal: float, low: float, high: float, warmed: bool) -> Stop:
        """A stop without the grid: charged to its goal, standing as long as people want."""
        minutes = float(done.minutes_to(goal)[0])
        if not np.isfinite(minutes):
            minutes = done.longest_min
        at = np.array([minutes])
        kwh = float(done.at(at, done.post_kwh)[0]) * post.billed(self.car)
        fixed = 0.0 if post.stands_min > 0 else self.ask.stop_min
        return Stop(
            post=post, arrive_soc=float(done.soc[0, 0]), low_soc=low, high_soc=high, leave_soc=float(done.at(at, done.soc)[0]),
            minutes=max(minutes + fixed, post.stands_min), kwh=kwh, cost=kwh * post.price_per_kwh, arrive_c=float(done.pack_c[0, 0]),
            leave_c=float(done.at(at, done.pack_c)[0]), warmed=warmed,
        )  # fmt: skip

    def _stranded(self) -> LongDay:
        """No plan gets there: from which mark the next is too far even for a full pack, and how far that reaches with the reserve."""
        ask, last = self.ask, 0
        state, _ = place(ask.start.pack_c, self.warm)
        reached = {0}
        for i in range(len(self.marks) - 1):
            level = ask.start.soc if i == 0 else 1.0
            if i in reached:
                able = level - self.used[0, i, :, state] * (1 + self.doubt) >= ask.reserve_soc
                reached |= {j for j in range(i + 1, len(self.marks)) if able[j]}
                last = i
        begin, level = self.marks[last], ask.start.soc if last == 0 else 1.0
        left = self.marks[-1] - begin
        per_km = max(1e-6, self._drive(last, len(self.marks) - 1, ask.start.pack_c, False)[0]) * (1 + self.doubt) / left
        return LongDay(
            request=ask, stops=(), driving_min=0.0, standing_min=0.0, end_soc=0.0, end_low=0.0, end_high=0.0, used_kwh=0.0,
            charged_kwh=0.0, cost=0.0, reached=False, gap_from_km=begin, as_far_as_km=begin + max(0.0, level - ask.reserve_soc) / per_km,
            gap_to_km=self.marks[last + 1],
        )  # fmt: skip


def _between(values: Array, low: Ints, part: Array) -> Array:
    """Values between places of an array and the next: `part` 0 to 1 of the step."""
    under = values.take(low)
    return np.asarray(under + part * (values.take(low + 1) - under))
