"""How often noted days lie inside their 10–90 % band, before and after learning: the demo's two years, and other seeds."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from frost_tally.core.car import Factors
from frost_tally.core.drive.certainty import arrival, own_days
from frost_tally.core.drive.day import Start
from frost_tally.core.drive.learn import HELD_EVERY, learn
from frost_tally.core.drive.replay import AMPLE_KW, Days, replayed
from frost_tally.core.heat.warm import warm_up
from frost_tally.core.home import OwnedCar
from frost_tally.demo.filling import SEED as SEED
from frost_tally.demo.filling import TRUE, fill, log_days
from frost_tally.household.unit_of_work import Household
from frost_tally.services.shared.past import RECENT
from tests.homes import read

SEEDS = (SEED, *range(1, 11))


@dataclass(frozen=True)
class Coverage:
    """Share of held-back days inside their band before and after learning, mean widths (levels), and the learnt factors' errors in
    their own standard errors.
    """

    before: float
    after: float
    wide_before: float
    wide_after: float
    away: tuple[float, float, float]
    days: int


def demo_cars(household: Household) -> list[OwnedCar]:
    """The demo's cars, from a store filled with a short log."""
    fill(household, 0.05)
    return list(read(household).home.cars)


def coverage(owned: OwnedCar, seed: int, years: float = 2.0, miss_k: float = 0.0) -> Coverage:
    """Bands of every fourth day, each from the days before it in the weather that came, and in air that is planned with a known miss (one
    standard deviation, K; 0: in the air that came); the factors learnt from the other days.
    """
    off = np.random.default_rng(seed + 1).normal(0.0, 1.0, 2000) * miss_k
    _, days, _ = log_days(owned, years, seed)
    habit, trip = owned.driven, owned.habit.trip
    plain = replace(owned.car, factors=Factors())
    held = np.arange(len(days.km)) % HELD_EVERY == HELD_EVERY - 1
    columns: dict[str, Any] = {name: None if each is None else each[~held] for name, each in vars(days).items()}
    rest = Days(**columns)
    assert days.wind_mps is not None
    assert days.gauge_kpa is not None
    assert days.soak_c is not None
    found = learn(plain, trip, rest, habit.choice, habit.cabin_c, load_kg=habit.load_kg, altitude_m=habit.altitude_m)
    shares = []
    for car in (plain, replace(plain, factors=found.factors)):
        errors = days.soc_used / replayed(car, trip, days, habit) - 1
        inside, wide = [], []
        for i in np.flatnonzero(held):
            air, soak = (float(each[i]) + float(off[i]) for each in (days.air_c, days.soak_c))
            at = replace(habit.conditions(air, float(days.wind_mps[i]), float(days.gauge_kpa[i])), ambient_sigma_k=miss_k)
            warm = warm_up(car, habit.choice, cabin_c=soak, pack_c=soak, ambient_c=soak, set_c=habit.cabin_c, wall_kw=AMPLE_KW)
            start = Start(owned.habit.limit, warm.pack_c, warm.cabin_c)
            known = own_days(errors[max(0, i - RECENT) : i].tolist(), car.factors)
            band = arrival(known.of(car), trip.scaled_to(float(days.km[i])), at, start, known)
            inside.append(band.low <= owned.habit.limit - days.soc_used[i] <= band.high)
            wide.append(band.high - band.low)
        shares += [float(np.mean(inside)), float(np.mean(wide))]
    true = TRUE[owned.name]
    away = [
        (getattr(found.factors, n) - getattr(true, n)) / s for n, s in zip(("base", "heat", "cold"), found.sigma, strict=True)
    ]
    return Coverage(shares[0], shares[2], shares[1], shares[3], (away[0], away[1], away[2]), len(inside))
