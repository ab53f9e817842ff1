"""The hours in which a pack is filled at least cost while the power that it takes falls: docs/decisions/0053."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..car import Car
from ..units import S_PER_H, Array, Ints, Number
from .prices import CELL_S
from .session import TAPER_FROM_SOC, TAPER_SLOPE
from .sessions import simulate_all
from .supply import ChargeRate

DEARER = 3.0
"""So many times the dearest step counts what is missing at the end: more than any, not so much that what interpolating blurs counts."""
STEP_S, SAME_MONEY, MILD_C = CELL_S, 1e-9, 20.0
BLOCK_SHARE = 0.001
"""So much of its cheapest bill another block must save."""


@dataclass(frozen=True)
class Filling:
    """Charging without a break until some packs are full: what has gone into each and been drawn for it at the wall (kWh, shape (nights,
    steps + 1)) on every quarter hour before the last, from whole steps that only warm it on; `full_kw` is what a pack gets of full power.
    """

    pack_kwh: Array
    wall_kwh: Array
    full_kw: float

    @cached_property
    def begins(self) -> Array:
        """The place at which each filling begins where nothing has to be warmed."""
        return np.asarray((self.pack_kwh <= 0).sum(axis=1) - 1.0)


class LeastCostHours:
    """In which cells of some nights to draw so that a filling is through at least cost, from whatever place in it; waits where that is as
    cheap.

    Dynamic programming backwards over the cells, with the place in the filling as its state. Each cell (arrays of shape (nights, cells))
    has its `price` of a kWh at full power, hours' worth of full power (`room_h`) and share of full power (`strong`); none lasts longer
    than a step.
    Source: Bellman's recursion (1957); between the grid's points values are interpolated.
    """

    def __init__(self, course: Filling, price: Array, room_h: Array, strong: Array) -> None:
        pack_kwh, wall_kwh = (
            np.diff(course.pack_kwh, append=course.pack_kwh[:, -1:]),
            np.diff(course.wall_kwh, append=course.wall_kwh[:, -1:]),
        )
        most = course.full_kw * STEP_S / S_PER_H
        slower = np.minimum(1.0, strong[..., None] * most / np.maximum(pack_kwh, 1e-9)[:, None])
        self.further = (room_h / np.maximum(strong, 1e-9) * S_PER_H / STEP_S)[..., None] * slower
        known = np.where(room_h > 0, price, 0.0)
        step_cost = wall_kwh[:, None] * known[..., None]
        dearest, places = known.max(axis=1, initial=0.01) * wall_kwh.max(axis=1), np.arange(pack_kwh.shape[1])
        drawing = waiting = DEARER * dearest[:, None] * (len(places) - 1 - places)
        cheapest = np.where(room_h > 0, price, np.inf).min(axis=1)
        cheapest = np.where(np.isfinite(cheapest), np.maximum(0.0, cheapest), 0.0)
        self.start_cost: Array = BLOCK_SHARE * course.wall_kwh[:, -1] * cheapest
        self.price, self.room_h = price, room_h
        self.gain: Array = np.empty(self.further.shape)
        for cell in range(price.shape[1] - 1, -1, -1):
            ahead = np.concatenate([drawing[:, 1:], drawing[:, -1:]], axis=1)
            on = drawing + self.further[:, cell] * (ahead - drawing + step_cost[:, cell])
            self.gain[:, cell] = waiting - on
            drawing, waiting = np.minimum(on, waiting), np.minimum(on + self.start_cost[:, None], waiting)

    def drawn(self, nights: Ints, place: Array) -> Array:
        """Hours at full power that some nights draw in each cell, shape (nights, cells), from a place in the filling on (a number each)."""
        most, cells = self.gain.shape[2] - 1, self.gain.shape[1]
        draws, found = np.zeros(len(place), dtype=bool), np.zeros((len(place), cells))
        for cell in range(cells):
            low = np.minimum(place.astype(int), most - 1)
            worth, step = (
                table[nights, cell, low] + (place - low) * (table[nights, cell, low + 1] - table[nights, cell, low])
                for table in (self.gain, self.further)
            )
            draws = worth > np.where(draws, 0.0, self.start_cost[nights]) + SAME_MONEY
            found[:, cell] = np.where(draws, step, 0.0)
            place = place + found[:, cell]
        # the dearest cell is left as much sooner as the last one would be through before its end
        each, dear = np.arange(len(place)), np.where(found > 0, self.price[nights], -np.inf).argmax(axis=1)
        last = cells - 1 - np.argmax(found[:, ::-1] > 0, axis=1)
        over = np.where(self.price[nights, dear] > self.price[nights, last], np.maximum(0.0, place - most), 0.0)
        left = np.where(found > 0, 1.0, 0.0)
        left[each, dear] -= np.minimum(1.0, over / np.maximum(found[each, dear], 1e-9)) * left[each, dear]
        return self.room_h[nights] * left


def missing_h(car: Car, rate: ChargeRate, soc: Number, full_soc: Number) -> Array:
    """How long a mild pack takes from a level to another (0 to 1), h; negative for less. Closed form of ds/dt = P(s), P flat and then
    falling in a straight line.
    """
    whole_h = car.pack.usable_kwh / max(rate.pack_kw, 1e-6)
    flat = np.minimum(full_soc, TAPER_FROM_SOC) - np.minimum(soc, TAPER_FROM_SOC)
    return np.asarray(whole_h * (flat + np.log(taper_share(soc) / taper_share(full_soc)) / TAPER_SLOPE))


def taper_share(soc: Number) -> Array:
    """The share of its power (0 to 1) that a pack takes at a level (0 to 1). Source: the figures `session.taper_…`."""
    return np.asarray(1.0 - TAPER_SLOPE * np.maximum(0.0, soc - TAPER_FROM_SOC))


def filling(
    car: Car,
    rate: ChargeRate,
    soc: Array,
    full_soc: Number,
    steps: int,
    *,
    pack_c: Array | float = MILD_C,
    air_c: Array | float = MILD_C,
) -> Filling:
    """Filling some packs from their levels to another (0 to 1; shape (nights,)) in so many steps at the most, after as many that only warm
    them; `pack_c` is the pack when plugged in, `air_c` the air around the car (°C, one or of that shape). Simulated by `sessions`.
    """
    soc, around_c = np.minimum(soc, full_soc), np.broadcast_to(air_c, soc.shape)
    until_s = np.full(len(soc), STEP_S * steps)
    without_break = [(np.zeros(len(soc)), until_s, np.zeros(len(soc), dtype=int))]
    done = simulate_all(
        car, soc, full_soc, pack_c=pack_c, rates=[rate], drawn=without_break, end_s=until_s, air_c=lambda rows, _: around_c[rows],
        wait_s=STEP_S * steps,
    )  # fmt: skip
    whole_s = done.done_s
    each_s = whole_s[:, None] - STEP_S * np.arange(steps + max(1, int(np.ceil(whole_s.max(initial=0.0) / STEP_S))), -1, -1)
    sums = (np.pad(np.cumsum(kw * done.hours, axis=0), ((1, 0), (0, 0))) for kw in (done.pack_kw, done.wall_kw))
    pack_kwh, wall_kwh = (np.array([np.interp(*row) for row in zip(each_s, done.at_s.T, each.T, strict=True)]) for each in sums)
    return Filling(pack_kwh, wall_kwh + np.minimum(0.0, each_s) / S_PER_H * rate.wall_kw, rate.pack_kw)
