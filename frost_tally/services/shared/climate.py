"""The weather of a place at any time: hours from files first, then what the world knows, then a year from two temperatures.

Why: docs/decisions/0041.
"""

from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache

import numpy as np

from ...core.coming.nights import spoken_of, stays
from ...core.coming.weather import Fading, learnt_means
from ...core.home import OwnedCar
from ...core.parts import Place
from ...core.units import Array, Ints
from ...formats.weather import TYPICAL_YEAR
from ...household.facts import noted_air
from ...household.intervals import weather_hours
from ...household.snapshot import Snapshot
from ...standins.weather import TypicalYear
from ...world import Weather
from .derived import derived

NEAR_S = 5400.0
DAY_H = (0, 4, 8, 12, 16, 20)
FEBRUARY_29 = (2, 29)


@dataclass(frozen=True)
class HoursOfFiles:
    """Temperatures from files, by the hour; a typical year's where no hour is near; `otherwise` where neither is, and for the wind.

    Two are equal when as many hours with the same sums are behind them: what was worked out with one holds for the other.
    """

    sums: tuple[float, ...]
    otherwise: Weather
    start_s: Ints = field(compare=False, repr=False)
    temp_c: Array = field(compare=False, repr=False)

    def temperature_c(self, moment: datetime) -> float:
        """Air temperature, °C, linear between hours."""
        found = self._near(moment.timestamp())
        if found is None:
            at = moment.astimezone(UTC)
            day = 28 if (at.month, at.day) == FEBRUARY_29 else at.day
            found = self._near(at.replace(year=TYPICAL_YEAR, day=day).timestamp())
        return self.otherwise.temperature_c(moment) if found is None else found

    def has(self, moment: datetime) -> bool:
        """Whether an hour of that very time is there."""
        return self._near(moment.timestamp()) is not None

    def knows(self, moment: datetime) -> bool:
        """Whether an hour of that very time is there, or known otherwise."""
        return self.has(moment) or self.otherwise.knows(moment)

    def _near(self, second: float) -> float | None:
        after = int(np.searchsorted(self.start_s, second))
        low, high = max(0, after - 1), min(after, len(self.start_s) - 1)
        a, b = float(self.start_s[low]), float(self.start_s[high])
        if min(abs(second - a), abs(b - second)) > NEAR_S:
            return None
        if b - a > 2 * NEAR_S or b <= a:
            return float(self.temp_c[low if abs(second - a) <= abs(b - second) else high])
        return float(np.interp(second, [a, b], [self.temp_c[low], self.temp_c[high]]))

    def wind_mps(self, moment: datetime) -> float:
        """Wind speed, m/s: what else is known of it."""
        return self.otherwise.wind_mps(moment)


def climate_of(snapshot: Snapshot, place: Place) -> Weather:
    """The weather of a place in any year."""
    otherwise: Weather = snapshot.world.weather or TypicalYear(*means_of(snapshot, place))
    stored = derived(snapshot, "file_weather", lambda: weather_hours(snapshot.log), ("weather",))
    if stored is None:
        return otherwise
    start_s, temp_c = stored
    return HoursOfFiles((len(start_s), float(temp_c.sum()), float(start_s.sum())), otherwise, start_s, temp_c)


def means_of(snapshot: Snapshot, place: Place) -> tuple[float, float]:
    """Means of January and July of a place (°C), as they were entered, or as the temperatures in its log have them by now."""
    cars = tuple(each.id for each in snapshot.home.cars if each.place.id == place.id)

    def work() -> tuple[float, float]:
        noted, entered = noted_air(snapshot.log, cars), (place.january_c, place.july_c)
        return learnt_means(*entered, place.winters, noted, TypicalYear(*entered))

    return derived(snapshot, ("means", place, cars), work, ("drive",))


def weather_ahead(snapshot: Snapshot, owned: OwnedCar) -> Weather:
    """The weather that is planned with at a car's place: a forecast, else what was typed until the car leaves, fading to the normal."""
    normal = climate_of(snapshot, owned.place)
    forecast = isinstance(normal, HoursOfFiles) and normal.has(snapshot.minute)
    if snapshot.world.weather is not None or forecast or snapshot.typed is None:
        return snapshot.world.weather or normal
    typed = replace(snapshot.typed, now=snapshot.typed.now.astimezone(owned.zone))
    nights = stays(owned, typed.now)
    return Fading(typed, nights[spoken_of(nights)].leaves, normal)


@lru_cache(maxsize=64)
def daily(weather: Weather, first: date, days: int) -> tuple[Array, Array]:
    """Daily lows and means of the air (°C) from a day on, six readings a day; arrays of shape (days,)."""
    start = datetime(first.year, first.month, first.day, tzinfo=UTC)
    table = np.array([[weather.temperature_c(start + timedelta(days=d, hours=h)) for h in DAY_H] for d in range(days)])
    return table.min(axis=1), table.mean(axis=1)


def lowest_of(weather: Weather, now: datetime, days: int) -> float:
    """The lowest air temperature of the coming days, °C."""
    low, _ = daily(weather, now.date(), days)
    return float(low.min())
