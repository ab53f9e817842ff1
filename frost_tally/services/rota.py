"""The rota: the coming seven nights of the cars that share a cable, their listed days in the weather of the place."""

from dataclasses import dataclass
from datetime import date, time

import numpy as np

from ..core.charge.rota import MOST_CARS, SWAP_WORTH, Rota, Sharer, plan_rota
from ..core.home import OwnedCar
from ..core.parts import Outlet
from ..core.units import Array
from ..household.facts import UNKNOWN_SOC
from ..household.plans import level_ahead
from ..household.snapshot import Snapshot
from .coming import ComingNights, coming_nights
from .derived import in_this_minute

WEEKS = 52


@dataclass(frozen=True, eq=False, kw_only=True)
class SharedCable:
    """The rota of an outlet: its name, its cars, the local dates of the evenings, km of the days after them (cars, nights), the rota, the
    same with a cable for each, when the cable goes over (local time), and what a swap is worth (money).
    """

    outlet: str
    cars: tuple[tuple[int, str], ...]
    evenings: tuple[date, ...]
    km: Array
    rota: Rota
    each: Rota
    swap_at: time
    swap_worth: float

    @property
    def saved_a_year(self) -> float:
        """What a second cable would save in a year of weeks like this one, money with the swaps spared."""
        return WEEKS * (self.rota.cost + self.swap_worth * self.rota.swaps - self.each.cost)


def shared_cables(snapshot: Snapshot) -> tuple[SharedCable, ...]:
    """The rotas of all outlets on which more than one car hangs. Raises: NotSetUp without a car."""
    snapshot.home.car()

    def work() -> tuple[SharedCable, ...]:
        by_outlet: dict[int, list[OwnedCar]] = {}
        for each in snapshot.home.cars:
            if each.outlet is not None and each.contract is not None:
                by_outlet.setdefault(each.outlet.id, []).append(each)
        return tuple(_shared(snapshot, them[0].at, them[:MOST_CARS]) for them in by_outlet.values() if len(them) > 1)

    return in_this_minute(snapshot, "rota", work)


def _shared(snapshot: Snapshot, outlet: Outlet, cars: list[OwnedCar]) -> SharedCable:
    made = [_sharer(snapshot, each) for each in cars]
    sharers, km = [each for each, _ in made], np.array([ahead.km for _, ahead in made])
    worth = SWAP_WORTH * snapshot.home.per_euro
    return SharedCable(
        outlet=outlet.name,
        cars=tuple((each.id, each.name) for each in cars),
        evenings=made[0][1].evenings,
        km=km,
        rota=plan_rota(sharers, swap_worth=worth),
        each=plan_rota(sharers, swap_worth=worth, cables=len(sharers)),
        swap_at=min(max(each.habit.plug_in for each in cars), min(each.habit.control.awake_until for each in cars)),
        swap_worth=worth,
    )


def _sharer(snapshot: Snapshot, owned: OwnedCar) -> tuple[Sharer, ComingNights]:
    """A car as the rota sees it, with its coming nights."""
    ahead, level = coming_nights(snapshot, owned), level_ahead(snapshot.log, owned.id, snapshot.minute)
    return Sharer(
        name=owned.name, soc=UNKNOWN_SOC if level is None else level[1], limit=owned.habit.limit, reserve=owned.habit.reserve,
        usable_kwh=ahead.car.pack.usable_kwh, wall_kw=ahead.rate.wall_kw, pack_kw=ahead.rate.pack_kw, use_soc=ahead.cautious_soc,
        prices=ahead.prices, wear_per_kwh=ahead.wear_per_kwh,
    ), ahead  # fmt: skip
