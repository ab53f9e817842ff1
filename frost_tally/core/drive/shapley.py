"""Shapley values: each cause's effect averaged over the orders in which the causes can be added.

Exact over all subsets up to ten causes, along sampled orders in antithetic pairs above. Source: L. S. Shapley, "A value
for n-person games", Contributions to the Theory of Games II, 1953.
"""

from functools import lru_cache
from math import factorial

import numpy as np
import numpy.typing as npt

from ..units import Array

EXACT_UP_TO = 10
SAMPLED_PAIRS = 48


def subsets(n: int) -> Array:
    """The subsets of n causes whose values `shapley` needs, as rows of 0 and 1; the first row empty, the last full."""
    return _all_masks(n) if n <= EXACT_UP_TO else _sampled_masks(n)


def shapley(values: Array, n: int) -> Array:
    """Shapley value of each cause for each column of `values`, which has a row for every row of `subsets(n)`.

    The values of a column sum to its last row less its first.
    """
    return _exact(values) if n <= EXACT_UP_TO else _sampled_shapley(values, n)


def sampling_error(values: Array, n: int) -> Array:
    """Largest standard error of the causes' values for each column; 0 where `shapley` is exact.

    From the scatter of the antithetic pairs' means, which are independent of each other.
    """
    if n <= EXACT_UP_TO:
        return np.zeros(values.shape[1])
    gained, causes = _along_orders(values, n)
    half = len(gained) // 2
    found = []
    for i in range(n):
        each = gained[causes == i]
        pairs = (each[:half] + each[half:]) / 2
        found.append(pairs.std(axis=0, ddof=1) / np.sqrt(half))
    return np.asarray(np.max(found, axis=0))


def _all_masks(n: int) -> Array:
    """Every subset of n causes as rows of 0 and 1; the first row empty, the last full."""
    return _rows(np.arange(2**n), n)


def _rows(sets: npt.NDArray[np.intp], n: int) -> Array:
    return ((sets[:, None] >> np.arange(n)) & 1).astype(float)


def _exact(values: Array) -> Array:
    """Shapley values of each cause for each column of `values`, which holds all subsets in binary order."""
    n = int(np.log2(len(values)))
    index = np.arange(len(values))
    size = np.sum((index[:, None] >> np.arange(n)) & 1, axis=1)
    weight = np.array([factorial(s) * factorial(n - s - 1) / factorial(n) if s < n else 0.0 for s in range(n + 1)])
    parts = []
    for i in range(n):
        without = index[(index >> i) & 1 == 0]
        parts.append(weight[size[without]] @ (values[without | (1 << i)] - values[without]))
    return np.array(parts).reshape(n, values.shape[1])


@lru_cache(maxsize=8)
def _sampled_orders(n: int) -> npt.NDArray[np.intp]:
    """Subsets along sampled orders of causes as bit numbers, each order followed by its reverse: shape (orders, n + 1, 2).

    The second plane names the cause that the next position adds (0 in the last column).
    """
    draw = np.random.default_rng(1953)
    half = np.array([draw.permutation(n) for _ in range(SAMPLED_PAIRS)])
    orders = np.concatenate([half, half[:, ::-1]])
    sets = np.concatenate([np.zeros((len(orders), 1), dtype=np.intp), np.cumsum(1 << orders, axis=1)], axis=1)
    return np.stack([sets, np.pad(orders, ((0, 0), (0, 1)))], axis=2)


def _sampled_masks(n: int) -> Array:
    """The distinct subsets that the sampled orders visit; the first row is empty, the last full."""
    return _rows(np.unique(_sampled_orders(n)[:, :, 0]), n)


def _sampled_shapley(values: Array, n: int) -> Array:
    """Mean marginal effect of each cause along the sampled orders, for values of the subsets of `_sampled_masks`."""
    gained, causes = _along_orders(values, n)
    return np.array([gained[causes == i].mean(axis=0) for i in range(n)])


def _along_orders(values: Array, n: int) -> tuple[Array, npt.NDArray[np.intp]]:
    """What each position of each sampled order adds, and which cause that is: shapes (orders, n, columns), (orders, n)."""
    sets, causes = _sampled_orders(n)[:, :, 0], _sampled_orders(n)[:, :-1, 1]
    along = values[np.searchsorted(np.unique(sets), sets)]
    return np.diff(along, axis=1), causes
