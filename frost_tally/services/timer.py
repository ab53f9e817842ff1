"""A timer that is set once: the best one start for the nights ahead of a car, beside a start for each night."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np

from ..core.charge.charger import charger
from ..core.charge.season_timer import SeasonTimer, season_timer
from ..core.charge.supply import charge_rate
from ..core.coming.nights import Stay, km_of, stays
from ..core.drive.usual import day_table
from ..core.errors import require
from ..core.heat.around import driven_c, parked_c
from ..core.home import OfCar, OwnedCar
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .shared.car_year import nights_of
from .shared.climate import weather_ahead
from .shared.derived import LONG_S, derived_later
from .shared.past import own_car

FEWEST_NIGHTS, MOST_NIGHTS, MONTH = 7, 90, 30
READS = frozenset(("drive", "charge", "weather", "price", "reading"))


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
    """The best start for the nights ahead, in the weather as far as it is known, else in the place's usual one."""
    habit, at, car = owned.habit, owned.at, own_car(snapshot, owned)[1]
    before = datetime.combine(first, habit.plug_in, owned.zone) - timedelta(seconds=1)
    nights, driven_km = list[Stay](), list[float]()
    for each in stays(owned, before, inputs.nights):
        if each.away is None:
            nights.append(each)
            driven_km.append(0.0 if each.stays else km_of(owned, each))
        elif nights:  # the way home, with what was charged here
            driven_km[-1] += each.km
    begins, leaves = [each.begin for each in nights], [each.leaves for each in nights]
    outside_c = weather_ahead(snapshot, owned).temperature_c
    around, late = (np.array([parked_c(outside_c, each, *owned.place.standing) for each in times]) for times in (begins, leaves))
    km = np.array(driven_km)
    longest = round(max(float(km.max()), habit.trip.distance_km) + 1.0, 1)
    table = day_table(
        car, habit.trip, longest, habit.warm_up, habit.cabin_c, load_kg=habit.load_kg, altitude_m=owned.place.altitude_m
    )
    days = table.ask(km, np.array([driven_c(outside_c, each, habit.parked_h) for each in leaves]))
    rate, control = charge_rate(at.supply, car), replace(habit.control, step_min=inputs.step_min)
    hung = charger(car, rate, inputs.limit, habit.warm_up, habit.cabin_c, control=control, held=at.held, pack_price=price)
    span = begins[0] - timedelta(hours=1), leaves[-1] + timedelta(hours=1)
    cells = with_prices(snapshot.log, owned.pays, span).cells(*span)
    return season_timer(hung, nights_of(car, begins, leaves, days=days, around=around, late=late), cells)


def first_whole(snapshot: Snapshot, owned: OwnedCar) -> date:
    """The evening of the first night that has not begun."""
    here = snapshot.minute.astimezone(owned.zone)
    return here.date() + timedelta(days=here.time() >= owned.habit.plug_in)
