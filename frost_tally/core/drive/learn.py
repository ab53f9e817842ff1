"""Learning a car's own factors from its logged days: the model is the prior, bad rows lose their say.

Each day's energy is linear in three factors around the model (motion, heating, what the cold withholds). With normal
priors on the factors the estimate is a ridge regression; Tukey's bisquare weights make it robust. Source: posterior of the
Gaussian linear model (textbook); J. W. Tukey's biweight, 4.685 robust standard deviations.
"""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..car import Car, Factors
from ..errors import Refusal
from ..heat.warm import WarmUpChoice
from ..units import Array
from .day import Trip
from .usual import day_table

PRIOR = {
    key: figure(f"learn.{key}", value, "", Basis.FROM_MEMORY, f"spread of {what} among cars and drivers, one standard deviation")
    for key, value, what in (("base", 0.10, "motion"), ("heat", 0.30, "heating"), ("cold", 0.30, "what the cold withholds"))
}
DAY_NOISE = figure(
    "learn.day_noise", 0.05, "", Basis.COMMON_PRACTICE, "a day's use varies by traffic and the display's whole per cents"
)
TUKEY = 4.685
STEP = 0.1
LEAST = 8
HELD_EVERY = 4
ROUNDS = 30


@dataclass(frozen=True)
class Days:
    """Logged days; arrays of shape (days,): km, air °C, level used (0 to 1, observed)."""

    km: Array
    air_c: Array
    soc_used: Array


@dataclass(frozen=True)
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


def learn(
    car: Car, trip: Trip, days: Days, choice: WarmUpChoice, cabin_c: float = 20.0, load_kg: float = 0.0, altitude_m: float = 0.0
) -> Learnt:
    """Fit the factors to logged days of the car's usual mix of roads. Raises: Refusal for fewer than eight days."""
    if len(days.km) < LEAST:
        raise Refusal(f"{LEAST} noted days are needed to learn from; there are {len(days.km)}.")
    plain = _with(car, Factors())
    tables = [
        day_table(_with(car, each), trip, float(np.ceil(days.km.max())) + 1.0, choice, cabin_c, load_kg, altitude_m)
        for each in (Factors(), Factors(1 + STEP), Factors(heat=1 + STEP), Factors(cold=1 + STEP))
    ]
    kwh = [table.ask(days.km, days.air_c)[0] for table in tables]
    slopes = np.stack([(each - kwh[0]) / STEP for each in kwh[1:]], axis=1)
    observed = days.soc_used * plain.pack.usable_kwh
    held = np.arange(len(observed)) % HELD_EVERY == HELD_EVERY - 1
    trial, _, _ = fit(kwh[0][~held], slopes[~held], observed[~held])
    before = np.abs(observed[held] - kwh[0][held]) / plain.pack.usable_kwh
    after = np.abs(observed[held] - kwh[0][held] - slopes[held] @ trial) / plain.pack.usable_kwh
    shift, sigma, weight = fit(kwh[0], slopes, observed)
    prior = np.array(list(PRIOR.values()))
    low, high = 1 - 2.5 * prior, 1 + 2.5 * prior
    base, heat, cold = (float(each) for each in np.clip(1 + shift, np.maximum(low, 0.3), high))
    known = 1 - (sigma / prior) ** 2
    return Learnt(
        Factors(base, heat, cold),
        (float(sigma[0]), float(sigma[1]), float(sigma[2])),
        (float(known[0]), float(known[1]), float(known[2])),
        len(observed),
        int(np.count_nonzero(weight < 0.05)),
        int(held.sum()),
        float(np.median(before)),
        float(np.median(after)),
    )


def fit(model_kwh: Array, slopes: Array, observed_kwh: Array) -> tuple[Array, Array, Array]:
    """Shift of the three factors from 1, their standard errors, and each day's weight (0 to 1).

    Args: model energy (days,), its slopes by factor (days, 3), observed energy (days,), all kWh.
    """
    prior = np.diag(1 / np.square(list(PRIOR.values())))
    noise = np.maximum(DAY_NOISE * model_kwh, 0.05)
    target, rows = (observed_kwh - model_kwh) / noise, slopes / noise[:, None]
    weight = np.minimum(1.0, 3.0 / np.maximum(np.abs(target - np.median(target)), 1e-9))
    shift: Array = np.zeros(slopes.shape[1])
    precision = prior
    for _ in range(ROUNDS):
        precision = prior + (rows * weight[:, None]).T @ rows
        new: Array = np.asarray(np.linalg.solve(precision, (rows * weight[:, None]).T @ target), dtype=np.float64)
        left = target - rows @ new
        scale = max(1.4826 * float(np.median(np.abs(left))), 0.3)
        weight = np.square(np.clip(1 - np.square(left / (TUKEY * scale)), 0.0, 1.0))
        if np.abs(new - shift).max() < 1e-10:
            shift = new
            break
        shift = new
    scale = max(1.0, 1.4826 * float(np.median(np.abs(target - rows @ shift))))
    sigma = np.sqrt(np.diag(np.linalg.inv(prior + (rows * weight[:, None]).T @ rows / scale**2)))
    return shift, sigma, weight


def _with(car: Car, factors: Factors) -> Car:
    return Car(car.name, car.pack, car.body, car.cabin, car.charger, car.drivetrain, car.tyres, factors)
