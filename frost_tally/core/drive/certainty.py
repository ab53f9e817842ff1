"""How sure the arrival is: what is not known of the car and of the day, and how this owner's days went against the model.

The car's own factors are doubted by their prior, or by what learning left of it; traffic, forecast and the day itself add to it.
Each is propagated to first order, by one lane a standard deviation away. The owner's errors then move and scale the band: a
normal prior on the car's bias, updated by the median of the errors, with their scatter from the median absolute deviation, so
that a single row noted wrongly changes nothing. Source: Bayes's rule for the normal mean (textbook); Student's t for few days.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from scipy.stats import t as student

from ..basis import Basis, figure
from ..car import Car, Factors
from ..units import Array
from .day import LegEnd, Outcome, Road, Start, Trip
from .road import Conditions
from .trip import lanes, run, side_by_side

TRAFFIC = figure("certainty.traffic", 0.03, "", Basis.FROM_MEMORY, "one standard deviation of the speed that traffic allows")
FORECAST_K = figure("certainty.forecast", 1.5, "K", Basis.FROM_MEMORY, "one standard deviation of the forecast")
NOISE_DAYS = figure(
    "certainty.noise_days", 4.0, "d", Basis.COMMON_PRACTICE, "so many days count for the scatter before any is noted"
)
MOST_NOISE_DAYS = figure(
    "certainty.noise_days_learnt", 30.0, "d", Basis.COMMON_PRACTICE, "and at most so many that were learnt from"
)
ROBUST = 1.4826
LEAST_ERRORS = 3
TAIL = 0.9


@dataclass(frozen=True)
class Band:
    """Likely value with its cautious (10 %) and hopeful (90 %) ends."""

    low: float
    likely: float
    high: float


@dataclass(frozen=True)
class Scatter:
    """How a day differs from the model: bias and one standard deviation of the level used (shares of it), and what the cautious
    end of the band is away in standard deviations.
    """

    bias: float
    sigma: float
    away: float


def scatter(errors: Sequence[float], factors: Factors, car_sigma: float, day_sigma: float, forecast_sigma: float) -> Scatter:
    """What past days say of the next one.

    Args: `errors` are (level used ÷ the model's − 1) of past days in the weather they had, those of the model as it is now;
    the sigmas are the doubt of the car's bias, of a day and of its forecast, as shares of the use. Fewer than three errors
    have no say.
    """
    count = len(errors) if len(errors) >= LEAST_ERRORS else 0
    known = NOISE_DAYS + min(factors.days, MOST_NOISE_DAYS)
    middle = spread = 0.0
    if count:
        middle = float(np.median(errors))
        spread = ROBUST * float(np.median(np.abs(np.asarray(errors) - middle)))
    day = (known * day_sigma**2 + count * spread**2) / (known + count)
    share = count * car_sigma**2 / (count * car_sigma**2 + day) if count else 0.0
    sigma = float(np.sqrt(car_sigma**2 * (1 - share) + day + forecast_sigma**2))
    return Scatter(share * middle, sigma, _away(known + count if count or factors.days else np.inf))


@lru_cache(maxsize=256)
def _away(days: float) -> float:
    """Standard deviations to the cautious end: normal while nothing is known of this car, then Student's t."""
    return float(student.ppf(TAIL, days - 1))


def arrival(car: Car, trip: Trip, conditions: Conditions, start: Start, errors: Sequence[float] = ()) -> Band:
    """Level at arrival (0 to 1, can be below 0 when it is not enough), 10–50–90 %; `errors` as for `scatter`."""
    return along(car, trip, conditions, start, errors)[-1].level


@dataclass(frozen=True)
class Point:
    """The level on the way: km and hours since departure, whether the car parked until here, the level's band."""

    km: float
    hours: float
    parked: bool
    level: Band


def along(car: Car, trip: Trip, conditions: Conditions, start: Start, errors: Sequence[float] = ()) -> tuple[Point, ...]:
    """The level's band at the start and after every leg: a fan that opens with what is used."""
    outcome = _doubted(car, trip, conditions, start)
    whole = _sigmas(outcome.ends[-1], car)
    found = scatter(errors, car.factors, *whole)
    widens = found.sigma / max(float(np.linalg.norm(whole)), 1e-9)
    points = [Point(0.0, 0.0, False, Band(start.soc, start.soc, start.soc))]
    for end in outcome.ends:
        used = float(end.soc_used[0]) * (1 + found.bias)
        away = found.away * widens * float(np.linalg.norm(_sigmas(end, car))) * float(end.soc_used[0])
        level = start.soc - used
        points.append(Point(end.km, float(end.hours[0]), end.leg.road is Road.PARKED, Band(level - away, level, level + away)))
    return tuple(points)


def _doubted(car: Car, trip: Trip, conditions: Conditions, start: Start) -> Outcome:
    """The day as expected, and one standard deviation away in each unknown: base, heat and cold of the car, traffic, forecast."""
    base, heat, cold = car.factors.sigma
    usual = lanes(car, conditions, start)
    away = (
        {"efficiency": np.asarray(usual.efficiency) / (1 + base)},
        {"cabin_loss": np.asarray(usual.cabin_loss) + heat},
        {"withheld": np.asarray(usual.withheld) + cold},
        {"motorway": np.asarray(usual.motorway) * (1 + TRAFFIC)},
        {"ambient_c": np.asarray(usual.ambient_c) - FORECAST_K},
    )
    return run(car, trip, conditions, side_by_side([usual, *(replace(usual, **change) for change in away)]))


def _sigmas(end: LegEnd, car: Car) -> tuple[float, float, float]:
    """Doubt of the car, of the day and of its forecast after a leg, as shares of what is used by then."""
    used = end.soc_used
    shifts: Array = (used[1:] - used[0]) / max(float(used[0]), 1e-9)
    traffic = 0.0 if car.factors.days else float(shifts[3])
    return float(np.linalg.norm(shifts[:3])), float(np.hypot(traffic, car.factors.day_sigma)), abs(float(shifts[4]))
