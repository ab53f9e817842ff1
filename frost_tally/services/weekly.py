"""The weekly charger: a car's own year charged once a week at a fast post, beside its outlet at home."""

from collections.abc import Callable
from dataclasses import dataclass

from ..core.advice.weekly import AtHome, Weekly, weekly
from ..core.battery.limit_policies import WAY_PRICE
from ..core.home import OfCar, OwnedCar
from ..household.snapshot import Snapshot
from .shared.car_year import READS, CarYear, car_year, first_evening, on_outlet, planned
from .shared.derived import LONG_S, derived_later


@dataclass(frozen=True, kw_only=True)
class WeeklyInputs:
    """What can be set: the post's power (kW) and price per kWh."""

    post_kw: float
    price: float


@dataclass(frozen=True, kw_only=True)
class WeeklyRoom(OfCar):
    """Everything the page shows; `km` of the year."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: WeeklyInputs
    defaults: WeeklyInputs
    km: float
    made: Weekly


def weekly_room(
    snapshot: Snapshot, car_id: int | None, override: Callable[[WeeklyInputs], WeeklyInputs], wait_s: float = LONG_S
) -> WeeklyRoom:
    """The page for a car (the first when None). Raises: NotSetUp, OutOfRange with its field, NotYet."""
    defaults = WeeklyInputs(post_kw=100.0, price=WAY_PRICE * snapshot.home.per_euro)
    inputs = override(defaults)
    owned = snapshot.home.car(car_id)
    price = snapshot.home.pack_price(owned.car.pack.chemistry)
    habit = owned.habit

    def work(reading: Snapshot) -> tuple[float, Weekly]:
        year = car_year(reading, owned)
        made = weekly(
            year.car, year.nights.use_kwh, year.nights.morning_c, home=_at_home(reading, year), limit_soc=habit.limit,
            post_kw=inputs.post_kw, price_per_kwh=inputs.price, pack_per_kwh=price, reserve_soc=habit.reserve,
        )  # fmt: skip
        return year.total_km, made

    what = ("weekly", owned, price, inputs, first_evening(snapshot.now.astimezone(owned.zone)))
    km, made = derived_later(snapshot, what, work, wait_s, READS | {"price"})
    return WeeklyRoom(owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, km=km, made=made)


def _at_home(reading: Snapshot, year: CarYear) -> AtHome | None:
    """The year of nights on its outlet; None without one."""
    plan = planned(reading, year)
    return None if plan is None else AtHome(plan=plan, kw=on_outlet(year, reading.home).rate.pack_kw)
