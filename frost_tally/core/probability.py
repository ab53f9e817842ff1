"""The normal distribution and Student's t. Why by hand: docs/decisions/0073."""

from functools import lru_cache
from math import erfc, exp, isinf, lgamma, log, pi, sqrt
from statistics import NormalDist

import numpy as np

from .units import Array, Number

_ERFC = np.frompyfunc(erfc, 1, 1)
_LEAST, _TERMS = 1e-15, 400


def normal_below(deviations: Number) -> Array:
    """Share of a normal distribution below so many standard deviations; an array of any shape.

    >>> round(float(normal_below(1.2816)), 4)
    0.9
    """
    return 0.5 * np.asarray(_ERFC(np.asarray(deviations) / -sqrt(2.0)), dtype=float)


@lru_cache(maxsize=1024)
def t_quantile(degrees: float, share: float) -> float:
    """Standard deviations below which lies a `share` (0.5 to 1) of Student's t of so many degrees of freedom (0.5 or more; inf: normal).

    Newton's steps on the distribution, from the normal one's quantile widened; source: Abramowitz and Stegun, 26.7.1 and 26.7.5.

    >>> round(t_quantile(10, 0.95), 3), round(t_quantile(float("inf"), 0.95), 3)
    (1.812, 1.645)
    """
    normal = NormalDist().inv_cdf(share)
    if isinf(degrees):
        return normal
    t = normal + (normal**3 + normal) / (4.0 * degrees)
    for _ in range(200):
        density = exp(lgamma((degrees + 1) / 2) - lgamma(degrees / 2) - (degrees + 1) / 2 * log(1 + t * t / degrees)) / sqrt(
            degrees * pi
        )
        step = (1.0 - 0.5 * _beta_share(degrees / 2, 0.5, degrees / (degrees + t * t)) - share) / density
        t = max(0.1 * t, t - step)
        if abs(step) < 1e-12 * (1.0 + t):
            break
    return t


def _beta_share(a: float, b: float, x: float) -> float:
    """Regularised incomplete beta function I_x(a, b), by its continued fraction. Source: Abramowitz and Stegun, 26.5.8."""
    if x > (a + 1.0) / (a + b + 2.0):
        return 1.0 - _beta_share(b, a, 1.0 - x)
    if x <= 0.0:
        return 0.0
    front = exp(lgamma(a + b) - lgamma(a) - lgamma(b) + a * log(x) + b * log(1.0 - x)) / a
    fraction, c, d = 1.0, 1.0, 0.0
    for i in range(_TERMS):  # Lentz's order of the terms, so that no denominator is nought
        m = i // 2
        if i == 0:
            term = 1.0
        elif i % 2 == 0:
            term = m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m))
        else:
            term = -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))
        d = 1.0 / _some(1.0 + term * d)
        c = _some(1.0 + term / c)
        fraction *= c * d
        if i and abs(1.0 - c * d) < _LEAST:
            break
    return front * (fraction - 1.0)


def _some(value: float) -> float:
    return value if abs(value) > 1e-30 else 1e-30
