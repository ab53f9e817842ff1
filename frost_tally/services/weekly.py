"""The weekly charger: a car's own year charged once a week at a fast post, beside its outlet at home."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from ..core.advice.weekly import Weekly, weekly
from ..core.battery.ageing import pack_price
from ..core.charge.supply import charge_rate
from ..core.charge.year import charger, plan_year
from ..core.heat.warm import WarmUpChoice
from ..household.home import Home
from ..household.parts import cars, control_of, held_of, household, place_of, supply_of, tariff_of
from .car_year import READS, car_year, year_of
from .evening import NotSetUp
from .remembered import LONG_S, remembered


@dataclass(frozen=True, kw_only=True)
class WeeklyLevers:
    """What can be pulled: the post's power (kW) and price per kWh."""

    post_kw: float
    price: float


@dataclass(frozen=True, kw_only=True)
class WeeklyRoom:
    """Everything the page shows."""

    car_id: int
    car_name: str
    cars: tuple[tuple[int, str], ...]
    levers: WeeklyLevers
    usual: WeeklyLevers
    outlet: str
    tariff: str
    km: float
    made: Weekly


def weekly_room(
    home: Home, now: datetime, car_id: int | None, pull: Callable[[WeeklyLevers], WeeklyLevers], wait_s: float = LONG_S
) -> WeeklyRoom:
    """The page for a car (the first when None). Raises: NotSetUp, OutOfRange with its field, NotYet."""
    usual = WeeklyLevers(post_kw=100.0, price=0.6)
    levers = pull(usual)
    with home.reading() as session:
        rows = cars(session)
        row = next((each for each in rows if car_id in (None, each.id)), None)
        if row is None or row.habit.outlet is None or row.habit.tariff is None:
            raise NotSetUp
        number, names, zone = row.id, tuple((each.id, each.name) for each in rows), place_of(row, session).zone

    def work() -> WeeklyRoom:
        with home.reading() as session:
            row = next(each for each in cars(session) if each.id == number)
            house, habit = household(session), row.habit
            if habit.outlet is None or habit.tariff is None:
                raise NotSetUp
            year = car_year(session, row, now)
            here = now.astimezone(ZoneInfo(year.place.zone))
            span = here - timedelta(days=370), here + timedelta(days=3)
            cells = tariff_of(session, habit.tariff, house.currency, year.place.zone, span).cells(*span)
            rate = charge_rate(supply_of(habit.outlet), year.car)
            choice, ways = WarmUpChoice(habit.warm_up), (control_of(habit), held_of(habit.outlet))
            nights = plan_year(charger(year.car, rate, habit.limit, choice, habit.cabin_c, *ways), year.nights, cells)
            made = weekly(
                year.car, year.nights.use_kwh, year.nights.morning_c, nights, home_kw=rate.pack_kw, limit_soc=habit.limit,
                post_kw=levers.post_kw, price_per_kwh=levers.price, pack_per_kwh=pack_price(year.car.pack.chemistry, house.currency),
                reserve_soc=habit.reserve,
            )  # fmt: skip
            return WeeklyRoom(
                car_id=row.id, car_name=row.name, cars=names, levers=levers, usual=usual, outlet=habit.outlet.name,
                tariff=habit.tariff.name, km=year.total_km, made=made,
            )  # fmt: skip

    what = ("weekly", number, levers, year_of(now, [zone]))
    return remembered(home, what, work, wait_s, READS | {"price", "household"})
