"""Stops at posts on a grid: how long it takes from a level and a temperature to every higher level, and how warm the pack is then."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..car import PARKED_W_PER_K, Car
from ..heat.lumped import relax
from ..units import Array, Ints, Number
from .fast import AT_S, stops


@dataclass(frozen=True, kw_only=True)
class Post:
    """Somewhere to charge: km mark, power (kW), price per kWh, the owner's name for it; `stands_min` how long the car stands there anyway;
    `shared_kw` what it gives beside another car (0: it shares with none).

    Up to 22 kW it is a slow post: what the car's own charger makes of it; above, a fast one. With 0 kW it is only a stop of people.
    """

    km: float
    kw: float
    price_per_kwh: float = 0.0
    name: str = ""
    stands_min: float = 0.0
    shared_kw: float = 0.0

    @property
    def gives_kw(self) -> float:
        """What can be counted on, kW."""
        return min(self.kw, self.shared_kw) if self.shared_kw > 0 else self.kw

    @property
    def fills_while_standing(self) -> bool:
        """Whether it is a slow post where the car stands anyway."""
        return 0 < self.kw <= SLOW_KW and self.stands_min > 0

    def pack_kw(self, car: Car) -> float:
        """The most that reaches the pack, kW."""
        if self.kw > SLOW_KW or self.kw <= 0:
            return self.gives_kw
        return max(0.0, car.charger.efficiency * (self._wall_kw(car) - car.charger.overhead_kw))

    def billed(self, car: Car) -> float:
        """What is billed for a kWh that the pack or its heater takes: a slow post bills what the car's charger loses too."""
        slow = 0 < self.kw <= SLOW_KW and self.pack_kw(car) > 0
        return self._wall_kw(car) / self.pack_kw(car) if slow else 1.0

    def _wall_kw(self, car: Car) -> float:
        return min(self.gives_kw, car.charger.ac_limit_kw)


SLOW_KW = 22.0


@dataclass(frozen=True, eq=False)
class StopTable:
    """Every stop on a grid, by level on arrival, temperature and level on leaving, from that on arrival up: minutes (inf: never), energy
    (kWh), and the place of the state it leaves in (level × temperatures + the temperature under it) with the share of the step above.

    Arrays of shape (stops,). `firsts` of each state is its first stop, the one that takes nothing.
    """

    minutes: Array
    kwh: Array
    leaves: Ints
    part: Array
    firsts: Ints


def place(pack_c: Number, temperatures: Array) -> tuple[Ints, Array]:
    """The place under a temperature in an even row of them (°C), at most the last but one, and the share of the step above it, 0 to 1."""
    at = np.clip((np.asarray(pack_c) - temperatures[0]) / (temperatures[1] - temperatures[0]), 0.0, len(temperatures) - 1.0)
    low = np.minimum(at.astype(np.int64), len(temperatures) - 2)
    return low, at - low


@lru_cache(maxsize=6)
def stop_table(
    car: Car,
    pack_kw: float,
    ambient_c: float,
    levels: tuple[float, ...],
    temperatures: tuple[float, ...],
    *,
    stands_min: float,
    before: int,
) -> StopTable:
    """Tabulate a post of some power; a car that stands anyway leaves no sooner, and its pack cools when it is done."""
    count, warm = len(levels), len(temperatures)
    states, sizes = count * warm, np.repeat(np.arange(count, 0, -1), warm)
    firsts = np.cumsum(sizes) - sizes
    state = np.repeat(np.arange(states), sizes)
    goal = count - sizes[state] + np.arange(len(state)) - firsts[state]
    done = stops(car, np.repeat(levels, warm), np.tile(temperatures, count), pack_kw, ambient_c, before=before)
    reached = np.searchsorted(levels, done.soc + 1e-9, side="right")  # by time and state: so many levels are reached
    places = np.arange(states) * (count + 1) + reached
    times = np.bincount(places.ravel(), minlength=states * (count + 1)).reshape(states, count + 1)
    after = np.cumsum(times, axis=1).ravel()[state * (count + 1) + goal]  # by stop: so many times its goal is not yet reached
    last = np.clip(after, 1, len(AT_S) - 1)
    here = last * states + state
    low, high = (done.soc.ravel().take(at) for at in (here - states, here))
    share = np.clip((np.array(levels)[goal] - low) / np.maximum(high - low, 1e-12), 0.0, 1.0)

    def between(values: Array) -> Array:
        begin, end = (values.ravel().take(at) for at in (here - states, here))
        return np.asarray(begin + share * (end - begin))

    minutes = np.where(after < len(AT_S), (AT_S[last - 1] + share * (AT_S[last] - AT_S[last - 1])) / 60.0, np.inf)
    end_c, kwh = between(done.pack_c), between(done.post_kwh)
    if stands_min > 0:
        rest_s = 60.0 * np.maximum(0.0, stands_min - minutes)
        end_c = relax(end_c, ambient_c, 0.0, conductance=PARKED_W_PER_K, capacity=car.pack.capacity_j_per_k, seconds=rest_s)
        minutes = np.maximum(minutes, stands_min)
    under, part = place(end_c, np.array(temperatures))
    return StopTable(minutes, kwh, goal * warm + under, part, firsts)
