"""The coming nights of a car: when it is plugged in and leaves, what its days take, and what the hours between cost."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np

from ..core.advice.worth import CAUTIOUS, DAY_DOUBT
from ..core.battery.ageing import kwh_cost
from ..core.car import Car
from ..core.charge.prices import PriceCells
from ..core.charge.supply import ChargeRate, charge_rate
from ..core.charge.tariff import Tariff
from ..core.drive.usual import day_table
from ..core.heat.around import driven_c
from ..core.heat.schedule import Due
from ..core.home import OwnedCar
from ..core.units import Array
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .climate import climate_of
from .measured import charging_car

NIGHTS = 7


@dataclass(frozen=True, eq=False, kw_only=True)
class ComingNights:
    """Entries for each night: the local date of its evening, plugging in, departure and what is listed for that day; km and level (0 to 1,
    likely) that the day after takes, and the pack after it (°C); the prices of all quarter hours, and those of each night that the house
    leaves. `wear_per_kwh` in the contracts' money.
    """

    owned: OwnedCar
    car: Car
    rate: ChargeRate
    tariff: Tariff
    evenings: tuple[date, ...]
    plugs: tuple[datetime, ...]
    leaves: tuple[datetime, ...]
    due: tuple[tuple[Due, ...], ...]
    km: Array
    use_soc: Array
    end_c: Array
    grid: PriceCells
    prices: tuple[Array, ...]
    wear_per_kwh: float

    @property
    def cautious_soc(self) -> Array:
        """What the days take at their cautious end."""
        return self.use_soc * (1 + CAUTIOUS * DAY_DOUBT)


def first_whole(snapshot: Snapshot, owned: OwnedCar) -> date:
    """The evening of the first night that has not begun."""
    here = snapshot.minute.astimezone(owned.zone)
    return here.date() + timedelta(days=here.time() >= owned.habit.plug_in)


def coming_nights(snapshot: Snapshot, owned: OwnedCar, count: int = NIGHTS, first: date | None = None) -> ComingNights:
    """So many nights from an evening (None: from this night): the listed days, else the usual one on as many days as the car drives.

    Raises: NotSetUp.
    """
    habit, car, weather = owned.habit, charging_car(snapshot, owned), climate_of(snapshot, owned.place)
    here, later = snapshot.minute.astimezone(owned.zone), timedelta(days=0 if habit.depart > habit.plug_in else 1)
    if first is None:  # a night that has begun is the first
        first = here.date() - (later if here.time() < habit.depart else timedelta())
    evenings = tuple(first + timedelta(days=i) for i in range(count))
    listed = defaultdict(list)
    begin = datetime.combine(first + later, habit.depart.min, owned.zone)
    for each in owned.due_between(begin, begin + timedelta(days=count)):
        listed[each.at.date()].append(each)
    due = tuple(tuple(listed[day + later]) for day in evenings)
    plugs = tuple(max(here, datetime.combine(day, habit.plug_in, owned.zone)) for day in evenings)
    usual = tuple(datetime.combine(day + later, habit.depart, owned.zone) for day in evenings)
    leaves = tuple(each[0].at if each and each[0].at > plug else at for each, at, plug in zip(due, usual, plugs, strict=True))
    if owned.departures:
        km = np.array([sum((2 * each.listed.km for each in them), 0.0) for them in due])
    else:
        km = np.array([habit.trip.distance_km if each.weekday() < round(habit.days_a_week) else 0.0 for each in leaves])
    table = day_table(
        car, habit.trip, round(max(float(km.max()), habit.trip.distance_km) + 1.0, 1), habit.warm_up, habit.cabin_c, habit.load_kg,
        owned.place.altitude_m,
    )  # fmt: skip
    use_kwh, end_c = table.ask(km, np.array([driven_c(weather.temperature_c, each, habit.parked_h) for each in leaves]))
    span = plugs[0] - timedelta(hours=1), leaves[-1] + timedelta(hours=1)
    tariff, held = with_prices(snapshot.log, owned.pays, span), owned.at.held
    grid, rate = tariff.cells(*span), charge_rate(owned.at.supply, car)
    closed = held.of_cells() > 0 if rate.held_to(held.amps) is None else np.zeros(96, dtype=bool)
    return ComingNights(
        owned=owned,
        car=car,
        rate=rate,
        tariff=tariff,
        evenings=evenings,
        plugs=plugs,
        leaves=leaves,
        due=due,
        km=km,
        use_soc=use_kwh / car.pack.usable_kwh,
        end_c=end_c,
        grid=grid,
        prices=tuple(
            grid.open_between(plug.timestamp(), leave.timestamp(), closed) for plug, leave in zip(plugs, leaves, strict=True)
        ),
        wear_per_kwh=kwh_cost(car.pack.chemistry, snapshot.home.pack_price(car.pack.chemistry)),
    )
