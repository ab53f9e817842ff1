"""A timer that is set once: the best one start for the nights ahead of a car, beside a start for each night."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np

from ..core.charge.charger import charger
from ..core.charge.courses import Nights
from ..core.charge.season_timer import SeasonTimer, season_timer
from ..core.errors import require
from ..core.heat.around import parked_c
from ..core.home import OfCar, OwnedCar
from ..household.snapshot import Snapshot
from .car_year import nights_of
from .climate import climate_of
from .coming import ComingNights, coming_nights, first_whole
from .derived import LONG_S, derived_later

FEWEST_NIGHTS, MOST_NIGHTS, MONTH = 7, 90, 30
READS = frozenset(("charge", "weather", "price"))


@dataclass(frozen=True, kw_only=True)
class TimerInputs:
    """What can be set: how many nights ahead, the limit (0 to 1) and the minutes of the timer's steps."""

    nights: int
    limit: float
    step_min: int


@dataclass(frozen=True, kw_only=True)
class TimerRoom(OfCar):
    """Everything the page shows; `last` is the evening of the last night."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: TimerInputs
    defaults: TimerInputs
    last: date
    made: SeasonTimer


def timer_room(
    snapshot: Snapshot, car_id: int | None, override: Callable[[TimerInputs], TimerInputs], wait_s: float = LONG_S
) -> TimerRoom:
    """The page for a car (the first when None). Raises: NotSetUp, OutOfRange or Refusal with its field, NotYet."""
    owned = snapshot.home.ready_car(car_id)
    habit = owned.habit
    defaults = TimerInputs(nights=MONTH, limit=habit.limit, step_min=habit.control.step_min)
    inputs = override(defaults)
    require(inputs.nights, FEWEST_NIGHTS, MOST_NIGHTS, "The nights", "", "nights")
    first, price = first_whole(snapshot, owned), snapshot.home.pack_price(owned.car.pack.chemistry)

    def work(reading: Snapshot) -> SeasonTimer:
        return _made(reading, owned, inputs, first, price)

    made = derived_later(snapshot, ("timer", owned, inputs, first, price), work, wait_s, READS)
    last = first + timedelta(days=inputs.nights - 1)
    return TimerRoom(owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, last=last, made=made)


def _made(snapshot: Snapshot, owned: OwnedCar, inputs: TimerInputs, first: date, price: float) -> SeasonTimer:
    ahead, habit, at = coming_nights(snapshot, owned, inputs.nights, first), owned.habit, owned.at
    control = replace(habit.control, step_min=inputs.step_min)
    hung = charger(ahead.car, ahead.rate, inputs.limit, habit.warm_up, habit.cabin_c, control, at.held, price)
    return season_timer(hung, _nights(snapshot, ahead), ahead.grid)


def _nights(snapshot: Snapshot, ahead: ComingNights) -> Nights:
    """The nights ahead in the weather as far as it is known, else in the place's usual one; each pack as its day leaves it."""
    place = ahead.owned.place
    outside_c = climate_of(snapshot, place).temperature_c
    around, late = (
        np.array([parked_c(outside_c, each, *place.standing) for each in times]) for times in (ahead.plugs, ahead.leaves)
    )
    days = ahead.use_soc * ahead.car.pack.usable_kwh, ahead.end_c
    return nights_of(ahead.car, ahead.plugs, ahead.leaves, days, around, late)
