"""The rota: the coming seven nights of the cars that share a cable, their listed days in the weather of the place."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from sqlalchemy.orm import Session

from ..core.advice.worth import CAUTIOUS, DAY_DOUBT
from ..core.battery.ageing import PER_EURO, kwh_cost, pack_price
from ..core.charge.rota import MOST_CARS, SWAP_WORTH, Rota, Sharer, plan_rota
from ..core.charge.supply import charge_rate
from ..core.drive.road import load_of
from ..core.drive.usual import day_table
from ..core.heat.around import driven_c
from ..core.heat.warm import WarmUpChoice
from ..core.units import Array
from ..household.facts import level_now
from ..household.home import Home
from ..household.models import CarRow
from ..household.parts import cars, household, place_of, supply_of, tariff_of, trip_of
from .climate import climate_of
from .departures import due_between, rows_of
from .evening import NotSetUp
from .measured import charging_car
from .remembered import once

NIGHTS, WEEKS = 7, 52


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

    return once(home, ("rota", now), work)


def _shared(session: Session, rows: list[CarRow], now: datetime) -> SharedCable:
    place, outlet = place_of(rows[0], session), rows[0].habit.outlet
    assert outlet is not None  # noqa: S101 - it is what they were put together by
    zone = ZoneInfo(place.zone)
    first = now.astimezone(zone).date()
    evenings = tuple(first + timedelta(days=i) for i in range(NIGHTS))
    made = [_sharer(session, row, evenings, now) for row in rows]
    sharers, km = [each for each, _ in made], np.array([each for _, each in made])
    currency = household(session).currency
    worth = SWAP_WORTH * PER_EURO.get(currency, 1.0)
    return SharedCable(
        outlet=outlet.name,
        cars=tuple((row.id, row.name) for row in rows),
        evenings=evenings,
        km=km,
        rota=plan_rota(sharers, swap_worth=worth),
        each=plan_rota(sharers, swap_worth=worth, cables=len(sharers)),
        swap_at=min(max(row.habit.plug_in for row in rows), min(row.habit.awake_until for row in rows)),
        currency=currency,
    )


def _sharer(session: Session, row: CarRow, evenings: tuple[date, ...], now: datetime) -> tuple[Sharer, Array]:
    """A car as the rota sees it, and the km of its days: those listed, else the usual day on as many days as it drives."""
    place, car, trip, habit = place_of(row, session), charging_car(session, row), trip_of(row.habit), row.habit
    zone, weather = ZoneInfo(place.zone), climate_of(session, place)
    later = timedelta(days=0 if habit.depart > habit.plug_in else 1)
    plugs = [max(now, datetime.combine(day, habit.plug_in, zone)) for day in evenings]
    leaves = [datetime.combine(day + later, habit.depart, zone) for day in evenings]
    km = _kilometres(session, row, leaves, trip.distance_km)
    table = day_table(
        car, trip, round(max(float(km.max()), trip.distance_km) + 1.0, 1), WarmUpChoice(habit.warm_up), habit.cabin_c,
        load_of(habit.people), place.altitude_m,
    )  # fmt: skip
    air = np.array([driven_c(weather.temperature_c, each, habit.parked_h) for each in leaves])
    use_kwh, _ = table.ask(km, air)
    assert habit.outlet is not None and habit.tariff is not None  # noqa: S101, PT018 - only such cars are asked
    rate, house = charge_rate(supply_of(habit.outlet), car), household(session)
    span = plugs[0] - timedelta(hours=1), leaves[-1] + timedelta(hours=1)
    grid = tariff_of(session, habit.tariff, house.currency, place.zone, span).cells(*span)
    price = pack_price(car.pack.chemistry, house.currency)
    return Sharer(
        name=row.name, soc=level_now(session, row.id), limit=habit.limit, reserve=habit.reserve, usable_kwh=car.pack.usable_kwh,
        wall_kw=rate.wall_kw, pack_kw=rate.pack_kw, use_soc=use_kwh * (1 + CAUTIOUS * DAY_DOUBT) / car.pack.usable_kwh,
        prices=[grid.between(plug.timestamp(), leave.timestamp()) for plug, leave in zip(plugs, leaves, strict=True)],
        wear_per_kwh=kwh_cost(car.pack.chemistry, price),
    ), km  # fmt: skip


def _kilometres(session: Session, row: CarRow, leaves: list[datetime], usual_km: float) -> Array:
    """Kilometres of the day that follows each evening."""
    if not rows_of(session, row.id):
        driven = round(row.habit.days_a_week)
        return np.array([usual_km if each.weekday() < driven else 0.0 for each in leaves])
    zone = place_of(row, session).zone
    due = due_between(session, row.id, zone, leaves[0] - timedelta(hours=12), leaves[-1] + timedelta(hours=24))
    by_day: dict[date, float] = {}
    for each in due:
        by_day[each.at.date()] = by_day.get(each.at.date(), 0.0) + 2 * each.row.km
    return np.array([by_day.get(each.date(), 0.0) for each in leaves])
