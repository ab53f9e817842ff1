"""Tariffs compared over the last year: both cars as planned under each, and the house."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from functools import cached_property

import numpy as np

from ..core.charge.compare import MOST_TARIFFS, CarNights, TariffYear, compare
from ..core.charge.house import metered_load, monthly_load
from ..core.charge.prices import SERIES_BAND, PriceCells
from ..core.charge.tariff import Tariff
from ..core.charge.year import Nights
from ..core.errors import Refusal, require
from ..core.home import Home, HouseUse, NotSetUp, named
from ..core.parts import Contract
from ..core.units import Array, Flags
from ..household.intervals import meter_readings
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from .shared.car_year import NIGHTS, READS, CarYear, car_year, first_evening, on_outlet
from .shared.derived import LONG_S, derived_later

ALL_OF_IT = 0.99
"""From this share of the hours on a year has prices of its own throughout."""
TYPICAL_MONTHS = (720.0, 640, 600, 450, 340, 260, 240, 260, 330, 470, 600, 700)
"""A made-up house with a stove and no electric heating, kWh a month, until the owner enters their own."""


@dataclass(frozen=True)
class CompareInputs:
    """What can be set: which tariffs (numbers), the moved share of the house (0 to 0.5), where the trips come from."""

    tariff: tuple[int, ...]
    shift: float
    trips: str = "log"


@dataclass(frozen=True)
class HouseSource:
    """Where the house's use comes from: the share of the year that its meter read (0 to 1), for the rest its own or typical monthly
    figures, and the shape of a day.
    """

    metered: float
    own: bool
    shape: str


@dataclass(frozen=True, eq=False, kw_only=True)
class Comparison:
    """The year under each tariff, in the order of `numbers`; `now` is the place of the present one, `best` of the least. `dated` is each
    one's share of hours with a price of their own (0 to 1); `dated_nights` of the cars have nothing else, where not all do, and
    `on_dated` is what these cost.
    """

    inputs: CompareInputs
    defaults: CompareInputs
    on_offer: tuple[tuple[int, str], ...]
    numbers: tuple[int, ...]
    years: tuple[TariffYear, ...]
    dated: tuple[float, ...]
    dated_nights: int
    on_dated: tuple[float, ...]
    now: int
    best: int
    cars: tuple[CarYear, ...]
    house_kwh: float
    house_source: HouseSource
    first: datetime
    last: datetime
    left_out: tuple[str, ...]

    @cached_property
    def winners(self) -> tuple[int, ...]:
        """The place of the tariff with the least of each month, January first."""
        return tuple(int(i) for i in np.argmin(np.array([year.months for year in self.years]), axis=0))

    @property
    def km(self) -> float:
        """Kilometres of all cars."""
        return sum(each.total_km for each in self.cars)


def comparison(
    snapshot: Snapshot, override: Callable[[CompareInputs], CompareInputs] = lambda defaults: defaults, wait_s: float = LONG_S
) -> Comparison:
    """Compare tariffs over the last 365 nights; as soon as it is worked out, within `wait_s`.

    Raises: NotSetUp without car or tariff; Refusal with its field; NotYet.
    """
    home = snapshot.home
    able = [each for each in home.cars if each.outlet is not None and each.contract is not None]
    if not able or not home.contracts or not home.complete:
        raise NotSetUp
    present = able[0].pays.id
    order = sorted(home.contracts, key=lambda each: each.id != present)
    defaults = CompareInputs(tuple(each.id for each in order[:4]), home.house.shift)
    inputs = override(defaults)
    require(100 * inputs.shift, 0, 50, "The moved share", "%", "shift")
    if not 1 <= len(inputs.tariff) <= MOST_TARIFFS:
        raise Refusal(f"Choose one to {MOST_TARIFFS} tariffs.", "tariffs")
    zones = (home.place.clock, *(each.zone for each in able))
    first = tuple(first_evening(snapshot.now.astimezone(zone)) for zone in zones)
    what = ("compare", home, inputs, first)

    def work(log: Snapshot) -> Comparison:
        return replace(_work(log, home, inputs), defaults=defaults, on_offer=named(home.contracts))

    return derived_later(snapshot, what, work, wait_s, READS | {"price", "meter"})


def _work(snapshot: Snapshot, home: Home, inputs: CompareInputs) -> Comparison:
    zone = home.place.clock
    evening = first_evening(snapshot.now.astimezone(zone))
    first = datetime.combine(evening, time(0), zone)
    last = datetime.combine(evening + timedelta(days=NIGHTS), time(0), zone)
    able = [each for each in home.cars if each.outlet is not None and each.outlet.place_id in (None, home.place.id)]
    years = tuple(car_year(snapshot, each, inputs.trips) for each in able)
    held = [_held(snapshot, home.contract(number), first, last) for number in inputs.tariff]
    grid = held[0][1]
    load, source = _house(snapshot, home.house, grid, round((last.timestamp() - first.timestamp()) / 900))
    present = able[0].contract.id if able and able[0].contract else None
    nights = [CarNights(on_outlet(year, home), year.nights, year.km) for year in years]
    at = inputs.tariff.index(present) if present in inputs.tariff else 0
    made = compare(held, nights, load, inputs.shift, at)
    own = [_own_prices(cells) for _, cells in held]
    dated = tuple(float(each.mean()) for each in own)
    counts = [_on_dated(year.nights, [each for each in own if 0 < each.mean() < ALL_OF_IT], grid) for year in years]
    best = int(np.argmin([year.total for year in made]))
    return Comparison(
        inputs=inputs,
        defaults=inputs,
        on_offer=(),
        numbers=inputs.tariff,
        years=made,
        dated=dated,
        dated_nights=sum(int(each.sum()) for each in counts),
        on_dated=tuple(sum(float(car.cost[on].sum()) for car, on in zip(each.cars, counts, strict=True)) for each in made),
        now=at,
        best=best,
        cars=years,
        house_kwh=float(load.sum()),
        house_source=source,
        first=first,
        last=last,
        left_out=tuple(each.name for each in home.cars if each not in able),
    )


def _held(snapshot: Snapshot, contract: Contract | None, first: datetime, last: datetime) -> tuple[Tariff, PriceCells]:
    """A tariff as if it had held all year, its newest version, with its cells over all nights."""
    if contract is None:
        raise Refusal("One of these tariffs is gone: choose again.", "tariffs")
    while contract.following is not None:
        contract = contract.following
    end = last + timedelta(days=3)
    tariff = replace(with_prices(snapshot.log, contract, (first, end)), valid_from=None, valid_to=None)
    return tariff, tariff.cells(first, end)


def _own_prices(cells: PriceCells) -> Flags:
    """Which quarter hours have a dated price: shape (cells,)."""
    dated = [i for i, name in enumerate(cells.bands) if name == SERIES_BAND]
    return np.asarray(np.isin(cells.band, dated))


def _on_dated(nights: Nights, own: list[Flags], grid: PriceCells) -> Flags:
    """Which nights have nothing but dated prices in all of some tariffs: shape (nights,); none where there are no such tariffs."""
    if not own:
        return np.zeros(len(nights.plug_in_s), dtype=bool)
    lacking = np.concatenate([[0], np.cumsum(~np.logical_and.reduce(own))])
    begin, end = (
        np.clip((at - grid.start_s) // 900, 0, len(lacking) - 2).astype(np.int64) for at in (nights.plug_in_s, nights.departure_s)
    )
    return np.asarray(lacking[end + 1] == lacking[begin])


def _house(snapshot: Snapshot, house: HouseUse, grid: PriceCells, count: int) -> tuple[Array, HouseSource]:
    """The house's load on the year's cells, and where it comes from."""
    cells = grid.head(count)
    own = len(house.kwh) == 12
    otherwise = monthly_load(house.kwh if own else TYPICAL_MONTHS, house.shape, cells)
    source = HouseSource(0.0, own, house.shape)
    found = meter_readings(snapshot.log, grid.start_s, grid.start_s + 900 * count)
    if found is None:
        return otherwise, source
    load, share = metered_load(*found, cells, otherwise)
    return load, replace(source, metered=float(share))
