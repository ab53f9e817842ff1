"""The evening: what is true now of a car and what was set, made into the night's request and the conditions of the day."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, time, timedelta
from functools import cached_property

from ..core.advice.night_inputs import LISTED, USUAL, NightInputs, overrides_of
from ..core.car import Car
from ..core.charge.night import NightRequest
from ..core.charge.night_clock import HeldHours
from ..core.charge.saved_plan import SavedPlan
from ..core.charge.supply import charge_rate
from ..core.charge.tariff import Tariff
from ..core.drive.air import USUAL_HUMIDITY, pressure_at
from ..core.drive.certainty import OwnDays, own_days
from ..core.drive.day import Start, Trip
from ..core.drive.day_inputs import DayInputs
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions, load_of
from ..core.drive.tyre_log import TyreAlarm, alarms
from ..core.drive.tyres import driven_gauge
from ..core.drive.usual import MoreWhenCold, soaked_c
from ..core.heat.around import driven_c, parked_between
from ..core.heat.schedule import ADVISED, Due, last_before, next_at
from ..core.heat.warm import WarmUpChoice
from ..core.home import OwnedCar
from ..household.facts import UNKNOWN_SOC, TyreReading, known_by, tyres_now, wheels_now
from ..household.plans import NotedStart, coming_plan, level_ahead, start_noted
from ..household.prices import with_prices
from ..household.snapshot import Snapshot
from ..household.state import Stamp
from ..standins.weather import TypedNight
from ..world import Weather
from .derived import in_this_minute
from .measured import charging_car
from .past import recent_errors

CHECK_HOLDS = timedelta(hours=14)
"""How long what was seen when the cable went in counts, unless the car leaves before."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Now:
    """What is true of a car this evening, on the clock of its place.

    `known` is the weather that the world knows, `typed_c` the two temperatures that somebody typed. `due` are the listed departures of the
    next outing in the coming week. `pack_price` is that of a new pack per kWh. `car` charges with the efficiency that its outlet was
    measured to have; `errors` are how its latest days went against the model; `revision` is that of the state it was read in.
    """

    owned: OwnedCar
    tariff: Tariff
    currency: str
    per_euro: float
    pack_price: float
    now: datetime
    known: Weather | None
    typed_c: tuple[float, float]
    due: tuple[Due, ...]
    kept: SavedPlan | None
    soc: float
    level_at: datetime | None
    tyres: TyreReading
    alarms: tuple[TyreAlarm, ...]
    errors: OwnDays
    car: Car
    started: NotedStart | None
    revision: Stamp

    @property
    def idle(self) -> bool:
        """Whether there is a list of departures, and none of it is near."""
        return not self.due and bool(self.owned.departures)

    @cached_property
    def days(self) -> Mapping[str, tuple[str, DayInputs]]:
        """The kept days by key, each with its name."""
        return {each.key: (each.name, each.inputs) for each in self.owned.days}

    @property
    def listed(self) -> datetime | None:
        """The next listed departure of the coming week."""
        return self.due[0].at if self.due else None

    @cached_property
    def habits(self) -> NightInputs:
        """The inputs by habit: the usual evening, the weather as it is, and the departures that are listed, if any."""
        return self.by_habit(self.day_of(self.due))

    def day_of(self, due: Sequence[Due]) -> str:
        """What the kilometres of some departures are of: the kept day that the first names, else the list; without any, the usual day."""
        own = f"own-{due[0].listed.day_id}" if due else ""
        return own if own in self.days else (LISTED if due else USUAL)

    def by_habit(self, day: str, due: Sequence[Due] | None = None) -> NightInputs:
        """The inputs by habit for another day, or for other departures than the next."""
        habit, held, weather, due = self.owned.habit, self.owned.at.held, self.weather(), self.due if due is None else due
        own = self.days[day][1] if day in self.days else None
        km = own.trip().distance_km if own else (sum(2 * each.listed.km for each in due) if day == LISTED else habit.km)
        asked = next((each.listed.warm_up for each in due if each.listed.warm_up != ADVISED), habit.warm_up)
        return NightInputs(
            day=day,
            soc_now=self.soc,
            limit=habit.limit,
            depart=due[0].at.time() if due else habit.depart,
            plug_in=habit.plug_in,
            km=km,
            motorway_kmh=own.motorway_kmh if own else habit.motorway_kmh,
            tyre_kpa=self.tyres.kpa,
            cabin_c=habit.cabin_c,
            out_now_c=round(weather.temperature_c(self.now), 1),
            out_low_c=round(weather.temperature_c(next_at(self.now, time(6, 0))), 1),
            people=own.people if own else habit.people,
            warm_up=WarmUpChoice(asked),
            held_from=held.begin,
            held_until=held.until,
            control=habit.control.how,
            charges=habit.charges,
        )

    @cached_property
    def defaults(self) -> NightInputs:
        """The inputs before anybody sets one: by habit, or those of the plan that is kept for the coming night."""
        return self.defaults_on("")

    def defaults_on(self, day: str) -> NightInputs:
        """The same for a day that somebody chose (a kept one, LISTED or USUAL); "" for the one that is planned."""
        overrides = overrides_of(self.kept) if self.kept else {}
        planned = str(overrides.get("day", self.habits.day))
        if day not in (*self.days, USUAL, *((LISTED,) if self.due else ())):
            day = planned
        if day not in (*self.days, USUAL, LISTED):  # put away since
            day = self.habits.day
        if day != planned:
            overrides = {name: value for name, value in overrides.items() if name not in ("km", "motorway_kmh", "people")}
        return replace(self.by_habit(day), **{**overrides, "day": day})  # type: ignore[arg-type]

    def outing(self, inputs: NightInputs) -> Outing:
        """The trips of a day that is no kept one: out and home for each departure, on the car's roads."""
        trips = 2 * len(self.due) if inputs.day == LISTED else 2
        return self.owned.habit.outing(inputs.km / trips, trips=trips, motorway_kmh=inputs.motorway_kmh)

    def trip(self, inputs: NightInputs) -> Trip:
        """The day that follows."""
        if inputs.day in self.days:
            return self.days[inputs.day][1].trip().scaled_to(inputs.km).at_motorway_speed(inputs.motorway_kmh)
        return self.outing(inputs).trip()

    def weather(self, inputs: NightInputs | None = None) -> Weather:
        """The world's weather, or the typed one; inputs that were set go before both."""
        if inputs is not None and (inputs.out_now_c, inputs.out_low_c) != (self.habits.out_now_c, self.habits.out_low_c):
            return TypedNight(self.now, inputs.out_now_c, inputs.out_low_c)
        return self.known or TypedNight(self.now, *self.typed_c)

    def departure(self, depart: time) -> datetime:
        """When the car leaves: as listed, at another time of the listed day when that is near, else the next time the clock shows it."""
        if self.listed is None or depart == self.habits.depart:
            return self.listed or next_at(self.now, depart)
        same_day = datetime.combine(self.listed.date(), depart, self.owned.zone)
        near = timedelta() < same_day - self.now < timedelta(days=1.5)
        return same_day if near else next_at(self.now, depart)


def now_of(snapshot: Snapshot, car_id: int | None = None, tariff: int | None = None) -> Now:
    """What is true of a car (the first when None) in this minute, priced by another contract than its own when its number is given and
    there is one. Raises: NotSetUp.
    """
    return in_this_minute(snapshot, ("now", car_id, tariff), lambda: _now(snapshot, car_id, tariff))


def _now(snapshot: Snapshot, car_id: int | None, tariff: int | None) -> Now:
    owned = snapshot.home.ready_car(car_id)
    log, here = snapshot.log, snapshot.minute.astimezone(owned.zone)
    due, level, tyres = owned.next_outing(here), level_ahead(log, owned.id, here), tyres_now(log, owned)
    span = here - timedelta(hours=1), (due[0].at if due else here) + timedelta(days=2)
    contract = (snapshot.home.contract(tariff) or owned.pays).on_clock(owned.place.zone)
    return Now(
        owned=owned,
        tariff=with_prices(log, contract, span),
        currency=snapshot.home.currency,
        per_euro=snapshot.home.per_euro,
        pack_price=snapshot.home.pack_price(owned.car.pack.chemistry),
        now=here,
        known=snapshot.world.weather,
        typed_c=snapshot.typed_c,
        due=due,
        kept=coming_plan(log, owned.id, here),
        soc=UNKNOWN_SOC if level is None else level[1],
        level_at=None if level is None else level[0],
        tyres=tyres,
        alarms=alarms(wheels_now(log, owned.id), owned.car.tyres.placard_kpa, pressure_at(owned.place.altitude_m) / 1000.0),
        errors=own_days(recent_errors(snapshot, owned, tyres), owned.car.factors),
        car=charging_car(snapshot, owned),
        started=start_noted(log, owned.id, max(here - CHECK_HOLDS, last_before(here, owned.habit.depart)), known_by(here)),
        revision=snapshot.revision,
    )


@dataclass(frozen=True, kw_only=True)
class Evening:
    """The night's request, and the day that follows it; `tyre_kpa` is the cold pressure in that air."""

    request: NightRequest
    trip: Trip
    conditions: Conditions
    tyre_kpa: float
    weather: Weather


def evening(now: Now, inputs: NightInputs, departure: datetime | None = None) -> Evening:
    """The evening with these inputs, for their departure or another. Raises: Refusal with its field."""
    owned, here = now.owned, now.now
    car = now.errors.of(now.car.checked())
    departure = departure or now.departure(inputs.depart)
    weather = now.weather(inputs)
    around = parked_between(weather.temperature_c, here.astimezone(UTC), departure.astimezone(UTC), *owned.place.standing)
    trip, supply = now.trip(inputs), owned.at.supply
    planned = charge_rate(supply, car)
    rate = now.started.check.rate(planned, supply.continuous_a) if now.started else planned
    plug_in = max(last_before(departure, inputs.plug_in), here) if rate else departure
    conditions, gauge = _conditions(now, inputs, weather, departure)
    request = NightRequest(
        now=here,
        plug_in=plug_in,
        departure=departure,
        soc=inputs.soc_now,
        target_soc=inputs.limit,
        car=car,
        rate=rate or planned,
        tariff=now.tariff,
        ambient_c=around,
        pack_c=soaked_c(car, owned.habit.trip, weather.temperature_c, around, max(here, plug_in), owned.habit.depart),
        choice=inputs.warm_up,
        cabin_c=inputs.cabin_c,
        control=replace(owned.habit.control, how=inputs.control),
        pack_price=now.pack_price,
        tie_break=owned.habit.tie_break,
        held=HeldHours(inputs.held_from, inputs.held_until, owned.at.held.amps),
        morning_kwh=MoreWhenCold(car, trip, conditions, Start(inputs.limit, 0.0, inputs.cabin_c)),
    )
    return Evening(request=request, trip=trip, conditions=conditions, tyre_kpa=gauge, weather=weather)


def _conditions(now: Now, inputs: NightInputs, weather: Weather, departure: datetime) -> tuple[Conditions, float]:
    """Conditions of the day's drives: the mean of the hours of departure and return; the tyres cold at that air."""
    altitude_m = now.owned.place.altitude_m
    air_c = driven_c(weather.temperature_c, departure, now.owned.habit.parked_h)
    gauge = driven_gauge(inputs.tyre_kpa, now.tyres.read_c, air_c, altitude_m)
    own = now.days[inputs.day][1] if inputs.day in now.days else None
    made = Conditions(
        ambient_c=air_c,
        relative_humidity=USUAL_HUMIDITY,
        altitude_m=altitude_m,
        wind_mps=weather.wind_mps(departure),
        surface=inputs.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(inputs.people, own.luggage_kg if own else 0.0),
        drag_factor=own.extras.drag_factor if own else 1.0,
        style=own.style if own else 1.0,
        cabin_set_c=inputs.cabin_c,
    )
    return (made.seats_only() if inputs.warm_up is WarmUpChoice.SEATS else made), gauge
