"""How sure the arrival is: what is not known of the car and of the day, and how this owner's days went against the model.

The car's own factors are doubted by their prior, or by what learning left of it, each in proportion to its share of the use; the
day's own scatter and, once, the miss of the planned air (`Conditions.ambient_sigma_k`) add to it. The owner's errors replace the doubt
of the car: a normal prior on the bias, updated by the median of the errors, with their scatter from the median absolute deviation, so that
a single row noted wrongly changes next to nothing. Source: Bayes's rule for the normal mean (textbook); Student's t for few days.
Why: docs/decisions/0022.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise
from statistics import median

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import usable_fraction
from ..car import DAY_SIGMA, Car, Factors
from ..probability import t_quantile
from .batch import Driving, Pass, alone, kept
from .day import Drive, Start, Trip
from .road import Conditions
from .trip import cases, side_by_side

NOISE_DAYS = figure(
    "certainty.noise_days", 2.0, "d", Basis.COMMON_PRACTICE, "so many days count for the scatter before any is noted"
)
MOST_NOISE_DAYS = figure(
    "certainty.noise_days_learnt", 30.0, "d", Basis.COMMON_PRACTICE, "and at most so many that were learnt from"
)
UNLIKE = figure(
    "certainty.unlike",
    0.1,
    "",
    Basis.COMMON_PRACTICE,
    "of the car's doubt stays, for the coming day is colder or faster than those noted",
)
ROBUST = 1.4826
ODD_WIDTHS = figure(
    "certainty.odd_widths", 2.0, "", Basis.COMMON_PRACTICE, "widths of its band off the plan, a day is asked about"
)
ODD_SOC = figure(
    "certainty.odd_least", 0.08, "", Basis.COMMON_PRACTICE, "of level off the plan at least, before a day is asked about"
)
LEAST_ERRORS = 3
TAIL = 0.9
COLDEST_C = -45.0
USUAL_SHARES = (0.75, 0.2, 0.05)


@dataclass(frozen=True)
class LevelBand:
    """Likely value with its cautious (10 %) and hopeful (90 %) ends."""

    low: float
    likely: float
    high: float


def odd(used_soc: float, planned_soc: float, planned: LevelBand) -> bool:
    """Whether a noted day hardly fits its plan: a slip of the finger, or another day. Levels used, and the planned arrival (0 to 1)."""
    return abs(used_soc - planned_soc) > max(ODD_WIDTHS * (planned.high - planned.low), ODD_SOC)


@dataclass(frozen=True)
class OwnDays:
    """How the owner's latest days went against the model, as shares of the use.

    `bias` is what they took more, `bias_sigma` its doubt (None: nothing noted, the car's factors are in doubt), `day_sigma` how
    single days scatter, `away` how many standard deviations the cautious end is off, `count` the days noted.
    """

    bias: float = 0.0
    bias_sigma: float | None = None
    day_sigma: float = DAY_SIGMA
    away: float = t_quantile(np.inf, TAIL)
    count: int = 0

    def of(self, car: Car) -> Car:
        """The car as it went on those days."""
        return _driven_as(car, 1 + self.bias)


@lru_cache(maxsize=16)
def _driven_as(car: Car, own: float) -> Car:
    return replace(car, factors=replace(car.factors, own=own))


def own_days(errors: Sequence[float], factors: Factors) -> OwnDays:
    """What past days say of the next one; fewer than three have no say.

    Args: `errors` are (level used ÷ the model's − 1) of past days in the weather they had, by the model as it is now and without
    `factors.own`.
    """
    return _own_days(tuple(errors), factors)


@lru_cache(maxsize=64)
def _own_days(errors: tuple[float, ...], factors: Factors) -> OwnDays:
    count = len(errors)
    known = NOISE_DAYS + min(factors.days, MOST_NOISE_DAYS)
    if count < LEAST_ERRORS:
        return OwnDays(day_sigma=factors.day_sigma, away=_away(known if factors.days else np.inf), count=count)
    middle = median(errors)
    spread = ROBUST * median(abs(each - middle) for each in errors)
    day = (known * factors.day_sigma**2 + count * spread**2) / (known + count)
    prior = car_doubt(factors, *USUAL_SHARES) ** 2
    share = count * prior / (count * prior + day)
    doubt = float(np.sqrt(prior * (1 - share) + prior * UNLIKE**2))
    return OwnDays(share * middle, doubt, float(np.sqrt(day)), _away(known + count), count)


def car_doubt(factors: Factors, motion: float, heat: float, withheld: float) -> float:
    """Doubt of what a day takes, from that of the car's factors and their shares of the use (0 to 1).

    Source: propagation of independent errors (JCGM 100:2008, 5.1.2).
    """
    return float(np.linalg.norm(np.array(factors.sigma) * (motion, heat, withheld)))


@lru_cache(maxsize=256)
def _away(days: float) -> float:
    """Standard deviations to the cautious end: normal while nothing is known of this car, then Student's t."""
    return t_quantile(days - 1, TAIL)


def arrival(car: Car, trip: Trip, conditions: Conditions, start: Start, known: OwnDays | None = None) -> LevelBand:
    """Level at arrival (0 to 1; below 0 when not enough, never above what it left with), 10–50–90 %; `car`, `known` as for `along`."""
    return along(car, trip, conditions, start, known)[-1].level


@dataclass(frozen=True)
class Point:
    """The level on the way: km and hours since departure, whether the car parked until here, the level's band."""

    km: float
    hours: float
    parked: bool
    level: LevelBand


def along(car: Car, trip: Trip, conditions: Conditions, start: Start, known: OwnDays | None = None) -> tuple[Point, ...]:
    """The level's band at the start and after every leg: a fan that opens with what is used.

    `known` is what the owner's days say (nothing when None); its bias counts through the car: pass `known.of(car)`.
    """
    return alone(fan(car, trip, conditions, start, known))


@kept
def fan(car: Car, trip: Trip, conditions: Conditions, start: Start, known: OwnDays | None = None) -> Driving[tuple[Point, ...]]:
    """`along` as a work that can be driven together with others."""
    known = known or own_days((), car.factors)
    colder = replace(conditions, ambient_c=max(conditions.ambient_c - conditions.ambient_sigma_k, COLDEST_C))
    both = side_by_side([cases(car, each, start) for each in (conditions, colder)])
    outcome = yield Pass(car, trip, conditions, both)
    doubt = known.bias_sigma
    if doubt is None:
        parts = {name: float(kwh[0] / outcome.energy_kwh[0]) for name, kwh in outcome.parts_kwh.items()}
        withheld = 1 - float(usable_fraction((start.pack_c + outcome.end_pack_c[0]) / 2, car.pack.chemistry))
        doubt = car_doubt(car.factors, parts["wheels"] + parts["resistance"], parts["cabin"], withheld)
    points = [Point(0.0, 0.0, False, LevelBand(start.soc, start.soc, start.soc))]
    for end in outcome.ends:
        used, forecast = float(end.soc_used[0]), float(end.soc_used[1] - end.soc_used[0])
        driven = used + float(end.charged_soc[0])
        away = known.away * float(np.linalg.norm((driven * doubt, driven * known.day_sigma, forecast)))
        likely = start.soc - used
        level = LevelBand(likely - away, likely, min(likely + away, max(likely, start.soc + float(end.charged_soc[0]))))
        points.append(Point(end.km, float(end.hours[0]), not isinstance(end.leg, Drive), level))
    return tuple(points)


def empty_at_km(points: Sequence[Point], soc: float) -> float | None:
    """Where the likely level falls to `soc` (0 to 1), km from the start, linear between the points; None where it does not.

    Source: linear interpolation.
    """
    for a, b in pairwise(points):
        if b.level.likely < soc <= a.level.likely:
            return a.km + (b.km - a.km) * (a.level.likely - soc) / max(a.level.likely - b.level.likely, 1e-9)
    return None
