"""Learning a car's own factors from its logged days: the model is the prior, bad rows lose their say.

Each day's energy is linear in three factors around the model (motion, heating, what the cold withholds). With normal
priors on the factors the estimate is a ridge regression; Tukey's bisquare weights make it robust. Source: posterior of the
Gaussian linear model (textbook); J. W. Tukey's biweight, 4.685 robust standard deviations. Why: docs/decisions/0015.
"""

from dataclasses import dataclass, replace

import numpy as np

from ..basis import Basis, figure
from ..car import DAY_SIGMA, FACTOR_SIGMA, Car, Factors
from ..errors import Refusal
from ..heat.warm import WarmUpChoice
from ..units import Array
from .day import Trip
from .replay import Days, Habit, replay, replayed

MISFIT = figure(
    "learn.misfit", 0.01, "", Basis.COMMON_PRACTICE, "of motion: what the model's own simplifications leave, however many days"
)
PACK_HEAT_SIGMA = figure(
    "learn.pack_heat", 0.4, "", Basis.FROM_MEMORY, "spread of pack heating on the way among cars, one standard deviation"
)
LEAST_HEAT_KWH, LEAST_TRIPS = 0.3, 3
TUKEY = 4.685
STEP = 0.05
PASSES = 2
LEAST = 8
HELD_EVERY = 4
ROUNDS = 30


@dataclass(frozen=True, kw_only=True)
class Learnt:
    """What was learnt: factors with their standard errors, how much of each prior's doubt is gone (0 to 1), from how many
    days (and how many had no say), and the median error of the level on held-back days before and after (0 to 1).
    """

    factors: Factors
    sigma: tuple[float, float, float]
    known: tuple[float, float, float]
    days: int
    rejected: int
    held: int
    error_before: float
    error_after: float
    heat_trips: int = 0


def learn(
    car: Car,
    trip: Trip,
    days: Days,
    choice: WarmUpChoice,
    cabin_c: float = 20.0,
    *,
    load_kg: float = 0.0,
    altitude_m: float = 0.0,
) -> Learnt:
    """Fit the factors to logged days of the car's usual mix of roads. Raises: Refusal for fewer than eight days.

    Every day is driven again in its own weather; the model is taken as linear around the factors found so far.
    """
    if len(days.km) < LEAST:
        raise Refusal(f"{LEAST} noted days are needed to learn from; there are {len(days.km)}.")
    habit, capacity = Habit(choice, cabin_c, load_kg, altitude_m), car.pack.usable_kwh
    observed, plain = days.soc_used * capacity, capacity * replayed(_with(car, np.zeros(3)), trip, days, habit)
    held = np.arange(len(observed)) % HELD_EVERY == HELD_EVERY - 1
    shift: Array = np.zeros(3)
    model, slopes = plain, np.zeros((len(observed), 3))
    for _ in range(PASSES):
        here = capacity * replayed(_with(car, shift), trip, days, habit)
        there = [replayed(_with(car, shift + STEP * unit), trip, days, habit) for unit in np.eye(3)]
        slopes = np.stack([(capacity * each - here) / STEP for each in there], axis=1)
        model = here - slopes @ shift
        shift, sigma, weight = fit(model, slopes, observed)
    trial, _, _ = fit(model[~held], slopes[~held], observed[~held])
    before = np.abs(observed[held] - plain[held]) / capacity
    after = np.abs(observed[held] - model[held] - slopes[held] @ trial) / capacity
    base, heat, cold = (float(each) for each in 1 + shift)
    left = (float(sigma[0]), float(sigma[1]), float(sigma[2]))
    scatter = 1.4826 * float(np.median(np.abs(observed - model - slopes @ shift) / np.maximum(model + slopes @ shift, 0.05)))
    known = 1 - (sigma / np.array(FACTOR_SIGMA)) ** 2
    pack_heat, trips = learn_pack_heat(_with(car, shift), trip, days, habit)
    return Learnt(
        factors=Factors(base=base, heat=heat, cold=cold, sigma=left, day_sigma=scatter, days=len(observed), pack_heat=pack_heat),
        sigma=left,
        known=(float(known[0]), float(known[1]), float(known[2])),
        days=len(observed),
        rejected=int(np.count_nonzero(weight < 0.05)),
        held=int(held.sum()),
        error_before=float(np.median(before)),
        error_after=float(np.median(after)),
        heat_trips=trips,
    )


def learn_pack_heat(car: Car, trip: Trip, days: Days, habit: Habit) -> tuple[float, int]:
    """A factor on what heating the pack on the way takes, and from how many trips: those with their kWh on which the model heats it.

    What such a trip took more or less than the model's motion, cabin and resistance is the heater's. Ridge regression of one factor
    around 1 with Tukey's weights, as in `fit`; fewer than three trips tell nothing.
    """
    if days.kwh is None or not len(days.km):
        return 1.0, 0
    done = replay(car, trip, days, habit)
    heat_kwh, noise = done.parts_kwh["pack_heat"], np.maximum(DAY_SIGMA * done.energy_kwh, 0.05)
    told = np.isfinite(days.kwh) & (heat_kwh > LEAST_HEAT_KWH)
    if np.count_nonzero(told) < LEAST_TRIPS:
        return 1.0, 0
    row, off = heat_kwh[told] / noise[told], (days.kwh[told] - done.energy_kwh[told]) / noise[told]
    shift, weight = float(np.median(off / row)), np.ones(len(row))
    for _ in range(ROUNDS):
        left = off - shift * row
        scale = max(1.4826 * float(np.median(np.abs(left))), 0.3)
        weight = np.square(np.clip(1 - np.square(left / (TUKEY * scale)), 0.0, 1.0))
        shift = float((weight * row * off).sum() / ((weight * row**2).sum() + scale**2 / PACK_HEAT_SIGMA**2))
    return float(np.clip(1 + shift, 0.2, 3.0)), int(np.count_nonzero(weight > 0.05))


def fit(model_kwh: Array, slopes: Array, observed_kwh: Array) -> tuple[Array, Array, Array]:
    """Shift of the three factors from 1 (within 2.5 prior standard deviations), their standard errors, each day's weight (0 to 1).

    Args: model energy (days,), its slopes by factor (days, 3), observed energy (days,), all kWh. The standard errors are
    those of the weighted fit with the residuals' own scatter; no number of days takes the model's own misfit off the base.
    Source: ridge regression (Hoerl and Kennard, 1970) with weights by Tukey's biweight (Beaton and Tukey, 1974).
    """
    sigma = np.array(FACTOR_SIGMA)
    prior = np.diag(1 / sigma**2)
    noise = np.maximum(DAY_SIGMA * model_kwh, 0.05)
    target, rows = (observed_kwh - model_kwh) / noise, slopes / noise[:, None]
    weight = np.minimum(1.0, 3.0 / np.maximum(np.abs(target - np.median(target)), 1e-9))
    shift: Array = np.zeros(slopes.shape[1])
    scale = 1.0
    for _ in range(ROUNDS):
        precision = prior + (rows * weight[:, None]).T @ rows / scale**2
        new: Array = np.asarray(np.linalg.solve(precision, (rows * weight[:, None]).T @ target / scale**2), dtype=np.float64)
        left = target - rows @ new
        scale = max(1.4826 * float(np.median(np.abs(left))), 0.3)
        weight = np.square(np.clip(1 - np.square(left / (TUKEY * scale)), 0.0, 1.0))
        done, shift = np.abs(new - shift).max() < 1e-10, new
        if done:
            break
    shift = np.clip(shift, np.maximum(-2.5 * sigma, -0.7), 2.5 * sigma)
    inverse = np.linalg.inv(prior + (rows * weight[:, None]).T @ rows / scale**2)
    return shift, np.sqrt(np.diag(inverse) + np.array([MISFIT, 0.0, 0.0]) ** 2), weight


def _with(car: Car, shift: Array) -> Car:
    base, heat, cold = (1 + shift).tolist()
    return replace(car, factors=Factors(base=base, heat=heat, cold=cold))
