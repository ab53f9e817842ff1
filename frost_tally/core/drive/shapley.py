"""Shapley values: each cause's effect averaged over the orders in which the causes can be added.

Exact over all subsets up to ten causes, along sampled orders in antithetic pairs above. Source: L. S. Shapley, "A value
for n-person games", Contributions to the Theory of Games II, 1953.
"""

from functools import lru_cache
from math import factorial

import numpy as np

from ..units import Array, Ints

EXACT_UP_TO = 10
SAMPLED_PAIRS = 48


def subsets(n: int) -> Array:
    """The subsets of n causes whose values `shapley` needs, as rows of 0 and 1; the first row empty, the last full."""
    return _all_masks(n) if n <= EXACT_UP_TO else _sampled_masks(n)


def shapley(values: Array, n: int) -> Array:
    """Shapley value of each cause for each column of `values`, which has a row for every row of `subsets(n)`.

    The values of a column sum to its last row less its first.
    """
    return np.asarray(_weights(n) @ values if n <= EXACT_UP_TO else _along_orders(values, n).mean(axis=0))


def sampling_error(values: Array, n: int) -> Array:
    """Largest standard error of the causes' values for each column; 0 where `shapley` is exact.

    From the scatter of the antithetic pairs' means, which are independent of each other.
    Source: the standard error of a mean of independent draws (JCGM 100:2008, 4.2.3).
    """
    if n <= EXACT_UP_TO:
        return np.zeros(values.shape[1])
    gained = _along_orders(values, n)
    half = len(gained) // 2
    scatter = ((gained[:half] + gained[half:]) / 2).std(axis=0, ddof=1)
    return np.asarray(scatter.max(axis=0) / np.sqrt(half))


@lru_cache(maxsize=EXACT_UP_TO + 1)
def _all_masks(n: int) -> Array:
    """Every subset of n causes as rows of 0 and 1; the first row empty, the last full."""
    return _rows(np.arange(2**n), n)


def _rows(sets: Ints, n: int) -> Array:
    return ((sets[:, None] >> np.arange(n)) & 1).astype(float)


@lru_cache(maxsize=EXACT_UP_TO + 1)
def _weights(n: int) -> Array:
    """What the value of each subset counts for each cause, subsets in binary order: shape (n, 2ⁿ)."""
    index = np.arange(2**n)
    size = np.sum((index[:, None] >> np.arange(n)) & 1, axis=1)
    share = np.array([factorial(s) * factorial(n - s - 1) / factorial(n) for s in range(n)])
    found = np.zeros((n, len(index)))
    for i in range(n):
        without = index[(index >> i) & 1 == 0]
        found[i, without] -= share[size[without]]
        found[i, without | (1 << i)] += share[size[without]]
    return found


@lru_cache(maxsize=8)
def _sampled_orders(n: int) -> Ints:
    """Sampled orders of causes, each half of an antithetic pair: shape (orders, n)."""
    draw = np.random.default_rng(1953)
    half = np.array([draw.permutation(n) for _ in range(SAMPLED_PAIRS)])
    return np.concatenate([half, half[:, ::-1]])


@lru_cache(maxsize=8)
def _visited(n: int) -> tuple[Ints, Ints, Ints]:
    """The distinct subsets along the sampled orders as bit numbers, and for each cause of each order the places among them with and
    without it: shapes (subsets,), (orders, n), (orders, n).
    """
    orders = _sampled_orders(n)
    sets = np.concatenate([np.zeros((len(orders), 1), dtype=np.int64), np.cumsum(1 << orders, axis=1)], axis=1)
    distinct, place = np.unique(sets, return_inverse=True)
    place, by_cause = place.reshape(sets.shape), np.argsort(orders, axis=1)
    return distinct, np.take_along_axis(place[:, 1:], by_cause, 1), np.take_along_axis(place[:, :-1], by_cause, 1)


@lru_cache(maxsize=8)
def _sampled_masks(n: int) -> Array:
    """The distinct subsets that the sampled orders visit; the first row is empty, the last full."""
    return _rows(_visited(n)[0], n)


def _along_orders(values: Array, n: int) -> Array:
    """What each cause adds where it stands in each sampled order: shape (orders, n, columns)."""
    _, with_it, without = _visited(n)
    return np.asarray(values[with_it] - values[without])
