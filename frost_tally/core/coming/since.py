"""What the nights and drives since a level was read have likely brought and taken: as it was kept, by habit, or elsewhere."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta

from ..advice.limit import Charges
from ..advice.worth import CAUTIOUS
from ..car import Car
from ..charge.plan import NightPlan
from ..charge.saved_plan import SavedPlan
from ..charge.supply import ChargeRate, charge_rate
from ..home import Home, OwnedCar
from .level import Charged, Drove, Event
from .nights import Stay, hours

USE_SIGMA, LEAST_SIGMA = 0.1, 0.005
"""What a drive that nobody noted took is off the model's, one standard deviation, as a share; and the least of any drive, level 0 to 1."""
NEEDS_MORE = 1.15
"""What somebody who charges as needed charges for a day, of what the model takes for it (common practice)."""
WAY_HOME_KMH = 60.0
"""About how fast a way home goes, over country roads in winter (common practice)."""


def elsewhere(home: Home, owned: OwnedCar) -> dict[int, ChargeRate]:
    """What the best outlet of each other place gives a car, by the number of the place; none where nothing charges it."""
    found: dict[int, ChargeRate] = {}
    for outlet in home.outlets:
        if outlet.place_id not in (None, owned.place.id):
            rate = charge_rate(outlet.supply, owned.car)
            if rate.pack_kw > 0 and (outlet.place_id not in found or rate.pack_kw > found[outlet.place_id].pack_kw):
                found[outlet.place_id] = rate
    return found


def most_soc(rate: ChargeRate | None, car: Car, begin: datetime, end: datetime) -> float:
    """The most that an outlet (None: there is none) brings a pack between two moments, as a level (above 0; 1 is a whole pack)."""
    return 0.0 if rate is None else max(0.0, hours(begin, end)) * rate.pack_kw / car.pack.usable_kwh


def there(rates: Mapping[int, ChargeRate], stay: Stay) -> ChargeRate | None:
    """What a car charges with on a night away; None at home, and where there is no outlet."""
    return None if stay.away is None else rates.get(stay.away.place_id or 0)


def gone(owned: OwnedCar, stay: Stay) -> timedelta:
    """About how long a car is gone after a stay: over its usual day, on a way home only for the drive; not at all where it stays."""
    if stay.stays:
        return timedelta()
    return timedelta(hours=owned.habit.parked_h + 1.0 if stay.away is None else max(1.0, stay.km / WAY_HOME_KMH))


def by_plan(plan: SavedPlan, added_soc: float, missed: float) -> list[Event]:
    """What a night and its day were by a plan that was kept: charged at most by `added_soc`, or, by the chance `missed`, not (0 to 1)."""
    sigma = max(LEAST_SIGMA, (plan.arrival_likely - plan.arrival_low) / CAUTIOUS)
    drove = Drove(soc=plan.soc_departure - plan.arrival_likely, sigma=sigma)
    night = Charged(to_soc=plan.soc_departure, most_soc=added_soc, missed=missed, ends=plan.departure, kept=True)
    return [night, drove] if plan.charging else [drove]


def charged(owned: OwnedCar, stay: Stay, use_soc: float, added_soc: float, missed: float) -> list[Event]:
    """What a night that nobody kept a plan for likely charged: to the limit, as needed to what its day takes (`use_soc`), at most by
    `added_soc`; away to the limit.
    """
    if added_soc <= 0:
        return []
    habit = owned.habit
    need = min(1.0, max(habit.floor, NEEDS_MORE * use_soc + habit.reserve))
    limit = habit.limit if stay.away is not None else max(habit.limit, need) if habit.charges is Charges.SHALLOW else need
    return [Charged(to_soc=limit, most_soc=added_soc, missed=missed, ends=stay.leaves)]


def as_decided(plan: NightPlan, owned: OwnedCar, stay: Stay, use_soc: float, added_soc: float, *, missed: float) -> list[Event]:
    """What a night on a shared cable likely charged, as the week had decided it. That somebody did otherwise has the same chance both
    ways.
    """
    if plan.blocks:
        return [Charged(to_soc=plan.highest_soc, most_soc=1.0, missed=missed, ends=stay.leaves)]
    found = charged(owned, stay, use_soc, added_soc, missed)
    return [replace(each, missed=1 - missed, against=True) for each in found if isinstance(each, Charged)]


def drove(use_soc: float) -> list[Event]:
    """What a day that nobody noted likely took; nothing at home."""
    return [Drove(soc=use_soc, sigma=USE_SIGMA * use_soc)] if use_soc > 0 else []
