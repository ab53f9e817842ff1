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
    goals, paths = np.array(levels), np.ascontiguousarray(done.soc.T)
    after = np.array([path.searchsorted(goals - 1e-9) for path in paths])  # by state and goal: the first time it is reached
    never, at_once = after == len(AT_S), goals <= paths[:, :1] + 1e-9
    last = np.clip(after, 1, len(AT_S) - 1)
    low, high = (np.take_along_axis(paths, each, axis=1) for each in (last - 1, last))
    part = np.clip((goals - low) / np.where(high > low, high - low, 1.0), 0.0, 1.0)

    def between(values: Array) -> Array:
        before, then = (np.take_along_axis(values, each, axis=1) for each in (last - 1, last))
        return np.where(at_once, values[:, :1], before + part * (then - before))

    minutes = np.where(never, np.inf, between(np.broadcast_to(AT_S / 60.0, paths.shape)))
    minutes[np.repeat(np.arange(count), warm)[:, None] > np.arange(count)] = np.inf
    end_c, kwh = between(done.pack_c.T), between(done.post_kwh.T)
    rest_s = 60.0 * np.maximum(0.0, stands_min - np.where(np.isfinite(minutes), minutes, stands_min))
    cooled = relax(end_c, ambient_c, 0.0, PARKED_W_PER_K, car.pack.capacity_j_per_k, rest_s)
    minutes = np.where(np.isfinite(minutes), np.maximum(minutes, stands_min), np.inf)
    shape = (count, warm, count)
    return StopTable(minutes.reshape(shape), cooled.reshape(shape), kwh.reshape(shape))
