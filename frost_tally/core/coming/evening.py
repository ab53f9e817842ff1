"""A night and the day that follows it, as they are asked of the planner and driven: from what is true now and the inputs of that night."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import lru_cache
from math import sqrt

from ..advice.night_inputs import NightInputs
from ..car import Car
from ..charge.night import NightRequest
from ..charge.night_clock import HeldHours
from ..charge.supply import charge_rate
from ..drive.air import USUAL_HUMIDITY
from ..drive.day import Start, Trip
from ..drive.outing import Outing
from ..drive.road import Conditions, load_of
from ..drive.tyres import driven_gauge
from ..drive.usual import MoreWhenCold, soaked_c
from ..heat.around import driven_c, parked_between
from ..heat.schedule import Due, last_before
from ..heat.warm import WarmUpChoice
from .now import Now
from .weather import Weather, miss_k


@dataclass(frozen=True, kw_only=True)
class Evening:
    """The night's request, and the day that follows it (`outing`: the same as equal trips); `tyre_kpa` is the cold pressure in that air."""

    request: NightRequest
    trip: Trip
    outing: Outing
    conditions: Conditions
    tyre_kpa: float
    weather: Weather


def evening(
    now: Now,
    inputs: NightInputs,
    departure: datetime,
    due: Sequence[Due],
    *,
    first: bool = True,
    at: datetime | None = None,
    weather: Weather | None = None,
    drives: int | None = None,
    lead_days: float = 1.0,
) -> Evening:
    """A night with some inputs, before a departure for what is `due`; `first` is the next one, on whose evening things were seen; planned
    from a moment on (None: now), in some weather (None: as far as it is known); `drives` are those of the
    day where they are not out and home for each departure; `lead_days` how far ahead it is.

    Raises: Refusal with its field.
    """
    owned, here, car = now.owned, at or now.now, _checked(now.car)
    weather = weather or now.outside
    supply = owned.at.supply
    planned = charge_rate(supply, car)
    rate = now.started.check.rate(planned, supply.continuous_a) if now.started and first else planned
    home = max(last_before(departure, inputs.plug_in), here)
    around = parked_between(weather.temperature_c, home.astimezone(UTC), departure.astimezone(UTC), *owned.place.standing)
    trip = now.trip(inputs, due, drives)
    conditions, gauge = _conditions(now, inputs, weather, departure, lead_days)
    request = NightRequest(
        now=home,
        plug_in=home if rate else departure,
        departure=departure,
        soc=inputs.soc_now,
        target_soc=inputs.limit,
        car=car,
        rate=rate or planned,
        tariff=now.tariff,
        ambient_c=around,
        pack_c=soaked_c(car, owned.habit.trip, weather.temperature_c, around, home, left=owned.habit.depart),
        choice=inputs.warm_up,
        cabin_c=inputs.cabin_c,
        control=replace(owned.habit.control, how=inputs.control),
        pack_price=now.pack_price,
        tie_break=owned.habit.tie_break,
        held=HeldHours(inputs.held_from, inputs.held_until, owned.at.held.amps),
        morning_kwh=MoreWhenCold(car, trip, conditions, Start(inputs.limit, 0.0, inputs.cabin_c)),
    )
    outing = now.outing(inputs, due, drives)
    if inputs.warm_up is WarmUpChoice.SEATS:
        conditions = conditions.seats_only()
    return Evening(request=request, trip=trip, outing=outing, conditions=conditions, tyre_kpa=gauge, weather=weather)


@lru_cache(maxsize=16)
def _checked(car: Car) -> Car:
    """See `Car.checked`: once for a car, not for each of its nights."""
    return car.checked()


def _conditions(
    now: Now, inputs: NightInputs, weather: Weather, departure: datetime, lead_days: float
) -> tuple[Conditions, float]:
    """Conditions of the day's drives: the mean of the hours of departure and return; the tyres cold at that air."""
    altitude_m = now.owned.place.altitude_m
    air_c = driven_c(weather.temperature_c, departure, now.owned.habit.parked_h)
    gauge = driven_gauge(inputs.tyre_kpa, now.tyres.read_c, air_c, altitude_m)
    own = now.days[inputs.day][1] if inputs.day in now.days else None
    made = Conditions(
        ambient_c=air_c,
        relative_humidity=USUAL_HUMIDITY,
        altitude_m=altitude_m,
        wind_mps=weather.wind_mps(departure),
        surface=inputs.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(inputs.people, own.luggage_kg if own else 0.0),
        drag_factor=own.extras.drag_factor if own else 1.0,
        style=own.style if own else 1.0,
        cabin_set_c=inputs.cabin_c,
        ambient_sigma_k=sqrt(max(0.0, miss_k(weather, departure, lead_days, now.miss_k) ** 2 - now.counted_k**2)),
    )
    return made, gauge
