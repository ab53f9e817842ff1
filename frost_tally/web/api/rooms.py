"""The other rooms as JSON."""

from datetime import date
from typing import Any

from ...core.home import OwnedCar
from ...core.log.sums import Sums
from ...services.day.room import Day
from ...services.departures.room import DepartureList
from ...services.log_month.room import Month
from ...services.warmup.room import WarmUpRoom
from ..units import Units
from ..words.day import verdict as day_verdict
from ..words.warm import verdict as warm_verdict
from .answers import Answer, Band, Clock, Kwh, Level, Moment, Money, OfCar, Short, band
from .tonight import tally_km


class Help(Answer):
    """A change that helps: what it gives at arrival and in range, and what it asks for in minutes and money."""

    key: str
    gain_soc: Level
    gain_km: Short
    minutes: Short
    cost: Money


class DayAnswer(OfCar):
    """The day that follows: its way, the levels it leaves and arrives with, and what would help."""

    distance_km: Short
    outside_c: Short
    leave_soc: Level
    arrival_soc: Band
    need_soc: Level
    enough: bool
    empty_at_km: Short | None
    tally_km: dict[str, Short] | None
    remedies: tuple[Help, ...]


def day_answer(day: Day, units: Units) -> DayAnswer:
    """The day's numbers."""
    said, owned = day_verdict(day, units), day.night.owned
    return DayAnswer(
        car_id=owned.id,
        car=owned.name,
        sentence=said.plain,
        notes=said.notes,
        distance_km=day.trip.distance_km,
        outside_c=day.conditions.ambient_c,
        leave_soc=day.start.soc,
        arrival_soc=band(day.arrival),
        need_soc=day.need_soc,
        enough=day.enough,
        empty_at_km=day.empty_km,
        tally_km=tally_km(day.tally),
        remedies=tuple(Help.model_validate(each) for each in day.remedies),
    )


class WarmChoice(Answer):
    """A choice of warm-up: minutes before departure, energies, money more than doing nothing, and what it leaves; `reason` is the code of
    why it cannot be had.
    """

    choice: str
    minutes: Short
    wall_kwh: Kwh
    pack_kwh: Kwh
    cost: Money
    cabin_c: Short
    arrival_soc: Level
    reason: str


class WarmUpAnswer(OfCar):
    """The warm-up for the next departure, as the plan carries it out, beside the other choices."""

    departure: Moment
    choice: str
    starts: Moment | None
    arrival_soc: Level
    choices: tuple[WarmChoice, ...]


def warm_up_answer(room: WarmUpRoom, units: Units) -> WarmUpAnswer:
    """The warm-up's numbers."""
    said, planned, zone = warm_verdict(room, units), room.planned, room.owned.zone
    return WarmUpAnswer(
        car_id=room.owned.id,
        car=room.owned.name,
        sentence=said.plain,
        notes=said.notes,
        departure=room.request.departure.astimezone(zone),
        choice=planned.choice.value,
        starts=planned.plan.warm_start.astimezone(zone) if planned.plan.warm.lead_s > 0 else None,
        arrival_soc=max(0.0, planned.arrival_soc),
        choices=tuple(
            WarmChoice(
                choice=each.choice.value,
                minutes=each.plan.warm.lead_s / 60.0,
                wall_kwh=each.plan.warm.wall_kwh,
                pack_kwh=each.plan.warm.pack_kwh,
                cost=each.money,
                cabin_c=each.plan.warm.cabin_c,
                arrival_soc=max(0.0, each.arrival_soc),
                reason=each.reason.code,
            )
            for each in room.advice.options
        ),
    )


class ListedAnswer(Answer):
    """A departure of a car's list: on weekdays (1 is Monday) or once on a date; kilometres one way, or a kept day in their place."""

    id: int
    name: str
    at: Clock
    days: tuple[int, ...]
    on_date: date | None
    region: str
    warm_up: str
    km: Short
    day_id: int | None
    nights: int
    place_id: int | None
    next: Moment | None


class DeparturesAnswer(Answer):
    """A car's departures."""

    car_id: int
    car: str
    departures: tuple[ListedAnswer, ...]


def departures_answer(found: DepartureList) -> DeparturesAnswer:
    """The list's numbers."""
    return DeparturesAnswer(
        car_id=found.owned.id,
        car=found.owned.name,
        departures=tuple(
            ListedAnswer(
                id=each.id, name=each.name, at=each.schedule.at, days=tuple(sorted(1 + day for day in each.schedule.days)),
                on_date=each.schedule.on_date, region=each.region, warm_up=each.warm_up, km=each.km, day_id=each.day_id,
                nights=each.nights, place_id=each.place_id, next=following,
            )
            for each, following in found.listed
        ),
    )  # fmt: skip


class SumsAnswer(Answer):
    """What a span adds up to, money in the home's currency."""

    charges: int
    drives: int
    wall_kwh: Kwh
    pack_kwh: Kwh
    home_kwh: Kwh
    dear_kwh: Kwh
    dear_share: Level
    km: Short
    used_kwh: Kwh
    cost: Money
    cost_per_100_km: Money | None
    km_per_kwh: Money | None
    saved_at_once: Money
    saved_at_mean: Money
    uncosted: int
    uncosted_kwh: Kwh


class CarSums(SumsAnswer):
    """The same of one car."""

    car: str


class MonthAnswer(Answer):
    """A month, by car and in all."""

    month: str
    currency: str
    over: bool
    cars: tuple[CarSums, ...]
    total: SumsAnswer


def month_answer(found: Month) -> MonthAnswer:
    """The month's numbers."""
    return MonthAnswer(
        month=f"{found.first:%Y-%m}",
        currency=found.currency,
        over=found.over,
        cars=tuple(CarSums(car=each.name, **_sums(each.sums)) for each in found.cars),
        total=SumsAnswer(**_sums(found.sums)),
    )


def _sums(sums: Sums) -> dict[str, Any]:
    return {name: getattr(sums, name) for name in SumsAnswer.model_fields}


class CarAnswer(Answer):
    """A car of the home."""

    id: int
    name: str
    chemistry: str
    usable_kwh: Kwh
    limit_soc: Level
    floor_soc: Level
    reserve_soc: Level


def car_answer(owned: OwnedCar) -> CarAnswer:
    """What scripts need to know of a car."""
    pack, habit = owned.car.pack, owned.habit
    return CarAnswer(
        id=owned.id, name=owned.name, chemistry=str(pack.chemistry), usable_kwh=pack.usable_kwh, limit_soc=habit.limit,
        floor_soc=habit.floor, reserve_soc=habit.reserve,
    )  # fmt: skip
