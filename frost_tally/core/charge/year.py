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
from ..units import S_PER_H, Array, Ints
from .control import Control, How
from .night_cells import CELL_H, NightCells, night_cells
from .night_clock import HeldHours
from .plan import LINKED, MARGIN_MIN, NEVER_HELD
from .prices import CELL_S, PriceCells
from .supply import ChargeRate
from .table import ChargeTable, WarmTable, charge_table, warm_table

ROUNDS = 3


@dataclass(frozen=True, kw_only=True)
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

    def at(self, rows: Ints) -> "Nights":
        """Some of them."""
        return Nights(**{name: column[rows] for name, column in vars(self).items()})


@dataclass(frozen=True, kw_only=True)
class Charger:
    """A car on a supply with its habit: the limit (0 to 1), how its nights are carried out and when the house leaves less; with the tables
    of charging and warm-up.
    """

    car: Car
    rate: ChargeRate
    limit_soc: float
    charging: ChargeTable
    warming: WarmTable
    control: Control = LINKED
    held: HeldHours = NEVER_HELD

    def strength(self) -> Array:
        """What each quarter hour of the local day lets into the pack, as a share of full power: shape (96,)."""
        here = self.rate.held_to(self.held.amps)
        share = here.pack_kw / self.rate.pack_kw if here is not None else 0.0
        return 1.0 - (1.0 - share) * self.held.of_cells()


@dataclass(frozen=True, kw_only=True)
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


def charger(
    car: Car,
    rate: ChargeRate,
    limit_soc: float,
    choice: WarmUpChoice,
    cabin_c: float = 20.0,
    control: Control = LINKED,
    held: HeldHours = NEVER_HELD,
) -> Charger:
    """Tabulate a car on a supply. Raises: Refusal for a limit outside 10 to 100 %."""
    if not 0.1 <= limit_soc <= 1.0:
        raise Refusal("The limit must lie between 10 and 100 %.", "limit")
    return Charger(
        car=car,
        rate=rate,
        limit_soc=limit_soc,
        charging=charge_table(car, rate, limit_soc),
        warming=warm_table(car, rate, choice, cabin_c),
        control=control,
        held=held,
    )


def plan_year(hung: Charger, nights: Nights, prices: PriceCells) -> YearPlan:
    """Plan every night at least cost up to the limit; the first evening begins with the limit less the first day's use.

    With pack and air above the threshold a night costs exactly what `night.plan` says. In frost the pack's cooling until the
    first drawn hour is in closed form and the heating from the table; the hours by price, late and early, and a start at
    once are weighed, and each night keeps the cheapest. A control that starts once a night keeps the cheapest of its starts instead.
    Raises: Refusal when the prices do not cover the nights.
    """
    lead_h, warm_wall, warm_pack = hung.warming.ask(nights.morning_c, nights.morning_c)
    end_s = nights.departure_s - np.maximum(MARGIN_MIN * 60.0, lead_h * S_PER_H)
    end_s = np.maximum(end_s, nights.plug_in_s)
    window = night_cells(nights.plug_in_s, end_s, prices, hung.strength())
    if hung.control.single:
        done = _through(hung, nights, window, window.first, warm_pack)
        done = _through(hung, nights, window, _started(hung, nights, window, done.need_kwh, prices), warm_pack)
    else:
        done = _by_price(hung, nights, window, warm_pack)
    morning = prices.price_per_kwh[np.clip((nights.departure_s - prices.start_s) // CELL_S, 1, None).astype(int) - 1]
    cost = window.cost(done.drawn_h, done.wall_kwh) + warm_wall * morning
    lost = np.maximum(done.wall_kwh - done.need_kwh, 0.0)
    return YearPlan(
        wall_kwh=done.wall_kwh + warm_wall,
        cost=cost,
        pack_kwh=done.need_kwh,
        lost_kwh=lost,
        soc_departure=done.level,
        short_kwh=done.short_kwh,
        drawn_h=done.drawn_h,
        first_cell=window.first_cell,
    )


def _by_price(hung: Charger, nights: Nights, window: NightCells, warm_pack_kwh: Array) -> "_Through":
    """The hours by price; in frost the cheapest of them late, early, and from the first on."""
    order = window.late
    done = _through(hung, nights, window, order, warm_pack_kwh)
    frosty = np.flatnonzero(_start(hung, nights, window.whole_h) < CHARGE_FROM_C[hung.car.pack.chemistry])
    if len(frosty):
        cost = window.cost(done.drawn_h, done.wall_kwh)[frosty]
        chosen = order.copy()
        for other in (window.early, window.first):
            trial = _alone(hung, nights.at(frosty), window.at(frosty), other[frosty], done.need_kwh[frosty])
            cheaper = (trial < cost - 1e-9) & np.isfinite(trial)
            chosen[frosty[cheaper]], cost = other[frosty[cheaper]], np.where(cheaper, trial, cost)
        if (chosen != order).any():
            done = _through(hung, nights, window, chosen, warm_pack_kwh)
    return done


def _started(hung: Charger, nights: Nights, window: NightCells, need_kwh: Array, prices: PriceCells) -> Ints:
    """The order of each night's cells from the cheapest start that its control can make and that fits; from plugging in where none does."""
    rows, width = window.price.shape
    cell = np.minimum(window.first_cell[:, None] + np.arange(width), len(prices.local_cell) - 1)
    able = hung.control.of_cells()[prices.local_cell[cell]] & (window.room_h > 0)
    able[:, 0] = (window.room_h[:, 0] > 0) & ((hung.control.how is How.HAND) | (able[:, 0] & (window.begin_h <= 0)))
    cost = np.full((rows, width), np.inf)
    cost[able] = _from_start(hung, nights, window, need_kwh, *np.nonzero(able))
    least = cost.min(axis=1)
    latest = width - 1 - np.argmax((cost <= least[:, None] + 1e-9)[:, ::-1], axis=1)
    order: Ints = (np.arange(width) + np.where(np.isfinite(least), latest, 0)[:, None]) % width
    return order


def _from_start(hung: Charger, nights: Nights, window: NightCells, need_kwh: Array, night: Ints, start: Ints) -> Array:
    """What some of the nights cost when they draw from the start of a cell on; inf where the house closes, or the night ends, too soon."""
    width = window.price.shape[1]
    ready = window.room_h.copy()
    for at in range(width - 2, -1, -1):  # what can be drawn from a cell on, until the house closes
        ready[:, at] = np.where(ready[:, at] > 0, ready[:, at] + ready[:, at + 1], 0.0)
    these, need = nights.at(night), need_kwh[night]
    begin_h = np.maximum(start * CELL_H - window.begin_h[night], 0.0)
    wait_h, hours, wall = begin_h, np.zeros(1), np.zeros(1)
    for _ in range(ROUNDS - 1):
        hours, wall = hung.charging.ask(need, _start(hung, these, wait_h), these.air_c)
        wait_h = begin_h + np.maximum(window.room_h[night, start] - hours, 0.0)
    drawn_h = np.pad(np.cumsum(window.room_h, axis=1), ((0, 0), (1, 0)))
    money = np.pad(np.cumsum(window.room_h * np.where(np.isfinite(window.price), window.price, 0.0), axis=1), ((0, 0), (1, 0)))
    end_h = np.minimum(drawn_h[night, start] + hours, drawn_h[night, -1])
    beside = np.arange(len(drawn_h)) * (drawn_h.max() + 1.0)  # all nights on one line, for one look-up
    paid = np.interp(end_h + beside[night], (drawn_h + beside[:, None]).ravel(), money.ravel()) - money[night, start]
    return np.where(hours <= ready[night, start], paid * wall / np.maximum(hours, 1e-9), np.inf)


@dataclass(frozen=True)
class _Through:
    """Nights planned one after the other: arrays as in YearPlan, the wall energy without the warm-up."""

    drawn_h: Array
    wall_kwh: Array
    need_kwh: Array
    level: Array
    short_kwh: Array


def _through(hung: Charger, nights: Nights, window: NightCells, order: Ints, warm_pack_kwh: Array) -> _Through:
    """All nights with their levels handed on, the cells filled in an order; the waiting and the cold settle in rounds."""
    stay_h = (nights.departure_s - nights.plug_in_s) / S_PER_H
    drawn, hours, wall = np.zeros_like(window.room_h), np.zeros(len(stay_h)), np.zeros(len(stay_h))
    wait_h = idle_h = after_h = np.zeros(len(stay_h))
    need = level = short = np.zeros(len(stay_h))
    for _ in range(ROUNDS):
        start_c = _start(hung, nights, wait_h)
        most = hung.charging.gain_kwh(window.whole_h, start_c, nights.air_c)
        need, level, short = _levels(hung, nights, most, warm_pack_kwh, idle_h, after_h)
        hours, wall = hung.charging.ask(need, start_c, nights.air_c)
        drawn = window.filled(order, hours)
        wait_h, end_h = window.edges(drawn)
        idle_h, after_h = np.maximum(end_h - drawn.sum(axis=1), 0.0), stay_h - end_h
    filled = np.minimum(1.0, drawn.sum(axis=1) / np.maximum(hours, 1e-9))
    return _Through(drawn, wall * filled, need, level, short)


def _alone(hung: Charger, nights: Nights, window: NightCells, order: Ints, need_kwh: Array) -> Array:
    """What each night costs with its cells filled in another order; inf where the window is too short for it."""
    wait_h, hours, wall, drawn = np.zeros(len(need_kwh)), np.zeros(1), np.zeros(1), window.room_h
    for _ in range(ROUNDS):
        hours, wall = hung.charging.ask(need_kwh, _start(hung, nights, wait_h), nights.air_c)
        drawn = window.filled(order, hours)
        wait_h, _ = window.edges(drawn)
    return np.where(hours <= window.whole_h, window.cost(drawn, wall), np.inf)


def _start(hung: Charger, nights: Nights, wait_h: Array) -> Array:
    """Pack temperature after standing some hours, no warmer than where cold stops mattering."""
    capacity = hung.car.pack.capacity_j_per_k
    cooled = relax(nights.pack_c, nights.air_c, 0.0, PARKED_W_PER_K, capacity, wait_h * S_PER_H)
    return np.minimum(cooled, CHARGE_FROM_C[hung.car.pack.chemistry])


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
