"""How much is enough, of something that is tried in rounds for many nights at once. Why: docs/decisions/0053."""

from collections.abc import Callable

import numpy as np

from ..units import Array, Flags, Ints

ROUNDS, SAME_H = 6, 1e-6


class Bracket:
    """So many hours (at most `most_h`, shape (nights,)) lie between those that were too few and those that were enough: a guess beyond
    either goes halfway, so that the rounds close in however wrong the guesses are.
    """

    def __init__(self, most_h: Array) -> None:
        self.most_h, self.few_h, self.enough_h = most_h, np.full(len(most_h), -np.inf), np.full(len(most_h), np.inf)

    def within(self, nights: Ints, tried_h: Array, more_h: Array) -> Array:
        """The hours to try next on some nights, after some were tried and so many more seemed right (fewer: they were enough)."""
        enough = more_h <= SAME_H
        self.enough_h[nights[enough]] = np.minimum(self.enough_h[nights], tried_h)[enough]
        self.few_h[nights[~enough]] = np.maximum(self.few_h[nights], tried_h)[~enough]
        low, high = np.maximum(self.few_h[nights], 0.0), np.minimum(self.enough_h[nights], self.most_h[nights])
        guess_h = tried_h + more_h
        beyond = (guess_h < self.few_h[nights] - SAME_H) | (guess_h > self.enough_h[nights] + SAME_H)
        return np.where(beyond, (low + high) / 2, np.clip(guess_h, 0.0, high))


def least_more(enough_with: Callable[[Ints, Ints], Flags], nights: int, most: int) -> None:
    """Asks of each night whether so many steps more are enough, by doubling and halving, until the least is known, or for `ROUNDS`."""
    going, short, enough, more = np.arange(nights), np.full(nights, -1), np.full(nights, most), np.zeros(nights, dtype=int)
    for _ in range(ROUNDS):
        able = enough_with(going, more[going])
        enough[going[able]], short[going[~able]] = more[going[able]], more[going[~able]]
        more = np.where(enough < most, (short + enough) // 2, np.minimum(2 * short + 2, most - 1))
        going = np.flatnonzero((enough - short > 1) & (more != short))
        if not going.size:
            return
