"""The weather that is planned with: a forecast where there is one, else what somebody typed, fading to the normal of the place.

Why: docs/decisions/0059.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from statistics import median
from typing import Protocol

import numpy as np

from ..basis import Basis, figure
from ..drive.certainty import ROBUST
from ..drive.road import FORECAST_K
from ..parts import GUESSED, OWN
from ..units import S_PER_H

LASTS_A_DAY = figure(
    "weather.lasts",
    0.7,
    "",
    Basis.COMMON_PRACTICE,
    "of what typed weather is off the normal, left after a day past the departure",
)
MISS_LATER_K = {
    2: figure("weather.miss_in_two_days", 2.0, "K", Basis.FROM_MEMORY, "the same, in two days"),
    7: figure("weather.miss_in_a_week", 3.0, "K", Basis.FROM_MEMORY, "the same, in a week"),
}
WINTER_K = figure("weather.miss_winter", 4.5, "K", Basis.FROM_MEMORY, "a winter’s day off the normal of the place")
SUMMER_K = figure("weather.miss_summer", 3.0, "K", Basis.FROM_MEMORY, "a summer’s day off the normal of the place")
LEARNT_FROM = figure(
    "weather.miss_days", 10.0, "d", Basis.COMMON_PRACTICE, "days of this home that weigh as much as what is recalled"
)
MEANS_SIGMA_K = {GUESSED: 6.0, OWN: 1.0}
CHOSEN_SIGMA_K = 3.0
"""How far a place's means are off, one standard deviation: guessed, typed from a table, or chosen by a word."""
MIDWINTER_DAY = 20
LOW_AT_H, RISES_H, DAY_S = 6, 9.0, 86_400.0


class Weather(Protocol):
    """Outside temperature and wind at a time; weathers of the same numbers are equal, so that what was read can be remembered."""

    def __hash__(self) -> int:
        """By its numbers."""

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C."""

    def wind_mps(self, moment: datetime) -> float:
        """Wind speed, m/s."""

    def knows(self, moment: datetime) -> bool:
        """Whether it is of that very time, forecast or measured; else it is the normal of the place."""


@dataclass(frozen=True)
class TypedNight:
    """Temperature at a time and the low of the morning after it, as the owner reads them off; calm air.

    Falls along a half cosine to the low at 06:00 local time, and rises again to the value of then by 15:00.
    """

    now: datetime
    now_c: float
    low_c: float

    @property
    def low_at(self) -> datetime:
        """When it is coldest."""
        at = self.now.replace(hour=LOW_AT_H, minute=0, second=0, microsecond=0)
        return at if self.now < at else at + timedelta(days=1)

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C."""
        fall = (self.low_at.astimezone(UTC) - self.now.astimezone(UTC)).total_seconds()
        after = (moment.astimezone(UTC) - self.low_at.astimezone(UTC)).total_seconds()
        part = 1 + after / fall if after <= 0 else max(0.0, 1 - after / (RISES_H * S_PER_H))
        return self.now_c + (self.low_c - self.now_c) * (1 - float(np.cos(np.pi * np.clip(part, 0.0, 1.0)))) / 2

    def wind_mps(self, moment: datetime) -> float:
        """Calm."""
        return 0.0

    def knows(self, moment: datetime) -> bool:
        """Its owner read a forecast."""
        return True


@dataclass(frozen=True)
class Fading:
    """What was typed, until the car leaves; from then on the normal of the place, off by what is left of the typed difference."""

    typed: TypedNight
    until: datetime
    normal: Weather

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C."""
        if moment <= self.until:
            return self.typed.temperature_c(moment)
        days = (moment.astimezone(UTC) - self.until.astimezone(UTC)).total_seconds() / DAY_S
        return self.normal.temperature_c(moment) + self._off_k() * float(LASTS_A_DAY**days)

    def _off_k(self) -> float:
        """How far the two typed temperatures are off the normal, on their mean."""
        typed, at = self.typed, (self.typed.now, self.typed.low_at)
        return (typed.now_c + typed.low_c - sum((self.normal.temperature_c(each) for each in at), 0.0)) / 2

    def wind_mps(self, moment: datetime) -> float:
        """Calm until the car leaves, then that of the place."""
        return 0.0 if moment <= self.until else self.normal.wind_mps(moment)

    def knows(self, moment: datetime) -> bool:
        """Until the car leaves."""
        return moment <= self.until or self.normal.knows(moment)


def miss_k(weather: Weather, moment: datetime, lead_days: float, tomorrow_k: float = FORECAST_K) -> float:
    """How far the air of a moment misses the planned one, one standard deviation (K), so many days (1 to 7) ahead.

    Args: `tomorrow_k` is what a forecast of tomorrow misses by, recalled or learnt. Weather that was typed is one until the car leaves;
    what is left of it afterwards (`Fading`) and the normal share the variance, as in a first-order autoregression (textbook).
    Source: the figures `weather.miss…`, with their bases.
    """
    if isinstance(weather, Fading) and moment > weather.until and not weather.normal.knows(moment):
        days = (moment.astimezone(UTC) - weather.until.astimezone(UTC)).total_seconds() / DAY_S
        left = float(LASTS_A_DAY**days) ** 2
        return float(np.sqrt(left * tomorrow_k**2 + (1 - left) * _normal_k(moment) ** 2))
    if not weather.knows(moment):
        return _normal_k(moment)
    at, grows = [1, *MISS_LATER_K], [1.0, *(each / FORECAST_K for each in MISS_LATER_K.values())]
    return tomorrow_k * float(np.interp(lead_days, at, grows))


def _normal_k(moment: datetime) -> float:
    """How far a day is off the normal of its season, one standard deviation (K)."""
    winter = (1 + np.cos(2 * np.pi * (moment.timetuple().tm_yday - MIDWINTER_DAY) / 365.25)) / 2
    return float(SUMMER_K + winter * (WINTER_K - SUMMER_K))


def learnt_means(
    january_c: float, july_c: float, winters: str, noted: Sequence[tuple[datetime, float]], normal: Weather
) -> tuple[float, float]:
    """Means of January and July (°C) of a place, from what was entered of them and the temperatures that were noted in its log.

    A day is off the normal of its season by WINTER_K to SUMMER_K, and linear in the two means: their posterior is that of the Gaussian
    linear model (textbook). `normal` is the year that the entered means give.
    Source: Bayesian linear regression (textbook).
    """
    if not noted:
        return january_c, july_c
    at = [moment for moment, _ in noted]
    share = np.array([(1 + np.cos(2 * np.pi * (each.timetuple().tm_yday - MIDWINTER_DAY) / 365.25)) / 2 for each in at])
    off = np.array([temp_c - normal.temperature_c(moment) for moment, temp_c in noted])
    noise = np.array([_normal_k(each) for each in at])
    rows = np.column_stack([share, 1 - share]) / noise[:, None]
    sigma = MEANS_SIGMA_K.get(winters, CHOSEN_SIGMA_K)
    shift = np.linalg.solve(np.eye(2) / sigma**2 + rows.T @ rows, rows.T @ (off / noise))
    return january_c + float(shift[0]), july_c + float(shift[1])


def learnt_miss_k(misses_k: Sequence[float]) -> float:
    """What a forecast of tomorrow misses by (K), from days of which the air that was planned and the one that came are both kept.

    The recalled value as so many days, and the days' own spread, which one odd day does not move: their median absolute value × 1.4826, the
    standard deviation of a normal law (textbook).
    Source: pooled variances, the one by the median absolute deviation (textbook).
    """
    if not misses_k:
        return FORECAST_K
    own = ROBUST * median(map(abs, misses_k))
    return float(np.sqrt((LEARNT_FROM * FORECAST_K**2 + len(misses_k) * own**2) / (LEARNT_FROM + len(misses_k))))
