"""Schedules of one night, each simulated in full: by price, from one start on, with the last part of a full pack on its own.

Why: docs/decisions/0020.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import CHARGE_FROM_C
from ..car import Car
from ..units import S_PER_H, Array, Number
from .allocate import TIME_STEP_H, allocate
from .night_clock import NightClock
from .night_clock import Schedule as Schedule
from .session import CHARGING_STEP_S, TAPER_FROM_SOC, Interval, Session, fill_up, simulate
from .supply import ChargeRate

MOST_ROUNDS = 18
GRID_S, AIR_S = 900.0, 300.0
COARSE_S = 1800.0
"""Step while neither cold nor taper changes the power: against five minutes a bill is off by under 2e-4 of money, the pack by 0.05 K."""
REACHED_SOC = 0.0005
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
MOST_TAILS = 3
"""So many of the promised ones are simulated: what they promise leaves out cold and warm-up."""
ALL_BUT = 0.95
"""Of what counts as reached this much is left out of a full pack, so that rounding does not make it a miss."""


def tapers(target_soc: float) -> bool:
    """Whether the power falls before a target (0 to 1) is reached."""
    return target_soc > TAPER_FROM_SOC + REACHED_SOC


def as_much(most_soc: Number) -> Array:
    """From which level on (0 to 1) a schedule that falls short leaves as much as the one that leaves the most."""
    return np.asarray(most_soc - np.where(np.asarray(most_soc) > TAPER_FROM_SOC, SAME_FULL_SOC, REACHED_SOC))


def full_soc(target_soc: float, one_start: bool) -> float:
    """The level at which drawing ends for a target (0 to 1): the very last of a full pack takes minutes of next to nothing, and who can
    stop at any time stops before them.
    """
    return target_soc - (ALL_BUT * REACHED_SOC if tapers(target_soc) and not one_start else 0.0)


def _joined(intervals: Sequence[Interval], deadline_s: float) -> list[Interval]:
    """Intervals in order, those that touch or overlap as one, none after the deadline."""
    found: list[Interval] = []
    for begin, end in sorted(intervals):
        if found and begin <= found[-1][1] + 1e-6:
            found[-1] = (found[-1][0], min(deadline_s, max(end, found[-1][1])))
        elif begin < deadline_s:
            found.append((begin, min(end, deadline_s)))
    return found


class _Slot(NamedTuple):
    """A span at one price (s from the start): what an hour's worth of full power costs in it, how many such hours it has, and what share of
    full power it gives the pack.
    """

    begin_s: float
    end_s: float
    price: float
    strong_h: float
    strong: float


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
    ) -> None:
        self.starts, self.one_start = starts, one_start
        self.clock, self.car, self.rate, self.soc, self.target_soc, self.pack_c = clock, car, rate, soc, target_soc, pack_c
        self.air_c = air_c
        self.full_soc = full_soc(target_soc, one_start)
        self.need_kwh = max(0.0, self.full_soc - soc) * car.pack.usable_kwh
        self.need_h = self.need_kwh / max(rate.pack_kw, 1e-6)
        self.threshold_c = CHARGE_FROM_C[car.pack.chemistry]
        self.single: dict[float, tuple[float, Schedule]] = {}
        self.priced: dict[tuple[float, str, str, float], Schedule] = {}
        self.tried: dict[float, list[Schedule]] = {}
        self.known: dict[tuple[tuple[Interval, ...], float], Schedule] = {}
        self.idle = self.simulated([])

    @property
    def in_frost(self) -> bool:
        """Whether the pack is, or would fall while it waits, under the temperature from which it accepts charge."""
        return self.need_kwh > 0 and any(step.pack_c < self.threshold_c for step in self.idle.session.steps)

    @property
    def tapers(self) -> bool:
        """Whether the power falls before the target is reached."""
        return tapers(self.target_soc)

    def simulated(self, intervals: Sequence[Interval], step_s: float = COARSE_S) -> Schedule:
        """A schedule of drawing in some intervals, simulated to departure; in longer steps than it is told in, for many are tried, and two
        in five of them again: the neighbours of a neighbour are mostly one's own.
        """
        spans = tuple(each for each, _ in self.clock.offered(intervals, self.rate))
        found = self.known.get((spans, step_s))
        if found is None:
            done = self._session(intervals, self.pack_c, self.clock.end_s, self.around, step_s)
            found = self.known[spans, step_s] = Schedule(spans, done, self.clock.bill(done))
        return found

    def told(self, schedule: Schedule) -> Schedule:
        """The same in the steps in which it is told."""
        return self.simulated(schedule.intervals, CHARGING_STEP_S)

    def _session(
        self,
        intervals: Sequence[Interval],
        pack_c: float,
        end_s: float,
        air_c: Callable[[float], float],
        step_s: float = COARSE_S,
    ) -> Session:
        """Drawing whatever the supply gives in some intervals."""
        offered = self.clock.offered(intervals, self.rate)
        spans, rates = [each for each, _ in offered], [rate for _, rate in offered]
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
        """Whether it comes to the target."""
        return self.target_soc - schedule.highest_soc <= REACHED_SOC

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
        return self.target_soc - warm_soc <= REACHED_SOC or warm_soc - self.soc > 2 * (made.highest_soc - self.soc)

    def unheld(self, deadline_s: float) -> Schedule:
        """Drawing at once, had the house left all hours."""
        free = replace(self.clock, held=())
        return ScheduleSearch(
            free, self.car, self.rate, self.soc, self.target_soc, pack_c=self.pack_c, air_c=self.air_c
        ).from_start(0.0, deadline_s)

    def moved(self, schedule: Schedule, deadline_s: float) -> list[Schedule]:
        """The same with one of its blocks begun on a quarter hour about it, ended later, moved, joined to another, or left out."""
        blocks = _joined(schedule.intervals, deadline_s)
        blocks = [*blocks[:-1], (blocks[-1][0], deadline_s)] if blocks else []
        ways: list[list[Interval]] = []
        for i in range(len(blocks)):
            rest = [*blocks[:i], *blocks[i + 1 :]]
            ways += [[*rest, other] for other in self._others(blocks, i) if other[0] < other[1] - 60.0]
            ways += [rest] if rest else []
        return [self.simulated(_joined(each, deadline_s)) for each in ways]

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

    def with_tail(self, deadline_s: float) -> list[Schedule]:
        """Schedules that fill the pack with the taper on its own: the hours by price up to where the power falls, and the rest in one go
        from a quarter hour on; of all such quarter hours those that promise to cost least are simulated.

        In the taper an hour takes less and less, so that it may lie in a dear hour for little, and must not push full power into one.
        """
        if not self.tapers or self.soc >= TAPER_FROM_SOC:
            return []
        warm_c = self.threshold_c + MILD_K
        tail = fill_up(self.car, self.rate, TAPER_FROM_SOC, self.full_soc, warm_c, air_c=warm_c)
        plain = self.by_price(deadline_s)
        flat_h = max(0.0, plain.drawn_s / S_PER_H - tail.hours_to_limit)
        at_s, wall_kw = np.array([each.at_s for each in tail.steps]), np.array([each.wall_kw for each in tail.steps[1:]])
        ends_s = deadline_s - tail.hours_to_limit * S_PER_H + 60.0
        promised = []
        for from_s in np.arange(-self.clock.start.timestamp() % GRID_S, ends_s, GRID_S).tolist():
            if (flat := self._flat(from_s, flat_h)) is not None:
                last = float(wall_kw @ np.diff(self.clock.paid(at_s + from_s)))
                promised.append((flat[0] + last, from_s, flat[1]))
        least = sorted(promised)[:MOST_TAILS]
        return [self.simulated(_joined([*first, (from_s, deadline_s)], deadline_s)) for _, from_s, first in least]

    def _flat(self, until_s: float, flat_h: float) -> tuple[float, list[Interval]] | None:
        """So many hours of full power by price until a time: their money and when; None where there are not so many."""
        slots = self._slots(0.0, until_s)
        prices, strong_h = [each.price for each in slots], [each.strong_h for each in slots]
        if sum(strong_h) < flat_h - TIME_STEP_H:
            return None
        hours = allocate(prices, strong_h, flat_h)
        money = self.rate.wall_kw * sum(hour * price for hour, price in zip(hours, prices, strict=True))
        return money, _intervals(slots, hours, "late")

    def by_price(self, deadline_s: float, tie_break: str = "late", order: str = "cheapest", after_s: float = 0.0) -> Schedule:
        """The cheapest (or dearest) hours before the deadline, refined until the simulated level meets the target."""
        key = (deadline_s, tie_break, order, after_s)
        if key not in self.priced:
            self.priced[key] = self._by_price(deadline_s, tie_break, order, after_s)
        return self.priced[key]

    def _by_price(self, deadline_s: float, tie_break: str, order: str, after_s: float) -> Schedule:
        slots = self._slots(after_s, deadline_s) if self.need_kwh > 0 else []
        prices, spans = [each.price for each in slots], [each.strong_h for each in slots]
        window_h, need_h, growth, made = sum(spans), self.need_h, 1.0, self.idle
        if not slots:
            return made
        exact, rounds, tried = 1e-4, MOST_ROUNDS, list[Schedule]()
        if self.in_frost:
            at_once, exact, rounds = self.from_start(after_s, deadline_s), 60.0, MOST_ROUNDS // 2
            # where even that falls short of a full pack fewer hours may leave as much: its last part takes next to nothing
            if self.reaches(at_once) or not self.tapers:
                need_h = at_once.drawn_s / S_PER_H
        for turn in range(rounds):
            hours = allocate(prices, spans, min(need_h, window_h), tie_break, order)
            made = self.simulated(_intervals(slots, hours, tie_break))
            tried.append(made)
            missing_soc = self.full_soc - made.highest_soc
            if made.session.unused_s > exact and turn < rounds // 2:
                need_h, growth = min(need_h, window_h) - made.session.unused_s / S_PER_H, 1.0
            elif missing_soc > 1e-8 and need_h < window_h - 1e-6:
                need_h += window_h if turn == rounds - 2 else max(growth * self._hours_of(missing_soc), exact / S_PER_H)
                growth *= 1.5
            else:
                break
        if (tie_break, order, after_s) == ("late", "cheapest", 0.0):
            self.tried[deadline_s] = tried
        return made

    def highest(self, found: Sequence[Schedule], deadline_s: float) -> Schedule:
        """Of schedules that all fall short, and of all that were tried on the way to the hours by price, the cheapest that leaves as much
        as any: an empty car is worse than a dear one.
        """
        short = [*found, self.idle, *(() if self.one_start else self.tried.get(deadline_s, ()))]
        enough_soc = float(as_much(max(each.level_soc for each in short)))
        cheapest: Schedule = min((each for each in short if each.level_soc >= enough_soc), key=lambda each: each.bill)
        return cheapest

    def _hours_of(self, soc: float) -> float:
        """About how long a share of the pack takes, h."""
        return soc * self.car.pack.usable_kwh / max(self.rate.pack_kw, 1e-6)

    def _slots(self, after_s: float, deadline_s: float) -> list[_Slot]:
        """Price slots between two times in which something is offered."""
        slots, full = [], self.rate
        for begin, end, price in self.clock.slots_s:
            span = max(begin, after_s), min(end, deadline_s)
            if span[1] <= span[0]:
                continue
            for (a, b), rate in self.clock.offered([span], full):
                strong = 1.0 if rate is full else rate.pack_kw / full.pack_kw
                dear = 1.0 if rate is full else rate.wall_kw / full.wall_kw / strong
                slots.append(_Slot(a, b, price * dear, (b - a) / S_PER_H * strong, strong))
        return slots


schedules = lru_cache(maxsize=8)(ScheduleSearch)
"""The schedules of a night, remembered with what was simulated of them."""


def _intervals(slots: Sequence[_Slot], hours: Sequence[float], tie_break: str) -> list[Interval]:
    """Drawn time (hours at full power in each slot) as seconds from the start. A part-used slot is drawn next to a drawn neighbour, or by
    the tie_break.
    """
    found: list[Interval] = []
    for i, (slot, drawn) in enumerate(zip(slots, hours, strict=True)):
        if drawn <= TIME_STEP_H:
            continue
        begin, end = slot.begin_s, slot.end_s
        if drawn < slot.strong_h - TIME_STEP_H:
            before = i > 0 and hours[i - 1] > TIME_STEP_H
            after = i + 1 < len(slots) and hours[i + 1] > TIME_STEP_H
            late = after if before != after else tie_break not in ("early", "earliest")
            drawn_s = S_PER_H * drawn / slot.strong
            begin, end = (end - drawn_s, end) if late else (begin, begin + drawn_s)
        if found and begin - found[-1][1] < 1e-6:
            found[-1] = (found[-1][0], end)
        else:
            found.append((begin, end))
    return found
