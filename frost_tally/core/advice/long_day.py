"""The long day: where to stop, how low to arrive and how full to leave, so that the way takes least time, money or stops.

Dynamic programming backwards over the marks of the way; the state is the level in whole steps and the pack's temperature. From a mark
the car drives to any later one (not past a stop that people want), with the pack warmed on the way or not, and leaves each with any level
that its post can give. The best of it is then lived through exactly.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..basis import Basis, figure
from ..car import Preheats
from ..charge.fast import stops
from ..charge.stop_table import Post, StopTable, stop_table
from ..drive.stages import Stages, between, stages
from ..errors import require
from ..units import Array, Ints
from .long_way import COARSE, MOST_POSTS, Goal, LongDay, LongDayRequest, Stop
from .worth import CAUTIOUS, DAY_DOUBT

WARMS_FROM_MIN = figure("long_day.warms_from", 1.0, "min", Basis.COMMON_PRACTICE, "warming on the way has to save so much")
HEADROOM, BEYOND = 1e-9, 9.0
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
    value = planner.solve()[1][:, 0, planner.start_level, planner.start_warm]
    return [float(each) - WEIGHTS[Goal.TIME][2] * n if np.isfinite(each) else None for n, each in enumerate(value)]


def fixed_marks(request: LongDayRequest, spacing_km: float, kw: float, price: float) -> tuple[Post, ...]:
    """One post about every so many km, for a way whose posts nobody has listed. Raises: OutOfRange."""
    require(spacing_km, 5, 500, "A post about every", "km", "every_km")
    count = int((request.way.distance_km - 1.0) // spacing_km)
    return tuple(Post(spacing_km * (i + 1), kw, price) for i in range(min(count, MOST_POSTS)))


class _Planner:
    """The tables of one request, and the plan that they give."""

    def __init__(self, ask: LongDayRequest) -> None:
        self.ask, self.car = ask, ask.car
        self.posts = tuple(sorted(ask.posts, key=lambda each: each.km))
        self.marks = [0.0, *(each.km for each in self.posts), ask.way.distance_km]
        self.levels = np.arange(round(1 / ask.grid.level) + 1) * ask.grid.level
        low = ask.grid.kelvin * np.floor(min(ask.conditions.ambient_c, ask.start.pack_c) / ask.grid.kelvin)
        self.warm = np.arange(low, max(HOTTEST_C, low) + ask.grid.kelvin, ask.grid.kelvin)
        self.doubt = CAUTIOUS * DAY_DOUBT
        most_soc = (1.0 - ask.reserve_soc) / (1.0 + self.doubt) + ask.grid.level
        self.stages: Stages = stages(
            self.car, ask.way, ask.conditions, ask.start.cabin_c, tuple(self.marks), tuple(self.warm.tolist()), most_soc
        )
        self.ends = self.place(np.stack([self.stages.end_c, self.stages.end_c + self.stages.warm_k]))
        self.may_warm = ask.warms and self.car.pack.preheats is not Preheats.NO and self.car.pack.heater_kw > 0
        self.alike: dict[tuple[float, ...], tuple[Array, Ints]] = {}

    def place(self, pack_c: Array) -> Ints:
        """The grid's temperature nearest to one."""
        at = np.rint((np.asarray(pack_c) - self.warm[0]) / self.ask.grid.kelvin)
        return np.asarray(np.clip(at, 0, len(self.warm) - 1), dtype=np.int64)

    def table(self, post: Post) -> StopTable:
        """How long stops at a post take."""
        return stop_table(
            self.car, post.pack_kw(self.car), self.ask.conditions.ambient_c, tuple(self.levels.tolist()), tuple(self.warm.tolist()),
            post.stands_min, self.ask.before,
        )  # fmt: skip

    @property
    def start_level(self) -> int:
        """The grid's level of the start."""
        return int(np.floor((self.ask.start.soc + HEADROOM) / self.ask.grid.level))

    @property
    def start_warm(self) -> int:
        """The grid's temperature of the start."""
        return int(self.place(np.array(self.ask.start.pack_c)))

    def solve(self) -> tuple[Array, Array, Ints, Array, Ints]:
        """By stops still to make (a single layer when any number will do), mark, level and temperature: the value of being there and of
        leaving, the next mark, whether the pack is warmed on the way to it, and the level to leave with.
        """
        count, counted = len(self.marks), self.ask.exactly is not None
        layers = 1 if self.ask.exactly is None else self.ask.exactly + 1
        shape = (layers, count, len(self.levels), len(self.warm))
        value, target = np.full(shape, np.inf), np.zeros(shape, dtype=np.int64)
        going, to, warmed = np.full(shape, np.inf), np.zeros(shape, dtype=np.int64), np.zeros(shape, dtype=bool)
        value[0, -1] = 0.0
        for i in range(count - 2, -1, -1):
            for layer in range(layers):
                self._leave(i, value[layer], going[layer, i], to[layer, i], warmed[layer, i])
            if i > 0:
                for layer in range(layers):
                    source = layer - 1 if counted else layer
                    if source >= 0:
                        value[layer, i], target[layer, i] = self._stand(self.posts[i - 1], going[source, i])
        return value, going, to, warmed, target

    def plan(self) -> LongDay:
        """The best way through, lived through."""
        _, going, to, warmed, target = self.solve()
        if not np.isfinite(going[-1, 0, self.start_level, self.start_warm]):
            return self._stranded()
        return self._live(self._chosen(self.start_level, self.start_warm, to, warmed, target))

    def _leave(self, i: int, value: Array, going: Array, to: Ints, warmed: Array) -> None:
        """From mark i with every level and temperature: the best later mark to drive to, and whether the pack is warmed on the way."""
        minute, _, _ = WEIGHTS[self.ask.goal]
        step, level = self.ask.grid.level, self.levels[:, None]
        for j in range(i + 1, len(self.marks)):
            last = j == len(self.marks) - 1
            for warm in (False, True) if self.may_warm and not last else (False,):
                used = self.stages.used[i, j] + (self.stages.warm_used[i, j] if warm else 0.0)
                if not np.isfinite(used).any():
                    continue
                arrives = level - used
                able = arrives - self.doubt * used >= self.ask.reserve_soc - HEADROOM
                if last:
                    able &= arrives >= self.ask.end_soc - HEADROOM
                place = ((np.maximum(arrives, 0.0) + HEADROOM) / step).astype(np.int64)
                driven = minute * (60.0 * self.stages.hours[i, j] + warm * WARMS_FROM_MIN)
                cost = np.where(able, driven + value[j][place, self.ends[int(warm), i, j]], np.inf)
                better = cost < going - 1e-12
                going[better] = cost[better]
                to[better], warmed[better] = j, warm
            if 0 < j < len(self.marks) - 1 and self.posts[j - 1].stands_min > 0:
                break  # people want to stop here

    def _stand(self, post: Post, going: Array) -> tuple[Array, Ints]:
        """At a post with every level and temperature: the best level to leave with."""
        spent, place = self._spent(post)
        cost = spent + going[np.arange(len(self.levels))[None, None, :], place]
        best = np.argmin(cost, axis=2)
        return np.take_along_axis(cost, best[:, :, None], axis=2)[:, :, 0], best

    def _spent(self, post: Post) -> tuple[Array, Ints]:
        """What each stop at such a post weighs, and the grid's temperature after it; worked out once for posts that are alike."""
        key = (post.pack_kw(self.car), post.kw, post.price_per_kwh, post.stands_min)
        if key not in self.alike:
            minute, money, stop = WEIGHTS[self.ask.goal]
            table = self.table(post)
            fixed = 0.0 if post.stands_min > 0 else self.ask.stop_min
            spent = minute * (table.minutes + fixed) + money * post.price_per_kwh * post.billed(self.car) * table.kwh + stop
            if post.stands_min <= 0:  # nobody stops for nothing
                same = np.arange(len(self.levels))
                spent[same, :, same] = np.inf
            self.alike[key] = spent, self.place(table.end_c)
        return self.alike[key]

    def _chosen(self, at: int, temperature: int, to: Ints, warmed: Array, target: Ints) -> list[tuple[int, bool, float]]:
        """The marks of the best plan in order: which, whether the pack is warmed on the way to it, and the level left with."""
        found: list[tuple[int, bool, float]] = []
        counted, mark, layer = self.ask.exactly is not None, 0, len(to) - 1
        while True:
            j, warm = int(to[layer, mark, at, temperature]), bool(warmed[layer, mark, at, temperature])
            if j == len(self.marks) - 1:
                return [*found, (j, warm, 0.0)]
            used = float(self.stages.used[mark, j, temperature]) + (
                float(self.stages.warm_used[mark, j, temperature]) if warm else 0.0
            )
            end_c = float(self.stages.end_c[mark, j, temperature]) + (
                float(self.stages.warm_k[mark, j, temperature]) if warm else 0.0
            )
            arrives = int(np.floor((self.levels[at] - used + HEADROOM) / self.ask.grid.level))
            state = int(self.place(np.array(end_c)))
            goal = int(target[layer, j, arrives, state])
            layer -= counted
            found.append((j, warm, float(self.levels[goal])))
            table = self.table(self.posts[j - 1])
            temperature = int(self.place(table.end_c[arrives, state, goal]))
            mark, at = j, goal

    def _live(self, chosen: Sequence[tuple[int, bool, float]]) -> LongDay:
        """Drive and charge what was chosen, without the grid."""
        ask, usable = self.ask, self.car.pack.usable_kwh
        level, pack_c, mark, driving, used = ask.start.soc, ask.start.pack_c, 0, 0.0, 0.0
        made, points = list[Stop](), [(0.0, level, 0.0)]
        low = high = level
        for j, warm, goal in chosen:
            begin, set_c = self.marks[mark], ask.conditions.cabin_set_c
            inside_c = ask.start.cabin_c if mark == 0 or set_c is None else set_c
            leg = stages(
                self.car,
                between(ask.way, begin, [ask.way.distance_km]),
                ask.conditions,
                inside_c,
                (0.0, self.marks[j] - begin),
                (pack_c,),
                BEYOND,
            )
            took = float(leg.used[0, 1, 0]) + (float(leg.warm_used[0, 1, 0]) if warm else 0.0)
            pack_c = float(leg.end_c[0, 1, 0]) + (float(leg.warm_k[0, 1, 0]) if warm else 0.0)
            driving, used, mark = driving + 60.0 * float(leg.hours[0, 1, 0]), used + took, j
            level, low, high = level - took, level - (1 + self.doubt) * took, level - (1 - self.doubt) * took
            points.append((self.marks[j], level, 0.0))
            if j == len(self.marks) - 1:
                break
            stop = self._stop(self.posts[j - 1], level, goal, pack_c, low, high, warm)
            made.append(stop)
            level, pack_c = stop.leave_soc, stop.leave_c
            points.append((self.marks[j], level, stop.minutes))
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

    def _stop(self, post: Post, level: float, goal: float, pack_c: float, low: float, high: float, warmed: bool) -> Stop:
        """A stop without the grid: charged to its goal, standing as long as people want."""
        done = stops(
            self.car,
            np.array([level]),
            np.array([pack_c]),
            post.pack_kw(self.car),
            self.ask.conditions.ambient_c,
            self.ask.before,
        )
        goal = max(level, goal)
        minutes = float(done.minutes_to(goal)[0])
        if not np.isfinite(minutes):
            minutes = done.longest_min
        at = np.array([minutes])
        kwh = float(done.at(at, done.post_kwh)[0]) * post.billed(self.car)
        fixed = 0.0 if post.stands_min > 0 else self.ask.stop_min
        return Stop(
            post=post, arrive_soc=level, low_soc=low, high_soc=high, leave_soc=float(done.at(at, done.soc)[0]),
            minutes=max(minutes + fixed, post.stands_min), kwh=kwh, cost=kwh * post.price_per_kwh, arrive_c=pack_c,
            leave_c=float(done.at(at, done.pack_c)[0]), warmed=warmed,
        )  # fmt: skip

    def _stranded(self) -> LongDay:
        """No plan gets there: from which mark the next is too far even for a full pack, and how far that reaches with the reserve."""
        ask, last = self.ask, 0
        state = self.start_warm
        reached = {0}
        for i in range(len(self.marks) - 1):
            level = ask.start.soc if i == 0 else 1.0
            if i in reached:
                able = level - self.stages.used[i, :, state] * (1 + self.doubt) >= ask.reserve_soc
                reached |= {j for j in range(i + 1, len(self.marks)) if able[j]}
                last = i
        begin, level = self.marks[last], ask.start.soc if last == 0 else 1.0
        left = self.marks[-1] - begin
        whole = stages(
            self.car,
            between(ask.way, begin, [ask.way.distance_km]),
            ask.conditions,
            ask.start.cabin_c,
            (0.0, left),
            (ask.start.pack_c,),
            BEYOND,
        )
        per_km = max(1e-6, float(whole.used[0, 1, 0])) * (1 + self.doubt) / left
        return LongDay(
            request=ask, stops=(), driving_min=0.0, standing_min=0.0, end_soc=0.0, end_low=0.0, end_high=0.0, used_kwh=0.0,
            charged_kwh=0.0, cost=0.0, reached=False, gap_from_km=begin, as_far_as_km=begin + max(0.0, level - ask.reserve_soc) / per_km,
            gap_to_km=self.marks[last + 1],
        )  # fmt: skip
