"""Schedules of one night, each simulated in full: by price, from one start on, with the last part of a full pack on its own.

Why: docs/decisions/0053.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import CHARGE_FROM_C
from ..car import Car
from ..units import S_PER_H, Array, Flags, Ints, Number
from .allocate import allocate
from .enough import Bracket, least_more
from .night_clock import NightClock
from .night_clock import Schedule as Schedule
from .session import CHARGING_STEP_S, TAPER_FROM_SOC, Interval, Session, simulate
from .slots import Slot, intervals, slots_between
from .supply import ChargeRate
from .taper import STEP_S, LeastCostHours, filling, missing_h

ONE_NIGHT = np.array([0])
MOST_ROUNDS, SAME_SOC, SAME_S = 18, 1e-8, 1e-4
FILLS, CLOSE_H = 5, 0.005
"""Hours by price are filled anew until they are as many as the session draws to 18 s: most nights take two rounds."""
GRID_S, AIR_S, REAL_S = 900.0, 300.0, 1.0
COARSE_S = 1800.0
"""Step while neither cold nor taper changes the power: against five minutes a bill is off by under 2e-4 of money, the pack by 0.05 K."""
REACHED_SOC, HAIR_SOC = 0.0005, 1e-5
SAME_FULL_SOC = figure(
    "night.same_full",
    0.0025,
    "",
    Basis.COMMON_PRACTICE,
    "near full a display shows no difference, and in the taper an hour brings little more",
)
MILD_K = 20.0
QUARTERS, LONGER_S, SHIFTS_S = (-8, -4, -2, -1, 0, 1, 2), (1800.0, 3600.0), (-7200.0, -3600.0, 3600.0, 7200.0)
"""How a block of a schedule is moved: begun on quarter hours about the one in which it begins, ended later (s) on a quarter hour, where
prices change, all of it elsewhere (s).
"""
ALL_BUT = 0.95
"""Of what counts as reached this much is left out of a full pack, so that rounding does not make it a miss."""


def tapers(target_soc: Number) -> Flags:
    """Whether the power falls before a target (0 to 1) is reached."""
    return np.asarray(target_soc > TAPER_FROM_SOC + REACHED_SOC)


def as_much(most_soc: Number) -> Array:
    """From which level on (0 to 1) a schedule that falls short leaves as much as the one that leaves the most."""
    return np.asarray(most_soc - np.where(tapers(most_soc), SAME_FULL_SOC, REACHED_SOC))


def full_soc(target_soc: Number, goal_soc: Number, one_start: bool) -> Array:
    """The level at which drawing ends for a target, of which another is as good (0 to 1): the very last of a full pack takes minutes of
    next to nothing, and who can stop at any time stops before them.
    """
    return np.asarray(target_soc - np.where(tapers(target_soc), 0.0 if one_start else ALL_BUT, 0.0) * (target_soc - goal_soc))


def _joined(intervals: Sequence[Interval], deadline_s: float) -> list[Interval]:
    """Intervals in order, those that touch or overlap as one, none after the deadline."""
    found: list[Interval] = []
    for begin, end in sorted(intervals):
        if found and begin <= found[-1][1] + 1e-6:
            found[-1] = (found[-1][0], min(deadline_s, max(end, found[-1][1])))
        elif begin < deadline_s:
            found.append((begin, min(end, deadline_s)))
    return found


class ScheduleSearch:
    """All that is asked of one car on one outlet on one night; each schedule is simulated once.

    `air_c` is °C around the car every five minutes; `starts` are the single starts that the control can make (s from the beginning): with
    `one_start` it cannot do without.
    """

    def __init__(
        self,
        clock: NightClock,
        car: Car,
        rate: ChargeRate,
        soc: float,
        target_soc: float,
        *,
        pack_c: float,
        air_c: tuple[float, ...],
        starts: tuple[float, ...] = (),
        one_start: bool = False,
        goal_soc: float | None = None,
    ) -> None:
        self.starts, self.one_start = starts, one_start
        self.clock, self.car, self.rate, self.soc, self.target_soc, self.pack_c = clock, car, rate, soc, target_soc, pack_c
        self.air_c = air_c
        self.goal_soc = target_soc - REACHED_SOC if goal_soc is None else goal_soc
        self.full_soc = float(full_soc(target_soc, self.goal_soc, one_start))
        self.need_kwh = max(0.0, self.full_soc - soc) * car.pack.usable_kwh
        self.need_h = self.need_kwh / max(rate.pack_kw, 1e-6)
        self.threshold_c = CHARGE_FROM_C[car.pack.chemistry]
        self.single: dict[float, tuple[float, Schedule]] = {}
        self.priced: dict[tuple[float, str, str, float], Schedule] = {}
        self.slots: dict[tuple[float, float], list[Slot]] = {}
        self.tried: dict[tuple[float, str], list[Schedule]] = {}
        self.known: dict[tuple[tuple[Interval, ...], float], Schedule] = {}
        self.idle = self.simulated([])

    @property
    def in_frost(self) -> bool:
        """Whether the pack is, or would fall while it waits, under the temperature from which it accepts charge."""
        return self.need_kwh > 0 and any(step.pack_c < self.threshold_c for step in self.idle.session.steps)

    @property
    def tapers(self) -> bool:
        """Whether the power falls before the target is reached."""
        return bool(tapers(self.target_soc))

    def simulated(self, intervals: Sequence[Interval], step_s: float = COARSE_S) -> Schedule:
        """A schedule of drawing in some intervals, simulated to departure; in longer steps than it is told in, for many are tried, and two
        in five of them again: the neighbours of a neighbour are mostly one's own.
        """
        asked = tuple(intervals)
        found = self.known.get((asked, step_s))
        if found is None:
            done = self._session(asked, self.pack_c, self.clock.end_s, self.around, step_s)
            spans = tuple(each for each, _ in self.clock.offered(asked, self.rate))
            found = self.known[asked, step_s] = Schedule(spans, done, self.clock, asked)
        return found

    def told(self, schedule: Schedule) -> Schedule:
        """The same in the steps in which it is told."""
        return self.simulated(schedule.asked, CHARGING_STEP_S)

    def _session(
        self,
        intervals: Sequence[Interval],
        pack_c: float,
        end_s: float,
        air_c: Callable[[float], float],
        step_s: float = COARSE_S,
    ) -> Session:
        """Drawing whatever the supply gives in some intervals."""
        pieces = self.clock.pieces(intervals, self.rate)
        spans, rates = [each for each, _ in pieces], [rate for _, rate in pieces]
        return simulate(self.car, self.rate, self.soc, max(self.full_soc, 0.01), pack_c, spans, end_s, air_c, rates, step_s)

    def around(self, at_s: float) -> float:
        """Air around the car (°C) at a time, from values on every five minutes."""
        place = at_s / AIR_S
        whole = int(place)
        return self.air_c[whole] + (self.air_c[whole + 1] - self.air_c[whole]) * (place - whole)

    def air_while(self, schedule: Schedule) -> float:
        """The mean air around the car while a schedule draws, °C."""
        spans = [(begin, min(end, schedule.done_s)) for begin, end in schedule.intervals if begin < schedule.done_s]
        hours = [end - begin for begin, end in spans]
        return float(np.average([self.around((begin + end) / 2) for begin, end in spans], weights=hours)) if spans else 0.0

    def reaches(self, schedule: Schedule) -> bool:
        """Whether it comes to the target; `EveryStart` tells when between two steps, which are not all alike."""
        return schedule.highest_soc >= self.goal_soc - HAIR_SOC

    def from_start(self, begin_s: float, deadline_s: float) -> Schedule:
        """Drawing from one start until the target is reached, or the deadline."""
        until_s, known = self.single.get(begin_s, (-1.0, self.idle))
        if until_s < 0 or known.done_s > deadline_s + 1e-6 or (not self.reaches(known) and until_s < deadline_s):
            first_s = min(self.clock.open_from(begin_s), deadline_s) if self.one_start else begin_s
            known = self.simulated([(first_s, self.until(first_s, deadline_s))])
            self.single[begin_s] = deadline_s, known
        return known

    def until(self, begin_s: float, deadline_s: float) -> float:
        """How long one start may draw: a control that has only the one is through where the house closes, any other goes on after it."""
        return min(self.clock.closes(begin_s), deadline_s) if self.one_start else deadline_s

    def cold_binds(self, made: Schedule, deadline_s: float) -> bool:
        """Whether cold, more than the supply, keeps a schedule from the target.

        That is so when drawing at once would reach it with a warm pack, or would gain more than twice as much as was gained.
        """
        mild_c = self.threshold_c + MILD_K
        done = self._session([(0.0, deadline_s)], mild_c, deadline_s, lambda _: mild_c)
        warm_soc = max(step.soc for step in done.steps)
        return warm_soc >= self.goal_soc or warm_soc - self.soc > 2 * (made.highest_soc - self.soc)

    def unheld(self, deadline_s: float) -> Schedule:
        """Drawing at once, had the house left all hours."""
        free = replace(self.clock, held=())
        return ScheduleSearch(
            free, self.car, self.rate, self.soc, self.target_soc, pack_c=self.pack_c, air_c=self.air_c
        ).from_start(0.0, deadline_s)

    def as_high(self, most_soc: float) -> "ScheduleSearch":
        """The same night's, to what leaves as much as the most that any does (0 to 1)."""
        at = (self.clock, self.car, self.rate, self.soc, most_soc)
        goal_soc = float(as_much(most_soc))
        return ScheduleSearch(*at, pack_c=self.pack_c, air_c=self.air_c, starts=self.starts, goal_soc=goal_soc)

    def moved(self, schedule: Schedule, deadline_s: float) -> list[Schedule]:
        """The same with one of its blocks begun on a quarter hour about it, ended later, moved, joined to another, or left out."""
        # what comes after the target is reached draws nothing: the block in which it is reached is the last, which goes on
        blocks = _joined([each for each in schedule.asked if each[0] < schedule.done_s - REAL_S], deadline_s)
        blocks = [*blocks[:-1], (blocks[-1][0], deadline_s)] if blocks else []
        ways: list[list[Interval]] = []
        for i in range(len(blocks)):
            rest = [*blocks[:i], *blocks[i + 1 :]]
            ways += [[*rest, other] for other in self._others(blocks, i) if other[0] < other[1] - 60.0]
            ways += [rest] if rest else []
        made = [self.simulated(_joined(each, deadline_s)) for each in ways]
        # near full a block that is moved alone misses by a hair what the last one brings when it begins sooner
        sooner = [each for each in made if each.pauses and not self.reaches(each)] if self.tapers else []
        return [*made, *(self._sooner(each, deadline_s) for each in sooner)]

    def _sooner(self, schedule: Schedule, deadline_s: float) -> Schedule:
        """The same with its last block begun as much sooner as is missing."""
        *rest, (begin, end) = schedule.asked
        missing_s = S_PER_H * float(missing_h(self.car, self.rate, schedule.highest_soc, self.full_soc))
        return self.simulated(_joined([*rest, (max(0.0, begin - missing_s), end)], deadline_s))

    def _others(self, blocks: Sequence[Interval], i: int) -> list[Interval]:
        """What a block may be in its place."""
        begin, end = blocks[i]
        after_s = self.clock.start.timestamp()
        quarter_s = begin - (begin + after_s) % GRID_S
        others = [(max(0.0, quarter_s + GRID_S * each), end) for each in QUARTERS]
        if i < len(blocks) - 1:
            others += [(begin, end + each - (end + each + after_s) % GRID_S) for each in LONGER_S]
            others += [(max(0.0, begin + each), end + each) for each in SHIFTS_S]
        return [*others, (blocks[i - 1][0], end)] if i else others

    def with_taper(self, deadline_s: float) -> list[Schedule]:
        """The schedule that fills the pack at least cost with the power that it takes: in the taper an hour takes less and less, so that it
        may lie in a dear hour for little, and must not push full power into one. What cold and pauses add to its course is searched for.
        """
        if not self.tapers:
            return []
        slots = [piece for each in slots_between(self.clock, self.rate, 0.0, deadline_s) for piece in each.cut(STEP_S)]
        if not slots:
            return []
        most, found = len(slots), list[Schedule]()
        price, room_h, strong = (
            np.array([getattr(each, name) for each in slots])[None] for name in ("price", "strong_h", "strong")
        )
        soc, air_c = np.array([self.soc]), float(np.mean(self.air_c))
        course = filling(self.car, self.rate, soc, self.full_soc, most, pack_c=self.pack_c, air_c=air_c)
        hours = LeastCostHours(course, price, room_h, strong)

        def enough_with(night: Ints, more: Ints) -> Flags:
            drawn_h = hours.drawn(night, course.begins - more)[0]
            blocks = intervals(slots, drawn_h.tolist(), "late")
            found.append(self.simulated([*blocks[:-1], (blocks[-1][0], deadline_s)]) if blocks else self.idle)
            return np.array([self.reaches(found[-1]) or drawn_h.all()])

        least_more(enough_with, 1, most)
        return found

    def by_price(self, deadline_s: float, tie_break: str = "late", order: str = "cheapest", after_s: float = 0.0) -> Schedule:
        """The cheapest (or dearest) hours before the deadline, refined until the simulated level meets the target."""
        key = (deadline_s, tie_break, order, after_s)
        if key not in self.priced:
            self.priced[key] = self._by_price(deadline_s, tie_break, order, after_s)
        return self.priced[key]

    def _by_price(self, deadline_s: float, tie_break: str, order: str, after_s: float) -> Schedule:
        if (after_s, deadline_s) not in self.slots:  # the same for every order
            self.slots[after_s, deadline_s] = slots_between(self.clock, self.rate, after_s, deadline_s)
        slots = self.slots[after_s, deadline_s] if self.need_kwh > 0 else []
        prices, spans = [each.price for each in slots], [each.strong_h for each in slots]
        window_h = sum(spans)

        def blocks_of(hours: float) -> list[Interval]:
            return intervals(slots, allocate(prices, spans, min(hours, window_h), tie_break, order), tie_break)

        if not slots:
            return self.idle
        if not (self.in_frost or self.tapers):
            return self._exact(blocks_of, window_h)
        found = self._filled(blocks_of, window_h, deadline_s)
        if (order, after_s) == ("cheapest", 0.0):
            self.tried[deadline_s, tie_break] = found
        return next((each for each in reversed(found) if self.reaches(each)), found[-1])

    def _exact(self, blocks_of: Callable[[float], list[Interval]], window_h: float) -> Schedule:
        """So many hours that the session draws them to a tenth of a millisecond, with nothing missing."""
        hours, growth, made = self.need_h, 1.0, self.idle
        for turn in range(MOST_ROUNDS):
            made = self.simulated(blocks_of(hours))
            missing_soc = self.full_soc - made.highest_soc
            if made.session.unused_s > SAME_S and turn < MOST_ROUNDS // 2:
                hours, growth = min(hours, window_h) - made.session.unused_s / S_PER_H, 1.0
            elif missing_soc > SAME_SOC and hours < window_h - 1e-6:
                more_h = missing_soc * self.car.pack.usable_kwh / max(self.rate.pack_kw, 1e-6)
                hours += window_h if turn == MOST_ROUNDS - 2 else max(growth * more_h, SAME_S / S_PER_H)
                growth *= 1.5
            else:
                break
        return made

    def _filled(self, blocks_of: Callable[[float], list[Interval]], window_h: float, deadline_s: float) -> list[Schedule]:
        """About so many hours as the session draws, in rounds, and all that were tried on the way; the year finds them so too."""
        hours, found, bracket = min(self.need_h, window_h), list[Schedule](), Bracket(np.array([window_h]))
        for turn in range(FILLS):
            blocks = blocks_of(hours)
            # the last block goes on where all of them were too short
            made = self.simulated([*blocks[:-1], (blocks[-1][0], deadline_s)] if blocks else [])
            found.append(made)
            over_h = self._strength_at(blocks) * (made.drawn_s - sum(end - begin for begin, end in blocks)) / S_PER_H
            if not self.reaches(made):
                more_h = float(missing_h(self.car, self.rate, made.highest_soc, self.full_soc))
                over_h += max(1.5**turn * more_h, 2 * CLOSE_H)
            before, hours = hours, float(bracket.within(ONE_NIGHT, np.array([hours]), np.array([over_h]))[0])
            if abs(hours - before) <= CLOSE_H:
                break
        return found

    def _strength_at(self, blocks: Sequence[Interval]) -> float:
        """What share of full power there is where the last of some blocks ends."""
        offered = self.clock.offered([(blocks[-1][1] - 1.0, blocks[-1][1])], self.rate) if blocks else []
        return offered[-1][1].pack_kw / self.rate.pack_kw if offered else 1.0

    def highest(self, found: Sequence[Schedule], deadline_s: float) -> Schedule:
        """Of schedules that all fall short, and of all that were tried on the way to the hours by price, the cheapest that leaves as much
        as any: an empty car is worse than a dear one.
        """
        short = [*found, self.idle, *(() if self.one_start else self.tried.get((deadline_s, "late"), ()))]
        enough_soc = float(as_much(max(each.level_soc for each in short)))
        cheapest: Schedule = min((each for each in short if each.level_soc >= enough_soc), key=lambda each: each.bill)
        return cheapest


schedules = lru_cache(maxsize=8)(ScheduleSearch)
"""The schedules of a night, remembered with what was simulated of them."""
