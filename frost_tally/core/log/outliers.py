"""Days that were noted wrongly: so far from all others that nobody drove them so."""

import numpy as np
import numpy.typing as npt

from ..basis import Basis, figure
from ..units import Array

LEAST_DAY_KM = figure(
    "log.least_day", 15.0, "km", Basis.COMMON_PRACTICE, "a shorter day says nothing of the energy for a kilometre"
)
ENOUGH_DAYS = figure("log.enough_days", 6.0, "", Basis.COMMON_PRACTICE, "days, before one of them can be far from the others")
SLIP_SIGMAS = figure(
    "log.slip", 4.0, "", Basis.COMMON_PRACTICE, "robust standard deviations from the middle: a level was read wrongly"
)
SLIP_SHARE = figure("log.slip_least", 0.25, "", Basis.COMMON_PRACTICE, "of the middle at least, for days that are all alike")
ROBUST = 1.4826


def sound(values: Array) -> npt.NDArray[np.bool_]:
    """Which values are not far from all others, shape (values,): by the median and the median absolute deviation.

    Source: the robust z-score (textbook); 1.4826 makes the deviation that of a normal distribution.
    """
    if len(values) < ENOUGH_DAYS:
        return np.ones(len(values), dtype=bool)
    away = np.abs(values - np.median(values))
    return away <= max(SLIP_SIGMAS * ROBUST * float(np.median(away)), SLIP_SHARE * float(np.median(values)))
