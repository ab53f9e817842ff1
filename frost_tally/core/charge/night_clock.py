"""A night's time: what the supply offers and at what price, hours in which the house leaves less, and a schedule with its bill."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from functools import cached_property
from itertools import pairwise
from math import inf
from typing import Annotated, NamedTuple
from zoneinfo import ZoneInfo

import numpy as np

from ..fields import Field
from ..units import S_PER_H, Array
from .prices import PriceSlot
from .session import Interval, Session
from .supply import ChargeRate

SAME_S = 1e-3


class Held(NamedTuple):
    """A span of a night (s from its start) in which the supply gives another rate, or nothing (None)."""

    begin_s: float
    end_s: float
    rate: ChargeRate | None


@dataclass(frozen=True)
class HeldHours:
    """Hours of every day, local and perhaps past midnight, in which the house leaves the car so many amperes (under 6: none at all).

    The same time twice means no such hours. Source: what a main fuse and the other loads leave is the owner's to know.
    """

    begin: Annotated[time, Field(column="held_from", empty=time())] = time()
    until: Annotated[time, Field(column="held_until", empty=time())] = time()
    amps: Annotated[float, Field("current", 0, 100, column="held_a", empty=0.0)] = 0.0

    def spans(self, start: datetime, end_s: float, zone: str) -> list[Interval]:
        """Where they lie on a night (aware start, length in s), as seconds from its start."""
        if self.begin == self.until:
            return []
        local, found = start.astimezone(ZoneInfo(zone)), []
        for day in range(-1, int(end_s // 86_400) + 3):
            date = local.date() + timedelta(days=day)
            ends = date + timedelta(days=1) if self.until < self.begin else date
            edges = [datetime.combine(*each, tzinfo=ZoneInfo(zone)) for each in ((date, self.begin), (ends, self.until))]
            # a difference of times is exact, one of their stamps is not: a start just where hours end would lie within them
            at_s, to_s = ((each.astimezone(UTC) - start).total_seconds() for each in edges)
            begin_s, until_s = max(0.0, at_s), min(end_s, to_s)
            if until_s > begin_s:
                found.append((begin_s, until_s))
        return found

    def of_cells(self) -> Array:
        """What share of each quarter hour of the local day they take: shape (96,)."""
        edges = 900.0 * np.arange(97)
        begin, until = (3600.0 * each.hour + 60.0 * each.minute for each in (self.begin, self.until))
        before = np.clip(edges, 0.0, until) - np.clip(edges, 0.0, begin)
        taken = np.diff(before)
        return np.asarray(taken if begin <= until else 900.0 + taken) / 900.0

    def held(self, rate: ChargeRate, start: datetime, end_s: float, zone: str) -> tuple[Held, ...]:
        """The same with what the supply gives then; none where that is as much as always."""
        here = rate.held_to(self.amps)
        return () if here is rate else tuple(Held(*each, here) for each in self.spans(start, end_s, zone))


@dataclass(frozen=True)
class Schedule:
    """Drawn times (s from the start of the night of a clock) and the session they lead to; what was `asked` may hold closed hours of the
    house, after which a full car does not start again.
    """

    intervals: tuple[Interval, ...]
    session: Session
    clock: "NightClock"
    asked: tuple[Interval, ...]

    @cached_property
    def bill(self) -> float:
        """Money for its wall energy."""
        return self.clock.bill(self.session)

    @cached_property
    def highest_soc(self) -> float:
        """The highest level of the night."""
        return max(step.soc for step in self.session.steps)

    @property
    def level_soc(self) -> float:
        """The level at departure, before a warm-up takes its part."""
        return self.session.steps[-1].soc

    @property
    def pauses(self) -> bool:
        """Whether it draws in several blocks."""
        return any(begin - end > SAME_S for (_, end), (begin, _) in pairwise(self.intervals))

    @property
    def drawn_s(self) -> float:
        """How long power is drawn, s."""
        return sum(end - begin for begin, end in self.intervals) - self.session.unused_s

    @cached_property
    def done_s(self) -> float:
        """When power was last drawn, s from the start; 0 for never."""
        return next((step.at_s for step in reversed(self.session.steps) if step.wall_kw > 0), 0.0)


@dataclass(frozen=True)
class NightClock:
    """A night from plug-in to departure: its start (UTC), length (s), price slots, which cover it, and the spans in which the house leaves
    less (sorted, disjoint).
    """

    start: datetime
    end_s: float
    prices: tuple[PriceSlot, ...]
    held: tuple[Held, ...] = ()

    @cached_property
    def slots_s(self) -> tuple[tuple[float, float, float], ...]:
        """Begin and end (s from the start) and price of each slot."""
        return tuple((self.seconds(each.start), self.seconds(each.end), each.price_per_kwh) for each in self.prices)

    def seconds(self, moment: datetime) -> float:
        """Seconds since the start."""
        return (moment - self.start).total_seconds()

    def moment(self, seconds: float) -> datetime:
        """The time so many seconds after the start."""
        return self.start + timedelta(seconds=seconds)

    @cached_property
    def _paid(self) -> tuple[Array, Array]:
        """Edges of the price slots (s from the start), and what a kW drawn until each costs."""
        edges = np.array([0.0, *(end for _, end, _ in self.slots_s)])
        prices = np.array([price for _, _, price in self.slots_s])
        return edges, np.concatenate([[0.0], np.cumsum(np.diff(edges) * prices)]) / S_PER_H

    def paid(self, at_s: Array) -> Array:
        """What a kW drawn from the start until some times (s) costs, money."""
        return np.asarray(np.interp(at_s, *self._paid))

    def spent(self, begin_s: float, end_s: float) -> float:
        """Price integrated over a span, in money per kW drawn."""
        begin, end = self.paid(np.array([begin_s, end_s]))
        return float(end - begin)

    def bill(self, session: Session) -> float:
        """Money for the wall energy of each step at the price of its time."""
        paid = self.paid(session.table[:, 0])
        return float(session.table[1:, 3] @ (paid[1:] - paid[:-1]))

    def open_from(self, at_s: float) -> float:
        """The first moment from a time on at which anything may be drawn, s from the start."""
        return next((each.end_s for each in self.held if each.rate is None and each.begin_s <= at_s < each.end_s), at_s)

    def closes(self, at_s: float) -> float:
        """When next nothing may be drawn, s from the start; inf for never."""
        return next((each.begin_s for each in self.held if each.rate is None and each.begin_s > at_s), inf)

    def pieces(self, intervals: Sequence[Interval], rate: ChargeRate) -> list[tuple[Interval, ChargeRate | None]]:
        """Intervals cut where the supply gives more or less, with what it gives in each (None: nothing)."""
        if not self.held:
            return [(each, rate) for each in intervals]
        edges = sorted({edge for each in self.held for edge in (each.begin_s, each.end_s)})
        return [(piece, self.rate_at(sum(piece) / 2, rate)) for each in intervals for piece in _cut(each, edges)]

    def offered(self, intervals: Sequence[Interval], rate: ChargeRate) -> list[tuple[Interval, ChargeRate]]:
        """The same without those in which it gives nothing."""
        return [(piece, here) for piece, here in self.pieces(intervals, rate) if here is not None]

    def rate_at(self, at_s: float, rate: ChargeRate) -> ChargeRate | None:
        """What the supply gives at a time, for what it gives otherwise."""
        return next((each.rate for each in self.held if each.begin_s <= at_s < each.end_s), rate)


def _cut(interval: Interval, edges: Sequence[float]) -> list[Interval]:
    """An interval cut at the edges within it; seconds are rounded, so that one that is all but its own is none."""
    begin, end = interval
    return list(pairwise([begin, *(each for each in edges if begin + SAME_S < each < end - SAME_S), end]))
