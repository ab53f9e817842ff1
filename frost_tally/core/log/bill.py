"""What energy costs by a tariff when it is drawn evenly over a span of time, and how much of it lies in dear hours."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..charge.prices import CELL_S, CHEAP_SHARE, PriceCells
from ..units import Array

MOMENT_CELLS = 0.01
"""What has no length counts as so much of a quarter hour."""


@dataclass(frozen=True, eq=False)
class Cells:
    """A tariff's price per kWh in every quarter hour from `start_s` (seconds since 1970), and 1 where it is a dear one, else 0."""

    start_s: float
    price_per_kwh: Array
    dear: Array

    @cached_property
    def _sums(self) -> tuple[Array, Array]:
        """Prices and dear cells summed up to each edge between cells: spans are differences of them."""
        return np.concatenate([[0.0], np.cumsum(self.price_per_kwh)]), np.concatenate([[0.0], np.cumsum(self.dear)])

    def prices(self, begun_s: Array | float, ended_s: Array | float) -> Array:
        """Mean price per kWh of spans of time; times outside the cells count as their nearest end."""
        return self._mean(self._sums[0], begun_s, ended_s)

    def dear_shares(self, begun_s: Array | float, ended_s: Array | float) -> Array:
        """Share of spans that lies in dear hours, 0 to 1."""
        return self._mean(self._sums[1], begun_s, ended_s)

    def _mean(self, sums: Array, begun_s: Array | float, ended_s: Array | float) -> Array:
        last = len(sums) - 1.0
        low = np.clip((np.asarray(begun_s) - self.start_s) / CELL_S, 0.0, last - MOMENT_CELLS)
        high = np.clip((np.asarray(ended_s) - self.start_s) / CELL_S, low + MOMENT_CELLS, last)
        edges = np.arange(len(sums))
        return np.asarray((np.interp(high, edges, sums) - np.interp(low, edges, sums)) / (high - low))


def priced(grid: PriceCells) -> Cells:
    """A tariff's cells; dear is what costs more than the lowest quarter between the cheapest and the dearest hour of its local day."""
    days = grid.local_day - grid.local_day.min()
    low, high = np.full(days.max() + 1, np.inf), np.full(days.max() + 1, -np.inf)
    np.minimum.at(low, days, grid.price_per_kwh)
    np.maximum.at(high, days, grid.price_per_kwh)
    limit = low + CHEAP_SHARE * (high - low)
    return Cells(grid.start_s, grid.price_per_kwh, (grid.price_per_kwh > limit[days] + 1e-9).astype(float))
