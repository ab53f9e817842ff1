"""Two cars, or three, and one cable: who has it on which night, so that each covers its days at least cost and wear, with the fewest swaps.

Every way to share the nights is lived through, all of them at once; a car has the cable for a whole night, so that nobody gets up to swap.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal
from ..units import Array, Ints

SWAP_WORTH = figure("rota.swap", 0.5, "EUR", Basis.COMMON_PRACTICE, "our judgement: what a swap of the cable is worth to nobody")
NOBODY = -1
MOST_NIGHTS, MOST_CARS = 7, 3
SAME_SOC, TIME_STEP_H = 0.0005, 0.25


@dataclass(frozen=True, eq=False, kw_only=True)
class Sharer:
    """A car that shares the cable.

    Levels 0 to 1; `use_soc` what each day after a night takes at its cautious end, shape (nights,); `prices` per kWh of each quarter hour
    between plugging in and departure, one array a night; powers in kW; `wear_per_kwh` money of a kWh into the pack.
    """

    name: str
    soc: float
    limit: float
    reserve: float
    usable_kwh: float
    wall_kw: float
    pack_kw: float
    use_soc: Array
    prices: Sequence[Array]
    wear_per_kwh: float = 0.0


@dataclass(frozen=True, eq=False, kw_only=True)
class Rota:
    """Who has the cable on each night (numbers of the cars, `NOBODY` for none), each car's level at every departure and return, what is
    missing on each day to the reserve (all of shape (cars, nights)), money with wear, and swaps.
    """

    nights: tuple[int, ...]
    leaves_soc: Array
    returns_soc: Array
    short_soc: Array
    cost: float
    swaps: int

    @property
    def feasible(self) -> bool:
        """Whether nobody is short."""
        return not (self.short_soc > SAME_SOC).any()


def plan_rota(cars: Sequence[Sharer], *, had: int = NOBODY, swap_worth: float = SWAP_WORTH, cables: int = 1) -> Rota:
    """The best of all ways: least missing, then least cost, wear and swaps together, then the fewest swaps. `had` has the cable now.

    With as many `cables` as cars everybody charges on every night. Raises: Refusal for none or more than three cars, more than seven
    nights, or cars with different numbers of them.
    """
    lengths = {len(each.use_soc) for each in cars} | {len(each.prices) for each in cars}
    if not 1 <= len(cars) <= MOST_CARS or len(lengths) != 1 or not 1 <= next(iter(lengths)) <= MOST_NIGHTS:
        raise Refusal("A rota is of one to three cars and up to seven nights.")
    count = next(iter(lengths))
    ways = np.array(list(product((NOBODY, *range(len(cars))), repeat=count)), dtype=np.int64)
    if cables >= len(cars):
        ways = np.full((1, count), NOBODY, dtype=np.int64)
    leaves, returns, short = (np.zeros((len(ways), len(cars), count)) for _ in range(3))
    cost = np.zeros(len(ways))
    for number, car in enumerate(cars):
        level = np.full(len(ways), car.soc)
        for night in range(count):
            has = ways[:, night] == number if cables < len(cars) else np.ones(len(ways), dtype=bool)
            added, paid = _charged(car, night, np.maximum(0.0, car.limit - level))
            level = np.where(has, level + added, level)
            cost += np.where(has, paid, 0.0)
            leaves[:, number, night] = level
            missing = np.maximum(0.0, car.use_soc[night] + car.reserve - level) if car.use_soc[night] > 0 else 0.0 * level
            short[:, number, night] = missing
            level = np.maximum(0.0, level - car.use_soc[night] + missing)
            returns[:, number, night] = level
    swaps = _swaps(ways, had)
    best = _best(short.sum(axis=(1, 2)), cost + swap_worth * swaps, swaps)
    return Rota(
        nights=tuple(int(each) for each in ways[best]),
        leaves_soc=leaves[best],
        returns_soc=returns[best],
        short_soc=short[best],
        cost=float(cost[best]),
        swaps=int(swaps[best]),
    )


def _charged(car: Sharer, night: int, wanted_soc: Array) -> tuple[Array, Array]:
    """Level added on a night in its cheapest quarter hours, and what that costs with its wear."""
    prices = np.sort(car.prices[night])
    hours = TIME_STEP_H * np.arange(len(prices) + 1)
    spent = np.concatenate([[0.0], np.cumsum(prices)]) * TIME_STEP_H * car.wall_kw
    most = hours[-1] * car.pack_kw / car.usable_kwh
    added = np.minimum(wanted_soc, most)
    needed_h = added * car.usable_kwh / max(car.pack_kw, 1e-9)
    return added, np.interp(needed_h, hours, spent) + added * car.usable_kwh * car.wear_per_kwh


def _swaps(ways: Ints, had: int) -> Ints:
    """How often the cable goes to another car; a night without one leaves it where it was."""
    holder, swaps = np.full(len(ways), had), np.zeros(len(ways), dtype=np.int64)
    for night in range(ways.shape[1]):
        new = ways[:, night]
        swaps += (new != NOBODY) & (holder != NOBODY) & (new != holder)
        holder = np.where(new == NOBODY, holder, new)
    return swaps


def _best(short: Array, money: Array, swaps: Ints) -> int:
    """The first by what is missing, then money, then swaps."""
    able = np.flatnonzero(short <= short.min() + SAME_SOC)
    cheap = able[money[able] <= money[able].min() + 1e-9]
    return int(cheap[np.argmin(swaps[cheap])])
