"""Drive schedules and the speeds of a leg.

Town is the EPA Urban Dynamometer Driving Schedule (UDDS, 40 CFR Part 86, Appendix I), country road the Highway Fuel
Economy Test (HWFET, 40 CFR Part 600, Appendix I): one speed a second, shipped as data in m/s. Motorway is a steady speed
with a slow swing. Why: docs/decisions/0005.
"""

import csv
from functools import lru_cache
from importlib.resources import files

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Number

SWING = figure("cycles.motorway_swing", 0.05, "", Basis.COMMON_PRACTICE, "speed wanders by 5 % around the set speed")
SWING_S = figure("cycles.motorway_swing_period", 120.0, "s", Basis.COMMON_PRACTICE, "slopes and traffic, two minutes")


@lru_cache(maxsize=4)
def schedule(name: str) -> Array:
    """Speeds of `udds` or `hwfet`, m/s, one a second. Source: 40 CFR Parts 86 and 600."""
    text = files(__package__).joinpath("data", f"{name}.csv").read_text(encoding="utf-8")
    speeds = np.array([float(row["speed_mps"]) for row in csv.DictReader(text.splitlines())])
    speeds.flags.writeable = False
    return speeds


@lru_cache(maxsize=1)
def motorway() -> tuple[Array, Array, Array]:
    """A steady speed of 1 m/s with a small slow swing: speed, acceleration and share of the time of each of 24 points."""
    speed, accel = samples(1 + SWING * np.sin(2 * np.pi * np.arange(25) / 24), SWING_S / 24)
    return speed, accel, np.full(24, 1 / 24)


def samples(speeds: Number, dt_s: float = 1.0) -> tuple[Array, Array]:
    """Mean speed (m/s) and acceleration (m/s²) of each interval of a speed trace with n points: two arrays of n − 1.

    Source: finite differences of a sampled trace.
    """
    trace = np.asarray(speeds, dtype=float)
    return (trace[1:] + trace[:-1]) / 2, np.diff(trace) / dt_s


@lru_cache(maxsize=4)
def condensed(name: str) -> tuple[Array, Array, Array]:
    """A schedule as weighted points: speed (m/s), acceleration (m/s²) and share of the time, each of shape (points,).

    Seconds with nearly the same speed (1 m/s) and acceleration (0.15 m/s²) are one point at their means; energies differ
    from the second-by-second sum by less than 0.3 %.
    Source: a histogram of the trace by speed and acceleration; the road load is summed over it.
    """
    speed, accel = samples(schedule(name))
    cell = np.floor(speed / 1.0).astype(int) * 1000 + np.floor(accel / 0.15).astype(int)
    _, kind, number = np.unique(cell, return_inverse=True, return_counts=True)
    return np.bincount(kind, speed) / number, np.bincount(kind, accel) / number, number / number.sum()
