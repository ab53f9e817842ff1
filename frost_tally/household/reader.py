"""The home read from its rows: one value, made once for each state of the tables that it stands in."""

from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, time
from functools import partial
from typing import Any, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.car import DAY_SIGMA, FACTOR_SIGMA, Car, Factors, preset
from ..core.charge.stop_table import Post
from ..core.charge.tariff import Band, Season, Tariff
from ..core.drive.day_inputs import kept_day
from ..core.errors import Refusal
from ..core.fields import declared, made_of_values
from ..core.heat.own_minutes import WarmNote, own_warm_up
from ..core.heat.schedule import Departure, ListedDeparture
from ..core.heat.warm import WarmUpChoice
from ..core.home import Home, HouseUse, OwnedCar
from ..core.parts import BatteryFacts, Before, Contract, Habit, KeptDay, Learnt, LongWay, Outlet, Person, Place, TwelveVoltFacts
from .calendar import kept_holidays
from .models import (
    AsideRow,
    BandRow,
    CarRow,
    DayRow,
    DepartureRow,
    HabitRow,
    HouseholdRow,
    LearntRow,
    OutletRow,
    PersonRow,
    PlaceRow,
    SeasonRow,
    TariffRow,
    WayRow,
)
from .money import PER_EURO
from .parts import in_order

READS = frozenset(
    (
        "household",
        "place",
        "person",
        "outlet",
        "tariff",
        "tariff_band",
        "season",
        "car",
        "habit",
        "learnt",
        "battery",
        "small_battery",
    )
) | {"usual_day", "departure", "way", "aside"}
"""The tables that a home stands in."""
Value = TypeVar("Value")


def read_home(session: Session) -> Home:
    """The home as its rows have it now."""
    house, places = session.get(HouseholdRow, 1), in_order(session, PlaceRow)
    at_home = as_value(Place, places[0]) if places else Place()
    currency = Home().currency if house is None else house.currency
    contracts = {row.id: row for row in session.scalars(select(TariffRow).order_by(TariffRow.id))}
    days, departures = _by_car(in_order(session, DayRow)), _by_car(in_order(session, DepartureRow))

    def contract(number: int) -> Contract:
        return contract_of(contracts[number], at_home.zone, currency, contracts)

    return Home(
        cars=tuple(_owned(row, at_home, contract, days[row.id], departures[row.id]) for row in in_order(session, CarRow)),
        outlets=tuple(outlet_of(row) for row in in_order(session, OutletRow)),
        contracts=tuple(contract(row.id) for row in contracts.values() if not row.withdrawn),
        places=tuple(as_value(Place, row) for row in places),
        people=tuple(as_value(Person, row) for row in in_order(session, PersonRow)),
        ways=tuple(_way(row) for row in in_order(session, WayRow)),
        currency=currency,
        per_euro=PER_EURO.get(currency, 1.0),
        house=HouseUse() if house is None else HouseUse(kwh=tuple(house.house_kwh), shape=house.house_shape, shift=house.shift),
        aside=session.scalar(select(func.count()).select_from(AsideRow)) or 0,
        complete=house is not None and house.complete,
    )


def _by_car(rows: list[Any]) -> dict[int, list[Any]]:
    found = defaultdict(list)
    for row in rows:
        found[row.car_id].append(row)
    return found


def as_value(kind: type[Value], row: Any, **more: object) -> Value:
    """A frozen value of the columns of a row: those of its fields, and those that have its fields' names."""
    return made_of_values(kind, partial(getattr, row), partial(hasattr, row), **more)


def _owned(
    row: CarRow, at_home: Place, contract: Callable[[int], Contract], days: list[DayRow], departures: list[DepartureRow]
) -> OwnedCar:
    habit, outlet = row.habit, row.habit.outlet
    place = as_value(Place, outlet.place) if outlet is not None and outlet.place is not None else at_home
    return OwnedCar(
        id=row.id,
        name=row.name,
        preset=row.preset,
        car=car_of(row),
        warm_notes=warm_notes_of(row),
        health_told=None if row.soh_told is None or row.soh_told_at is None else (row.soh_told_at, row.soh_told),
        before=tuple(
            Before(datetime.fromisoformat(until), WarmUpChoice(warm), float(cabin_c), int(people))
            for until, warm, cabin_c, people in habit.before or []
        ),
        habit=habit_of(habit),
        place=place,
        outlet=None if outlet is None else outlet_of(outlet),
        contract=None if habit.tariff_id is None else contract(habit.tariff_id).on_clock(place.zone),
        departures=tuple(_listed(each, place.zone) for each in departures),
        days=tuple(
            KeptDay(id=each.id, name=each.name, inputs=kept_day(each.levers, habit.motorway_kmh, habit.people)) for each in days
        ),
        learnt=None if row.learnt is None else as_value(Learnt, row.learnt),
        battery=BatteryFacts() if row.battery is None else as_value(BatteryFacts, row.battery),
        twelve_volt=TwelveVoltFacts() if row.small_battery is None else as_value(TwelveVoltFacts, row.small_battery),
    )


def car_of(row: CarRow) -> Car:
    """The core's car."""
    curve = tuple((level, kw) for level, kw in row.fast_points or [])
    base = replace(preset(row.preset, row.name), factors=_factors(row.learnt), fast_points=curve)
    car = base.with_values({column: getattr(row, column) for column in declared(Car)})
    try:
        own = own_warm_up(car.pack, warm_notes_of(row))
    except Refusal:  # the notes fitted another pack: its numbers were changed since
        own = None
    return car if own is None else replace(car, pack=replace(car.pack, preheat_kw=own.power_kw, preheat_to_c=own.target_c))


def warm_notes_of(row: CarRow) -> tuple[WarmNote, ...]:
    """How long a car took to warm its pack, as its owner timed it, the earliest first."""
    return tuple(WarmNote(minutes=minutes or 0.0, soak_c=soak_c or 0.0, kwh=kwh) for minutes, soak_c, kwh in row.warm_notes or [])


def _factors(own: LearntRow | None) -> Factors:
    """The car's own factors with their sigma: what learning left, else the spread among cars and days."""
    if own is None:
        return Factors(base=1.0, heat=1.0, cold=1.0, sigma=FACTOR_SIGMA, day_sigma=DAY_SIGMA, days=0)
    left = (own.base_sigma, own.heat_sigma, own.cold_sigma)
    base, heat, cold = (prior if each is None else each for each, prior in zip(left, FACTOR_SIGMA, strict=True))
    day = DAY_SIGMA if own.day_sigma is None else own.day_sigma
    return Factors(
        base=own.base,
        heat=own.heat,
        cold=own.cold,
        sigma=(base, heat, cold),
        day_sigma=day,
        days=own.days,
        pack_heat=own.pack_heat,
    )


def habit_of(row: HabitRow) -> Habit:
    """How a car is used."""
    return as_value(Habit, row)


def outlet_of(row: OutletRow) -> Outlet:
    """An outlet."""
    return as_value(Outlet, row)


def contract_of(row: TariffRow, zone: str, currency: str, contracts: dict[int, TariffRow]) -> Contract:
    """A contract on the clock of a zone, with those that follow it; `contracts` are all by number."""
    after = contracts.get(row.following_id or 0)
    following = None if after is None or after.withdrawn else contract_of(after, zone, currency, contracts)
    tariff = Tariff(
        name=row.name,
        zone=zone,
        bands=tuple(_band(each) for each in row.bands),
        currency=currency,
        standing_per_day=row.standing_per_day,
        seasons=tuple(_season(each) for each in row.seasons),
        holidays=kept_holidays(row.holiday_region) or None,
        valid_from=row.valid_from,
        valid_to=row.valid_to,
        following=None if following is None else following.tariff,
    )
    return Contract(
        id=row.id,
        name=row.name,
        tariff=tariff,
        region=row.holiday_region,
        feed=row.feed,
        typical=row.typical,
        following=following,
    )


def _band(row: BandRow) -> Band:
    return Band(row.name, row.price_per_kwh, row.start, row.end, _digits(row.days))


def _digits(text: str) -> frozenset[int]:
    return frozenset(int(each) for each in text)


def _season(row: SeasonRow) -> Season:
    bands = tuple(
        Band(str(name), float(str(price)), time.fromisoformat(str(start)), time.fromisoformat(str(end)), _digits(str(days)))
        for name, price, start, end, days in row.bands
    )
    return Season(row.name, (row.first[0], row.first[1]), (row.last[0], row.last[1]), bands)


def _listed(row: DepartureRow, zone: str) -> ListedDeparture:
    schedule = Departure(row.at, zone, _digits(row.days), row.on_date, kept_holidays(row.region))
    return as_value(ListedDeparture, row, schedule=schedule)


def _way(row: WayRow) -> LongWay:
    posts = tuple(
        Post(
            km=float(km),
            kw=float(kw),
            price_per_kwh=float(price),
            name=str(name),
            stands_min=float(stands),
            shared_kw=float(shared),
        )
        for km, kw, price, name, stands, shared in ((*each, 0.0)[:6] for each in row.posts)
    )
    return as_value(LongWay, row, posts=posts)
