"""Values on a grid of two axes, linear between."""

from dataclasses import dataclass

import numpy as np

from .units import Array, Ints


@dataclass(frozen=True, eq=False)
class Grid:
    """`values` of shape (rows, columns, …) at `rows` and `columns`, both rising."""

    rows: Array
    columns: Array
    values: Array

    def at(self, row: Array, column: Array) -> Array:
        """Bilinear values at some places, of one shape, within the grid: shape of the places and what else `values` has."""
        i, s = _between(self.rows, np.asarray(row, dtype=float))
        j, t = _between(self.columns, np.asarray(column, dtype=float))
        more = (...,) + (None,) * (self.values.ndim - 2)
        s, t, found = s[more], t[more], self.values
        first = found[i, j] * (1 - t) + found[i, j + 1] * t
        return np.asarray(first * (1 - s) + (found[i + 1, j] * (1 - t) + found[i + 1, j + 1] * t) * s)


def _between(axis: Array, at: Array) -> tuple[Ints, Array]:
    """In which interval of an axis each place lies, and how far on in it (0 to 1)."""
    i = np.clip(np.searchsorted(axis, at, side="right") - 1, 0, len(axis) - 2)
    return i, (at - axis[i]) / (axis[i + 1] - axis[i])
