"""What charges cost by a tariff: as they were drawn, at once when plugged in, and at the tariff's mean."""

from dataclasses import dataclass

import numpy as np

from ..charge.prices import CELL_S, CHEAP_SHARE, PriceCells
from ..units import Array


@dataclass(frozen=True, eq=False)
class Cells:
    """A tariff's price per kWh in every quarter hour from `start_s` (seconds since 1970), and whether it is a dear hour."""

    start_s: int
    price_per_kwh: Array
    dear: Array

    def shares(self, begun_s: float, ended_s: float) -> tuple[slice, Array]:
        """The cells that a span touches, and its share in each; a moment belongs to its cell."""
        low = (begun_s - self.start_s) / CELL_S
        high = max((ended_s - self.start_s) / CELL_S, low + 1e-6)
        first, last = int(np.floor(low)), int(np.ceil(high))
        first, last = max(0, min(first, len(self.price_per_kwh) - 1)), max(1, min(last, len(self.price_per_kwh)))
        edges = np.arange(first, last)
        part = np.clip(np.minimum(edges + 1, high) - np.maximum(edges, low), 0.0, None)
        total = part.sum()
        return slice(first, last), part / total if total > 0 else np.full(len(part), 1 / len(part))

    def cost(self, begun_s: float, ended_s: float, wall_kwh: float) -> float:
        """Cost of energy (kWh at the wall) drawn evenly over a span of time."""
        where, share = self.shares(begun_s, ended_s)
        return float(wall_kwh * (share * self.price_per_kwh[where]).sum())

    def dear_share(self, begun_s: float, ended_s: float) -> float:
        """Share (0 to 1) of a span that lies in dear hours."""
        where, share = self.shares(begun_s, ended_s)
        return float((share * self.dear[where]).sum())

    def mean(self, begun_s: float, ended_s: float) -> float:
        """Mean price of all hours of a span."""
        return self.cost(begun_s, ended_s, 1.0)


def priced(grid: PriceCells) -> Cells:
    """A tariff's cells; dear is what costs more than the lowest quarter between the cheapest and the dearest hour of its local day."""
    days = grid.local_day - grid.local_day.min()
    low, high = np.full(days.max() + 1, np.inf), np.full(days.max() + 1, -np.inf)
    np.minimum.at(low, days, grid.price_per_kwh)
    np.maximum.at(high, days, grid.price_per_kwh)
    limit = low + CHEAP_SHARE * (high - low)
    return Cells(grid.start_s, grid.price_per_kwh, grid.price_per_kwh > limit[days] + 1e-9)
