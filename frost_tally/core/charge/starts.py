"""Single starts of a night: which are allowed, which may cost least, the latest that reaches the target, those in the coolest air."""

from collections.abc import Callable, Sequence
from itertools import pairwise

import numpy as np

from ..units import S_PER_H, Array
from .drawing import GRID_S, REACHED_SOC, Drawings
from .night_clock import Drawing

ANCHORS, MISSES, NEAR = 4, 2, 0.004
COOLEST = 3


class Starts:
    """The single starts among the ways to draw on a night."""

    def __init__(self, drawings: Drawings) -> None:
        self.drawings, self.clock = drawings, drawings.clock

    def able(self, deadline_s: float) -> list[float]:
        """The starts that are allowed until the deadline (s from the start): those of the control, else plug-in and every quarter hour;
        none while the house gives nothing.
        """
        first = -self.clock.start.timestamp() % GRID_S
        grid = [first + GRID_S * i for i in range(int(max(0.0, deadline_s - first) // GRID_S) + 1)]
        any_of = self.drawings.allowed if self.drawings.allowed is not None else (0.0, *(each for each in grid if each > 1.0))
        return [each for each in any_of if each < deadline_s - 60.0 and self.clock.open_from(each) == each]

    def cheap(self, deadline_s: float, score: Callable[[Drawing], float]) -> list[Drawing]:
        """Single starts on the quarter hour, simulated where they may score lowest (`score` is the bill and more, money).

        How a session goes from its start on depends on the cold alone: a few sessions moved to every quarter hour and weighed by
        nearness say what each would cost, and the lowest are simulated until some in a row are no better. Where the house leaves less for
        some hours, each is simulated.
        """
        if self.clock.held:
            return [self.drawings.from_start(each, deadline_s) for each in self.able(deadline_s)]
        anchors = self._anchors(deadline_s)
        if not anchors:
            return [self.drawings.from_start(each, deadline_s) for each in self.able(deadline_s)[:1]]
        starts = np.array(self.able(deadline_s))
        found = [*anchors, *(self.drawings.from_start(each, deadline_s) for each in self._at_edges(anchors, starts))]
        begins = np.array([each.intervals[0][0] for each in anchors])
        bills = np.array([self._moved_bills(each, starts) + score(each) - each.bill for each in anchors])
        guess = np.array([np.interp(start, begins, bills[:, i]) for i, start in enumerate(starts)])
        guess[starts + self._lasts(anchors, starts) > deadline_s + 60.0] = np.inf
        best, misses = min(score(each) for each in found if self.drawings.reaches(each)), 0
        for i in np.argsort(guess):
            if misses == MISSES or guess[i] > best + NEAR * abs(best):
                break
            found.append(self.drawings.from_start(float(starts[i]), deadline_s))
            better = self.drawings.reaches(found[-1]) and score(found[-1]) < best - 1e-9
            best, misses = (score(found[-1]), 0) if better else (best, misses + 1)
        return found

    def _at_edges(self, anchors: Sequence[Drawing], starts: Array) -> list[float]:
        """Starts at the edges of prices, where only single ones are allowed (else hours by price are tried as well): the first in cheaper
        hours, and the last that is done before dearer ones.
        """
        if self.drawings.allowed is None:
            return []
        ends, found = starts + self._lasts(anchors, starts), set[float]()
        for (_, edge, price), (_, _, following) in pairwise(self.clock.slots_s):
            if following < price:
                found.update(starts[starts >= edge - 1e-6][:1].tolist())
            elif following > price:
                found.update(starts[ends <= edge + 60.0][-1:].tolist())
        return sorted(found)

    def latest(self, deadline_s: float) -> float:
        """The latest quarter hour from which the target is reached, s from the start; 0 when none is."""
        starts = np.array(self.able(deadline_s))
        if self.clock.held:
            return next(
                (each for each in starts[::-1].tolist() if self.drawings.reaches(self.drawings.from_start(each, deadline_s))), 0.0
            )
        anchors = self._anchors(deadline_s)
        if not anchors:
            return 0.0
        able = np.flatnonzero(starts + self._lasts(anchors, starts) <= deadline_s + 60.0)
        for i in able[::-1]:
            if self.drawings.reaches(self.drawings.from_start(float(starts[i]), deadline_s)):
                return float(starts[i])
        return 0.0

    def _anchors(self, deadline_s: float) -> list[Drawing]:
        """Single starts, spread over those that can reach the target; none when the first does not."""
        starts = np.array(self.able(deadline_s))
        if not len(starts) or not self.drawings.reaches(first := self.drawings.from_start(float(starts[0]), deadline_s)):
            return []
        spread = np.linspace(starts[0], starts[0] + max(0.0, deadline_s - self._reached_s(first)), ANCHORS)
        chosen = sorted({int(i) for i in np.searchsorted(starts, spread - 1e-6)} - {len(starts)})
        found = [self.drawings.from_start(float(starts[i]), deadline_s) for i in chosen]
        return [each for each in found if self.drawings.reaches(each)]

    def _lasts(self, anchors: Sequence[Drawing], starts: Array) -> Array:
        """How long drawing would take from some starts, s."""
        begins = [each.intervals[0][0] for each in anchors]
        return np.interp(starts, begins, [self._reached_s(each) - each.intervals[0][0] for each in anchors])

    def _reached_s(self, drawing: Drawing) -> float:
        """When it is as good as at the target, s from the start of the night."""
        return next(step.at_s for step in drawing.session.steps if step.soc >= self.drawings.target_soc - REACHED_SOC)

    def _moved_bills(self, drawing: Drawing, starts: Array) -> Array:
        """The bill of a single start's session had it begun at other times: shape (starts,)."""
        edges = np.array([0.0, *(end for _, end, _ in self.clock.slots_s)])
        paid = np.concatenate([[0.0], np.cumsum([(end - begin) * price for begin, end, price in self.clock.slots_s])])
        steps = [step for step in drawing.session.steps if drawing.intervals[0][0] - 1e-6 <= step.at_s <= drawing.done_s + 1e-6]
        at = np.array([step.at_s for step in steps]) - drawing.intervals[0][0]
        spent = np.diff(np.interp(starts[:, None] + at, edges, paid), axis=1) / S_PER_H
        return np.asarray(spent @ np.array([step.wall_kw for step in steps[1:]]))

    def coolest(self, deadline_s: float) -> list[Drawing]:
        """The single starts whose hours, as many as a warm pack needs, have the coolest air."""
        lasts_s = S_PER_H * self.drawings.need_h
        able = [each for each in self.able(deadline_s) if each <= deadline_s - lasts_s]
        able.sort(key=lambda begin: sum(self.drawings.around(begin + part * lasts_s) for part in (0.0, 0.25, 0.5, 0.75, 1.0)))
        return [self.drawings.from_start(each, deadline_s) for each in able[:COOLEST]]
