"""What goes on paper: for the electrician, and for the utility."""

from dataclasses import dataclass
from datetime import datetime, time
from zoneinfo import ZoneInfo

import numpy as np

from ..core.car import Car
from ..core.charge.supply import ChargeRate, Supply, charge_rate
from ..core.errors import OutOfRange, Refusal
from ..household.home import Home
from ..household.models import OutletRow
from ..household.parts import car_of, cars, household, outlets, supply_of
from .car_year import CarYear, car_year
from .evening import NotSetUp


@dataclass(frozen=True, kw_only=True)
class ForElectrician:
    """A circuit as it is or is wished for a car: what may flow for hours, what the car would take, and why it stops there."""

    car_name: str
    car: Car
    outlet: OutletRow
    supply: Supply
    rate: ChargeRate | None
    refusal: str
    others: tuple[tuple[int, str], ...]


def for_electrician(home: Home, car_id: int | None, outlet_id: int | None) -> ForElectrician:
    """The paper for a car (the first when None) on an outlet (its own when None). Raises: NotSetUp; Refusal."""
    with home.reading() as session:
        row, every = next((each for each in cars(session) if car_id in (None, each.id)), None), outlets(session)
        if row is None or not every:
            raise NotSetUp
        outlet = next((each for each in every if each.id == (outlet_id or row.habit.outlet_id)), every[0])
        car, supply = car_of(row), supply_of(outlet)
    rate, refusal = None, ""
    try:
        rate = charge_rate(supply, car)
    except OutOfRange as problem:
        refusal = problem.message
    return ForElectrician(
        car_name=row.name,
        car=car,
        outlet=outlet,
        supply=supply,
        rate=rate,
        refusal=refusal,
        others=tuple((each.id, each.name) for each in every),
    )


@dataclass(frozen=True, kw_only=True)
class ForUtility:
    """A household's year for a contract: by month what the cars take from the wall and the house uses (kWh), most power, and hours."""

    cars: tuple[str, ...]
    months_kwh: tuple[float, ...]
    house_kwh: tuple[float, ...]
    most_kw: float
    plug_in: time
    depart: time
    phases: int
    km: float


def for_utility(home: Home, now: datetime) -> ForUtility:
    """The household's year. Raises: NotSetUp; Refusal when no car has an outlet."""
    with home.reading() as session:
        house = household(session)
        rows = [row for row in cars(session) if row.habit.outlet is not None]
        if not house.complete:
            raise NotSetUp
        if not rows:
            raise Refusal("No car has an outlet yet: choose one in the Garage first.")
        years = [car_year(session, row, now) for row in rows]
        rates = [charge_rate(supply_of(row.habit.outlet), car_of(row)) for row in rows if row.habit.outlet is not None]
        months = sum((_by_month(year, rate) for year, rate in zip(years, rates, strict=True)), np.zeros(12))
        return ForUtility(
            cars=tuple(row.name for row in rows),
            months_kwh=tuple(float(each) for each in months),
            house_kwh=tuple(house.house_kwh),
            most_kw=max(rate.wall_kw for rate in rates),
            plug_in=min(row.habit.plug_in for row in rows),
            depart=max(row.habit.depart for row in rows),
            phases=max(row.habit.outlet.phases for row in rows if row.habit.outlet is not None),
            km=sum(year.total_km for year in years),
        )


def _by_month(year: CarYear, rate: ChargeRate) -> np.ndarray:
    """What a car's days take from the wall, kWh by month: their energy with the outlet's losses and the car's hours awake."""
    into_kw = max(rate.pack_kw, 1e-6)
    wall = year.nights.use_kwh * rate.wall_kw / into_kw
    zone = ZoneInfo(year.place.zone)
    month = np.array([datetime.fromtimestamp(each, zone).month - 1 for each in year.nights.departure_s])
    return np.bincount(month, wall, 12)
