"""Weather by the hour: a seeded year for the invented village, or a year from the means of two months."""

import math
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from itertools import accumulate

import numpy as np

HOURS = 8784
MEAN_C, SWING_C, COLDEST_DAY = 2.5, 10.5, 20
DAY_SWING_WINTER_C, DAY_SWING_SUMMER_C = 2.2, 5.5
WEATHER_SIGMA_C, WEATHER_HOURS = 4.0, 60.0


@dataclass(frozen=True)
class SeededYear:
    """The village's made-up year, the same every year for a seed: season, day and night, and weather that drifts."""

    seed: int = 591

    def temperature_c(self, moment: datetime) -> float:
        return _between(_year(self.seed)[0], moment)

    def wind_mps(self, moment: datetime) -> float:
        return _between(_year(self.seed)[1], moment)

    def knows(self, moment: datetime) -> bool:
        return True


@dataclass(frozen=True)
class TypicalYear:
    """A year from the mean temperatures of January and July, as any table of the climate gives them; calm air."""

    january_c: float
    july_c: float

    def temperature_c(self, moment: datetime) -> float:
        at = moment.astimezone(UTC)
        day = at.timetuple().tm_yday + at.hour / 24
        season = float(np.cos(2 * np.pi * (day - COLDEST_DAY) / 365.25))
        daily = -DAY_SWING_WINTER_C * float(np.cos(2 * np.pi * (at.hour + at.minute / 60 - 3) / 24))
        return (self.january_c + self.july_c) / 2 + season * (self.january_c - self.july_c) / 2 + daily

    def wind_mps(self, moment: datetime) -> float:
        return 0.0

    def knows(self, moment: datetime) -> bool:
        return False


def _between(hourly: list[float], moment: datetime) -> float:
    """Value at a time, linear between the hours of the year."""
    at = moment.astimezone(UTC)
    hour = (at - datetime(at.year, 1, 1, tzinfo=UTC)).total_seconds() / 3600.0
    whole = int(hour)
    return hourly[whole] + (hourly[min(whole + 1, HOURS - 1)] - hourly[whole]) * (hour - whole)


@lru_cache(maxsize=4)
def _year(seed: int) -> tuple[list[float], list[float]]:
    """Hourly temperature (°C) and wind (m/s) of a leap year."""
    draw = np.random.default_rng(seed)
    hour = np.arange(HOURS)
    season = -np.cos(2 * np.pi * (hour / 24 - COLDEST_DAY) / 366)
    day_swing = (DAY_SWING_WINTER_C + DAY_SWING_SUMMER_C) / 2 + season * (DAY_SWING_SUMMER_C - DAY_SWING_WINTER_C) / 2
    daily = -np.cos(2 * np.pi * (hour % 24 - 4) / 24)
    keep = math.exp(-1 / WEATHER_HOURS)
    shocks = math.sqrt(1 - keep**2) * draw.standard_normal((HOURS, 2)).T
    drift, wind = (np.array(list(accumulate(each.tolist(), lambda before, now: keep * before + now))) for each in shocks)
    air_c = MEAN_C + SWING_C * season + day_swing * daily + WEATHER_SIGMA_C * drift
    return air_c.tolist(), (3.0 * np.exp(0.5 * wind)).tolist()
