"""Ways to draw power on one night, each simulated in full: by price and tie_break, or from one start on."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from ..battery.cold import CHARGE_FROM_C
from ..car import Car
from ..units import S_PER_H
from .allocate import TIME_STEP_H, allocate
from .night_clock import Drawing, NightClock
from .session import Interval, Session, Step, simulate
from .supply import ChargeRate

MOST_ROUNDS = 18
GRID_S, AIR_S = 900.0, 300.0
REACHED_SOC = 0.0005
MILD_K = 20.0
MOVES_S, LONGER_S = (-3600.0, -1800.0, 1800.0), (1800.0, 3600.0)


@lru_cache(maxsize=8)
def drawings(
    clock: NightClock,
    car: Car,
    rate: ChargeRate,
    soc: float,
    target_soc: float,
    pack_c: float,
    air_c: tuple[float, ...],
    allowed: tuple[float, ...] | None = None,
) -> "Drawings":
    """The ways to draw on a night, remembered with what was simulated of them; `air_c` is °C around the car every five minutes.

    `allowed` are the starts that the control can make (s from the start; None: any, tried on the quarter hours).
    """
    return Drawings(clock, car, rate, soc, target_soc, pack_c, air_c, allowed)


def _joined(intervals: Sequence[Interval], deadline_s: float) -> list[Interval]:
    """Intervals in order, those that touch or overlap as one, none after the deadline."""
    found: list[Interval] = []
    for begin, end in sorted(intervals):
        if found and begin <= found[-1][1] + 1e-6:
            found[-1] = (found[-1][0], min(deadline_s, max(end, found[-1][1])))
        elif begin < deadline_s:
            found.append((begin, min(end, deadline_s)))
    return found


def _crossed_s(before: Step, after: Step, soc: float) -> float:
    """When a level is passed between two steps, s from the start."""
    return before.at_s + (after.at_s - before.at_s) * (soc - before.soc) / (after.soc - before.soc)


class _Slot(NamedTuple):
    """A span at one price (s from the start): what an hour's worth of full power costs in it, how many such hours it has, and what share of
    full power it gives the pack.
    """

    begin_s: float
    end_s: float
    price: float
    strong_h: float
    strong: float


class Drawings:
    """All that is asked of one car on one outlet on one night; each way is simulated once."""

    def __init__(
        self,
        clock: NightClock,
        car: Car,
        rate: ChargeRate,
        soc: float,
        target_soc: float,
        pack_c: float,
        air_c: tuple[float, ...],
        allowed: tuple[float, ...] | None = None,
    ) -> None:
        self.allowed = allowed
        self.clock, self.car, self.rate, self.soc, self.target_soc, self.pack_c = clock, car, rate, soc, target_soc, pack_c
        self.air_c = air_c
        self.need_kwh = max(0.0, target_soc - soc) * car.pack.usable_kwh
        self.need_h = self.need_kwh / max(rate.pack_kw, 1e-6)
        self.threshold_c = CHARGE_FROM_C[car.pack.chemistry]
        self.single: dict[float, tuple[float, Drawing]] = {}
        self.priced: dict[tuple[float, str, str, float], Drawing] = {}
        self.idle = self.simulated([])

    @property
    def in_frost(self) -> bool:
        """Whether the pack is, or would fall while it waits, under the temperature from which it accepts charge."""
        return self.need_kwh > 0 and any(step.pack_c < self.threshold_c for step in self.idle.session.steps)

    def simulated(self, intervals: Sequence[Interval]) -> Drawing:
        """A way to draw, simulated to departure."""
        done = self._session(intervals, self.pack_c, self.clock.end_s, self.around)
        return Drawing(tuple(each for each, _ in self.clock.offered(intervals, self.rate)), done, self.clock.bill(done))

    def _session(self, intervals: Sequence[Interval], pack_c: float, end_s: float, air_c: Callable[[float], float]) -> Session:
        """Drawing whatever the supply gives in some intervals."""
        offered = self.clock.offered(intervals, self.rate)
        spans, rates = [each for each, _ in offered], [rate for _, rate in offered]
        return simulate(self.car, self.rate, self.soc, max(self.target_soc, 0.01), pack_c, spans, end_s, air_c, rates)

    def around(self, at_s: float) -> float:
        """Air around the car (°C) at a time, from values on every five minutes."""
        place = at_s / AIR_S
        whole = int(place)
        return self.air_c[whole] + (self.air_c[whole + 1] - self.air_c[whole]) * (place - whole)

    def air_while(self, drawing: Drawing) -> float:
        """The mean air around the car while a way draws, °C."""
        spans = [(begin, min(end, drawing.done_s)) for begin, end in drawing.intervals if begin < drawing.done_s]
        hours = [end - begin for begin, end in spans]
        return float(np.average([self.around((begin + end) / 2) for begin, end in spans], weights=hours)) if spans else 0.0

    def reaches(self, drawing: Drawing) -> bool:
        """Whether it comes to the target."""
        return self.target_soc - drawing.highest_soc <= REACHED_SOC

    def from_start(self, begin_s: float, deadline_s: float) -> Drawing:
        """Drawing from one start until the target is reached, or the deadline."""
        until_s, known = self.single.get(begin_s, (-1.0, self.idle))
        if until_s < 0 or known.done_s > deadline_s + 1e-6 or (not self.reaches(known) and until_s < deadline_s):
            known = self.simulated([self._span(begin_s, deadline_s)])
            self.single[begin_s] = deadline_s, known
        return known

    def _span(self, begin_s: float, deadline_s: float) -> Interval:
        """What one start draws in: a control that has only the one is stopped where the house closes, any other goes on after it."""
        if self.allowed is None:
            return begin_s, deadline_s
        first_s = min(self.clock.open_from(begin_s), deadline_s)
        return first_s, min(self.clock.closes(first_s), deadline_s)

    def cold_binds(self, made: Drawing, deadline_s: float) -> bool:
        """Whether cold, more than the supply, keeps a way to draw from the target.

        That is so when drawing at once would reach it with a warm pack, or would gain more than twice as much as was gained.
        """
        mild_c = self.threshold_c + MILD_K
        done = self._session([(0.0, deadline_s)], mild_c, deadline_s, lambda _: mild_c)
        warm_soc = max(step.soc for step in done.steps)
        return self.target_soc - warm_soc <= REACHED_SOC or warm_soc - self.soc > 2 * (made.highest_soc - self.soc)

    def unheld(self, deadline_s: float) -> Drawing:
        """Drawing at once, had the house left all hours."""
        free = replace(self.clock, held=())
        return Drawings(free, self.car, self.rate, self.soc, self.target_soc, self.pack_c, self.air_c).from_start(0.0, deadline_s)

    def moved(self, drawing: Drawing, deadline_s: float) -> list[Drawing]:
        """The same way with one of its blocks begun earlier or later, ended later, joined to the one before, or without it."""
        blocks = [*drawing.intervals[:-1], (drawing.intervals[-1][0], deadline_s)] if drawing.intervals else []
        ways: list[list[Interval]] = []
        for i, (begin, end) in enumerate(blocks):
            others = [(max(0.0, begin + shift_s), end) for shift_s in MOVES_S]
            others += [(begin, end + longer_s) for longer_s in LONGER_S if i < len(blocks) - 1]
            others += [(blocks[i - 1][0], end)] if i else []
            rest = [*blocks[:i], *blocks[i + 1 :]]
            ways += [[*rest, other] for other in others if other[0] < other[1] - 60.0]
            ways += [rest] if rest else []
        return [self.simulated(_joined(each, deadline_s)) for each in ways]

    def topped_late(self, drawing: Drawing, from_soc: float, deadline_s: float) -> list[Drawing]:
        """The same way up to a level, its last block as it was or later by what is cut off, and the rest just before the deadline, from
        the latest begin (of ever longer ones) that reaches the target; none when the parts meet.
        """
        steps = drawing.session.steps
        cut_s = next((_crossed_s(a, b, from_soc) for a, b in pairwise(steps) if b.soc > from_soc >= a.soc), 0.0)
        first = [(begin, min(end, cut_s)) for begin, end in drawing.intervals if begin < cut_s - 60.0]
        rest_s = sum(max(0.0, min(end, drawing.done_s) - max(begin, cut_s)) for begin, end in drawing.intervals)
        end_s = min(drawing.done_s, drawing.intervals[len(first) - 1][1]) if first else 0.0
        later = [[*first[:-1], (first[-1][0] + end_s - cut_s, end_s)]] if first and end_s > cut_s else []
        return [made for way in [first, *later] if (made := self._with_rest(way, rest_s, deadline_s)) is not None]

    def _with_rest(self, first: Sequence[Interval], rest_s: float, deadline_s: float) -> Drawing | None:
        """A way that ends with drawing up to the deadline, for some time or ever longer until it reaches the target; where less than a
        quarter hour would lie between, the block before comes later instead.
        """
        done_s = first[-1][1] if first else 0.0
        while rest_s > 0 and (gap_s := deadline_s - rest_s - done_s) > 60.0:
            joined = first and gap_s < GRID_S
            rest = [(first[-1][0] + gap_s, deadline_s)] if joined else [(deadline_s - rest_s, deadline_s)]
            made = self.simulated([*(first[:-1] if joined else first), *rest])
            if self.reaches(made):
                return made
            rest_s = max(1.1 * rest_s, rest_s + 120.0)
        return None

    def by_price(self, deadline_s: float, tie_break: str = "late", order: str = "cheapest", after_s: float = 0.0) -> Drawing:
        """The cheapest (or dearest) hours before the deadline, refined until the simulated level meets the target."""
        key = (deadline_s, tie_break, order, after_s)
        if key not in self.priced:
            self.priced[key] = self._by_price(deadline_s, tie_break, order, after_s)
        return self.priced[key]

    def _by_price(self, deadline_s: float, tie_break: str, order: str, after_s: float) -> Drawing:
        slots = self._slots(after_s, deadline_s)
        prices, spans = [each.price for each in slots], [each.strong_h for each in slots]
        window_h, need_h, growth, made = sum(spans), self.need_h, 1.0, self.idle
        if self.need_kwh <= 0 or not slots:
            return made
        exact, rounds = 1e-4, MOST_ROUNDS
        if self.in_frost:
            first = self.from_start(after_s, deadline_s)
            need_h, exact, rounds = first.done_s / S_PER_H, 60.0, MOST_ROUNDS // 2
        for turn in range(rounds):
            hours = allocate(prices, spans, min(need_h, window_h), tie_break, order)
            made = self.simulated(_intervals(slots, hours, tie_break))
            missing_soc = self.target_soc - made.highest_soc
            if made.session.unused_s > exact and turn < rounds // 2:
                need_h, growth = need_h - made.session.unused_s / S_PER_H, 1.0
            elif missing_soc > 1e-8 and need_h < window_h - 1e-6:
                step_h = missing_soc * self.car.pack.usable_kwh / max(self.rate.pack_kw, 1e-6)
                need_h += window_h if turn == rounds - 2 else max(growth * step_h, exact / S_PER_H)
                growth *= 1.5
            else:
                break
        return made

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
            late = after if before != after else tie_break != "early"
            drawn_s = S_PER_H * drawn / slot.strong
            begin, end = (end - drawn_s, end) if late else (begin, begin + drawn_s)
        if found and begin - found[-1][1] < 1e-6:
            found[-1] = (found[-1][0], end)
        else:
            found.append((begin, end))
    return found
