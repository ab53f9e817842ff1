"""Battery, limit schools: each everyday limit lived for years on this car's own days, what it keeps and what it leaves short."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import timedelta

import numpy as np

from ..core.battery.cold import Chemistry
from ..core.battery.limit_policies import (
    LIMITS,
    STOP_MIN,
    STOP_WORTH,
    WAY_PRICE,
    WEEK,
    LimitPolicy,
    Prices,
    judged,
    side_by_side,
    stored,
)
from ..core.coming.decide import PLUG_WORTH
from ..core.drive.regen_lost import regen_lost
from ..core.errors import Refusal
from ..core.home import Home, OfCar, OwnedCar
from ..core.units import Array
from ..household.parts import write_habit
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from ..standins.weather import TypicalYear
from .battery.life import Battery, battery_of, own_year
from .shared.car_year import car_year, first_evening
from .shared.coming import ahead_of
from .shared.derived import derived
from .shared.now import sharing_cable

HOT = TypicalYear(14.0, 34.0)
STORED_SOC = (0.3, 0.5, 0.7, 0.8, 1.0)
STORED_C = (-5.0, 5.0, 15.0, 25.0, 35.0)


@dataclass(frozen=True, kw_only=True)
class PolicyInputs:
    """What can be set: the owner's limit, when it is charged, where it stands (`stands` "own" or a kind of garage; heated to °C), the
    climate ("own", "hot"), years, a weekly full charge, what a new pack costs per kWh, what a stop on the way and a night with a raised
    limit are worth, weeks of storage.
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
    raise_worth: float
    weeks: float


@dataclass(frozen=True, eq=False, kw_only=True)
class PoliciesRoom(OfCar):
    """The room: inputs, the policies in order of their limits, the owner's among them, the one that is worth most, storage by level and
    temperature (points lost, shape (levels, temperatures)), by how many cells, from how many logged days; on so many nights of a week
    it has the cable.
    """

    cars: tuple[tuple[int, str], ...]
    battery: Battery
    inputs: PolicyInputs
    defaults: PolicyInputs
    policies: tuple[LimitPolicy, ...]
    own: LimitPolicy
    best: LimitPolicy
    stored: Array
    cells: int
    logged: int
    nights: int
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
    def fullest(self) -> LimitPolicy:
        """The policy that the others are held against."""
        return self.policies[-1]


def policies_room(
    snapshot: Snapshot, car_id: int | None, override: Callable[[PolicyInputs], PolicyInputs], apart: int = 1
) -> PoliciesRoom:
    """The limits of a car (the first when None) under its inputs, charged on every so many nights. Raises: NotSetUp; Refusal for an input
    that cannot be.
    """
    owned = snapshot.home.car(car_id)
    defaults = _defaults(owned, snapshot.home)
    inputs = override(defaults)
    # of this minute only the nights that the car gets and the hours ahead count: a year of days is another tomorrow
    weekdays, home_price = _weekdays(snapshot, owned), _home_price(snapshot, owned)
    what = ("limit policies", owned, inputs, apart, weekdays, home_price, first_evening(snapshot.now.astimezone(owned.zone)))
    return derived(
        snapshot, what, lambda: _lived(snapshot, owned, inputs, defaults, apart=apart, weekdays=weekdays, home_price=home_price)
    )


def _defaults(owned: OwnedCar, home: Home) -> PolicyInputs:
    cell = owned.car.pack.chemistry
    return PolicyInputs(
        limit=owned.habit.limit, late=True, stands="own", heated_c=owned.place.garage_heated_c, climate="own", years=8,
        weekly_full=cell is Chemistry.LFP, pack_price=home.pack_price(cell), stop_worth=STOP_WORTH * home.per_euro,
        raise_worth=PLUG_WORTH * home.per_euro, weeks=6.0,
    )  # fmt: skip


def _lived(
    snapshot: Snapshot, owned: OwnedCar, inputs: PolicyInputs, defaults: PolicyInputs, *, apart: int, weekdays: frozenset[int] | None,
    home_price: float,
) -> PoliciesRoom:  # fmt: skip
    """Everything worked out."""
    battery, home = battery_of(snapshot, owned), snapshot.home
    garage = None if inputs.stands == "own" else (inputs.stands, inputs.heated_c)
    made = car_year(snapshot, owned, garage=garage, weather=HOT if inputs.climate == "hot" else None)
    year, pack = own_year(made, weekdays), battery.car.pack
    if apart > 1:
        year = replace(year, plugged=year.nights & (np.arange(len(year.use_kwh)) % apart == 0))
    limits = tuple(sorted({*LIMITS, round(inputs.limit, 3)}))
    health, scale = battery.trend.health, battery.trend.scale
    lived = side_by_side(
        pack.chemistry, pack.usable_kwh_new, year, limits=limits, health=health, scale=scale[0], before=battery.life.whole,
        age_days=battery.age_days, lived_at=min(limits, key=lambda each: abs(each - defaults.limit)), years=inputs.years,
        late=inputs.late, weekly_full=inputs.weekly_full,
    )  # fmt: skip
    way_price, way_known = _way_price(battery, home.per_euro)
    driven = float(np.count_nonzero(year.use_kwh > 0)) * 365.25 / len(year.use_kwh)
    regen = driven * np.array(regen_lost(battery.car, owned.habit.trip, limits))
    prices = Prices(
        pack_per_kwh=inputs.pack_price, way_above_home=max(0.0, way_price - home_price), stop=inputs.stop_worth,
        raised=inputs.raise_worth,
    )  # fmt: skip
    own = min(range(len(limits)), key=lambda i: abs(limits[i] - inputs.limit))
    policies = judged(lived, scale, health, pack.usable_kwh_new, inputs.years, prices=prices, regen_kwh=regen, own=own)
    temp_c, soc = np.meshgrid(STORED_C, STORED_SOC)
    return PoliciesRoom(
        cars=snapshot.home.names, battery=battery, inputs=inputs, defaults=defaults, policies=policies, own=policies[own],
        best=max(policies, key=lambda each: (each.net, -each.limit)),
        stored=scale[0] * stored(pack.chemistry, lived.past, temp_c, soc, 7.0 * inputs.weeks), cells=len(lived.cells),
        logged=made.logged, nights=WEEK if weekdays is None else len(weekdays),
        way_price=way_price, way_known=way_known, home_price=home_price, currency=home.currency,
    )  # fmt: skip


def _weekdays(snapshot: Snapshot, owned: OwnedCar) -> frozenset[int] | None:
    """The weekdays on which a car has the cable that it shares, or nobody has it, as the coming week is decided; None where it is alone."""
    if owned.contract is None or owned.outlet is None or len(sharing_cable(snapshot, owned)) < 2:
        return None
    return frozenset(each.begin.weekday() for each in ahead_of(snapshot, owned.id).nights_to_charge)


def _home_price(snapshot: Snapshot, owned: OwnedCar) -> float:
    """The cheapest hours of the coming week at home, per kWh; 0 without a tariff."""
    if owned.contract is None:
        return 0.0
    span = snapshot.minute, snapshot.minute + timedelta(days=WEEK)
    return float(with_prices(snapshot.log, owned.contract, span).cells(*span).price_per_kwh.min())


def _way_price(battery: Battery, per_euro: float) -> tuple[float, bool]:
    """What a kWh on the way costs: as this car's fast charges did, else from memory."""
    sums = battery.sums
    if sums.fast_kwh > 0 and sums.fast_cost > 0:
        return sums.fast_cost / sums.fast_kwh, True
    return WAY_PRICE * per_euro, False


def keep_limit(household: Household, car_id: int, limit: float, words: str, seen_revision: int) -> int:
    """Make a limit the habit's; returns the number to undo it by. Raises: Refusal; Stale."""
    if not 0.3 <= limit <= 1.0:
        raise Refusal("The everyday limit must lie between 30 and 100 %.", "limit")
    with household.deciding(words, seen_revision) as session:
        write_habit(session, car_id, limit=limit)
    return session.number
