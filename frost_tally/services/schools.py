"""Battery, limit schools: each everyday limit lived for years on this car's own days, what it keeps and what it leaves short."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from ..core.battery.ageing import PER_EURO, pack_price
from ..core.battery.cold import Chemistry
from ..core.battery.schools import SCHOOLS, STOP_MIN, STOP_WORTH, WAY_PRICE, WEEK, Schools, kept_money, side_by_side, stored
from ..core.battery.trend import Z90
from ..core.drive.regen_lost import regen_lost
from ..core.errors import Refusal
from ..core.home import OwnedCar
from ..core.units import Array
from ..household.parts import write_habit
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from ..standins.weather import TypicalYear
from .battery_life import Battery, battery_of, own_year
from .car_year import car_year
from .derived import in_this_minute
from .home import OfCar

HOT = TypicalYear(14.0, 34.0)
STORED_SOC = (0.3, 0.5, 0.7, 0.8, 1.0)
STORED_C = (-5.0, 5.0, 15.0, 25.0, 35.0)


@dataclass(frozen=True, kw_only=True)
class SchoolInputs:
    """What can be set: the owner's limit, when it is charged, where it stands (`stands` "own" or a kind of garage; heated to °C), the
    climate ("own", "hot"), years, a weekly full charge, what a new pack costs per kWh and a stop on the way is worth, weeks of storage.
    """

    limit: float
    late: bool
    stands: str
    heated_c: float
    climate: str
    years: int
    weekly_full: bool
    pack_price: float
    stop_worth: float
    weeks: float


@dataclass(frozen=True, eq=False, kw_only=True)
class School:
    """One limit: what is left of new after the years (likely, band), points kept against the dearest limit (likely, band), money, days a
    year not covered and kWh of them, hours a day at the limit, kWh of braking lost a year.
    """

    limit: float
    left: tuple[float, float, float]
    kept: tuple[float, float, float]
    money: float
    short_days: float
    short_kwh: float
    way_money: float
    full_h: float
    regen_kwh: float

    @property
    def net(self) -> float:
        """Money kept less what the way costs, over all years."""
        return self.money - self.way_money


@dataclass(frozen=True, eq=False, kw_only=True)
class SchoolsRoom(OfCar):
    """The room: inputs, the schools in order of their limits, the owner's among them, the one that is worth most, storage by level and
    temperature (points lost, shape (levels, temperatures)), from how many logged days.
    """

    cars: tuple[tuple[int, str], ...]
    battery: Battery
    inputs: SchoolInputs
    defaults: SchoolInputs
    schools: tuple[School, ...]
    own: School
    best: School
    stored: Array
    logged: int
    way_price: float
    way_known: bool
    home_price: float
    currency: str

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.battery.owned

    @property
    def stop_min(self) -> float:
        """What a stop on the way takes, min."""
        return STOP_MIN

    @property
    def worst(self) -> School:
        """The school that keeps least."""
        return min(self.schools, key=lambda each: each.left[0])


def schools_room(snapshot: Snapshot, car_id: int | None, override: Callable[[SchoolInputs], SchoolInputs]) -> SchoolsRoom:
    """The schools of a car (the first when None) under its inputs. Raises: NotSetUp; Refusal for an input that cannot be."""
    owned = snapshot.home.car(car_id)
    defaults = _defaults(owned, snapshot.home.currency)
    inputs = override(defaults)
    return in_this_minute(snapshot, ("schools", owned.id, inputs), lambda: _lived(snapshot, owned, inputs, defaults))


def _defaults(owned: OwnedCar, currency: str) -> SchoolInputs:
    cell = owned.car.pack.chemistry
    return SchoolInputs(
        limit=owned.habit.limit, late=True, stands="own", heated_c=owned.place.garage_heated_c, climate="own", years=8,
        weekly_full=cell is Chemistry.LFP, pack_price=pack_price(cell, currency), stop_worth=STOP_WORTH * PER_EURO.get(currency, 1.0),
        weeks=6.0,
    )  # fmt: skip


def _lived(snapshot: Snapshot, owned: OwnedCar, inputs: SchoolInputs, defaults: SchoolInputs) -> SchoolsRoom:
    """Everything worked out."""
    battery, currency = battery_of(snapshot, owned), snapshot.home.currency
    garage = None if inputs.stands == "own" else (inputs.stands, inputs.heated_c)
    made = car_year(snapshot, owned, garage=garage, weather=HOT if inputs.climate == "hot" else None)
    year, pack = own_year(made), battery.car.pack
    limits = tuple(sorted({*SCHOOLS, round(inputs.limit, 3)}))
    before, health, (scale, scale_sigma) = battery.life.whole, battery.trend.health, battery.trend.scale
    lived = side_by_side(
        pack.chemistry, pack.usable_kwh_new, year, limits=limits, health=health, scale=scale, before=before, years=inputs.years,
        late=inputs.late, weekly_full=inputs.weekly_full,
    )  # fmt: skip
    home_price, (way_price, way_known) = _home_price(snapshot, owned), _way_price(battery, currency)
    regen = regen_lost(battery.car, owned.habit.trip, limits)
    driven = float(np.count_nonzero(year.use_kwh > 0)) * 365.25 / len(year.use_kwh)
    schools = tuple(
        _school(
            i,
            lived,
            inputs,
            health,
            (scale, scale_sigma),
            pack.usable_kwh_new,
            max(0.0, way_price - home_price),
            regen[i] * driven,
        )
        for i in range(len(limits))
    )
    own = next(each for each in schools if abs(each.limit - inputs.limit) < 1e-3)
    temp_c, soc = np.meshgrid(STORED_C, STORED_SOC)
    return SchoolsRoom(
        cars=snapshot.home.names, battery=battery, inputs=inputs, defaults=defaults, schools=schools, own=own,
        best=max(schools, key=lambda each: (each.net, -each.limit)),
        stored=scale * stored(pack.chemistry, before, temp_c, soc, 7.0 * inputs.weeks),
        logged=made.logged, way_price=way_price, way_known=way_known, home_price=home_price, currency=currency,
    )  # fmt: skip


def _school(
    i: int,
    lived: Schools,
    inputs: SchoolInputs,
    health: float,
    scale: tuple[float, float],
    new_kwh: float,
    dearer: float,
    regen_kwh: float,
) -> School:
    """One limit's result on the owner's scale, with the band of that scale."""
    lost = lived.lost[:, -1]
    spread = [max(0.0, scale[0] + z * scale[1]) for z in (0.0, -Z90, Z90)]
    kept = float(lost.max() - lost[i])
    stops = float(lived.short_days[i]) * inputs.years
    return School(
        limit=lived.limits[i],
        left=(health - spread[0] * float(lost[i]), health - spread[2] * float(lost[i]), health - spread[1] * float(lost[i])),
        kept=(spread[0] * kept, spread[1] * kept, spread[2] * kept),
        money=float(kept_money(scale[0] * lost[i], scale[0] * float(lost.max()), new_kwh, inputs.pack_price)),
        short_days=float(lived.short_days[i]),
        short_kwh=float(lived.short_kwh[i]),
        way_money=float(lived.short_kwh[i]) * inputs.years * dearer + stops * inputs.stop_worth,
        full_h=float(lived.full_h[i]),
        regen_kwh=regen_kwh,
    )


def _home_price(snapshot: Snapshot, owned: OwnedCar) -> float:
    """The cheapest hours of the coming week at home, per kWh; 0 without a tariff."""
    if owned.contract is None:
        return 0.0
    span = snapshot.minute, snapshot.minute + timedelta(days=WEEK)
    return float(with_prices(snapshot.log, owned.contract, span).cells(*span).price_per_kwh.min())


def _way_price(battery: Battery, currency: str) -> tuple[float, bool]:
    """What a kWh on the way costs: as this car's fast charges did, else from memory."""
    sums = battery.sums
    if sums.fast_kwh > 0 and sums.fast_cost > 0:
        return sums.fast_cost / sums.fast_kwh, True
    return WAY_PRICE * PER_EURO.get(currency, 1.0), False


def keep_limit(household: Household, car_id: int, limit: float, words: str, seen_revision: int) -> int:
    """Make a limit the habit's; returns the number to undo it by. Raises: Refusal; Stale."""
    if not 0.3 <= limit <= 1.0:
        raise Refusal("The everyday limit must lie between 30 and 100 %.", "limit")
    with household.deciding(words, seen_revision) as session:
        write_habit(session, car_id, limit=limit)
    return session.number
