"""The single starts of a night: every one that the control allows, simulated at once. Why: docs/decisions/0044."""

import numpy as np

from ..units import Array, Flags
from .night_clock import SAME_S
from .schedules import AIR_S, COARSE_S, Schedule, ScheduleSearch, as_much
from .sessions import Sessions, simulate_all

SHORTEST_S, WAITING_S = 60.0, 3600.0


class EveryStart:
    """The starts of a night that fall where the house gives something; each draws until the target or, at the latest, the departure."""

    def __init__(self, search: ScheduleSearch) -> None:
        self.search, self.clock = search, search.clock
        starts = [each for each in search.starts if each < self.clock.end_s - SHORTEST_S]
        able = [each for each in starts if self.clock.open_from(each) - each <= SAME_S]
        self.begin_s = np.array(able, dtype=float)
        self.known: dict[float, Sessions] = {}

    def sessions(self, deadline_s: float) -> Sessions:
        """Their courses, one a row. Where the power tapers they end at a time at the latest: what comes after it is next to nothing for an
        hour of overhead and heat; else those that are through before it are the same for all times.
        """
        end_s = deadline_s if self.search.tapers else self.clock.end_s
        if end_s not in self.known:
            self.known[end_s] = self._simulated(end_s)
        return self.known[end_s]

    def _simulated(self, until_s: float) -> Sessions:
        search, end_s = self.search, self.clock.end_s
        stops_s = np.array([max(each, search.until(each, until_s)) for each in self.begin_s])
        pieces = self.clock.pieces([(0.0, end_s)], search.rate)
        rates = [rate for _, rate in pieces if rate is not None]
        drawn = [
            (*(np.clip(edge, self.begin_s, stops_s) for edge in span), np.full(len(stops_s), rates.index(rate) if rate else -1))
            for span, rate in pieces
        ]
        at_s = AIR_S * np.arange(len(search.air_c))
        return simulate_all(
            search.car, search.soc, max(search.full_soc, 0.01), pack_c=search.pack_c, rates=rates, drawn=drawn,
            end_s=end_s, air_c=lambda _, now_s: np.asarray(np.interp(now_s, at_s, search.air_c)), step_s=COARSE_S, wait_s=WAITING_S,
        )  # fmt: skip

    def reaching(self, deadline_s: float, before_s: Array | float = np.inf) -> Flags:
        """Which of them are as good as at the target by a time, and each before a time of its own (s)."""
        reached = self.sessions(deadline_s).reached_s(self.search.goal_soc)
        return np.asarray(reached <= np.minimum(deadline_s, before_s))

    def best_short(self, deadline_s: float) -> Schedule | None:
        """Where none reaches the target by a time: of those that come highest the cheapest, the last of equals; None without any start."""
        if not len(self.begin_s):
            return None
        done = self.sessions(deadline_s)
        level = done.soc_at(deadline_s)
        highest = np.flatnonzero(level >= as_much(level.max()))[::-1]
        bill = done.bill(lambda at_s: self.clock.paid(np.minimum(at_s, deadline_s)))
        cheapest = highest[int(np.argmin(bill[highest]))]
        return self.search.from_start(float(self.begin_s[cheapest]), deadline_s)

    def latest(self, deadline_s: float) -> float:
        """The latest from which the target is reached, s from the start of the night; 0 when there is none."""
        able = np.flatnonzero(self.reaching(deadline_s))
        return float(self.begin_s[able[-1]]) if able.size else 0.0

    def after(self, at_s: float) -> float | None:
        """The first start at or after a time (s); None for none."""
        later = self.begin_s[self.begin_s >= at_s]
        return float(later[0]) if later.size else None

    def air_while(self, deadline_s: float) -> Array:
        """The mean air around the car while each draws, °C."""
        ends = np.maximum(self.sessions(deadline_s).done_s, self.begin_s)
        parts = [self.begin_s + part * (ends - self.begin_s) for part in (0.1, 0.3, 0.5, 0.7, 0.9)]
        at_s = AIR_S * np.arange(len(self.search.air_c))
        return np.asarray(np.mean([np.interp(each, at_s, self.search.air_c) for each in parts], axis=0))
