"""Warm-up: the five choices for the next departure, the course of both temperatures, and the way home."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta

from ...core.advice.choices import Course
from ...core.advice.warm_up import Advice, advise, courses
from ...core.advice.worth import Option
from ...core.car import Car
from ...core.charge.night import NightRequest
from ...core.charge.prices import PriceSlot
from ...core.coming.car_ahead import CarAhead
from ...core.coming.evening import Evening, evening
from ...core.coming.now import Now
from ...core.drive.outing import Outing
from ...core.drive.road import Conditions
from ...core.heat.around import WarmerAir
from ...core.heat.warm import WarmUpChoice, held_kwh, warm_up
from ...core.home import OfCar, OwnedCar
from ...core.parts import Habit
from ...household.departures import warm_by_habit
from ...household.parts import write_habit
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.coming import ahead_of
from ..shared.derived import in_this_minute

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

    ahead: CarAhead
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
    def state(self) -> Now:
        """What is true of the car."""
        return self.ahead.now

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.state.owned

    @property
    def car(self) -> Car:
        """The car as it charges here."""
        return self.request.car

    @property
    def planned(self) -> Option:
        """The choice that the plan carries out, as it is carried out: the advised one where the departure asks for that, else its own."""
        night = self.ahead.tonight
        option = self.advice.option(night.inputs.warm_up)
        if not self.as_planned:
            return option
        return replace(option, plan=night.plan, start=night.start, arrival_soc=night.arrival.likely)

    @property
    def as_planned(self) -> bool:
        """Whether nobody has set anything here but what is shown."""
        return replace(self.inputs, show=None) == self.defaults

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
        return self.ahead.asked.idle and self.inputs.depart == self.defaults.depart


def warm_up_room(
    snapshot: Snapshot, car_id: int | None = None, override: Callable[[WarmInputs], WarmInputs] = lambda defaults: defaults
) -> WarmUpRoom:
    """Compute the room for a car (the first when None). Raises: NotSetUp; Refusal with its field."""
    ahead = ahead_of(snapshot, car_id)
    defaults = _defaults(ahead)
    inputs = override(defaults)
    names = snapshot.home.names
    return in_this_minute(snapshot, ("warm-up", ahead.now.owned.id, inputs), lambda: _room(ahead, names, defaults, inputs))


def _room(ahead: CarAhead, names: tuple[tuple[int, str], ...], defaults: WarmInputs, inputs: WarmInputs) -> WarmUpRoom:
    made, night, place = _evening(ahead, defaults, inputs), ahead.tonight, ahead.now.owned.place
    outing = outing_of(ahead.now.owned.habit, inputs).checked()
    as_planned = replace(inputs, show=None) == defaults
    advice = night.advice if as_planned and night.advice else advise(
        made.request,
        outing,
        made.conditions,
        need_soc=ahead.now.owned.habit.floor,
        pack_per_kwh=inputs.pack_price,
        outdoors=place.garage == "outdoor",
        trip=made.trip if as_planned else None,
    )  # fmt: skip
    decided = as_planned and ahead.advised(ahead.shown)  # what is advised is decided once
    if decided and advice.best.choice is not night.inputs.warm_up:
        advice = replace(advice, best=advice.option(night.inputs.warm_up))
    option = advice.option(inputs.show) if inputs.show else advice.best
    departure = made.request.departure
    return WarmUpRoom(
        ahead=ahead,
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


def _defaults(ahead: CarAhead) -> WarmInputs:
    now, night = ahead.now, ahead.tonight
    inputs, leaves = night.inputs, night.evening.request.departure
    own = now.days.get(inputs.day)
    trips = sum(1 for one in own[1].trips if one.km > 0) if own else night.evening.outing.trips
    return WarmInputs(
        km=inputs.km / trips,
        trips=trips,
        parked_h=now.owned.habit.parked_h,
        depart=inputs.depart,
        out_c=round(ahead.asked.weather.temperature_c(leaves), 1),
        cabin_c=inputs.cabin_c,
        pack_price=round(now.pack_price, 0),
    )


def _evening(ahead: CarAhead, before: WarmInputs, inputs: WarmInputs) -> Evening:
    """The night with this room's inputs; a typed outside temperature shifts the whole night by as much."""
    now, night = ahead.now, ahead.tonight
    asked = replace(night.inputs, depart=inputs.depart, cabin_c=inputs.cabin_c, warm_up=WarmUpChoice.NOTHING)
    leaves = night.evening.request.departure if inputs.depart == before.depart else now.departure(inputs.depart)
    made = ahead.turned(evening(now, asked, leaves, night.stay.due, weather=ahead.asked.weather), night.turn)
    warmer = inputs.out_c - before.out_c
    request, planned = made.request, night.evening.request
    if inputs.depart == before.depart:  # the pack as the night so far has left it, and what is still to be charged
        request = replace(request, pack_c=planned.pack_c, target_soc=planned.target_soc)
        made = replace(made, request=request)
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


def keep_choice(household: Household, car_id: int, choice: WarmUpChoice, cabin_c: float, seen_revision: int | None) -> int:
    """Make a choice and its cabin temperature the car's habit; returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding("Warm-up kept", seen_revision) as session:
        name = write_habit(session, car_id, warm_up=choice.value, cabin_c=cabin_c)
        warm_by_habit(session, car_id)
        session.words = f"Warm-up of {name} kept; Tonight plans for it from now on"
    return session.number
