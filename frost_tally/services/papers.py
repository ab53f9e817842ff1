"""What goes on paper: for the electrician, and for the utility."""

from dataclasses import dataclass
from datetime import datetime, time

import numpy as np

from ..core.charge.supply import ChargeRate, charge_rate
from ..core.errors import OutOfRange, Refusal
from ..core.home import NotSetUp, OwnedCar, named
from ..core.parts import Outlet
from ..household.snapshot import Snapshot
from .shared.car_year import CarYear, car_year


@dataclass(frozen=True, kw_only=True)
class ForElectrician:
    """A circuit as it is or is wished for a car: what may flow for hours, what the car would take, and why it stops there."""

    owned: OwnedCar
    outlet: Outlet
    rate: ChargeRate | None
    refusal: str
    others: tuple[tuple[int, str], ...]


def for_electrician(snapshot: Snapshot, car_id: int | None, outlet_id: int | None) -> ForElectrician:
    """The paper for a car (the first when None) on an outlet (its own when None). Raises: NotSetUp."""
    owned, every = snapshot.home.car(car_id), snapshot.home.outlets
    if not every:
        raise NotSetUp
    wanted = outlet_id or (owned.outlet.id if owned.outlet else None)
    outlet = next((each for each in every if each.id == wanted), every[0])
    rate, refusal = None, ""
    try:
        rate = charge_rate(outlet.supply, owned.car)
    except OutOfRange as problem:
        refusal = problem.message
    return ForElectrician(owned=owned, outlet=outlet, rate=rate, refusal=refusal, others=named(every))


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


def for_utility(snapshot: Snapshot) -> ForUtility:
    """The household's year. Raises: NotSetUp; Refusal when no car has an outlet."""
    home = snapshot.home
    able = [each for each in home.cars if each.outlet is not None]
    if not home.complete:
        raise NotSetUp
    if not able:
        raise Refusal("No car has an outlet yet: choose one in the Garage first.")
    years = [car_year(snapshot, each) for each in able]
    rates = [charge_rate(each.at.supply, each.car) for each in able]
    months = sum((_by_month(year, rate) for year, rate in zip(years, rates, strict=True)), np.zeros(12))
    return ForUtility(
        cars=tuple(each.name for each in able),
        months_kwh=tuple(float(each) for each in months),
        house_kwh=home.house.kwh,
        most_kw=max(rate.wall_kw for rate in rates),
        plug_in=min(each.habit.plug_in for each in able),
        depart=max(each.habit.depart for each in able),
        phases=max(each.at.supply.phases for each in able),
        km=sum(year.total_km for year in years),
    )


def _by_month(year: CarYear, rate: ChargeRate) -> np.ndarray:
    """What a car's days take from the wall, kWh by month: their energy with the outlet's losses and the car's hours awake."""
    into_kw = max(rate.pack_kw, 1e-6)
    wall = year.nights.use_kwh * rate.wall_kw / into_kw
    zone = year.place.clock
    month = np.array([datetime.fromtimestamp(each, zone).month - 1 for each in year.nights.departure_s])
    return np.bincount(month, wall, 12)
