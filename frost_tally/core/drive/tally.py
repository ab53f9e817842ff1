"""The fair tally: from a mild day's range to tomorrow's, one step per cause.

Each step is the Shapley value of its cause: its effect averaged over every order in which the causes can be added. The
steps add up exactly, and no order is favoured. Source: L. S. Shapley, "A value for n-person games", 1953.
"""

from dataclasses import dataclass, replace

import numpy as np

from ..car import Car
from ..errors import OutOfRange
from ..units import Array
from .batch import Driving, Pass, alone, kept
from .causes import CAUSES, MILD_C, Cause, Kind, TalliedDay
from .day import Scenarios, Start, Trip
from .road import Conditions, Surface, road_load
from .shapley import sampling_error, shapley, subsets
from .trip import cases


@dataclass(frozen=True)
class CauseAtWork:
    """A cause on this day: `turned` when it works the other way round (warm for cold), tomorrow's number where its name needs one
    (kPa against the placard, km/h), and the figures it rests on.
    """

    key: str
    kind: Kind
    turned: bool
    amount: float | None
    figures: tuple[str, ...]


@dataclass(frozen=True)
class TallyStep:
    """What a cause takes: km of range (positive: lost), share of the mild range, kWh and money on this day's distance."""

    cause: CauseAtWork
    lost_km: float
    share: float
    extra_kwh: float
    extra_cost: float


@dataclass(frozen=True, kw_only=True)
class Tally:
    """Start and end of the stair in km, its steps, the level the range is counted from and to, the day's energy (kWh).

    `error_km` is the largest standard error of a step where the causes are sampled, 0 where the tally is exact.
    """

    mild_km: float
    expected_km: float
    steps: tuple[TallyStep, ...]
    from_soc: float
    to_soc: float
    day_kwh: float
    error_km: float = 0.0


def fair_tally(car: Car, trip: Trip, conditions: Conditions, start: Start, **more: float) -> Tally:
    """The tally of a day from the level at departure down to the reserve.

    Args: `standby_soc` is what standing takes from the level before departure (0 to 1), price is per kWh from the pack.
    Exact over all subsets up to 10 causes at work, sampled in antithetic pairs above.
    Raises: OutOfRange when the reserve is not below the level.
    """
    return alone(tallied(car, trip, conditions, start, **more))


@kept
def tallied(
    car: Car,
    trip: Trip,
    conditions: Conditions,
    start: Start,
    *,
    reserve_soc: float = 0.10,
    standby_soc: float = 0.0,
    price_per_kwh: float = 0.0,
) -> Driving[Tally]:
    """`fair_tally` as a work that can be driven together with others."""
    if start.soc <= reserve_soc:
        raise OutOfRange("The level at departure is not above the reserve.", "limit")
    day = TalliedDay(car, trip, conditions, start, standby_soc)
    active = [cause for cause in CAUSES.values() if cause.differs(day)]
    masks = subsets(len(active))
    inputs = _inputs(day, active, masks)
    outcome, from_soc = (yield Pass(car, trip, conditions, inputs)), np.asarray(inputs.soc)
    values = np.column_stack([outcome.range_km(from_soc, reserve_soc), outcome.energy_kwh])
    parts = shapley(values, len(active))
    mild, expected = values[0], values[-1]
    steps = tuple(
        TallyStep(_at_work(cause, day), float(-km), float(-km / mild[0]), float(kwh), float(kwh * price_per_kwh))
        for cause, (km, kwh) in zip(active, parts, strict=True)
    )
    error_km = float(sampling_error(values, len(active))[0])
    return Tally(
        mild_km=float(mild[0]),
        expected_km=float(expected[0]),
        steps=steps,
        from_soc=start.soc + standby_soc,
        to_soc=reserve_soc,
        day_kwh=float(expected[1]),
        error_km=error_km,
    )


def _inputs(day: TalliedDay, active: list[Cause], masks: Array) -> Scenarios:
    """One case per subset of the causes."""
    mild = replace(day.conditions, ambient_c=MILD_C, surface=Surface.DRY, tyre_gauge_kpa=None)
    base = road_load(day.car, mild)
    inputs = replace(
        cases(day.car, day.conditions, day.start),
        density=np.full(len(masks), base.density),
        rolling=np.full(len(masks), base.rolling),
        soc=np.full(len(masks), day.start.soc),
    )
    for column, cause in zip(masks.T, active, strict=True):
        inputs = cause.counts(day, inputs, column)
    for cause in CAUSES.values():
        if cause not in active:
            inputs = cause.absent(inputs)
    return inputs


def _at_work(cause: Cause, day: TalliedDay) -> CauseAtWork:
    turned = cause.turned(day)
    kind = Kind.ROAD if turned and cause.kind is Kind.COLD else cause.kind
    figures = (turned and cause.turned_figures) or cause.figures
    return CauseAtWork(cause.key, kind, turned, cause.amount(day), figures)
