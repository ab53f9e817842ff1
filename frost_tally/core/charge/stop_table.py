"""Stops at posts on a grid: how long it takes from a level and a temperature to every higher level, and how warm the pack is then."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..car import PARKED_W_PER_K, Car
from ..heat.lumped import relax
from ..units import Array
from .fast import AT_S, stops


@dataclass(frozen=True)
class Post:
    """Somewhere to charge: km mark, power (kW), price per kWh, the owner's name for it; `stands_min` how long the car stands there anyway.

    Up to 22 kW it is a slow post: what the car's own charger makes of it; above, a fast one. With 0 kW it is only a stop of people.
    """

    km: float
    kw: float
    price_per_kwh: float = 0.0
    name: str = ""
    stands_min: float = 0.0

    @property
    def fills_while_standing(self) -> bool:
        """Whether it is a slow post where the car stands anyway."""
        return 0 < self.kw <= SLOW_KW and self.stands_min > 0

    def pack_kw(self, car: Car) -> float:
        """The most that reaches the pack, kW."""
        if self.kw > SLOW_KW or self.kw <= 0:
            return self.kw
        return max(0.0, car.charger.efficiency * (self._wall_kw(car) - car.charger.overhead_kw))

    def billed(self, car: Car) -> float:
        """What is billed for a kWh that the pack or its heater takes: a slow post bills what the car's charger loses too."""
        slow = 0 < self.kw <= SLOW_KW and self.pack_kw(car) > 0
        return self._wall_kw(car) / self.pack_kw(car) if slow else 1.0

    def _wall_kw(self, car: Car) -> float:
        return min(self.kw, car.charger.ac_limit_kw)


SLOW_KW = 22.0


@dataclass(frozen=True, eq=False)
class StopTable:
    """By level on arrival, temperature and level on leaving (grid places): minutes (inf: never, or lower), pack (°C), energy (kWh)."""

    minutes: Array
    end_c: Array
    kwh: Array


@lru_cache(maxsize=6)
def stop_table(
    car: Car,
    pack_kw: float,
    ambient_c: float,
    levels: tuple[float, ...],
    temperatures: tuple[float, ...],
    stands_min: float,
    before: int,
) -> StopTable:
    """Tabulate a post of some power; a car that stands anyway leaves no sooner, and its pack cools when it is done."""
    count, warm = len(levels), len(temperatures)
    starts = np.repeat(levels, warm), np.tile(temperatures, count)
    done = stops(car, *starts, pack_kw, ambient_c, before)
    states, shape = count * warm, (count, warm, count)
    reached = np.searchsorted(levels, done.soc + 1e-9, side="right")  # by time and state: so many levels are reached
    places = np.arange(states) * (count + 1) + reached
    times = np.bincount(places.ravel(), minlength=states * (count + 1)).reshape(states, count + 1)
    after = np.cumsum(times[:, :count], axis=1).ravel()  # by state and goal: so many times it is not yet reached
    later = np.flatnonzero((after > 0) & (after < len(AT_S)))
    state, last = later // count, after[later]
    here = last * states + state
    goals = np.tile(levels, states)[later]

    def on_both_sides(values: Array) -> tuple[Array, Array]:
        flat = values.ravel()
        return flat[here - states], flat[here]

    low, high = on_both_sides(done.soc)
    part = (goals - low) / np.maximum(high - low, 1e-12)

    def table(values: Array, other: Array) -> Array:
        begin, end = on_both_sides(values)
        filled = other.repeat(count)
        filled[later] = begin + part * (end - begin)
        return np.asarray(filled.reshape(shape))

    minutes = table(np.repeat(AT_S / 60.0, states), np.full(states, np.inf))
    minutes[np.arange(count), :, np.arange(count)] = 0.0
    end_c, kwh = table(done.pack_c, done.pack_c[0]), table(done.post_kwh, np.zeros(states))
    if stands_min > 0:
        rest_s = 60.0 * np.maximum(0.0, stands_min - np.where(np.isfinite(minutes), minutes, stands_min))
        end_c = relax(end_c, ambient_c, 0.0, PARKED_W_PER_K, car.pack.capacity_j_per_k, rest_s)
        minutes = np.maximum(minutes, stands_min)
    return StopTable(minutes, end_c, kwh)
