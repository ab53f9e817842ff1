"""What is tried for a row of nights, some of them at a time, and the choice of one try for each night."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from ..units import Array, Flags, Ints
from .blocks import widened
from .courses import Courses


class Tried(NamedTuple):
    """Schedules of some nights (`nights`: their places in the row, rising), what they come to, and their blocks: from and until (s,
    shape (nights, blocks)).
    """

    nights: Ints
    done: Courses
    begin: Array
    end: Array

    def of(self, these: Flags) -> "Tried":
        """Some of them."""
        return Tried(self.nights[these], self.done.at(np.flatnonzero(these)), self.begin[these], self.end[these])


def without_blocks(nights: Ints, done: Courses) -> Tried:
    """Schedules of which nobody needs the blocks."""
    return Tried(nights, done, np.zeros((len(nights), 0)), np.zeros((len(nights), 0)))


def table(tries: Sequence[Tried], count: int, values: Callable[[Tried], Array], otherwise: float) -> Array:
    """A value of every try of each night, shape (tries, `count` nights); another where a night was not tried."""
    found = np.full((len(tries), count), otherwise, dtype=float)
    for row, each in zip(found, tries, strict=True):
        row[each.nights] = values(each)
    return found


def picked(tries: Sequence[Tried], best: Ints, nights: Ints) -> Tried:
    """Of each of some nights the try of a number."""
    before = np.cumsum([0, *(len(each.nights) for each in tries)])[:-1]
    at, width = before[best], max(each.begin.shape[1] for each in tries)
    for number, each in enumerate(tries):
        these = best == number
        at[these] += np.searchsorted(each.nights, nights[these])
    spans = [widened(each.begin, each.end, width) for each in tries]
    begin, end = (np.concatenate(each)[at] for each in zip(*spans, strict=True))
    return Tried(nights, Courses.joined([each.done for each in tries]).at(at), begin, end)
