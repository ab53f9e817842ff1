"""Capacity from ordinary charges and drives: many small measurements of a month weighed together.

kWh = capacity · (difference of two levels as shown − what the display has wrong there). The display's error belongs to the level, so that
sessions that begin or end alike share it: it averages out only as far as levels differ. Generalised least squares with that covariance.

[1] A. C. Aitken, Proc. R. Soc. Edinburgh 55 (1936): generalised least squares. Why: docs/decisions/0043.
"""

from dataclasses import dataclass
from functools import lru_cache
from math import sqrt

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Ints
from .capacity import CALIBRATION, METER, RESOLUTION, level_sigma

ALIKE_SOC = figure("capacity.alike", 0.05, "", Basis.FROM_MEMORY, "levels nearer than this share what a display has wrong")
LEAST_SOC = figure("capacity.least_session", 0.1, "", Basis.COMMON_PRACTICE, "of level at least, for an everyday estimate")
FEWEST, MOST, FAR = 3, 90, 4.0


@dataclass(frozen=True, kw_only=True)
class Ordinary:
    """Ordinary charges or drives; arrays of shape (sessions,): the month each belongs to (any whole numbers), its two levels (0 to 1,
    in any order), and the energy between them at 25 °C, kWh.
    """

    month: Ints
    soc_one: Array
    soc_other: Array
    kwh: Array


@dataclass(frozen=True, kw_only=True)
class Everyday:
    """What a month of sessions says of the capacity: kWh, its standard deviation, from how many; `display_kwh` is what of the deviation the
    display has wrong, the same in every month that charges between the same levels.
    """

    month: int
    kwh: float
    sigma_kwh: float
    count: int
    display_kwh: float = 0.0

    @property
    def like_soc(self) -> float:
        """The single test between two levels so far apart that is worth as much, 0 to 1."""
        rest = (self.sigma_kwh / self.kwh) ** 2 - METER**2
        return min(1.0, level_sigma() / sqrt(rest)) if rest > 0 else 1.0


def monthly(sessions: Ordinary) -> tuple[Everyday, ...]:
    """An estimate for each month that has at least three sessions of 10 % or more; the latest 90 of a month. Source [1]."""
    delta = np.abs(sessions.soc_one - sessions.soc_other)
    good = np.flatnonzero((delta >= LEAST_SOC - 1e-9) & np.isfinite(sessions.kwh) & (sessions.kwh > 0))
    found = []
    for month in np.unique(sessions.month[good]).tolist():
        rows = good[sessions.month[good] == month][-MOST:]
        table = np.array([each[rows] for each in (sessions.soc_one, sessions.soc_other, sessions.kwh)])
        if len(rows) >= FEWEST and (estimate := _weighed(int(month), table.tobytes())) is not None:
            found.append(estimate)
    return tuple(found)


@lru_cache(maxsize=1024)
def _weighed(month: int, table: bytes) -> Everyday | None:
    """One month; rows that do not belong to the rest are left out once. Kept, for a month that is over seldom changes."""
    one, other, kwh = np.frombuffer(table).reshape(3, -1)
    low, high = np.minimum(one, other), np.maximum(one, other)
    delta = high - low

    def alike(a: Array, b: Array) -> Array:
        return np.asarray(CALIBRATION**2 / 2 * np.exp(-np.abs(a[:, None] - b[None, :]) / ALIKE_SOC))

    shared = alike(high, high) + alike(low, low) - alike(high, low) - alike(low, high)
    noise = shared + np.diag(RESOLUTION**2 / 6 + (METER * delta) ** 2)
    ratio = float(np.median(kwh / delta))
    sane = np.abs(kwh / ratio - delta) < FAR * np.sqrt(np.diag(noise))
    if np.count_nonzero(sane) < FEWEST:
        return None
    solved = np.linalg.solve(noise[np.ix_(sane, sane)], np.column_stack([delta[sane], kwh[sane]]))
    say = float(delta[sane] @ solved[:, 0])
    capacity, weight = float(delta[sane] @ solved[:, 1]) / say, solved[:, 0] / say
    display = sqrt(float(weight @ shared[np.ix_(sane, sane)] @ weight))
    return Everyday(
        month=month,
        kwh=capacity,
        sigma_kwh=capacity / sqrt(say),
        count=int(np.count_nonzero(sane)),
        display_kwh=capacity * display,
    )
