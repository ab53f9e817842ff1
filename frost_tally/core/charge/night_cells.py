"""The quarter hours of a row of nights: their prices, what can be drawn in them, and filling them in an order."""

from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..units import S_PER_H, Array, Ints
from .prices import CELL_S, PriceCells

CELL_H = CELL_S / S_PER_H


@dataclass(frozen=True, kw_only=True)
class NightCells:
    """Each night's cells: price (inf outside) and hours inside, shape (nights, cells), where in its first cell a night begins,
    and the orders in which cells are filled: by price, late or early among equals, or as they come.
    """

    first_cell: Ints
    price: Array
    room_h: Array
    begin_h: Array
    late: Ints
    early: Ints
    first: Ints

    @property
    def whole_h(self) -> Array:
        """Hours of each window."""
        return np.asarray(self.room_h.sum(axis=1))

    def at(self, rows: Ints) -> "NightCells":
        """Some of the nights."""
        return NightCells(**{name: column[rows] for name, column in vars(self).items()})

    def filled(self, order: Ints, hours: Array) -> Array:
        """Hours drawn in each cell, shape (nights, cells), when each night's `hours` fill its cells in an order."""
        sorted_h = np.take_along_axis(self.room_h, order, axis=1)
        before = np.cumsum(sorted_h, axis=1) - sorted_h
        drawn = np.zeros_like(self.room_h)
        np.put_along_axis(drawn, order, np.clip(hours[:, None] - before, 0.0, sorted_h), axis=1)
        return drawn

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

    def cost(self, drawn_h: Array, wall_kwh: Array) -> Array:
        """Money for each night's wall energy (kWh), spread evenly over its drawn hours."""
        mean_kw = wall_kwh / np.maximum(drawn_h.sum(axis=1), 1e-9)
        return np.asarray((drawn_h * np.where(np.isfinite(self.price), self.price, 0.0)).sum(axis=1) * mean_kw)


def night_cells(begin_s: Array, end_s: Array, prices: PriceCells, strength: Array) -> NightCells:
    """The cells of each night between two times (s since 1970, UTC; shape (nights,)), with the hours at full power that each is worth.

    `strength` is the share of full power that each quarter hour of the local day leaves: shape (96,).
    Raises: Refusal when the prices do not cover the nights.
    """
    count = len(prices.price_per_kwh)
    first = ((begin_s - prices.start_s) // CELL_S).astype(np.int64)
    width = int(np.max(np.ceil((end_s - prices.start_s) / CELL_S) - first, initial=1.0))
    if first.min(initial=0) < 0 or np.max(end_s, initial=0) > prices.start_s + count * CELL_S:
        raise Refusal("The prices do not reach over all nights.", "tariff")
    cell = first[:, None] + np.arange(width)
    edge_s = prices.start_s + cell * CELL_S
    inside_s = np.minimum(edge_s + CELL_S, end_s[:, None]) - np.maximum(edge_s, begin_s[:, None])
    room_h = np.clip(inside_s, 0.0, CELL_S) / S_PER_H
    at = np.minimum(cell, count - 1)
    room_h = room_h * strength[prices.local_cell[at]]
    price = np.where(room_h > 0, prices.price_per_kwh[at], np.inf)
    place = np.arange(width) * np.ones_like(price)
    late, early = (np.lexsort((sign * place, price), axis=1) for sign in (-1, 1))
    begin_h = (begin_s - prices.start_s) / S_PER_H - first * CELL_H
    return NightCells(
        first_cell=first,
        price=price,
        room_h=room_h,
        begin_h=begin_h,
        late=late,
        early=early,
        first=np.broadcast_to(np.arange(width), price.shape),
    )
