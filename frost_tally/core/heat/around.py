"""The air a car meets: where it is parked, and on a day's drives."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache

AirAt = Callable[[datetime], float]
"""Air temperature outside at a moment, °C."""
OF_THE_DAY_H = (0, 6, 12, 18)
HALF_HOUR_S, HALVES = 1800.0, 48


def parked_c(outside_c: AirAt, moment: datetime, garage: str, heated_to_c: float = 10.0) -> float:
    """Air around a parked car, °C: `outdoor` is the air, `unheated` halfway to the mean of the day before (of four readings six
    hours apart), `heated` at least its setting.

    Basis: common practice; an unheated barn follows the air slowly and a little milder.
    """
    asked_h = OF_THE_DAY_H if garage == "unheated" else OF_THE_DAY_H[:1]
    return _parked_c([outside_c(moment - timedelta(hours=h)) for h in asked_h], garage, heated_to_c)


def _parked_c(readings_c: Sequence[float], garage: str, heated_to_c: float) -> float:
    """See `parked_c`, from the readings, that of the moment first."""
    air_c = readings_c[0]
    if garage == "heated":
        return max(heated_to_c, air_c)
    return (air_c + sum(readings_c) / len(readings_c)) / 2.0 if garage == "unheated" else air_c


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
    """Air around the parked car between two moments (aware, UTC); on the clock's half hours, so that cars and nights share the readings,
    and a night that goes on meets the same air a minute later.
    """
    first, last = int(begin.timestamp() // HALF_HOUR_S), int(end.timestamp() // HALF_HOUR_S) + 1
    back = [2 * h for h in (OF_THE_DAY_H if garage == "unheated" else OF_THE_DAY_H[:1])]
    day = (first - max(back)) // HALVES
    air_c = [each for number in range(day, last // HALVES + 1) for each in _of_day(outside_c, number)]
    places = range(first - day * HALVES, last - day * HALVES + 1)
    around = tuple(_parked_c([air_c[i - before] for before in back], garage, heated_to_c) for i in places)
    return ParkedAir(datetime.fromtimestamp(HALF_HOUR_S * first, UTC), around)


@lru_cache(maxsize=64)
def _of_day(outside_c: AirAt, day: int) -> tuple[float, ...]:
    """The air outside (°C) on the half hours of a day, by its number since 1970 (UTC)."""
    begin = datetime.fromtimestamp(HALF_HOUR_S * HALVES * day, UTC)
    return tuple(outside_c(begin + timedelta(seconds=HALF_HOUR_S * i)) for i in range(HALVES))


@lru_cache(maxsize=4096)
def driven_c(outside_c: AirAt, departure: datetime, parked_h: float) -> float:
    """Air of a day's drives, °C: the mean at departure and at the return, an hour's driving after the time parked."""
    return (outside_c(departure) + outside_c(departure + timedelta(hours=parked_h + 1.0))) / 2.0
