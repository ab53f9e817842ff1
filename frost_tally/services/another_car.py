"""This household's year on another car: of each class, on its own days, outlet and tariff, in its garage or another, beside fuel."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import timedelta

from ..core.advice.another_car import YearOn, year_on
from ..core.battery.limit_policies import WAY_PRICE
from ..core.car import PRESETS, Car, preset
from ..core.charge.prices import PriceCells
from ..core.charge.usual_prices import FUEL_L, FUEL_PRICE
from ..core.errors import Refusal, require
from ..core.home import OfCar, OwnedCar
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .shared.car_year import READS, CarYear, car_year, first_evening, on_outlet
from .shared.derived import LONG_S, derived_later
from .shared.past import own_car

OWN = "own"


@dataclass(frozen=True, kw_only=True)
class AnotherInputs:
    """How the cars stand ("outdoor", "unheated", "heated"), the pack of one's own class (kWh, None: as it is), litres on 100 km and what a
    litre costs.
    """

    garage: str
    usable_kwh: float | None
    fuel_l: float
    fuel_price: float


@dataclass(frozen=True, eq=False, kw_only=True)
class AnotherCar(OfCar):
    """The room: the year on each car, one's own first, and that one in the garage that it has (`here`); the kilometres driven."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: AnotherInputs
    defaults: AnotherInputs
    years: tuple[YearOn, ...]
    here: YearOn
    km: float

    @property
    def own(self) -> YearOn:
        """The car that is there."""
        return self.years[0]

    @property
    def fuel_cost(self) -> float:
        """The year's kilometres in fuel."""
        return self.km * self.inputs.fuel_l / 100.0 * self.inputs.fuel_price

    @property
    def best(self) -> YearOn:
        """The cheapest to drive that misses no more days than one's own."""
        return min((each for each in self.years if each.short_days <= self.own.short_days), key=lambda each: each.cost)


def another_car(
    snapshot: Snapshot,
    car_id: int | None = None,
    override: Callable[[AnotherInputs], AnotherInputs] = lambda defaults: defaults,
    wait_s: float = LONG_S,
) -> AnotherCar:
    """The year on each class beside a car's own (the first when None). Raises: NotSetUp; Refusal, OutOfRange with their field; NotYet."""
    owned = snapshot.home.ready_car(car_id)
    defaults = AnotherInputs(
        garage=owned.place.garage, usable_kwh=None, fuel_l=FUEL_L, fuel_price=float(f"{FUEL_PRICE * snapshot.home.per_euro:.2g}")
    )
    inputs = override(defaults)
    if inputs.garage not in ("outdoor", "unheated", "heated"):
        raise Refusal("Choose how the car stands.", "garage")
    if inputs.usable_kwh is not None:
        require(inputs.usable_kwh, 5, 250, "The pack", "kWh", "usable_kwh")
    lived = (inputs.garage, inputs.usable_kwh)
    what = ("another", owned, snapshot.home.per_euro, lived, first_evening(snapshot.now.astimezone(owned.zone)))
    years, as_is, km = derived_later(snapshot, what, lambda log: _years(log, owned, *lived), wait_s, READS | {"price"})
    return AnotherCar(owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, years=years, here=as_is, km=km)


def _years(
    snapshot: Snapshot, owned: OwnedCar, garage: str, usable_kwh: float | None
) -> tuple[tuple[YearOn, ...], YearOn, float]:
    """The car that is there, then each class as it is new and driven as this one is; one's own with another pack where that is asked for.

    How much more than the model its driver takes goes with the driver; what the cold does to a car stays with that car.
    """
    own = _with_pack(own_car(snapshot, owned)[1], usable_kwh)
    sold = {key: preset(key, phases=own.charger.phases) for key in PRESETS}
    base, days = own.factors.base, own.factors.own
    cars = {OWN: own} | {key: replace(each, factors=replace(each.factors, base=base, own=days)) for key, each in sold.items()}
    standing = garage, owned.place.garage_heated_c
    found = [(key, car_year(snapshot, owned, garage=standing, car=car)) for key, car in cars.items()]
    prices = _prices(snapshot, owned)
    years = tuple(_year_on(snapshot, key, year, prices) for key, year in found)
    here_too = garage == owned.place.garage
    now = years[0] if here_too else _year_on(snapshot, OWN, car_year(snapshot, owned, car=own), prices)
    return years, now, found[0][1].total_km


def _year_on(snapshot: Snapshot, key: str, year: CarYear, prices: PriceCells) -> YearOn:
    habit, home = year.owned.habit, snapshot.home
    return year_on(
        key,
        on_outlet(year, home),
        year.nights,
        prices,
        table=year.table,
        day_km=habit.trip.distance_km,
        reserve=habit.reserve,
        way_price=WAY_PRICE * home.per_euro,
    )


def _with_pack(car: Car, usable_kwh: float | None) -> Car:
    """The car with a new pack of so many kWh (None: its own)."""
    return car if usable_kwh is None else replace(car, pack=replace(car.pack, usable_kwh_new=usable_kwh, soh=1.0))


def _prices(snapshot: Snapshot, owned: OwnedCar) -> PriceCells:
    """Those of the year."""
    here = snapshot.now.astimezone(owned.zone)
    span = here - timedelta(days=370), here + timedelta(days=3)
    return with_prices(snapshot.log, owned.pays, span).cells(*span)


@dataclass(frozen=True, eq=False, kw_only=True)
class OwnElsewhere:
    """The year on a car as it is, how it would stand in each kind of garage, and with other packs, by what was asked."""

    own: YearOn
    garages: Mapping[str, YearOn]
    packs: tuple[YearOn, ...]


def own_elsewhere(snapshot: Snapshot, car_id: int | None, packs: tuple[float, ...], wait_s: float = LONG_S) -> OwnElsewhere:
    """One's own car (the first when None) in every garage, and with packs of so many kWh, each as the room has it. Raises as it."""
    owned = snapshot.home.ready_car(car_id)

    def work(log: Snapshot) -> OwnElsewhere:
        car, prices, heated_c = own_car(log, owned)[1], _prices(log, owned), owned.place.garage_heated_c
        as_is = car_year(log, owned, car=car)
        at = {kind: car_year(log, owned, garage=(kind, heated_c), car=car) for kind in ("outdoor", "unheated", "heated")}
        standing = owned.place.garage, heated_c
        with_packs = [car_year(log, owned, garage=standing, car=_with_pack(car, each)) for each in packs]
        return OwnElsewhere(
            own=_year_on(log, OWN, as_is, prices),
            garages={kind: _year_on(log, OWN, year, prices) for kind, year in at.items()},
            packs=tuple(_year_on(log, OWN, year, prices) for year in with_packs),
        )

    what = ("own elsewhere", owned, snapshot.home.per_euro, packs, first_evening(snapshot.now.astimezone(owned.zone)))
    return derived_later(snapshot, what, work, wait_s, READS | {"price"})
