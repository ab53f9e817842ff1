"""Values between known ones: on a grid of two axes, linear; along a line, smooth and never beyond its neighbours."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .units import Array, Ints, Number


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


class Curve:
    """A smooth line through points (`x` rising), monotone wherever the points are: piecewise cubic Hermite.

    Its slope at a point is the weighted harmonic mean of those on both sides, 0 where they differ in sign; at the ends of three points.
    Source: Fritsch and Butland, SIAM J. Sci. Stat. Comput. 5 (1984); the ends as Moler, Numerical Computing with MATLAB (2004), 3.6.
    """

    def __init__(self, x: Sequence[float] | Array, y: Sequence[float] | Array) -> None:
        self.x, self.y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
        width, slope = np.diff(self.x), np.diff(self.y) / np.diff(self.x)
        before, after = 2 * width[1:] + width[:-1], width[1:] + 2 * width[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            inner = (before + after) / (before / slope[:-1] + after / slope[1:])
        inner = np.where(slope[:-1] * slope[1:] > 0, inner, 0.0)
        ends = (_end(width[0], width[1], slope[0], slope[1]), _end(width[-1], width[-2], slope[-1], slope[-2]))
        self.slopes = np.concatenate([[ends[0]], inner, [ends[1]]])

    def __call__(self, at: Number) -> Array:
        """Its values at some places within the points; an array of their shape."""
        i, t = _between(self.x, np.asarray(at, dtype=float))
        width = self.x[i + 1] - self.x[i]
        rise = self.y[i + 1] - self.y[i]
        first, last = self.slopes[i] * width, self.slopes[i + 1] * width
        return np.asarray(self.y[i] + t * (first + t * (3 * rise - 2 * first - last + t * (first + last - 2 * rise))))


def _end(width: float, following: float, slope: float, next_slope: float) -> float:
    found = ((2 * width + following) * slope - width * next_slope) / (width + following)
    if found * slope <= 0:
        return 0.0
    return 3 * slope if slope * next_slope < 0 and abs(found) > 3 * abs(slope) else float(found)
