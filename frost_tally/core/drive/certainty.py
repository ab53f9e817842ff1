"""How sure the arrival is: a band from the spread of what is not known exactly."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.stats import norm, qmc

from ..basis import Basis, figure
from ..car import Car
from ..units import Array
from .day import Start, Trip
from .road import Conditions
from .trip import lanes, run

DRAWS = 32
SPREAD = {
    key: figure(f"certainty.{key}", value, unit, Basis.FROM_MEMORY, f"one standard deviation of {what}")
    for key, value, unit, what in (
        ("rolling", 0.08, "", "rolling resistance"),
        ("drag_area_m2", 0.04, "", "drag area"),
        ("efficiency", 0.02, "", "the drivetrain's efficiency"),
        ("cabin_loss", 0.15, "", "the cabin's heat loss"),
        ("motorway", 0.03, "", "the speed that traffic allows"),
        ("withheld", 0.25, "", "what a cold pack holds back"),
        ("ambient_c", 1.5, "K", "the forecast"),
    )
}


@dataclass(frozen=True)
class Band:
    """Likely value with its cautious (10 %) and hopeful (90 %) ends."""

    low: float
    likely: float
    high: float


def arrival(car: Car, trip: Trip, conditions: Conditions, start: Start, past_error_soc: float = 0.0) -> Band:
    """Level at arrival (0 to 1, can be below 0 when it is not enough), 10–50–90 %.

    Quasi-random draws over the spread of each unknown; `past_error_soc` adds the owner's own standard error.
    """
    base = lanes(car, conditions, start)
    changes = {}
    for column, (key, spread) in zip(_normals(len(SPREAD) + 1).T, SPREAD.items(), strict=False):
        value = np.asarray(getattr(base, key))
        changes[key] = value + spread * column if key == "ambient_c" else value * np.maximum(1 + spread * column, 0.2)
    used = run(car, trip, conditions, replace(base, **changes)).soc_used
    left = start.soc - used + past_error_soc * _normals(len(SPREAD) + 1)[:, -1]
    low, likely, high = np.quantile(left, (0.1, 0.5, 0.9))
    return Band(float(low), float(likely), float(high))


@lru_cache(maxsize=4)
def _normals(columns: int) -> Array:
    """Standard normal draws that fill the space evenly: a Sobol sequence with a fixed seed, (DRAWS, columns)."""
    return np.asarray(norm.ppf(qmc.Sobol(columns, scramble=True, seed=20).random(DRAWS)))
