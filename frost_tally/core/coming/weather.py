"""The weather that is planned with: a forecast where there is one, else what somebody typed, fading to the normal of the place."""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Protocol

import numpy as np

from ..basis import Basis, figure
from ..units import S_PER_H

LASTS_A_DAY = figure(
    "weather.lasts",
    0.7,
    "",
    Basis.COMMON_PRACTICE,
    "of what typed weather is off the normal, left after a day past the departure",
)
LOW_AT_H, RISES_H, DAY_S = 6, 9.0, 86_400.0


class Weather(Protocol):
    """Outside temperature and wind at a time; weathers of the same numbers are equal, so that what was read can be remembered."""

    def __hash__(self) -> int:
        """By its numbers."""

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C."""

    def wind_mps(self, moment: datetime) -> float:
        """Wind speed, m/s."""


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
