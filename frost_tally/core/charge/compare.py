"""Tariffs compared over a year: the cars as planned under each, the house as it uses power, and where one overtakes another."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import Refusal
from ..units import Array
from .house import months_of, shifted
from .prices import CELL_S, PriceCells
from .tariff import Tariff
from .year import Charger, Nights, YearPlan, plan_year

MOST_TARIFFS = 6


@dataclass(frozen=True)
class CarNights:
    """A car on its supply, its nights and what it drives after them (km a night)."""

    hung: Charger
    nights: Nights
    km: Array


@dataclass(frozen=True, kw_only=True)
class TariffYear:
    """One tariff's year: money by car, house and standing charge; monthly totals and what the cars are of them.

    `months`, `car_months` have shape (12,). `break_even_km`: the yearly distance of all cars at which it costs as much as
    the reference; `above` says whether it is cheaper beyond it (else below); None when they never meet.
    """

    tariff: Tariff
    cars: tuple[YearPlan, ...]
    car_cost: float
    house_cost: float
    standing: float
    months: Array
    car_months: Array
    break_even_km: float | None = None
    above: bool = True

    @property
    def total(self) -> float:
        """All of it."""
        return self.car_cost + self.house_cost + self.standing


def compare(
    tariffs: Sequence[tuple[Tariff, PriceCells]],
    cars: Sequence[CarNights],
    house_kwh: Array,
    shift: float = 0.0,
    reference: int = 0,
) -> tuple[TariffYear, ...]:
    """A year under each tariff. The cells cover all nights; the house's cells are the first of them, kWh each.

    A share `shift` of the house's day moves into its cheapest hours. Break-even is against the tariff at `reference`,
    with the cars' cost proportional to their distance.
    Raises: Refusal for none or more than six tariffs, or cells that are too few.
    """
    if not 1 <= len(tariffs) <= MOST_TARIFFS:
        raise Refusal(f"One to {MOST_TARIFFS} tariffs can be compared at once.", "tariffs")
    years = [_year(tariff, cells, cars, house_kwh, shift) for tariff, cells in tariffs]
    km = sum(float(each.km.sum()) for each in cars)
    return tuple(_met(year, years[reference], km) for year in years)


def _year(tariff: Tariff, cells: PriceCells, cars: Sequence[CarNights], house_kwh: Array, shift: float) -> TariffYear:
    count = len(house_kwh)
    if count > len(cells.price_per_kwh):
        raise Refusal("The prices do not reach over the year.", "tariffs")
    house_cells = cells.head(count)
    month = months_of(cells)
    house = shifted(house_kwh, house_cells, shift) * house_cells.price_per_kwh
    plans = tuple(plan_year(each.hung, each.nights, cells) for each in cars)
    car_months = np.zeros(12)
    for each, plan in zip(cars, plans, strict=True):
        at = np.clip((each.nights.departure_s - cells.start_s) // CELL_S, 0, len(month) - 1).astype(int)
        car_months += np.bincount(month[at], plan.cost, 12)
    days = np.unique(house_cells.local_day, return_index=True)[1]
    standing = np.bincount(month[days], minlength=12) * tariff.standing_per_day
    months = np.bincount(month[:count], house, 12) + car_months + standing
    return TariffYear(
        tariff=tariff,
        cars=plans,
        car_cost=float(car_months.sum()),
        house_cost=float(house.sum()),
        standing=float(standing.sum()),
        months=months,
        car_months=car_months,
    )


def _met(year: TariffYear, other: TariffYear, km: float) -> TariffYear:
    """With the distance at which it meets the other."""
    if km <= 0 or year is other:
        return year
    fixed = (year.house_cost + year.standing) - (other.house_cost + other.standing)
    per_km = (other.car_cost - year.car_cost) / km
    if abs(per_km) < 1e-9 or fixed / per_km <= 0:
        return year
    return TariffYear(
        tariff=year.tariff,
        cars=year.cars,
        car_cost=year.car_cost,
        house_cost=year.house_cost,
        standing=year.standing,
        months=year.months,
        car_months=year.car_months,
        break_even_km=fixed / per_km,
        above=per_km > 0,
    )
