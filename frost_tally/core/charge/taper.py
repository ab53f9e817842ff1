"""The hours in which a pack is filled at least cost while the power that it takes falls: docs/decisions/0053."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ..car import Car
from ..units import S_PER_H, Array, Flags, Ints
from .prices import CELL_S
from .session import fill_up
from .supply import ChargeRate

DEARER = 3.0
"""So many times the dearest step counts what is missing at the end: more than any, not so much that what interpolating blurs counts."""
STEP_S, STEP_H, SAME_MONEY, ROUNDS, MILD_C = CELL_S, CELL_S / S_PER_H, 1e-9, 6, 20.0


@dataclass(frozen=True)
class Filling:
    """Charging without a break to a full pack: what has gone into it and been drawn at the wall (kWh, shape (steps + 1,)) after each
    quarter hour, the last of which ends full; `full_kw` is what the pack gets of full power.
    """

    pack_kwh: Array
    wall_kwh: Array
    full_kw: float

    def steps_of(self, missing_kwh: Array) -> Array:
        """How many steps so much takes, the last of the filling."""
        return np.interp(missing_kwh, (self.pack_kwh[-1] - self.pack_kwh)[::-1], np.arange(len(self.pack_kwh)))

    def last(self, steps: int) -> "Filling":
        """The last steps of it."""
        return replace(
            self, pack_kwh=self.pack_kwh[-steps - 1 :] - self.pack_kwh[-steps - 1 :][0], wall_kwh=self.wall_kwh[-steps - 1 :]
        )

    def heated(self, steps: int, wall_kw: float) -> "Filling":
        """The same after so many steps more that only warm the pack."""
        each_kwh = wall_kw * STEP_S / S_PER_H
        wall_kwh = np.concatenate([each_kwh * np.arange(steps), self.wall_kwh + each_kwh * steps])
        return replace(self, pack_kwh=np.concatenate([np.zeros(steps), self.pack_kwh]), wall_kwh=wall_kwh)


class LeastCostHours:
    """In which cells of some nights to draw so that a filling is through at least cost, from whatever place in it; waits where that is as
    cheap.

    Dynamic programming backwards over the cells, with the place in the filling as its state. Each cell (arrays of shape (nights, cells))
    has its `price` of a kWh at full power, hours' worth of full power (`room_h`) and share of full power (`strong`); none lasts longer
    than a step. A block of cells costs `start_cost` to begin.
    Source: Bellman's recursion (1957); between the grid's points values are interpolated.
    """

    def __init__(self, course: Filling, price: Array, room_h: Array, strong: Array, start_cost: float) -> None:
        pack_kwh, most = np.append(np.diff(course.pack_kwh), 0.0), course.full_kw * STEP_S / S_PER_H
        slower = np.minimum(1.0, strong[..., None] * most / np.maximum(pack_kwh, 1e-9))
        self.further = (room_h / np.maximum(strong, 1e-9) * S_PER_H / STEP_S)[..., None] * slower
        step_cost = np.append(np.diff(course.wall_kwh), 0.0) * np.where(room_h > 0, price, 0.0)[..., None]
        dearest = np.where(room_h > 0, price, 0.0).max(initial=0.01) * float(np.diff(course.wall_kwh).max())
        missing = DEARER * dearest * (len(pack_kwh) - 1 - np.arange(len(pack_kwh)))
        drawing = waiting = np.broadcast_to(missing, (len(price), len(pack_kwh)))
        self.price, self.room_h, self.start_cost, self.gain = price, room_h, start_cost, np.empty(self.further.shape)
        for cell in range(price.shape[1] - 1, -1, -1):
            ahead = np.concatenate([drawing[:, 1:], drawing[:, -1:]], axis=1)
            on = drawing + self.further[:, cell] * (ahead - drawing + step_cost[:, cell])
            self.gain[:, cell] = waiting - on
            drawing, waiting = np.minimum(on, waiting), np.minimum(on + start_cost, waiting)

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
            draws = worth > np.where(draws, 0.0, self.start_cost) + SAME_MONEY
            found[:, cell] = np.where(draws, step, 0.0)
            place = place + found[:, cell]
        # the dearest cell is left as much sooner as the last one would be through before its end
        each, dear = np.arange(len(place)), np.where(found > 0, self.price[nights], -np.inf).argmax(axis=1)
        last = cells - 1 - np.argmax(found[:, ::-1] > 0, axis=1)
        over = np.where(self.price[nights, dear] > self.price[nights, last], np.maximum(0.0, place - most), 0.0)
        left = np.where(found > 0, 1.0, 0.0)
        left[each, dear] -= np.minimum(1.0, over / np.maximum(found[each, dear], 1e-9)) * left[each, dear]
        return self.room_h[nights] * left


def least_more(enough_with: Callable[[Ints, Ints], Flags], nights: int, most: int) -> None:
    """Asks of each night whether so many steps more are enough, by doubling and halving, until the least is known, or for `ROUNDS`."""
    going, short, enough, more = np.arange(nights), np.full(nights, -1), np.full(nights, most), np.zeros(nights, dtype=int)
    for _ in range(ROUNDS):
        able = enough_with(going, more[going])
        enough[going[able]], short[going[~able]] = more[going[able]], more[going[~able]]
        more = np.where(enough < most, (short + enough) // 2, np.minimum(2 * short + 2, most - 1))
        going = np.flatnonzero((enough - short > 1) & (more != short))
        if not going.size:
            return


def filling(car: Car, rate: ChargeRate, soc: float, full_soc: float, *, pack_c: float = MILD_C, air_c: float = MILD_C) -> Filling:
    """Filling a pack from one level to another (0 to 1)."""
    done = fill_up(car, rate, soc, full_soc, pack_c, air_c=air_c)
    at_s = np.array([each.at_s for each in done.steps])
    whole_s = at_s[-1] - done.unused_s
    each_s = np.maximum(0.0, whole_s - STEP_S * np.arange(max(1.0, np.ceil(whole_s / STEP_S)), -1, -1))
    pack_kwh, wall_kwh = (
        np.interp(each_s, at_s, np.cumsum([getattr(step, kw) for step in done.steps] * np.diff(at_s, prepend=0.0)) / S_PER_H)
        for kw in ("pack_kw", "wall_kw")
    )
    return Filling(pack_kwh, wall_kwh, rate.pack_kw)
