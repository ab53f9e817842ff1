"""Warm-up: the five choices for the next departure, the course of both temperatures, and the way home."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..core.advice.choices import Course
from ..core.advice.warm_up import Advice, advise, courses
from ..core.advice.worth import Option
from ..core.battery.ageing import pack_price
from ..core.battery.cold import Chemistry
from ..core.car import Car
from ..core.charge.night import NightRequest
from ..core.charge.prices import PriceSlot
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions
from ..core.errors import Refusal
from ..core.heat.around import WarmerAir
from ..core.heat.schedule import last_before
from ..core.heat.warm import HOLD_S, WarmUpChoice, held_kwh, warm_up
from ..household.home import Home
from ..household.models import CarRow, DepartureRow
from ..household.parts import cars
from .departures import Due, due_between, unsettled, write_leaving
from .evening import Evening, Setting, evening, outing_on, setting_at, setting_of
from .night_levers import LISTED, Levers
from .remembered import once

BEFORE_S = 5400.0


@dataclass(frozen=True, kw_only=True)
class WarmLevers:
    """What can be pulled: km one way, trips of the day, hours parked between them, °C, money per kWh of a new pack.

    `show` is the choice to look at, None for the advised one.
    """

    km: float
    trips: int
    parked_h: float
    depart: time
    out_c: float
    cabin_c: float
    pack_price: float
    plugged: bool = True
    warm_home: bool = False
    show: WarmUpChoice | None = None


@dataclass(frozen=True, kw_only=True)
class WayHome:
    """The return, unplugged: what warming the cabin takes from the pack (kWh, km, level) and spares; `pack_c` it meets."""

    at: datetime
    lead_s: float
    kwh: float
    km: float
    pack_c: float
    cabin_c: float


@dataclass(frozen=True, kw_only=True)
class WarmUpRoom:
    """Everything the room shows."""

    car_id: int
    car: Car
    cars: tuple[tuple[int, str], ...]
    zone: ZoneInfo
    now: datetime
    levers: WarmLevers
    usual: WarmLevers
    limit: float
    floor: float
    request: NightRequest
    conditions: Conditions
    outing: Outing
    advice: Advice
    courses: Mapping[WarmUpChoice, Course]
    prices: tuple[PriceSlot, ...]
    shown: Option
    habit: WarmUpChoice
    home: WayHome | None
    missed_kwh: float
    listed: datetime | None
    idle: bool


def warm_up_room(
    home: Home, now: datetime, car_id: int | None = None, pull: Callable[[WarmLevers], WarmLevers] = lambda usual: usual
) -> WarmUpRoom:
    """Compute the room for a car (the first when None). Raises: NotSetUp; Refusal with its field."""
    setting = setting_at(home, now, car_id)
    usual = _usual(setting, setting.usual, len(setting.due))
    pulled = pull(usual)
    return once(home, ("warm-up", now, car_id, pulled), lambda: _room(setting, usual, pulled))


def _room(setting: Setting, usual: WarmLevers, pulled: WarmLevers) -> WarmUpRoom:
    made = _evening(setting, usual, pulled)
    outing = outing_of(setting.row, pulled).checked()
    advice = advise(
        made.request,
        outing,
        made.conditions,
        need_soc=setting.row.habit.floor,
        pack_per_kwh=pulled.pack_price,
        outdoors=setting.place.garage == "outdoor",
    )
    option = advice.option(pulled.show) if pulled.show else advice.best
    departure = made.request.departure
    return WarmUpRoom(
        car_id=setting.row.id,
        car=made.request.car,
        cars=setting.names,
        zone=setting.zone,
        now=setting.now,
        levers=pulled,
        usual=usual,
        limit=setting.usual.limit,
        floor=setting.row.habit.floor,
        request=made.request,
        conditions=made.conditions,
        outing=outing,
        advice=advice,
        courses=courses(advice, BEFORE_S),
        prices=made.request.tariff.prices(departure - timedelta(seconds=BEFORE_S), departure),
        shown=option,
        habit=WarmUpChoice(setting.row.habit.warm_up),
        home=_way_home(made, outing, advice, option, pulled.cabin_c),
        missed_kwh=held_kwh(made.request.car, option.plan.warm, made.request.ambient_c(departure)),
        listed=setting.listed,
        idle=setting.idle and setting.kept is None and pulled.depart == usual.depart,
    )


def _usual(setting: Setting, night: Levers, departures: int) -> WarmLevers:
    row = setting.row
    air_c = setting.weather(night).temperature_c(setting.departure(night.depart))
    own = setting.days.get(night.day)
    trips = sum(1 for one in own[1].trips if one.km > 0) if own else 2 * (departures if night.day == LISTED else 1)
    price = pack_price(Chemistry(row.chemistry), setting.house.currency)
    return WarmLevers(
        km=night.km / trips,
        trips=trips,
        parked_h=row.habit.parked_h,
        depart=night.depart,
        out_c=round(air_c, 1),
        cabin_c=night.cabin_c,
        pack_price=round(price, 0),
    )


def _evening(setting: Setting, before: WarmLevers, pulled: WarmLevers) -> Evening:
    """The night with this room's levers; a typed outside temperature shifts the whole night by as much."""
    night = replace(setting.usual, depart=pulled.depart, cabin_c=pulled.cabin_c, warm_up=WarmUpChoice.NOTHING)
    made = evening(setting, night)
    warmer = pulled.out_c - before.out_c
    request = made.request
    if abs(warmer) > 1e-9:
        request = replace(request, ambient_c=WarmerAir(request.ambient_c, warmer), pack_c=request.pack_c + warmer)
        made = replace(made, conditions=replace(made.conditions, ambient_c=made.conditions.ambient_c + warmer).checked())
    if not pulled.plugged:
        request = replace(request, plug_in=request.departure)
    return replace(made, request=request)


def outing_of(row: CarRow, levers: WarmLevers) -> Outing:
    """The day's equal trips on the car's usual roads."""
    outing = outing_on(row.habit, levers.km, trips=levers.trips, parked_h=levers.parked_h)
    return replace(outing, warm_home_c=levers.cabin_c if levers.warm_home else None)


def _way_home(made: Evening, outing: Outing, advice: Advice, option: Option, cabin_c: float) -> WayHome | None:
    """The second trip's departure: cabin only, from the pack; its price is what the whole day then takes more."""
    if outing.trips < 2:
        return None
    wait = advice.home[option.choice]
    heating = warm_up(
        made.request.car, WarmUpChoice.CABIN, cabin_c=wait.cabin_c, pack_c=wait.pack_c, ambient_c=made.conditions.ambient_c,
        set_c=cabin_c, wall_kw=0.0, longest_s=outing.parked_h * 3600.0,
    )  # fmt: skip
    leaves = made.request.departure + timedelta(hours=wait.hours)
    km = (wait.warmed_soc - wait.soc) * outing.trips * outing.km / max(wait.soc, 1e-9)
    return WayHome(at=leaves, lead_s=heating.lead_s, kwh=heating.pack_kwh, km=km, pack_c=wait.pack_c, cabin_c=wait.cabin_c)


def keep_choice(home: Home, car_id: int, choice: WarmUpChoice, cabin_c: float) -> int:
    """Make a choice and its cabin temperature the car's habit; returns the number to undo it by. Raises: Refusal."""
    with home.deciding("Warm-up kept") as session:
        row = session.get(CarRow, car_id)
        if row is None or row.withdrawn:
            raise Refusal("There is no such car.")
        session.words = f"Warm-up of {row.name} kept; Tonight plans for it from now on"
        row.habit.warm_up, row.habit.cabin_c = choice.value, cabin_c
    return session.number


def settle(home: Home, now: datetime) -> int:
    """Ask the cars what became of their departures past their switch-off; returns how many, none without a link to them."""
    link = home.world.car_link
    if link is None:
        return 0
    off_after, found = timedelta(seconds=HOLD_S), list[tuple[int, str, Due]]()
    with home.reading() as session:
        for car in cars(session):
            found += [(car.id, car.name, due) for due in unsettled(session, car, now, off_after)]
    stayed = {(car_id, due.at): _wasted(home, car_id, due) for car_id, name, due in found if link.left_at(name, due.at) is None}
    with home.recording() as session:
        for car_id, _, due in found:
            kwh = stayed.get((car_id, due.at))
            outcome = "left" if kwh is None else "missed"
            write_leaving(session, car_id, due.at, outcome, due.row.name, kwh or 0.0, "car")
    return len(found)


def _wasted(home: Home, car_id: int, due: Due) -> float:
    """Energy of a warm-up that nobody drove off with, from its start to the switch-off, kWh."""
    made, advice = coming(home, due.at - timedelta(hours=11), car_id, due)
    option = chosen(advice, due.row)
    warm = option.plan.warm
    return warm.wall_kwh + warm.pack_kwh + held_kwh(made.request.car, warm, made.request.ambient_c(due.at))


def note_by_owner(home: Home, now: datetime, car_id: int, due_at: datetime, outcome: str) -> int:
    """Note that the car left or stayed at a listed departure; returns the undo number. Raises: Refusal when none was due then."""
    with home.reading() as session:
        zone = setting_of(session, now, car_id).place.zone
        due = due_between(session, car_id, zone, due_at, due_at + timedelta(seconds=1))
    if not due or due_at > now:
        raise Refusal("No departure was due then.")
    kwh = _wasted(home, car_id, due[0]) if outcome == "missed" else 0.0
    with home.deciding(f"Noted that it {'stayed' if outcome == 'missed' else 'left'}") as session:
        write_leaving(session, car_id, due_at, outcome, due[0].row.name, kwh, "owner")
    return session.number


def coming(home: Home, evening_of: datetime, car_id: int, due: Due, soc: float | None = None) -> tuple[Evening, Advice]:
    """A listed departure as its evening sees it: the night's request and the advice for its kilometres."""
    setting = setting_at(home, evening_of, car_id)
    usual = setting.by_habit(setting.day_of((due,)), (due,))
    levers = replace(usual, warm_up=WarmUpChoice.NOTHING, **({} if soc is None else {"soc_now": soc}))  # type: ignore[arg-type]
    made = evening(setting, levers, due.at)
    typed = _usual(setting, usual, 1)
    advice = advise(made.request, outing_of(setting.row, typed), made.conditions, need_soc=setting.row.habit.floor)
    return made, advice


def chosen(advice: Advice, row: DepartureRow) -> Option:
    """The option that a departure asks for: its own, or the advised one."""
    return advice.best if row.warm_up == "advised" else advice.option(WarmUpChoice(row.warm_up))


@dataclass(frozen=True)
class Planned:
    """A listed departure with its plan, for the calendar."""

    due: Due
    option: Option
    plug_in: datetime
    limit: float


def week_ahead(home: Home, now: datetime, car_id: int, days: int = 7) -> tuple[Planned, ...]:
    """The listed departures of the coming days, each planned on its evening.

    The first starts from the level now, later ones from what the day before leaves. A departure that follows on the same
    day, before the car is plugged in again, gets no plan.
    """
    with home.reading() as session:
        setting = setting_of(session, now, car_id)
        due = due_between(session, car_id, setting.place.zone, now + timedelta(seconds=1), now + timedelta(days=days))
    found, soc, free = list[Planned](), setting.habits.soc_now, now
    for each in due:
        plug = last_before(each.at, setting.row.habit.plug_in)
        if plug < free - timedelta(hours=6) and found:
            continue
        begin = max(plug, now)
        made, advice = coming(home, begin, car_id, each, soc)
        option = chosen(advice, each.row)
        found.append(Planned(each, option, made.request.plug_in, setting.row.habit.limit))
        soc, free = max(0.02, option.arrival_soc), each.at
    return tuple(found)
