"""Health over time: the ageing model's course scaled to the tests, with what is not known of it.

health(t) = new − scale · model(t) − drift · t + steps. The model brings the shape, fast at first and slower later; `drift` lets a pack go
another way. All are linear with normal priors, so that the answer is exact but for the weights: a test far from all others loses its say.
How a car's display is calibrated is one draw a car, the same at every test: it does not average out, and the loss a year is free of it.

[1] A. Gelman et al., Bayesian Data Analysis (2013), ch. 14: linear regression with normal priors.
[2] P. J. Huber and E. M. Ronchetti, Robust Statistics (2009), ch. 7: weights that let wrong rows lose their say.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import erf, sqrt

import numpy as np

from ..basis import Basis, figure
from ..errors import OutOfRange
from ..units import Array, Number
from .ageing import LIFE_CYCLES, LIFE_DAYS, calendar_loss, cycling_loss
from .capacity import CALIBRATION, METER, level_sigma
from .cold import Chemistry

DAYS_PER_YEAR = 365.25
SCALE = figure(
    "trend.scale", 0.7, "", Basis.FROM_MEMORY, "what packs lose against their cells in the laboratory, before any test"
)
SCALE_SIGMA = figure("trend.scale_doubt", 0.35, "", Basis.FROM_MEMORY, "spread of that among cars, one standard deviation")
NEW_SIGMA = figure("trend.new_doubt", 0.02, "", Basis.FROM_MEMORY, "spread of new packs about their stated capacity")
DRIFT_SIGMA = figure(
    "trend.drift_doubt", 0.005, "1/a", Basis.FROM_MEMORY, "what a pack may lose a year besides the model, or less"
)
STEP_SIGMA = figure("trend.step_doubt", 0.05, "", Basis.COMMON_PRACTICE, "how far a display may step at a marked event")
Z90 = 1.6449
FAR, FALLS, ROUNDS, FEW = 2.5, 3, 15, 8
OF_THE_COURSE = 0.01
"""How far true tests lie off the prior's curve, moved to their median, before anything is known of the car (share of new)."""
LEAST_SCALE = 0.1
DISPLAY, MOST_DISPLAY = "display", 0.025
"""The calibration's part of a test between two levels 40 % apart."""


LEAST_SIGMA = 0.004
"""No measurement knows a pack better than this, as a share of new."""


@dataclass(frozen=True, kw_only=True)
class Tested:
    """A measured health (share of new) at an age in days, its standard deviation; tests of a `group` share an error of their own.

    `shares` are parts of the deviation that are one draw a car, by name: the same at every test, such as how its display is calibrated
    (None: as much of that as a test between two levels of that deviation has).
    """

    days: float
    health: float
    sigma: float
    group: str = ""
    shares: tuple[tuple[str, float], ...] | None = None

    @property
    def can_be(self) -> bool:
        """Whether any battery can have told it."""
        return self.days >= 0 and 0.2 <= self.health <= 1.3 and self.sigma > 0

    @property
    def parts(self) -> dict[str, float]:
        """See `shares`."""
        if self.shares is not None:
            return dict(self.shares)
        levels = sqrt(max(self.sigma**2 - METER**2, 0.0))
        return {DISPLAY: min(levels * CALIBRATION / level_sigma(), MOST_DISPLAY)}


@dataclass(frozen=True, eq=False)
class Course:
    """What the ageing model says of a life: loss (share of capacity) by age in days, both from 0 upwards, of one shape (points,)."""

    days: Array
    loss: Array

    def at(self, days: Number) -> Array:
        """Loss at some ages; beyond the last point on its last slope."""
        slope = (self.loss[-1] - self.loss[-2]) / (self.days[-1] - self.days[-2])
        return np.asarray(np.interp(days, self.days, self.loss) + np.maximum(np.asarray(days) - self.days[-1], 0.0) * slope)


def usual_course(
    chemistry: Chemistry, temp_c: float = 10.0, soc: float = 0.65, cycles_a_year: float = LIFE_CYCLES / LIFE_DAYS * DAYS_PER_YEAR
) -> Course:
    """Thirty years of a usual life: one temperature and level, so many full cycles a year (15 000 km)."""
    days = np.linspace(0.0, 30 * DAYS_PER_YEAR, 361)
    cycles = days * cycles_a_year / DAYS_PER_YEAR
    return Course(days, calendar_loss(chemistry, temp_c, soc, days) + cycling_loss(chemistry, cycles, 0.4, 0.6))


def usual_health(chemistry: Chemistry, age_days: float) -> float:
    """What a usual life leaves of a pack by an age (share of new): a guess, where nothing tells it. Source: the laws of `ageing`."""
    course = usual_course(chemistry)
    return float(1 - np.interp(age_days, course.days, SCALE * course.loss))


def age_of(health: float, chemistry: Chemistry) -> float:
    """The age (days) at which a usual life of a pack has left so much (share of new), at most 20 years: a guess, where nothing tells it."""
    course = usual_course(chemistry)
    return float(min(np.interp(1 - health, SCALE * course.loss, course.days), 20 * DAYS_PER_YEAR))


@dataclass(frozen=True, eq=False, kw_only=True)
class Trend:
    """The fit: its course, the steps' ages, the parameters with their covariance, the age that counts as now (days), tests' weights.

    Parameters are new, scale, drift, steps; `weights` (0 to 1, shape (tests,)) say which tests counted.
    """

    course: Course
    steps: tuple[float, ...]
    mean: Array
    covariance: Array
    now_days: float
    weights: Array

    def at(self, days: Number) -> tuple[Array, Array]:
        """Health and its standard deviation at some ages."""
        rows = _rows(np.atleast_1d(np.asarray(days, dtype=float)), self.course, self.steps)
        return rows @ self.mean, np.sqrt(np.einsum("ij,jk,ik->i", rows, self.covariance, rows))

    @cached_property
    def health(self) -> float:
        """Health now, share of new."""
        return float(self.at(self.now_days)[0][0])

    @cached_property
    def sigma(self) -> float:
        """Its standard deviation."""
        return float(self.at(self.now_days)[1][0])

    @property
    def band(self) -> tuple[float, float]:
        """The 90 % band of health now."""
        return self.health - Z90 * self.sigma, self.health + Z90 * self.sigma

    @property
    def scale(self) -> tuple[float, float]:
        """The owner's own scale on the model, and its standard deviation."""
        return float(self.mean[1]), float(np.sqrt(self.covariance[1, 1]))

    @property
    def loss_per_year(self) -> float:
        """Share of new that the coming year takes."""
        return self._coming()[0]

    @property
    def loss_per_year_sigma(self) -> float:
        """Its standard deviation."""
        return self._coming()[1]

    def mean_loss(self, until_days: float) -> float:
        """Share of new that a year takes on average from now to an age."""
        (end,), years = self.at(until_days)[0].tolist(), (until_days - self.now_days) / DAYS_PER_YEAR
        return (self.health - end) / years if years > 0 else self.loss_per_year

    def _coming(self) -> tuple[float, float]:
        rows = _rows(np.array([self.now_days, self.now_days + DAYS_PER_YEAR]), self.course, self.steps)
        row = rows[0] - rows[1]
        return float(row @ self.mean), float(np.sqrt(row @ self.covariance @ row))

    def when(self, level: float, until_days: float = 30 * DAYS_PER_YEAR) -> tuple[float | None, float | None, float | None]:
        """Ages (days) at which health comes to a level: at the earliest (90 % band), likely, at the latest; None: not by `until_days`."""
        days = np.arange(self.now_days, max(until_days, self.now_days) + 15.0, 15.0)
        mean, sigma = self.at(days)
        below = [np.flatnonzero(mean + z * sigma <= level) for z in (-Z90, 0.0, Z90)]
        early, likely, late = (float(days[each[0]]) if len(each) else None for each in below)
        return early, likely, late

    def chance_below(self, level: float, days: float) -> float:
        """How likely health is under a level at an age, 0 to 1."""
        mean, sigma = (float(each[0]) for each in self.at(days))
        return 0.5 * (1 + erf((level - mean) / sigma / sqrt(2)))


def _rows(days: Array, course: Course, steps: Sequence[float]) -> Array:
    stepped = [(days >= each).astype(float) for each in steps]
    return np.column_stack([np.ones(len(days)), -course.at(days), -days / DAYS_PER_YEAR, *stepped])


def own_sigma(sigma: float, shared: float) -> float:
    """A measurement's own error, without what it shares with its group (shares of new).

    Source: variances of independent parts add (JCGM 100:2008, 5.1.2).
    """
    return float(max(sigma**2 - shared**2, LEAST_SIGMA**2) ** 0.5)


def fit(
    tests: Sequence[Tested],
    *,
    course: Course | None = None,
    now_days: float | None = None,
    steps: Sequence[float] = (),
    shared: Mapping[str, float] | None = None,
) -> Trend:
    """Fit health to tests; without any it is the model's, with its doubt.

    Args: `course` the model's loss over this owner's own life (a usual one when None); `now_days` the age that counts as now (the last
    test's when None); `steps` ages at which the display may have stepped; `shared` the standard deviation of the error that tests of a
    group have in common. Raises: OutOfRange for an age under 0, a health outside 0.2 to 1.3, a sigma that is not above 0. Sources [1], [2].
    """
    if not all(each.can_be for each in tests):
        raise OutOfRange("A test needs an age, a health between 20 and 130 %, and an error above 0.", "health")
    course, steps = course or usual_course(Chemistry.NMC), tuple(sorted(steps))
    days, health, sigma = (np.array([getattr(each, name) for each in tests], dtype=float) for name in ("days", "health", "sigma"))
    common, doubts = _in_common(tests, shared or {})
    draws = common[:, len(shared or {}) :]
    sigma = np.sqrt(np.maximum(sigma**2 - np.square(draws).sum(axis=1), LEAST_SIGMA**2))
    rows = np.column_stack([_rows(days, course, steps), common])
    prior = np.array([1.0, SCALE, 0.0, *[0.0] * (len(steps) + len(doubts))])
    doubt = np.array([NEW_SIGMA, SCALE_SIGMA, DRIFT_SIGMA, *[STEP_SIGMA] * len(steps), *doubts])
    mean, covariance, weights = _robust(rows, health, sigma, prior, doubt)
    if mean[1] < LEAST_SCALE:
        held = doubt.copy()
        held[1] = LEAST_SCALE
        mean, covariance, weights = _robust(rows, health, sigma, np.array([prior[0], LEAST_SCALE, *prior[2:]]), held)
        mean = mean.copy()
        mean[1] = max(mean[1], LEAST_SCALE / 2)
    count = 3 + len(steps)
    last = float(days.max(initial=0.0))
    return Trend(
        course=course,
        steps=steps,
        mean=mean[:count],
        covariance=covariance[:count, :count],
        now_days=last if now_days is None else now_days,
        weights=weights,
    )


def _in_common(tests: Sequence[Tested], shared: Mapping[str, float]) -> tuple[Array, list[float]]:
    """Errors that tests have in common, a column each: those of the groups, in order, then the draws that stand in their parts; and how
    large one standard deviation of each is.
    """
    groups, draws = sorted(shared), sorted({name for each in tests for name in each.parts})
    columns = [[float(each.group == name) for each in tests] for name in groups]
    columns += [[each.parts.get(name, 0.0) for each in tests] for name in draws]
    return np.array(columns, dtype=float).reshape(len(columns), len(tests)).T, [
        *(shared[name] for name in groups),
        *[1.0] * len(draws),
    ]


def _robust(rows: Array, health: Array, sigma: Array, prior: Array, doubt: Array) -> tuple[Array, Array, Array]:
    """Mean and covariance given the tests, each weighted by how far it lies from what all others say.

    It begins from the median residual to the prior's curve (source [2], a start of high breakdown): from all tests alike, three wrong ones
    of ten would carry it.
    """
    weights, scale = np.ones(len(health)), 1.0
    if len(health) > 2:
        off = health - rows @ prior
        off = (off - np.median(off)) / np.hypot(sigma, OF_THE_COURSE)
        weights = _weights(off, max(1.0, 1.4826 * float(np.median(np.abs(off)))))
    for _ in range(ROUNDS):
        say = weights / np.square(scale * sigma)
        covariance = np.linalg.inv(rows.T @ (rows * say[:, None]) + np.diag(1 / doubt**2))
        mean = covariance @ (rows.T @ (say * health) + prior / doubt**2)
        left = (health - rows @ mean) / sigma
        if len(left) >= FEW:
            scale = max(1.0, 1.4826 * float(np.median(np.abs(left))))
        before, weights = weights, _weights(left, scale)
        if np.allclose(weights, before, atol=1e-4):
            break
    return mean, np.asarray(covariance, dtype=float), weights


def _weights(left: Array, scale: float) -> Array:
    """What says how much of each: all of it up to `FAR` deviations, and less the farther it lies."""
    return np.asarray(np.minimum(1.0, FAR / np.maximum(np.abs(left) / scale, 1e-9)) ** FALLS)
