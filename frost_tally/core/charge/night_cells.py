"""The quarter hours of a row of nights: their prices, what can be drawn in them, and filling them in an order. Why: docs/decisions/0010."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..units import S_PER_H, Array, Flags, Ints
from .allocate import PRICE_STEP, TIME_STEP_H
from .prices import CELL_S, PriceCells

CELL_H = CELL_S / S_PER_H
LATE, EARLY, EARLIEST = range(3)


@dataclass(frozen=True, kw_only=True)
class NightCells:
    """Each night's cells, shape (nights, cells): price of an hour's worth of full power (inf outside), hours at full power inside and when
    they begin (s after the night's beginning), what share of full power there is, and the quarter hour of the local day; where in its first
    cell a night begins (h), and the order in which cells are filled: by price, late among equals.
    """

    price: Array
    room_h: Array
    from_s: Array
    strong: Array
    local: Ints
    begin_h: Array
    late: Ints

    @property
    def whole_h(self) -> Array:
        """Hours of each window."""
        return np.asarray(self.room_h.sum(axis=1))

    def ready_h(self) -> Array:
        """Hours that can be drawn from the beginning of each cell on without a gap, shape (nights, cells)."""
        ready = self.room_h.copy()
        for at in range(ready.shape[1] - 2, -1, -1):
            ready[:, at] = np.where(ready[:, at] > 0, ready[:, at] + ready[:, at + 1], 0.0)
        return ready

    def at(self, rows: Ints) -> "NightCells":
        """Some of the nights."""
        return NightCells(**{name: column[rows] for name, column in vars(self).items()})

    def cheapest(self, hours: Array, tie_break: Ints) -> Array:
        """The cheapest hours, shape (nights, cells), as `allocate` has them: at the marginal price with the fewest starts, then as `LATE`
        or `EARLY` as it allows; or as they come, `EARLIEST` (`hours`, `tie_break`: shape (nights,)).
        """
        count, width = self.price.shape
        each = np.arange(count)
        enough = np.cumsum(np.take_along_axis(self.room_h, self.late, axis=1), axis=1) >= (hours - TIME_STEP_H)[:, None]
        last = np.where(enough.any(axis=1), enough.argmax(axis=1), width - 1)
        marginal = self.price[each, self.late[each, last]][:, None]
        whole = self.price < marginal - PRICE_STEP
        level = ~whole & (self.price <= marginal + PRICE_STEP) & (self.room_h > 0)
        left_h = np.maximum(hours - np.where(whole, self.room_h, 0.0).sum(axis=1), 0.0)
        part_h = np.clip(left_h[:, None] - self._before_each(level, whole, left_h, tie_break), 0.0, self.room_h)
        return np.where(whole, self.room_h, np.where(level, part_h, 0.0))

    def _before_each(self, level: Flags, whole: Flags, left_h: Array, tie_break: Ints) -> Array:
        """Hours of the marginal price (`level`: its cells) that are drawn before each of its cells, when `left_h` of them are: first whole
        gaps between what is drawn anyway (`whole`), then a run of cells that has room for the rest, from where it touches what is drawn,
        the latest or earliest of equals.
        """
        runs, late = (tie_break != EARLIEST)[:, None], (tie_break == LATE)[:, None]
        begins, ends = level & ~_before(level) & runs, level & ~_after(level) & runs
        number = np.where(runs, np.cumsum(begins, axis=1), 1) * level
        most, count = int(number.max(initial=0)) + 1, len(level)
        at = number + most * np.arange(count)[:, None]

        def total(values: Array | Flags) -> Array:
            return np.asarray(np.bincount(at.ravel(), weights=values.ravel(), minlength=most * count).reshape(count, most))

        room_h = np.where(level, self.room_h, 0.0)
        first, last, run_h = total(begins & _before(whole)) > 0, total(ends & _after(whole)) > 0, total(room_h)
        gap = np.zeros(first.shape, dtype=bool)
        for run in range(most - 1, 0, -1):
            gap[:, run] = first[:, run] & last[:, run] & (run_h[:, run] <= left_h + TIME_STEP_H)
            left_h = left_h - np.where(gap[:, run], run_h[:, run], 0.0)
        # `allocate` counts a cell that is drawn in part as joining what is drawn before and after it
        joins = first & last & (run_h <= left_h[:, None] + CELL_H)
        sides = np.where(gap, 3.0, np.where(joins, 2.0, first | last))
        rest_h = left_h[:, None] - np.where(sides == 1, run_h, 0.0).sum(axis=1)[:, None]
        # a run on its own is one more start; where one is needed anyway the time alone decides
        alone = (sides == 0) & (run_h >= rest_h - TIME_STEP_H)
        rank = np.where(alone, np.where(rest_h > TIME_STEP_H, 1.0, 0.5), sides)
        order = np.argsort(2.0 * most * rank + np.where(late, 1, -1) * np.arange(most), axis=1)[:, ::-1]
        sorted_h, before_h = np.take_along_axis(run_h, order, axis=1), np.zeros_like(run_h)
        np.put_along_axis(before_h, order, np.cumsum(sorted_h, axis=1) - sorted_h, axis=1)
        through_h = np.cumsum(room_h, axis=1)
        within_h = through_h - room_h - total(np.where(begins, through_h - room_h, 0.0)).ravel()[at]
        backwards = np.where(first != last, last, late).ravel()[at]
        within_h = np.where(backwards, run_h.ravel()[at] - within_h - room_h, within_h)
        return np.asarray(before_h.ravel()[at] + within_h)

    def last_strength(self, drawn_h: Array) -> Array:
        """What share of full power there is where each night's drawing ends, shape (nights,)."""
        last = drawn_h.shape[1] - 1 - np.argmax(drawn_h[:, ::-1] > 0, axis=1)
        return np.asarray(np.take_along_axis(self.strong, last[:, None], axis=1)[:, 0])

    def edges(self, drawn_h: Array) -> tuple[Array, Array]:
        """Hours from plugging in to the first and the last moment of drawing, as the single plan places them; 0, 0 for none.

        A part-used cell is drawn next to a drawn neighbour, else late.
        """
        row, width = np.arange(len(drawn_h)), drawn_h.shape[1]
        on = drawn_h > 1e-9
        any_on = on.any(axis=1)
        first, last = np.argmax(on, axis=1), width - 1 - np.argmax(on[:, ::-1], axis=1)
        edge = np.arange(width) * CELL_H - self.begin_h[:, None]
        left = np.maximum(edge, 0.0)
        begins_late = left[row, first] + self.room_h[row, first] - drawn_h[row, first]
        before = on[row, np.maximum(last - 1, 0)] & (last > 0)
        ends = left[row, last] + np.where(before, drawn_h[row, last], self.room_h[row, last])
        return np.where(any_on, begins_late, 0.0), np.where(any_on, ends, 0.0)

    def cost(self, drawn_h: Array, wall_kw: float) -> Array:
        """Money of each night's drawn hours at full power (kW at the wall)."""
        return np.asarray((drawn_h * np.where(np.isfinite(self.price), self.price, 0.0)).sum(axis=1) * wall_kw)

    def blocks(self, drawn_h: Array, late: Flags) -> tuple[Array, Array]:
        """Drawn cells as blocks: from and until (s from each night's beginning), as `blocks` has them.

        A part-used cell is drawn next to a drawn neighbour, else late or early (`late`: shape (nights,)).
        """
        real_s = S_PER_H * drawn_h / np.maximum(self.strong, 1e-9)
        room_s = S_PER_H * self.room_h / np.maximum(self.strong, 1e-9)
        on = drawn_h > 1e-9
        before, after = _before(on), _after(on)
        at_end = np.where(before != after, after, late[:, None]) & (real_s < room_s - 1e-6)
        from_s = self.from_s + np.where(at_end, room_s - real_s, 0.0)
        until_s = from_s + real_s
        joined = before & (np.abs(from_s - np.pad(until_s, ((0, 0), (1, 0)))[:, :-1]) < 1e-3)
        label = np.where(on, np.cumsum(on & ~joined, axis=1), 0)
        last_s = until_s.max(axis=1, initial=0.0, where=on)
        begins, ends = [last_s], [last_s]
        for block in range(int(label.max(initial=0)), 0, -1):
            here = label == block
            begins.append(np.where(here, from_s, np.inf).min(axis=1, initial=np.inf))
            ends.append(np.where(here, until_s, -np.inf).max(axis=1, initial=-np.inf))
        begin, end = (np.array(each[:0:-1] or each).T for each in (begins, ends))
        return np.where(np.isfinite(begin), begin, last_s[:, None]), np.where(np.isfinite(end), end, last_s[:, None])


def _before(cells: Flags) -> Flags:
    """Whether the cell before each is one."""
    found = np.zeros_like(cells)
    found[:, 1:] = cells[:, :-1]
    return found


def _after(cells: Flags) -> Flags:
    """Whether the cell after each is one."""
    found = np.zeros_like(cells)
    found[:, :-1] = cells[:, 1:]
    return found


def night_cells(
    begin_s: Array, end_s: Array, prices: PriceCells, *, strength: Array, dear: Array, closed: Sequence[tuple[Array, Array]] = ()
) -> NightCells:
    """The cells of each night between two times (s since 1970, UTC; shape (nights,)), with the hours at full power that each is worth.

    `strength` is the share of full power that each quarter hour of the local day leaves, `dear` how much more an hour's worth of full power
    costs in it: shape (96,). `closed` are spans of the nights in which nothing may be drawn (s from each one's beginning, shape (nights,)).
    Raises: Refusal when the prices do not cover the nights.
    """
    count = len(prices.price_per_kwh)
    first = ((begin_s - prices.start_s) // CELL_S).astype(np.int64)
    width = int(np.max(np.ceil((end_s - prices.start_s) / CELL_S) - first, initial=1.0))
    if first.min(initial=0) < 0 or np.max(end_s, initial=0) > prices.start_s + count * CELL_S:
        raise Refusal("The prices do not reach over all nights.", "tariff")
    cell = first[:, None] + np.arange(width)
    edge_s = prices.start_s + cell * CELL_S
    from_s, until_s = np.maximum(edge_s, begin_s[:, None]), np.minimum(edge_s + CELL_S, end_s[:, None])
    for (
        first_s,
        last_s,
    ) in closed:  # they last longer than a cell: each takes the end of one cell, all of some, and the beginning of another
        first_s, last_s = (begin_s + each for each in (first_s, last_s))
        takes = (first_s[:, None] <= from_s) & (from_s < last_s[:, None])
        from_s = np.where(takes, np.minimum(last_s[:, None], until_s), from_s)
        until_s = np.where((from_s < first_s[:, None]) & (first_s[:, None] < until_s), first_s[:, None], until_s)
    at = np.minimum(cell, count - 1)
    strong = strength[prices.local_cell[at]]
    room_h = np.clip(until_s - from_s, 0.0, CELL_S) / S_PER_H * strong
    price = np.where(room_h > 0, prices.price_per_kwh[at] * dear[prices.local_cell[at]], np.inf)
    late = np.lexsort((-np.arange(width) * np.ones_like(price), price), axis=1)
    begin_h = (begin_s - prices.start_s) / S_PER_H - first * CELL_H
    return NightCells(
        price=price,
        room_h=room_h,
        from_s=from_s - begin_s[:, None],
        strong=strong,
        local=prices.local_cell[at],
        begin_h=begin_h,
        late=late,
    )
