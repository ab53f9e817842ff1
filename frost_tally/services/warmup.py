"""Warm-up: the five choices for the next departure, the course of both temperatures, and the way home."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta

from ..core.advice.choices import Course
from ..core.advice.night_inputs import LISTED, NightInputs
from ..core.advice.warm_up import Advice, advise, courses
from ..core.advice.worth import Option
from ..core.car import Car
from ..core.charge.night import NightRequest
from ..core.charge.prices import PriceSlot
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions
from ..core.errors import Refusal
from ..core.heat.around import WarmerAir
from ..core.heat.schedule import ADVISED, Due, ListedDeparture, last_before
from ..core.heat.warm import HOLD_S, WarmUpChoice, held_kwh, warm_up
from ..core.home import OfCar, OwnedCar
from ..core.parts import Habit
from ..household.departures import Leaving, write_leaving
from ..household.parts import write_habit
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .departures import unsettled
from .derived import in_this_minute
from .evening import Evening, Now, evening, now_of

BEFORE_S = 5400.0


@dataclass(frozen=True, kw_only=True)
class WarmInputs:
    """What can be set: km one way, trips of the day, hours parked between them, °C, money per kWh of a new pack.

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
class WarmUpRoom(OfCar):
    """Everything the room shows."""

    state: Now
    cars: tuple[tuple[int, str], ...]
    inputs: WarmInputs
    defaults: WarmInputs
    request: NightRequest
    conditions: Conditions
    outing: Outing
    advice: Advice
    courses: Mapping[WarmUpChoice, Course]
    prices: tuple[PriceSlot, ...]
    shown: Option
    home: WayHome | None
    missed_kwh: float

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.state.owned

    @property
    def car(self) -> Car:
        """The car as it charges here."""
        return self.request.car

    @property
    def now(self) -> datetime:
        """The minute that it is planned in."""
        return self.state.now

    @property
    def listed(self) -> datetime | None:
        """The next listed departure of the coming week."""
        return self.state.listed

    @property
    def idle(self) -> bool:
        """Whether nobody leaves in the coming week."""
        return self.state.idle and self.state.kept is None and self.inputs.depart == self.defaults.depart


def warm_up_room(
    snapshot: Snapshot, car_id: int | None = None, override: Callable[[WarmInputs], WarmInputs] = lambda defaults: defaults
) -> WarmUpRoom:
    """Compute the room for a car (the first when None). Raises: NotSetUp; Refusal with its field."""
    now = now_of(snapshot, car_id)
    defaults = _defaults(now, now.defaults, len(now.due))
    inputs = override(defaults)
    names = snapshot.home.names
    return in_this_minute(snapshot, ("warm-up", car_id, inputs), lambda: _room(now, names, defaults, inputs))


def _room(now: Now, names: tuple[tuple[int, str], ...], defaults: WarmInputs, inputs: WarmInputs) -> WarmUpRoom:
    made = _evening(now, defaults, inputs)
    outing = outing_of(now.owned.habit, inputs).checked()
    advice = advise(
        made.request,
        outing,
        made.conditions,
        need_soc=now.owned.habit.floor,
        pack_per_kwh=inputs.pack_price,
        outdoors=now.owned.place.garage == "outdoor",
    )
    option = advice.option(inputs.show) if inputs.show else advice.best
    departure = made.request.departure
    return WarmUpRoom(
        state=now,
        cars=names,
        inputs=inputs,
        defaults=defaults,
        request=made.request,
        conditions=made.conditions,
        outing=outing,
        advice=advice,
        courses=courses(advice, BEFORE_S),
        prices=made.request.tariff.prices(departure - timedelta(seconds=BEFORE_S), departure),
        shown=option,
        home=_way_home(made, outing, advice, option, inputs.cabin_c),
        missed_kwh=held_kwh(made.request.car, option.plan.warm, made.request.ambient_c(departure)),
    )


def _defaults(now: Now, night: NightInputs, departures: int) -> WarmInputs:
    air_c = now.weather(night).temperature_c(now.departure(night.depart))
    own = now.days.get(night.day)
    trips = sum(1 for one in own[1].trips if one.km > 0) if own else 2 * (departures if night.day == LISTED else 1)
    price = now.pack_price
    return WarmInputs(
        km=night.km / trips,
        trips=trips,
        parked_h=now.owned.habit.parked_h,
        depart=night.depart,
        out_c=round(air_c, 1),
        cabin_c=night.cabin_c,
        pack_price=round(price, 0),
    )


def _evening(now: Now, before: WarmInputs, inputs: WarmInputs) -> Evening:
    """The night with this room's inputs; a typed outside temperature shifts the whole night by as much."""
    night = replace(now.defaults, depart=inputs.depart, cabin_c=inputs.cabin_c, warm_up=WarmUpChoice.NOTHING)
    made = evening(now, night)
    warmer = inputs.out_c - before.out_c
    request = made.request
    if abs(warmer) > 1e-9:
        request = replace(request, ambient_c=WarmerAir(request.ambient_c, warmer), pack_c=request.pack_c + warmer)
        made = replace(made, conditions=replace(made.conditions, ambient_c=made.conditions.ambient_c + warmer).checked())
    if not inputs.plugged:
        request = replace(request, plug_in=request.departure)
    return replace(made, request=request)


def outing_of(habit: Habit, inputs: WarmInputs) -> Outing:
    """The day's equal trips on the car's usual roads."""
    outing = habit.outing(inputs.km, trips=inputs.trips, parked_h=inputs.parked_h)
    return replace(outing, warm_home_c=inputs.cabin_c if inputs.warm_home else None)


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


def keep_choice(household: Household, car_id: int, choice: WarmUpChoice, cabin_c: float) -> int:
    """Make a choice and its cabin temperature the car's habit; returns the number to undo it by. Raises: Refusal."""
    with household.deciding("Warm-up kept") as session:
        name = write_habit(session, car_id, warm_up=choice.value, cabin_c=cabin_c)
        session.words = f"Warm-up of {name} kept; Tonight plans for it from now on"
    return session.number


def settle(household: Household, now: datetime) -> int:
    """Ask the cars what became of their departures past their switch-off; returns how many, none without a link to them."""
    link = household.world.car_link
    if link is None:
        return 0
    with household.reading(now) as snapshot:
        off_after = timedelta(seconds=HOLD_S)
        found = [(owned, due) for owned in snapshot.home.cars for due in unsettled(snapshot, owned, off_after)]
        told = [
            (owned.id, _leaving(snapshot, owned.id, due, link.left_at(owned.name, due.at) is not None, "car"))
            for owned, due in found
        ]
    with household.recording() as session:
        for car_id, leaving in told:
            write_leaving(session, car_id, leaving)
    return len(found)


def _leaving(snapshot: Snapshot, car_id: int, due: Due, left: bool, source: str) -> Leaving:
    """What became of a departure; a warm-up that nobody drove off with spent its energy from its start to the switch-off, kWh."""
    kwh = 0.0
    if not left:
        made, advice = coming(snapshot.at(due.at - timedelta(hours=11)), car_id, due)
        warm = chosen(advice, due.listed).plan.warm
        kwh = warm.wall_kwh + warm.pack_kwh + held_kwh(made.request.car, warm, made.request.ambient_c(due.at))
    return Leaving(name=due.listed.name, due_at=due.at, outcome="left" if left else "missed", kwh=kwh, source=source)


def note_by_owner(household: Household, snapshot: Snapshot, car_id: int, due_at: datetime, outcome: str) -> int:
    """Note that the car left or stayed at a listed departure; returns the undo number. Raises: Refusal when none was due then."""
    due = snapshot.home.ready_car(car_id).due_between(due_at, due_at + timedelta(seconds=1))
    if not due or due_at > snapshot.now:
        raise Refusal("No departure was due then.")
    if outcome not in ("left", "missed"):
        raise Refusal("Left, or stayed.")
    leaving = _leaving(snapshot, car_id, due[0], outcome == "left", "owner")
    with household.deciding(f"Noted that it {'stayed' if outcome == 'missed' else 'left'}") as session:
        write_leaving(session, car_id, leaving)
    return session.number


def coming(snapshot: Snapshot, car_id: int, due: Due, soc: float | None = None) -> tuple[Evening, Advice]:
    """A listed departure as the evening of a snapshot sees it: the night's request and the advice for its kilometres."""
    now = now_of(snapshot, car_id)
    usual = now.by_habit(now.day_of((due,)), (due,))
    inputs = replace(usual, warm_up=WarmUpChoice.NOTHING, **({} if soc is None else {"soc_now": soc}))  # type: ignore[arg-type]
    made = evening(now, inputs, due.at)
    outing = outing_of(now.owned.habit, _defaults(now, usual, 1))
    return made, advise(made.request, outing, made.conditions, need_soc=now.owned.habit.floor)


def chosen(advice: Advice, listed: ListedDeparture) -> Option:
    """The option that a departure asks for: its own, or the advised one."""
    return advice.best if listed.warm_up == ADVISED else advice.option(WarmUpChoice(listed.warm_up))


@dataclass(frozen=True)
class Planned:
    """A listed departure with its plan, for the calendar."""

    due: Due
    option: Option
    plug_in: datetime
    limit: float


def week_ahead(snapshot: Snapshot, car_id: int, days: int = 7) -> tuple[Planned, ...]:
    """The listed departures of the coming days, each planned on its evening.

    The first starts from the level now, later ones from what the day before leaves. A departure that follows on the same
    day, before the car is plugged in again, gets no plan.
    """
    now, state = snapshot.minute, now_of(snapshot, car_id)
    habit = state.owned.habit
    found, soc, free = list[Planned](), state.habits.soc_now, now
    for each in state.owned.due_between(now + timedelta(seconds=1), now + timedelta(days=days)):
        plug = last_before(each.at, habit.plug_in)
        if plug < free - timedelta(hours=6) and found:
            continue
        made, advice = coming(snapshot.at(max(plug, now)), car_id, each, soc)
        option = chosen(advice, each.listed)
        found.append(Planned(each, option, made.request.plug_in, habit.limit))
        soc, free = max(0.02, option.arrival_soc), each.at
    return tuple(found)
