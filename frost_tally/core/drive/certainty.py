"""How sure the arrival is: a band from the spread of what is not known exactly."""

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.stats import norm, qmc

from ..basis import Basis, figure
from ..car import Car
from ..units import Array
from .day import Outcome, Road, Start, Trip
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
    outcome, extra = _draws(car, trip, conditions, start, past_error_soc)
    return _band(start.soc - outcome.soc_used + extra)


@dataclass(frozen=True)
class Point:
    """A place along the day: km and hours since the first departure, whether parked until here, and the level's band."""

    km: float
    hours: float
    parked: bool
    level: Band


def along(car: Car, trip: Trip, conditions: Conditions, start: Start, past_error_soc: float = 0.0) -> tuple[Point, ...]:
    """The level's band at the start and after every leg: a fan that opens with the distance.

    The owner's own error grows with the share of the day's use that lies behind.
    """
    outcome, extra = _draws(car, trip, conditions, start, past_error_soc)
    whole = np.maximum(outcome.soc_used, 1e-9)
    points = [Point(0.0, 0.0, False, Band(start.soc, start.soc, start.soc))]
    for end in outcome.ends:
        level = _band(start.soc - end.soc_used + extra * end.soc_used / whole)
        points.append(Point(end.km, float(np.median(end.hours)), end.leg.road is Road.PARKED, level))
    return tuple(points)


def _draws(car: Car, trip: Trip, conditions: Conditions, start: Start, past_error_soc: float) -> tuple[Outcome, Array]:
    """One lane for each draw of the unknowns, and the draw of the owner's own error."""
    base = lanes(car, conditions, start)
    changes = {}
    for column, (key, spread) in zip(_normals(len(SPREAD) + 1).T, SPREAD.items(), strict=False):
        value = np.asarray(getattr(base, key))
        changes[key] = value + spread * column if key == "ambient_c" else value * np.maximum(1 + spread * column, 0.2)
    return run(car, trip, conditions, replace(base, **changes)), past_error_soc * _normals(len(SPREAD) + 1)[:, -1]


def _band(levels: Array) -> Band:
    low, likely, high = np.quantile(levels, (0.1, 0.5, 0.9))
    return Band(float(low), float(likely), float(high))


@lru_cache(maxsize=4)
def _normals(columns: int) -> Array:
    """Standard normal draws that fill the space evenly: a Sobol sequence with a fixed seed, (DRAWS, columns)."""
    return np.asarray(norm.ppf(qmc.Sobol(columns, scramble=True, seed=20).random(DRAWS)))
