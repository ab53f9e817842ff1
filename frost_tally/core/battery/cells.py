"""How twelve public cells wear, from a table of rates: cells differ more in how much the level matters than in anything else.

`cells.json` holds, for each lettered cell, the shares of capacity that eight years of standing take by temperature and level, and that so
many full cycles take by temperature, depth and mean level, with the powers of time and cycles by which they grow. It is made by
`make reference` from the battery-life library [1], and compared with it there.

[1] P. Gasper, N. Prakash, K. Smith: BLAST-Lite, a library of battery lifetime models (licence and version stand in the table).
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from ..units import Array, Number
from .ageing import Stretch
from .cold import Chemistry

TABLE = Path(__file__).with_name("cells.json")
LEAST = 1e-7
"""A share of capacity that is nothing: the table is read by logarithms."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Cells:
    """The cells of one chemistry.

    `standing` and `cycling` are logarithms of rates (share lost in a day, in a full cycle) on the grids, shapes (temperatures, levels,
    cells) and (temperatures, depths, mean levels, cells); losses grow with powers of time and of cycles, (cells,) each.
    """

    names: tuple[str, ...]
    standing_grid: tuple[Array, Array]
    standing: Array
    calendar_power: Array
    cycling_grid: tuple[Array, Array, Array]
    cycling: Array
    cycling_power: Array

    def exposed(self, day: Sequence[Stretch]) -> tuple[Array, Array]:
        """What days of a life add up to for each cell, standing and cycling. `day` is what a day is made of, each for all days: arrays
        (…, days) in, (cells, …) out. A day counts by the mean rate of its stretches, as in [1].
        """
        spans, turned = sum(np.asarray(each.days) for each in day), sum(np.asarray(each.full_cycles) for each in day)

        def mean_rate(rates: Sequence[Array], weights: Sequence[Number], whole: Number) -> Array:
            heaped = sum(rate * np.asarray(weight)[..., None] for rate, weight in zip(rates, weights, strict=True))
            return np.asarray(heaped / np.maximum(whole, LEAST)[..., None])

        standing = mean_rate(
            [_rate(self.standing_grid, self.standing, each.temp_c, each.soc) for each in day], [each.days for each in day], spans
        )
        cycling = mean_rate(
            [_rate(self.cycling_grid, self.cycling, each.temp_c, each.dod, each.mean_soc) for each in day],
            [each.full_cycles for each in day], turned,
        )  # fmt: skip
        return _summed(standing, self.calendar_power, spans), _summed(cycling, self.cycling_power, turned)

    def lost(self, exposed: tuple[Array, Array]) -> Array:
        """Share of capacity that exposures of shape (cells, …) take from a new cell."""
        standing, cycling = exposed
        wide = (-1, *(1,) * (standing.ndim - 1))
        return np.asarray(standing ** self.calendar_power.reshape(wide) + cycling ** self.cycling_power.reshape(wide))

    def lost_since(self, before: tuple[Array, Array], later: tuple[Array, Array]) -> Array:
        """Share of capacity that a life takes after another one; exposures of shape (cells, …)."""
        both = before[0] + later[0], before[1] + later[1]
        return self.lost(both) - self.lost(before)


@lru_cache(maxsize=2)
def cells_of(chemistry: Chemistry) -> Cells:
    """The table's cells of a chemistry."""
    table = json.loads(TABLE.read_text(encoding="utf-8"))
    mine = [each for each in table["cells"] if each["chemistry"] == chemistry.value.upper()]
    calendar, cycling = (np.array([each[name] for each in mine]) for name in ("standing_power", "cycling_power"))

    def rates(name: str, power: Array, over: float) -> Array:
        losses = np.stack([np.array(each[name]) for each in mine], axis=-1)
        return np.asarray(np.log(np.maximum(losses, LEAST)) - power * np.log(over))

    return Cells(
        names=tuple(each["name"] for each in mine),
        standing_grid=(np.array(table["standing_c"]), np.array(table["standing_soc"])),
        standing=rates("standing", calendar, table["days"]),
        calendar_power=calendar,
        cycling_grid=(np.array(table["cycling_c"]), np.array(table["cycling_dod"]), np.array(table["cycling_soc"])),
        cycling=rates("cycling", cycling, table["full_cycles"]),
        cycling_power=cycling,
    )


def _summed(rates: Array, power: Array, weights: Number) -> Array:
    """Exposures of days (…, days, cells) that last so long (…, days), summed; (cells, …). They add up as losses do not."""
    return np.moveaxis((rates ** (1 / power) * np.asarray(weights)[..., None]).sum(axis=-2), -1, 0)


def _rate(grid: Sequence[Array], values: Array, *at: Number) -> Array:
    """Rates between the places of a grid, linear in their logarithm, held at its edges; shape (…, cells)."""
    places = np.broadcast_arrays(*(np.asarray(each, dtype=float) for each in at))
    lows, parts = [], []
    for axis, place in zip(grid, places, strict=True):
        low = np.clip(np.searchsorted(axis, place, side="right") - 1, 0, len(axis) - 2)
        lows.append(low)
        parts.append(np.clip((place - axis[low]) / (axis[low + 1] - axis[low]), 0.0, 1.0))
    found = np.zeros((*places[0].shape, values.shape[-1]))
    for corner in np.ndindex(*(2,) * len(grid)):
        share = np.prod([part if up else 1 - part for up, part in zip(corner, parts, strict=True)], axis=0)
        found += share[..., None] * values[tuple(low + up for low, up in zip(lows, corner, strict=True))]
    return np.asarray(np.exp(found))
