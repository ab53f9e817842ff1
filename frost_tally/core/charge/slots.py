"""The price slots of one night as one car on one supply can use them."""

from collections.abc import Sequence
from itertools import pairwise
from math import ceil
from typing import NamedTuple

from ..units import S_PER_H
from .allocate import TIME_STEP_H
from .night_clock import SAME_S, NightClock
from .session import Interval
from .supply import ChargeRate


class Slot(NamedTuple):
    """A span at one price (s from the start): what an hour's worth of full power costs in it, how many such hours it has, and what share of
    full power it gives the pack.
    """

    begin_s: float
    end_s: float
    price: float
    strong_h: float
    strong: float

    def cut(self, most_s: float) -> list["Slot"]:
        """The same in equal pieces of at most so long."""
        count = ceil((self.end_s - self.begin_s) / most_s - 1e-9)
        edges = [self.begin_s + (self.end_s - self.begin_s) * i / count for i in range(count + 1)]
        return [self._replace(begin_s=a, end_s=b, strong_h=self.strong_h / count) for a, b in pairwise(edges)]


def slots_between(clock: NightClock, full: ChargeRate, after_s: float, deadline_s: float) -> list[Slot]:
    """Price slots between two times (s from the start) in which something is offered."""
    slots = []
    for begin, end, price in clock.slots_s:
        span = max(begin, after_s), min(end, deadline_s)
        if span[1] - span[0] <= SAME_S:  # seconds are rounded: of two that are equal one may be later
            continue
        for (a, b), rate in clock.offered([span], full):
            strong = 1.0 if rate is full else rate.pack_kw / full.pack_kw
            dear = 1.0 if rate is full else rate.wall_kw / full.wall_kw / strong
            slots.append(Slot(a, b, price * dear, (b - a) / S_PER_H * strong, strong))
    return slots


def intervals(slots: Sequence[Slot], hours: Sequence[float], tie_break: str) -> list[Interval]:
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
