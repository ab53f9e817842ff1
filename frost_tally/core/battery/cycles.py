"""Cycles counted in a course of levels: rainflow.

[1] ASTM E1049-85 (2017), 5.4.4: rainflow counting.
"""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..units import Array


def reversals(course: npt.ArrayLike) -> npt.NDArray[np.int64]:
    """The places of a course's turning points, its first and its last among them; the first of equal neighbours.

    Source: [1], of which only peaks and valleys count.
    """
    values = np.asarray(course, dtype=float)
    kept = np.flatnonzero(np.diff(values, prepend=np.nan) != 0)
    if len(kept) < 3:
        return kept
    rises = np.sign(np.diff(values[kept]))
    return np.asarray(kept[np.concatenate([[0], 1 + np.flatnonzero(rises[1:] != rises[:-1]), [len(kept) - 1]])])


def rainflow(course: Sequence[float] | Array) -> Array:
    """Count the cycles of a course by [1]: closed ones as they close, what remains as halves.

    Returns rows of range, mean, count (1 or 0.5), and the places in the course where it begins and ends; shape (cycles, 5).

    >>> rainflow([-2, 1, -3, 5, -1, 3, -4, 4, -2])[:, [0, 2]].tolist()
    [[3.0, 0.5], [4.0, 0.5], [4.0, 1.0], [8.0, 0.5], [9.0, 0.5], [8.0, 0.5], [6.0, 0.5]]
    """
    values, turns = np.asarray(course, dtype=float), reversals(course)
    heights, places, found, first = list[float](), list[int](), list[float](), 0
    for height, place in zip(values[turns].tolist(), turns.tolist(), strict=True):
        heights.append(height)
        places.append(place)
        while len(heights) - first >= 3:
            a, b = heights[-3], heights[-2]
            size = abs(b - a)
            if abs(height - b) < size:
                break
            if len(heights) - first == 3:
                found += (size, (a + b) / 2, 0.5, places[first], places[first + 1])
                first += 1
            else:
                found += (size, (a + b) / 2, 1.0, places[-3], places[-2])
                del heights[-3:-1], places[-3:-1]
    for i in range(first, len(heights) - 1):
        a, b = heights[i], heights[i + 1]
        found += (abs(b - a), (a + b) / 2, 0.5, places[i], places[i + 1])
    return np.array(found).reshape(-1, 5)
