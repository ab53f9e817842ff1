"""The air a car meets: where it is parked, and on a day's drives."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cache, lru_cache

AirAt = Callable[[datetime], float]
"""Air temperature outside at a moment, °C."""
OF_THE_DAY_H = (0, 6, 12, 18)
HALF_HOUR_S = 1800.0


def parked_c(outside_c: AirAt, moment: datetime, garage: str, heated_to_c: float = 10.0) -> float:
    """Air around a parked car, °C: `outdoor` is the air, `unheated` halfway to the mean of the day before (of four readings six
    hours apart), `heated` at least its setting.

    Basis: common practice; an unheated barn follows the air slowly and a little milder.
    """
    air_c = outside_c(moment)
    if garage == "heated":
        return max(heated_to_c, air_c)
    if garage != "unheated":
        return air_c
    readings = [outside_c(moment - timedelta(hours=h)) for h in OF_THE_DAY_H]
    return (air_c + sum(readings) / len(readings)) / 2.0


@dataclass(frozen=True)
class ParkedAir:
    """Air around the parked car (°C) at a moment, linear between its values on every half hour from `begin` (aware, UTC) on. Two of the
    same values are equal, so that what was worked out with one can be remembered.
    """

    begin: datetime
    halves_c: tuple[float, ...]

    def __call__(self, moment: datetime) -> float:
        """The air at a moment (aware), °C."""
        place = min(max((moment - self.begin).total_seconds() / HALF_HOUR_S, 0.0), len(self.halves_c) - 1.001)
        whole = int(place)
        return self.halves_c[whole] + (self.halves_c[whole + 1] - self.halves_c[whole]) * (place - whole)


@dataclass(frozen=True)
class WarmerAir:
    """Some air (°C) at a moment, warmer all the time by as much."""

    air_c: AirAt
    by_k: float

    def __call__(self, moment: datetime) -> float:
        """The air at a moment (aware), °C."""
        return self.air_c(moment) + self.by_k


@lru_cache(maxsize=256)
def parked_between(outside_c: AirAt, begin: datetime, end: datetime, garage: str, heated_to_c: float = 10.0) -> ParkedAir:
    """Air around the parked car between two moments (aware, UTC)."""
    halves = range(int((end - begin).total_seconds() // HALF_HOUR_S) + 2)
    outside_c = cache(outside_c)  # the day before is asked for on the same half hours
    return ParkedAir(
        begin, tuple(parked_c(outside_c, begin + timedelta(seconds=HALF_HOUR_S * i), garage, heated_to_c) for i in halves)
    )


@lru_cache(maxsize=4096)
def driven_c(outside_c: AirAt, departure: datetime, parked_h: float) -> float:
    """Air of a day's drives, °C: the mean at departure and at the return, an hour's driving after the time parked."""
    return (outside_c(departure) + outside_c(departure + timedelta(hours=parked_h + 1.0))) / 2.0
