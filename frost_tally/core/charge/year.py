"""A year of nights under a tariff: each planned at least cost, all at once.

The nights hang together only through the level: what a window was too short for is missing the next evening. Everything
else is one pass over arrays with a row for each night.
"""

from dataclasses import dataclass

import numpy as np

from ..battery.cold import CHARGE_FROM_C
from ..car import PARKED_W_PER_K, STANDBY_PER_DAY, Car
from ..errors import Refusal
from ..heat.lumped import relax
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H, Array
from .night import MARGIN_MIN
from .supply import ChargeRate
from .table import ChargeTable, WarmTable, charge_table, warm_table
from .tariff import CELL_S, Ints, PriceCells

CELL_H = CELL_S / S_PER_H
ROUNDS = 3


@dataclass(frozen=True)
class Nights:
    """What is known of a row of nights; arrays of shape (nights,).

    `plug_in_s`, `departure_s`: s since 1970, UTC, each night before the next; `use_kwh`: from the pack on the day after
    each departure; `pack_c`: when plugged in; `air_c`: mean air around the parked car; `morning_c`: air at departure.
    """

    plug_in_s: Array
    departure_s: Array
    use_kwh: Array
    pack_c: Array
    air_c: Array
    morning_c: Array


@dataclass(frozen=True)
class Charger:
    """A car on a supply with its habit: the limit (0 to 1) and the warm-up, with their tables."""

    car: Car
    rate: ChargeRate
    limit_soc: float
    charging: ChargeTable
    warming: WarmTable


@dataclass(frozen=True)
class YearPlan:
    """Result by night: shape (nights,). `short_kwh` is what the days would have used beyond an empty pack.

    `drawn_h` has a column for each quarter hour from the first touched by the night; `first_cell` says which of the
    prices' cells that is.
    """

    wall_kwh: Array
    cost: Array
    pack_kwh: Array
    lost_kwh: Array
    soc_departure: Array
    short_kwh: Array
    drawn_h: Array
    first_cell: Ints

    @property
    def short_nights(self) -> int:
        """Days that the wall alone did not carry."""
        return int(np.count_nonzero(self.short_kwh > 0.01))


def charger(car: Car, rate: ChargeRate, limit_soc: float, choice: WarmUpChoice, cabin_c: float = 20.0) -> Charger:
    """Tabulate a car on a supply. Raises: Refusal for a limit outside 10 to 100 %."""
    if not 0.1 <= limit_soc <= 1.0:
        raise Refusal("The limit must lie between 10 and 100 %.", "limit")
    return Charger(car, rate, limit_soc, charge_table(car, rate, limit_soc), warm_table(car, rate, choice, cabin_c))


def plan_year(hung: Charger, nights: Nights, prices: PriceCells) -> YearPlan:
    """Plan every night at least cost up to the limit; the first evening begins with the limit less the first day's use.

    With pack and air above the threshold a night costs exactly what `night.plan` says; in frost the pack's cooling until
    the first drawn hour is in closed form and the heating from the table.
    Raises: Refusal when the prices do not cover the nights.
    """
    lead_h, warm_wall, warm_pack = hung.warming.ask(nights.morning_c, nights.morning_c)
    end_s = nights.departure_s - np.maximum(MARGIN_MIN * 60.0, lead_h * S_PER_H)
    end_s = np.maximum(end_s, nights.plug_in_s)
    first, price, room_h = _windows(nights.plug_in_s, end_s, prices)
    order = np.lexsort((-np.arange(price.shape[1]) * np.ones_like(price), price), axis=1)
    begin_h = (nights.plug_in_s - prices.start_s) / S_PER_H - first * CELL_H
    stay_h = (nights.departure_s - nights.plug_in_s) / S_PER_H
    drawn, hours, wall = np.zeros_like(room_h), np.zeros(len(end_s)), np.zeros(len(end_s))
    wait_h = idle_h = after_h = np.zeros(len(end_s))
    need = level = short = np.zeros(len(end_s))
    for _ in range(ROUNDS):
        start_c = _start(hung, nights, wait_h)
        most = hung.charging.gain_kwh(room_h.sum(axis=1), start_c, nights.air_c)
        need, level, short = _levels(hung, nights, most, warm_pack, idle_h, after_h)
        hours, wall = hung.charging.ask(need, start_c, nights.air_c)
        drawn = _fill(order, room_h, hours)
        wait_h, end_h = _edges(drawn, room_h, begin_h)
        idle_h, after_h = np.maximum(end_h - drawn.sum(axis=1), 0.0), stay_h - end_h
    filled = np.minimum(1.0, drawn.sum(axis=1) / np.maximum(hours, 1e-9))
    wall = wall * filled
    mean_kw = wall / np.maximum(drawn.sum(axis=1), 1e-9)
    cost = (drawn * np.where(np.isfinite(price), price, 0.0)).sum(axis=1) * mean_kw
    morning = prices.price_per_kwh[np.clip((nights.departure_s - prices.start_s) // CELL_S, 1, None).astype(int) - 1]
    cost, wall = cost + warm_wall * morning, wall + warm_wall
    lost = np.maximum(wall - need - warm_wall, 0.0)
    return YearPlan(wall, cost, need, lost, level, short, drawn, first)


def _start(hung: Charger, nights: Nights, wait_h: Array) -> Array:
    """Pack temperature after standing some hours, no warmer than where cold stops mattering."""
    capacity = hung.car.pack.capacity_j_per_k
    cooled = relax(nights.pack_c, nights.air_c, 0.0, PARKED_W_PER_K, capacity, wait_h * S_PER_H)
    return np.minimum(cooled, CHARGE_FROM_C[hung.car.pack.chemistry])


def _windows(begin_s: Array, end_s: Array, prices: PriceCells) -> tuple[Ints, Array, Array]:
    """First cell of each night, and per cell the price (inf outside) and the hours inside the window."""
    count = len(prices.price_per_kwh)
    first = ((begin_s - prices.start_s) // CELL_S).astype(np.int64)
    width = int(np.max(np.ceil((end_s - prices.start_s) / CELL_S) - first, initial=1.0))
    if first.min(initial=0) < 0 or np.max(end_s, initial=0) > prices.start_s + count * CELL_S:
        raise Refusal("The prices do not reach over all nights.", "tariff")
    cell = first[:, None] + np.arange(width)
    edge_s = prices.start_s + cell * CELL_S
    inside_s = np.minimum(edge_s + CELL_S, end_s[:, None]) - np.maximum(edge_s, begin_s[:, None])
    room_h = np.clip(inside_s, 0.0, CELL_S) / S_PER_H
    price = np.where(room_h > 0, prices.price_per_kwh[np.minimum(cell, count - 1)], np.inf)
    return first, price, room_h


def _fill(order: Ints, room_h: Array, hours: Array) -> Array:
    """Cheapest cells first, the latest first among equals: hours drawn in each cell."""
    sorted_h = np.take_along_axis(room_h, order, axis=1)
    before = np.cumsum(sorted_h, axis=1) - sorted_h
    drawn = np.zeros_like(room_h)
    np.put_along_axis(drawn, order, np.clip(hours[:, None] - before, 0.0, sorted_h), axis=1)
    return drawn


def _edges(drawn: Array, room_h: Array, begin_h: Array) -> tuple[Array, Array]:
    """Hours from plugging in to the first and the last moment of drawing, as the single plan places them; 0, 0 for none.

    `begin_h` is where in its first cell a night begins. A part-used cell is drawn next to a drawn neighbour, else late.
    """
    row, width = np.arange(len(drawn)), drawn.shape[1]
    on = drawn > 1e-9
    any_on = on.any(axis=1)
    first, last = np.argmax(on, axis=1), width - 1 - np.argmax(on[:, ::-1], axis=1)
    edge = np.arange(width) * CELL_H - begin_h[:, None]
    left = np.maximum(edge, 0.0)
    begins_late = left[row, first] + room_h[row, first] - drawn[row, first]
    before = on[row, np.maximum(last - 1, 0)] & (last > 0)
    ends = left[row, last] + np.where(before, drawn[row, last], room_h[row, last])
    return np.where(any_on, begins_late, 0.0), np.where(any_on, ends, 0.0)


def _levels(
    hung: Charger, nights: Nights, most_kwh: Array, warm_pack_kwh: Array, idle_h: Array, after_h: Array
) -> tuple[Array, Array, Array]:
    """Night after night: what is charged (kWh), the level at departure (0 to 1) and what a day lacked (kWh).

    While it waits the level falls by the idle drain: `idle_h` before the last drawn moment, `after_h` from there on.
    """
    capacity = hung.car.pack.usable_kwh
    limit, drain = hung.limit_soc * capacity, STANDBY_PER_DAY * capacity / 24.0
    count = len(most_kwh)
    charged, level, short = np.zeros(count), np.zeros(count), np.zeros(count)
    stored = max(0.0, limit - (nights.use_kwh[-1] if count else 0.0))
    for i in range(count):
        charged[i] = min(max(0.0, limit - stored + drain * idle_h[i]), most_kwh[i])
        leaving = max(0.0, stored + charged[i] - drain * (idle_h[i] + after_h[i]) - warm_pack_kwh[i])
        level[i] = leaving / capacity
        short[i] = max(0.0, nights.use_kwh[i] - leaving)
        stored = max(0.0, leaving - nights.use_kwh[i])
    return charged, level, short
