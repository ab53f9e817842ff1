"""The evening: what the home knows and the levers, made into the night's request and the conditions of the day."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, time, timedelta
from functools import cached_property
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ..core.advice.limit import Charges
from ..core.battery.ageing import pack_price
from ..core.car import PARKED_W_PER_K, Car
from ..core.charge.control import How
from ..core.charge.night import NightRequest
from ..core.charge.night_clock import HeldHours
from ..core.charge.plan import FULL_WITHIN_H
from ..core.charge.supply import charge_rate
from ..core.charge.tariff import Tariff
from ..core.drive.air import USUAL_HUMIDITY, pressure_at
from ..core.drive.certainty import OwnDays, own_days
from ..core.drive.day import Start, Trip
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions, load_of
from ..core.drive.tyre_log import TyreAlarm, alarms
from ..core.drive.tyres import driven_gauge
from ..core.drive.usual import MoreWhenCold, ended
from ..core.heat.around import AirAt, driven_c, parked_between
from ..core.heat.lumped import relax
from ..core.heat.schedule import last_before, next_at
from ..core.heat.warm import WarmUpChoice
from ..household.facts import UNKNOWN_SOC, TyreReading, known_by, tyres_now, wheels_now
from ..household.home import Home, seen, world_of
from ..household.models import CarRow, HabitRow, HouseholdRow, PlaceRow, PlanRow
from ..household.parts import car_of, cars, control_of, days_kept, household, place_of, supply_of, tariff_of, trip_of
from ..household.plans import NotedStart, coming_plan, level_ahead, start_noted
from ..standins.weather import TypedNight
from ..world import Weather, World
from .clock import minute_of
from .day_levers import DayLevers, kept_day
from .departures import ADVISED, Due, next_outing, rows_of
from .measured import charging_car
from .night_levers import LISTED, USUAL, Levers, pulled_levers
from .past import recent_errors
from .remembered import once

CHECK_HOLDS = timedelta(hours=14)
"""How long what was seen when the cable went in counts, unless the car leaves before."""


class NotSetUp(RuntimeError):
    """There is no car, outlet, tariff or place yet."""


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What the household says of the evening.

    `due` are the listed departures of the next outing in the coming week; `idle` says that there is a list, and none of it is near.
    `days` are the kept days by key with their names, `kept` is a kept plan, `seen` the revision
    of all this.
    """

    world: World
    seen: int
    house: HouseholdRow
    place: PlaceRow
    row: CarRow
    tariff: Tariff
    names: tuple[tuple[int, str], ...]
    due: tuple[Due, ...]
    idle: bool
    days: Mapping[str, tuple[str, DayLevers]]
    kept: PlanRow | None
    soc_now: float
    level_at: datetime | None
    tyres: TyreReading
    alarms: tuple[TyreAlarm, ...]
    now: datetime
    known: OwnDays
    car: Car
    started: NotedStart | None

    @property
    def zone(self) -> ZoneInfo:
        """The clock of the place where the car stands."""
        return ZoneInfo(self.place.zone)

    @property
    def listed(self) -> datetime | None:
        """The next listed departure of the coming week."""
        return self.due[0].at if self.due else None

    @cached_property
    def habits(self) -> Levers:
        """The levers by habit: the usual evening, the weather as it is, and the departures that are listed, if any."""
        return self.by_habit(self.day_of(self.due))

    def day_of(self, due: Sequence[Due]) -> str:
        """What the kilometres of some departures are of: the kept day that the first names, else the list; without any, the usual day."""
        own = f"own-{due[0].row.day_id}" if due else ""
        return own if own in self.days else (LISTED if due else USUAL)

    def by_habit(self, day: str, due: Sequence[Due] | None = None) -> Levers:
        """The levers by habit for another day, or for other departures than the next."""
        row, weather, due = self.row, self.weather(), self.due if due is None else due
        outlet = row.habit.outlet
        own = self.days[day][1] if day in self.days else None
        km = own.trip().distance_km if own else (sum(2 * each.row.km for each in due) if day == LISTED else row.habit.km)
        asked = next((each.row.warm_up for each in due if each.row.warm_up != ADVISED), row.habit.warm_up)
        return Levers(
            day=day,
            soc_now=self.soc_now,
            limit=row.habit.limit,
            depart=due[0].at.time() if due else row.habit.depart,
            plug_in=row.habit.plug_in,
            km=km,
            motorway_kmh=own.motorway_kmh if own else row.habit.motorway_kmh,
            tyre_kpa=self.tyres.kpa,
            cabin_c=row.habit.cabin_c,
            out_now_c=round(weather.temperature_c(self.now), 1),
            out_low_c=round(weather.temperature_c(next_at(self.now, time(6, 0))), 1),
            people=own.people if own else row.habit.people,
            warm_up=WarmUpChoice(asked),
            held_from=outlet.held_from if outlet else time(),
            held_until=outlet.held_until if outlet else time(),
            control=How(row.habit.control),
            charges=Charges(row.habit.charges),
        )

    @cached_property
    def usual(self) -> Levers:
        """The levers before anybody pulls one: by habit, or those of the plan that is kept for the coming night."""
        return self.usual_on("")

    def usual_on(self, day: str) -> Levers:
        """The same for a day that somebody chose (a kept one, LISTED or USUAL); "" for the one that is planned."""
        pulled = pulled_levers(self.kept) if self.kept else {}
        planned = str(pulled.get("day", self.habits.day))
        if day not in (*self.days, USUAL, *((LISTED,) if self.due else ())):
            day = planned
        if day not in (*self.days, USUAL, LISTED):  # put away since
            day = self.habits.day
        if day != planned:
            pulled = {name: value for name, value in pulled.items() if name not in ("km", "motorway_kmh", "people")}
        return replace(self.by_habit(day), **{**pulled, "day": day})  # type: ignore[arg-type]

    def outing(self, levers: Levers) -> Outing:
        """The trips of a day that is no kept one: out and home for each departure, on the car's roads."""
        trips = 2 * len(self.due) if levers.day == LISTED else 2
        return outing_on(self.row.habit, levers.km / trips, trips=trips, motorway_kmh=levers.motorway_kmh)

    def trip(self, levers: Levers) -> Trip:
        """The day that follows."""
        if levers.day in self.days:
            return self.days[levers.day][1].trip().scaled_to(levers.km).at_motorway_speed(levers.motorway_kmh)
        return self.outing(levers).trip()

    def weather(self, levers: Levers | None = None) -> Weather:
        """The world's weather, or the typed one; levers that were pulled go before both."""
        if levers is not None and (levers.out_now_c, levers.out_low_c) != (self.habits.out_now_c, self.habits.out_low_c):
            return TypedNight(self.now, levers.out_now_c, levers.out_low_c)
        return self.world.weather or TypedNight(self.now, self.house.out_now_c, self.house.out_low_c)

    def departure(self, depart: time) -> datetime:
        """When the car leaves: as listed, at another time of the listed day when that is near, else the next time the clock shows it."""
        if self.listed is None or depart == self.habits.depart:
            return self.listed or next_at(self.now, depart)
        same_day = datetime.combine(self.listed.date(), depart, self.zone)
        near = timedelta() < same_day - self.now < timedelta(days=1.5)
        return same_day if near else next_at(self.now, depart)


def outing_on(
    habit: HabitRow, km: float, *, trips: int, motorway_kmh: float | None = None, parked_h: float | None = None
) -> Outing:
    """Equal trips of some km on a car's usual roads: town as far as it reaches, then country, then motorway."""
    return Outing(
        km=km,
        town_km=habit.town_km / 2,
        country_km=habit.country_km / 2,
        motorway_kmh=(motorway_kmh or habit.motorway_kmh) if habit.motorway_km > 0 else None,
        trips=trips,
        parked_h=habit.parked_h if parked_h is None else parked_h,
    )


def setting_at(home: Home, now: datetime, car_id: int | None = None) -> Setting:
    """What the household says of a car (the first when None), read once for each minute and state. Raises: NotSetUp."""

    def read() -> Setting:
        with home.reading() as session:
            return setting_of(session, now, car_id)

    now = minute_of(now)
    return once(home, ("setting", now, car_id), read)


def setting_of(session: Session, now: datetime, car_id: int | None = None) -> Setting:
    """What the household says of a car (the first when None), in a whole minute. Raises: NotSetUp."""
    now, house, rows = minute_of(now), household(session), cars(session)
    row = next((each for each in rows if car_id in (None, each.id)), None)
    if row is None or not house.complete or row.habit.outlet is None or row.habit.tariff is None:
        raise NotSetUp
    place = place_of(row, session)
    here = now.astimezone(ZoneInfo(place.zone))
    due = next_outing(session, row, here)
    level = level_ahead(session, row.id, here)
    until, tyres = (due[0].at if due else here) + timedelta(days=2), tyres_now(session, row)
    return Setting(
        world=world_of(session),
        seen=seen(session),
        house=house,
        place=place,
        row=row,
        tariff=tariff_of(session, row.habit.tariff, house.currency, place.zone, (here - timedelta(hours=1), until)),
        names=tuple((each.id, each.name) for each in rows),
        due=due,
        idle=not due and bool(rows_of(session, row.id)),
        days={
            f"own-{each.id}": (each.name, kept_day(each.levers, row.habit.motorway_kmh, row.habit.people))
            for each in days_kept(session, row.id)
        },
        kept=coming_plan(session, row.id, here),
        soc_now=UNKNOWN_SOC if level is None else level[1],
        level_at=None if level is None else level[0],
        tyres=tyres,
        alarms=alarms(wheels_now(session, row.id), row.placard_kpa, pressure_at(place.altitude_m) / 1000.0),
        now=here,
        known=own_days(recent_errors(session, row, tyres), car_of(row).factors),
        car=charging_car(session, row),
        started=start_noted(session, row.id, max(here - CHECK_HOLDS, last_before(here, row.habit.depart)), known_by(here)),
    )


@dataclass(frozen=True, kw_only=True)
class Evening:
    """The night's request, and the day that follows it; `tyre_kpa` is the cold pressure in that air."""

    request: NightRequest
    trip: Trip
    conditions: Conditions
    tyre_kpa: float
    weather: Weather


def evening(setting: Setting, levers: Levers, departure: datetime | None = None) -> Evening:
    """The evening with the levers pulled, for their departure or another. Raises: Refusal with its field."""
    row, now = setting.row, setting.now
    if row.habit.outlet is None:
        raise NotSetUp
    car = setting.known.of(setting.car.checked())
    departure = departure or setting.departure(levers.depart)
    weather = setting.weather(levers)
    place, night = setting.place, (now.astimezone(UTC), departure.astimezone(UTC))
    around = parked_between(weather.temperature_c, *night, place.garage, place.garage_heated_c)
    trip = setting.trip(levers)
    planned = charge_rate(supply := supply_of(row.habit.outlet), car)
    rate = setting.started.check.rate(planned, supply.continuous_a) if setting.started else planned
    plug_in = max(last_before(departure, levers.plug_in), now) if rate else departure
    conditions, gauge = _conditions(setting, levers, weather, departure)
    request = NightRequest(
        now=now,
        plug_in=plug_in,
        departure=departure,
        soc=levers.soc_now,
        target_soc=levers.limit,
        car=car,
        rate=rate or planned,
        tariff=setting.tariff,
        ambient_c=around,
        pack_c=_pack_at(car, trip_of(row.habit), weather, around, max(now, plug_in), row.habit.depart),
        choice=levers.warm_up,
        cabin_c=levers.cabin_c,
        control=replace(control_of(row.habit), how=levers.control),
        pack_price=pack_price(car.pack.chemistry, setting.house.currency),
        full_within_h=FULL_WITHIN_H,
        tie_break=row.habit.school,
        held=HeldHours(levers.held_from, levers.held_until, row.habit.outlet.held_a),
        morning_kwh=MoreWhenCold(car, trip, conditions, Start(levers.limit, 0.0, levers.cabin_c)),
    )
    return Evening(request=request, trip=trip, conditions=conditions, tyre_kpa=gauge, weather=weather)


def _conditions(setting: Setting, levers: Levers, weather: Weather, departure: datetime) -> tuple[Conditions, float]:
    """Conditions of the day's drives: the mean of the hours of departure and return; the tyres cold at that air."""
    place = setting.place
    air_c = driven_c(weather.temperature_c, departure, setting.row.habit.parked_h)
    gauge = driven_gauge(levers.tyre_kpa, setting.tyres.read_c, air_c, place.altitude_m)
    own = setting.days[levers.day][1] if levers.day in setting.days else None
    made = Conditions(
        ambient_c=air_c,
        relative_humidity=USUAL_HUMIDITY,
        altitude_m=place.altitude_m,
        wind_mps=weather.wind_mps(departure),
        surface=levers.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(levers.people, own.luggage_kg if own else 0.0),
        drag_factor=own.extras.drag_factor if own else 1.0,
        style=own.style if own else 1.0,
        cabin_set_c=levers.cabin_c,
    )
    return (made.seats_only() if levers.warm_up is WarmUpChoice.SEATS else made), gauge


def _pack_at(car: Car, trip: Trip, weather: Weather, around: AirAt, plugged: datetime, left: time) -> float:
    """Pack temperature when plugged in: soaked in the morning, driven through the usual day, then cooled since it stopped."""
    ended_c, hours = ended(car, trip, weather.temperature_c(plugged))
    begun = plugged.replace(hour=left.hour, minute=left.minute, second=0, microsecond=0)
    if begun > plugged:
        begun -= timedelta(days=1)
    stood_s = max(0.0, (plugged - begun).total_seconds() - 3600.0 * hours)
    return float(relax(ended_c, around(plugged), 0.0, PARKED_W_PER_K, car.pack.capacity_j_per_k, stood_s))
