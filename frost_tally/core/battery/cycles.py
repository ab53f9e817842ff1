"""Cycles counted in a course of levels: rainflow.

[1] ASTM E1049-85 (2017), 5.4.4: rainflow counting.
"""

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from ..units import Array

Cycle = tuple[float, float, float, int, int]
"""Range, mean, count (1 or 0.5), and the places in the course where it begins and ends."""


def reversals(course: npt.ArrayLike) -> npt.NDArray[np.int64]:
    """The places of a course's turning points, its first and its last among them; the first of equal neighbours."""
    values = np.asarray(course, dtype=float)
    kept = np.flatnonzero(np.diff(values, prepend=np.nan) != 0)
    if len(kept) < 3:
        return kept
    rises = np.sign(np.diff(values[kept]))
    return np.asarray(kept[np.concatenate([[0], 1 + np.flatnonzero(rises[1:] != rises[:-1]), [len(kept) - 1]])])


def rainflow(course: Sequence[float] | Array) -> Iterator[Cycle]:
    """Count the cycles of a course by [1]: closed ones as they close, what remains as halves.

    >>> [(each[0], each[2]) for each in rainflow([-2, 1, -3, 5, -1, 3, -4, 4, -2])]
    [(3.0, 0.5), (4.0, 0.5), (4.0, 1.0), (8.0, 0.5), (9.0, 0.5), (8.0, 0.5), (6.0, 0.5)]
    """
    values = np.asarray(course, dtype=float)
    stack: list[tuple[int, float]] = []
    for place in reversals(values).tolist():
        stack.append((place, float(values[place])))
        while len(stack) >= 3:
            (first, a), (second, b), (_, c) = stack[-3:]
            if abs(c - b) < abs(b - a):
                break
            if len(stack) == 3:
                yield abs(b - a), (a + b) / 2, 0.5, first, second
                stack.pop(0)
            else:
                yield abs(b - a), (a + b) / 2, 1.0, first, second
                del stack[-3:-1]
    for (first, a), (second, b) in zip(stack, stack[1:], strict=False):
        yield abs(b - a), (a + b) / 2, 0.5, first, second
