"""A year on another car: what its nights cost, which days they do not carry, and how far it gets in the cold."""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..charge.charger import Charger
from ..charge.outlet_comparison import MILD_C
from ..charge.prices import PriceCells
from ..charge.year import Nights, plan_year
from ..drive.usual import DayTable

STOP_SHARE = figure("long_day.stop_share", 0.6, "", Basis.COMMON_PRACTICE, "of a pack, what a stop on the way brings at most")
DAYS, COLDEST = 365.0, 7


@dataclass(frozen=True, kw_only=True)
class YearOn:
    """A year on a car: its class, usable kWh, kWh at the wall, money at home and on the way, wear (money), the days that its nights do
    not carry with the stops that these take, and the kilometres of a full pack to the reserve on the coldest mornings and when mild.
    """

    key: str
    usable_kwh: float
    wall_kwh: float
    home_cost: float
    way_cost: float
    wear: float
    short_days: int
    stops: int
    cold_km: float
    mild_km: float

    @property
    def cost(self) -> float:
        """Electricity, at home and on the way."""
        return self.home_cost + self.way_cost


def year_on(
    key: str,
    hung: Charger,
    nights: Nights,
    prices: PriceCells,
    *,
    table: DayTable,
    day_km: float,
    reserve: float,
    way_price: float,
) -> YearOn:
    """The nights of a year planned on a car, and what its days ask besides.

    Args: `day_km` a usual day by `table`; `reserve` 0 to 1; `way_price` money per kWh of what the nights do not carry.
    Source: `charge.year`; a stop brings `STOP_SHARE` of a pack at most (common practice).
    """
    made, usable = plan_year(hung, nights, prices), hung.car.pack.usable_kwh
    whole, coldest_c = DAYS / max(1, len(made.cost)), float(np.sort(nights.morning_c)[:COLDEST].mean())
    per_km = table.ask(np.full(2, day_km), np.array([coldest_c, MILD_C]))[0] / day_km
    cold, mild = (usable * (1.0 - reserve) / float(each) for each in per_km)
    return YearOn(
        key=key,
        usable_kwh=usable,
        wall_kwh=float(made.wall_kwh.sum()) * whole,
        home_cost=float(made.cost.sum()) * whole,
        way_cost=float(made.short_kwh.sum()) * whole * way_price,
        wear=float(made.wear.sum()) * whole,
        short_days=round(made.short_nights * whole),
        stops=round(float(np.ceil(made.short_kwh / (STOP_SHARE * usable) - 1e-9).sum()) * whole),
        cold_km=cold,
        mild_km=mild,
    )
