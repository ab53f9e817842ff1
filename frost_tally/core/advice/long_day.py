"""The long day: where to stop, how low to arrive and how full to leave, so that the way takes least time, money or stops.

The grid says what the rest of the way weighs from anywhere. Forwards, the day is lived through exactly, and each choice taken anew from
where it has come to; a stop may also end with just what the next marks need. Why: docs/decisions/0067.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..charge.fast import Stops, stops
from ..charge.stop_table import Post
from ..errors import require
from ..units import Array
from .long_grid import FAR, HEADROOM, WARMS_FROM_MIN, WEIGHTS, WayGrid
from .long_reach import farthest, stranded
from .long_way import COARSE, MOST_POSTS, MOST_STOPS, Goal, LongDay, LongDayRequest, Look, Stop

WEIGHED_POSTS, SHORT_STRETCHES, LONG_STRETCHES, NEAREST = 40, 100, 20, 8
"""So many posts are weighed finely; of more, first the best of so many stretches of the way, then the nearest to each stop."""


def plan(request: LongDayRequest) -> LongDay:
    """The best plan; where it warms the pack on the way, it is no worse than the best that never does.

    Raises: OutOfRange or Refusal, with their field, for what cannot be asked.
    """
    return _plan(replace(request, posts=tuple(request.posts)))


@lru_cache(maxsize=32)
def _plan(request: LongDayRequest) -> LongDay:
    few = near_best(request.checked())
    made = stranded(request) if few is None else replace(Planner(few).plan(), request=request)
    if any(each.warmed for each in made.stops) and (cold := _plan(replace(request, warms=False))).reached:
        return min(made, cold, key=_weight)
    return made


def _weight(made: LongDay) -> float:
    """What a plan weighs by its goal; each warming on the way has to save something."""
    minute, money, stop = WEIGHTS[made.request.goal]
    warmings = sum(each.warmed for each in made.stops)
    return minute * (made.total_min + warmings * WARMS_FROM_MIN) + money * made.cost + stop * len(made.stops)


def by_stops(request: LongDayRequest, most: int = MOST_STOPS) -> list[float | None]:
    """Door to door (min) with no stop, one, two, … at the coarse grid; None where that many do not get there."""
    return _least(replace(request, exactly=most))


def least_min(request: LongDayRequest) -> float | None:
    """Door to door (min) with any number of stops at the coarse grid; None where it does not get there."""
    return _least(replace(request, exactly=None))[0]


def _least(request: LongDayRequest) -> list[float | None]:
    """Minutes by layer of the grid, in the order of stops."""
    few = near_best(replace(request.checked(), goal=Goal.TIME, grid=COARSE))
    if few is None:
        return [None] * (1 if request.exactly is None else request.exactly + 1)
    grid = WayGrid(few)
    least = [grid.onward(0, value, *grid.start).weight[0] for value in grid.solve()]
    return [float(each) - WEIGHTS[Goal.TIME][2] * n if each < FAR else None for n, each in enumerate(least)]


def fixed_marks(request: LongDayRequest, spacing_km: float, kw: float, price: float) -> tuple[Post, ...]:
    """One post about every so many km, for a way whose posts nobody has listed. Raises: OutOfRange."""
    require(spacing_km, 5, 500, "A post about every", "km", "every_km")
    count = int((request.way.distance_km - 1.0) // spacing_km)
    return tuple(Post(km=spacing_km * (i + 1), kw=kw, price_per_kwh=price) for i in range(min(count, MOST_POSTS)))


def near_best(request: LongDayRequest) -> LongDayRequest | None:
    """The same with only the posts that a best plan may use, where there are too many to weigh them all finely; None: nothing gets there.

    On the coarse grid the best post of each short stretch counts; of its plan the posts nearest to each stop, and besides the best of each
    long stretch. Where the best of each stretch do not get there, all are weighed coarsely.
    """
    if len(request.posts) <= WEIGHED_POSTS:
        return request
    short, long = (request.way.distance_km / count for count in (SHORT_STRETCHES, LONG_STRETCHES))
    rough = Planner(replace(request, posts=_best_of(request, short), grid=COARSE, exactly=None)).plan()
    if not rough.reached:
        return replace(request, grid=COARSE) if farthest(request).gets_there(request) else None
    near = set(_best_of(request, long)) | {stop.post for stop in rough.stops}
    for stop in rough.stops:
        near |= set(sorted(request.posts, key=lambda each: abs(each.km - stop.post.km))[:NEAREST])
    return replace(request, posts=tuple(near))


def _best_of(request: LongDayRequest, span_km: float) -> tuple[Post, ...]:
    """The strongest post of each stretch of the way, and the cheapest where money counts; people's own stops always."""
    by_stretch: dict[int, list[Post]] = {}
    for each in request.posts:
        by_stretch.setdefault(int(each.km / span_km), []).append(each)
    kept = {each for each in request.posts if each.stands_min > 0}
    for found in by_stretch.values():
        kept.add(max(found, key=lambda each: (each.pack_kw(request.car), -each.price_per_kwh, -each.km)))
        if request.goal is Goal.MONEY:
            kept.add(
                min(found, key=lambda each: (each.price_per_kwh * each.billed(request.car), -each.pack_kw(request.car), each.km))
            )
    return tuple(kept)


Next = Callable[[int, int, float, float], tuple[int, bool]]
Until = Callable[[int, int, Stops], float]


class Planner:
    """A request, its grid, and the plan that it gives."""

    def __init__(self, ask: LongDayRequest) -> None:
        self.ask, self.car, self.grid = ask, ask.car, WayGrid(ask)
        self.posts, self.marks, self.doubt = self.grid.posts, self.grid.marks, self.grid.doubt

    def plan(self) -> LongDay:
        """The best way through, lived through."""
        arriving = self.grid.solve()
        counted, layers = self.ask.exactly is not None, len(arriving)
        if self.grid.onward(0, arriving[-1], *self.grid.start).weight[0] > FAR:
            return stranded(self.ask)

        def next_mark(made: int, mark: int, soc: float, pack_c: float) -> tuple[int, bool]:
            best = self.grid.onward(mark, arriving[layers - 1 - counted * made], np.array([soc]), np.array([pack_c]))
            return int(best.to[0]), bool(best.warmed[0])

        def until(made: int, mark: int, done: Stops) -> float:
            return self._goal(mark, arriving[layers - 1 - counted * made], done)

        return self.live(next_mark, until)

    def _goal(self, mark: int, arriving: Array, done: Stops) -> float:
        """The best level to leave a mark with, of the grid or just what the next ones need, after a stop that has begun."""
        post, soc = self.posts[mark - 1], float(done.soc[0, 0])
        least = soc + (post.stands_min <= 0) * self.ask.grid.level  # nobody stops for nothing
        goals = np.append(least, self.grid.levels[self.grid.levels > least + HEADROOM])
        goals = np.unique(np.append(goals, self.grid.needs(mark, goals, done.after(goals)[1])))
        minutes, leave_c, kwh = done.after(goals)
        spent = self.grid.weight(post, np.maximum(minutes, post.stands_min), kwh)
        return float(goals[np.argmin(spent + self.grid.onward(mark, arriving, goals, leave_c).weight)])

    def live(self, next_mark: Next, until: Until) -> LongDay:
        """Drive and charge without the grid: `next_mark` says where to drive and whether the pack is warmed on the way, from how many stops
        are made, mark, level and temperature; `until` to which level, from stops made, mark and the stop at its post.
        """
        ask, usable = self.ask, self.car.pack.usable_kwh
        level, pack_c, mark, driving, used = ask.start.soc, ask.start.pack_c, 0, 0.0, 0.0
        made, looks, points = list[Stop](), list[Look](), [(0.0, level, 0.0)]
        while True:
            j, warm = next_mark(len(made), mark, level, pack_c)
            if j <= mark:
                return stranded(ask)
            left_c, (took, hours, pack_c) = pack_c, self.grid.drive(mark, j, pack_c, warm)
            passed = self._looks(mark, j, level, left_c, took)
            looks += passed
            seen = level - passed[-1].likely_soc if passed else 0.0
            low, high = level - took - self.doubt * (took - seen), level - (1 - self.doubt) * took
            driving, used, mark, level = driving + 60.0 * hours, used + took, j, level - took
            points.append((self.marks[j], level, 0.0))
            if j == len(self.marks) - 1:
                break
            post = self.posts[j - 1]
            done = stops(
                self.car,
                np.array([level]),
                np.array([pack_c]),
                post.pack_kw(self.car),
                ask.conditions.ambient_c,
                before=ask.before,
            )
            made.append(self._stop(post, done, until(len(made) + 1, j, done), low=low, high=high, warmed=warm))
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
            looks=tuple(looks),
        )

    def _looks(self, mark: int, j: int, level: float, pack_c: float, took: float) -> list[Look]:
        """The posts that are passed on the way to a later mark at which the level decides, and what is needed there to drive on to the
        next, or to the mark: those where the cautious side, counted from the look before, has less.
        """
        passed = [k for k in range(mark + 1, j) if self.grid.looks[k] and self.marks[mark] < self.marks[k] < self.marks[j]]
        used = [*(self.grid.drive(mark, k, pack_c)[0] for k in passed), took]
        found, seen = list[Look](), 0.0
        for (k, to), (until, then) in zip(pairwise([*passed, j]), pairwise(used), strict=True):
            likely, needs = level - until, self.ask.reserve_soc + (1 + self.doubt) * (then - until)
            low = likely - self.doubt * (until - seen)
            if low < needs:
                found.append(Look(self.posts[k - 1], likely, low, needs, self.marks[to]))
                seen = until
        return found

    def _stop(self, post: Post, done: Stops, goal: float, *, low: float, high: float, warmed: bool) -> Stop:
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
