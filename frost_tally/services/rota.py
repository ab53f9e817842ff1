"""The rota: the coming seven nights of the cars that share a cable, their listed days in the weather of the place."""

from dataclasses import dataclass
from datetime import date, datetime, time

import numpy as np
from sqlalchemy.orm import Session

from ..core.battery.ageing import PER_EURO
from ..core.charge.rota import MOST_CARS, SWAP_WORTH, Rota, Sharer, plan_rota
from ..core.units import Array
from ..household.facts import UNKNOWN_SOC
from ..household.home import Home
from ..household.models import CarRow
from ..household.parts import cars, household
from ..household.plans import level_ahead
from .clock import minute_of
from .coming import ComingNights, coming_nights
from .evening import NotSetUp
from .remembered import once

WEEKS = 52


@dataclass(frozen=True, eq=False, kw_only=True)
class SharedCable:
    """The rota of an outlet: its name, its cars, the local dates of the evenings, km of the days after them (cars, nights), the rota, the
    same with a cable for each, when the cable goes over (local time), and the contracts' money.
    """

    outlet: str
    cars: tuple[tuple[int, str], ...]
    evenings: tuple[date, ...]
    km: Array
    rota: Rota
    each: Rota
    swap_at: time
    currency: str

    @property
    def saved_a_year(self) -> float:
        """What a second cable would save in a year of weeks like this one, money with the swaps spared."""
        worth = SWAP_WORTH * PER_EURO.get(self.currency, 1.0)
        return WEEKS * (self.rota.cost + worth * self.rota.swaps - self.each.cost)


def shared_cables(home: Home, now: datetime) -> tuple[SharedCable, ...]:
    """The rotas of all outlets on which more than one car hangs. Raises: NotSetUp without a car."""

    def work() -> tuple[SharedCable, ...]:
        with home.reading() as session:
            rows = cars(session)
            if not rows:
                raise NotSetUp
            by_outlet: dict[int, list[CarRow]] = {}
            for row in rows:
                if row.habit.outlet is not None and row.habit.tariff is not None:
                    by_outlet.setdefault(row.habit.outlet.id, []).append(row)
            return tuple(_shared(session, them[:MOST_CARS], now) for them in by_outlet.values() if len(them) > 1)

    now = minute_of(now)
    return once(home, ("rota", now), work)


def _shared(session: Session, rows: list[CarRow], now: datetime) -> SharedCable:
    outlet = rows[0].habit.outlet
    assert outlet is not None  # noqa: S101 - it is what they were put together by
    made = [_sharer(session, row, now) for row in rows]
    sharers, km = [each for each, _ in made], np.array([ahead.km for _, ahead in made])
    currency = household(session).currency
    worth = SWAP_WORTH * PER_EURO.get(currency, 1.0)
    return SharedCable(
        outlet=outlet.name,
        cars=tuple((row.id, row.name) for row in rows),
        evenings=made[0][1].evenings,
        km=km,
        rota=plan_rota(sharers, swap_worth=worth),
        each=plan_rota(sharers, swap_worth=worth, cables=len(sharers)),
        swap_at=min(max(row.habit.plug_in for row in rows), min(row.habit.awake_until for row in rows)),
        currency=currency,
    )


def _sharer(session: Session, row: CarRow, now: datetime) -> tuple[Sharer, ComingNights]:
    """A car as the rota sees it, with its coming nights."""
    ahead, level = coming_nights(session, row, now), level_ahead(session, row.id, now)
    return Sharer(
        name=row.name, soc=UNKNOWN_SOC if level is None else level[1], limit=row.habit.limit, reserve=row.habit.reserve,
        usable_kwh=ahead.car.pack.usable_kwh, wall_kw=ahead.rate.wall_kw, pack_kw=ahead.rate.pack_kw, use_soc=ahead.cautious_soc,
        prices=ahead.prices, wear_per_kwh=ahead.wear_per_kwh,
    ), ahead  # fmt: skip
