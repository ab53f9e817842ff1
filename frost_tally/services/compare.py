"""Tariffs compared over the last year: both cars as planned under each, and the house."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.charge.compare import MOST_TARIFFS, CarNights, TariffYear, compare
from ..core.charge.house import metered_load, monthly_load
from ..core.charge.prices import SERIES_BAND, PriceCells
from ..core.charge.supply import charge_rate
from ..core.charge.tariff import Tariff
from ..core.charge.year import Charger, charger
from ..core.errors import Refusal, require
from ..core.heat.warm import WarmUpChoice
from ..core.units import Array
from ..household.home import Home
from ..household.models import HouseholdRow, MeterRow, PriceRow
from ..household.parts import cars, control_of, held_of, home_place, household, place_of, supply_of, tariff_of, tariffs
from .car_year import NIGHTS, READS, CarYear, car_year, first_evening, year_of
from .evening import NotSetUp
from .remembered import LONG_S, remembered

TYPICAL_MONTHS = (720.0, 640, 600, 450, 340, 260, 240, 260, 330, 470, 600, 700)
"""A made-up house with a stove and no electric heating, kWh a month, until the owner enters their own."""


@dataclass(frozen=True)
class Ask:
    """What can be pulled: which tariffs (numbers), the moved share of the house (0 to 0.5), where the trips come from."""

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
    """The year under each tariff, in the order of `numbers`; `now` is the place of the present one, `best` of the least."""

    ask: Ask
    usual: Ask
    on_offer: tuple[tuple[int, str], ...]
    numbers: tuple[int, ...]
    years: tuple[TariffYear, ...]
    dated: tuple[float, ...]
    now: int
    best: int
    cars: tuple[CarYear, ...]
    house_kwh: float
    house_source: HouseSource
    first: datetime
    last: datetime
    left_out: tuple[str, ...]

    @property
    def winners(self) -> tuple[int, ...]:
        """The place of the tariff with the least of each month, January first."""
        return tuple(int(i) for i in np.argmin(np.array([year.months for year in self.years]), axis=0))

    @property
    def km(self) -> float:
        """Kilometres of all cars."""
        return sum(each.total_km for each in self.cars)


def comparison(home: Home, now: datetime, pull: Callable[[Ask], Ask] = lambda usual: usual, wait_s: float = LONG_S) -> Comparison:
    """Compare tariffs over the last 365 nights; as soon as it is worked out, within `wait_s`.

    Raises: NotSetUp without car or tariff; Refusal with its field; NotYet.
    """
    with home.reading() as session:
        house, every = household(session), tariffs(session)
        able = [row for row in cars(session) if row.habit.outlet is not None and row.habit.tariff is not None]
        if not able or not every or not house.complete:
            raise NotSetUp
        present = able[0].habit.tariff_id
        order = sorted(every, key=lambda each: each.id != present)
        usual = Ask(tuple(each.id for each in order[:4]), house.shift)
        zones = [home_place(session).zone, *(place_of(row, session).zone for row in able)]
    ask = pull(usual)
    require(100 * ask.shift, 0, 50, "The moved share", "%", "shift")
    if not 1 <= len(ask.tariff) <= MOST_TARIFFS:
        raise Refusal(f"Choose one to {MOST_TARIFFS} tariffs.", "tariffs")
    what = ("compare", ask, year_of(now, zones))
    made = remembered(home, what, lambda: _work(home, now, ask), wait_s, READS | {"price", "household", "meter"})
    return replace(made, usual=usual, on_offer=tuple((each.id, each.name) for each in every))


def _work(home: Home, now: datetime, ask: Ask) -> Comparison:
    with home.reading() as session:
        house, place = household(session), home_place(session)
        zone = ZoneInfo(place.zone)
        evening = first_evening(now.astimezone(zone))
        first = datetime.combine(evening, time(0), zone)
        last = datetime.combine(evening + timedelta(days=NIGHTS), time(0), zone)
        rows = [row for row in cars(session) if row.habit.outlet is not None and row.habit.outlet.place_id in (None, place.id)]
        away = tuple(row.name for row in cars(session) if row not in rows)
        years = tuple(car_year(session, row, now, ask.trips) for row in rows)
        held = [_held(session, number, house, place.zone, first, last) for number in ask.tariff]
        grid = held[0][1]
        load, source = _house(session, house, grid, round((last.timestamp() - first.timestamp()) / 900))
        present = rows[0].habit.tariff_id if rows else None
    hung = [_hung(year) for year in years]
    nights = [CarNights(one, year.nights, year.km) for one, year in zip(hung, years, strict=True)]
    at = ask.tariff.index(present) if present in ask.tariff else 0
    made = compare(held, nights, load, ask.shift, at)
    dated = tuple(_dated_share(cells) for _, cells in held)
    best = int(np.argmin([year.total for year in made]))
    return Comparison(
        ask=ask,
        usual=ask,
        on_offer=(),
        numbers=ask.tariff,
        years=made,
        dated=dated,
        now=at,
        best=best,
        cars=years,
        house_kwh=float(load.sum()),
        house_source=source,
        first=first,
        last=last,
        left_out=away,
    )


def _hung(year: CarYear) -> Charger:
    """The car on its outlet with its habits."""
    if year.row.habit.outlet is None:
        raise NotSetUp
    rate = charge_rate(supply_of(year.row.habit.outlet), year.car)
    habit, held = year.row.habit, held_of(year.row.habit.outlet)
    return charger(year.car, rate, habit.limit, WarmUpChoice(habit.warm_up), habit.cabin_c, control_of(habit), held)


def _held(
    session: Session, number: int, house: HouseholdRow, zone: str, first: datetime, last: datetime
) -> tuple[Tariff, PriceCells]:
    """A tariff as if it had held all year, its newest version, with its cells over all nights."""
    row = next((each for each in tariffs(session) if each.id == number), None)
    if row is None:
        raise Refusal("One of these tariffs is gone: choose again.", "tariffs")
    end = last + timedelta(days=3)
    tariff = tariff_of(session, row, house.currency, zone, (first, end))
    while tariff.following is not None:
        tariff = tariff.following
    tariff = replace(tariff, valid_from=None, valid_to=None)
    return tariff, tariff.cells(first, end)


def _dated_share(cells: PriceCells) -> float:
    """Share of the hours that have a dated price, 0 to 1."""
    dated = [i for i, name in enumerate(cells.bands) if name == SERIES_BAND]
    return float(np.isin(cells.band, dated).mean())


def _house(session: Session, house: HouseholdRow, grid: PriceCells, count: int) -> tuple[Array, HouseSource]:
    """The house's load on the year's cells, and where it comes from."""
    cells = grid.head(count)
    own = len(house.house_kwh) == 12
    otherwise = monthly_load(house.house_kwh if own else TYPICAL_MONTHS, house.house_shape, cells)
    source = HouseSource(0.0, own, house.house_shape)
    found = session.execute(
        select(MeterRow.start_s, MeterRow.minutes, MeterRow.kwh).where(
            MeterRow.start_s >= grid.start_s, MeterRow.start_s < grid.start_s + 900 * count
        )
    ).all()
    if not found:
        return otherwise, source
    table = np.array([tuple(row) for row in found], dtype=float)
    load, share = metered_load(table[:, 0].astype(np.int64), table[:, 1].astype(np.int64), table[:, 2], cells, otherwise)
    return load, replace(source, metered=float(share))


def counts(home: Home) -> tuple[int, int]:
    """How many readings and dated prices are stored."""
    with home.reading() as session:
        readings = session.scalar(select(func.count()).select_from(MeterRow)) or 0
        return readings, session.scalar(select(func.count()).select_from(PriceRow)) or 0
