"""The evening: what the home knows and the levers, made into the night's request and the conditions of the day."""

from dataclasses import dataclass, replace
from datetime import UTC, datetime, time, timedelta
from functools import cached_property, lru_cache
from typing import get_type_hints
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ..core.car import PARKED_W_PER_K, Car
from ..core.charge.night import NightRequest
from ..core.charge.supply import charge_rate
from ..core.charge.tariff import Tariff
from ..core.drive.certainty import OwnDays, own_days
from ..core.drive.day import Start, Trip
from ..core.drive.road import Conditions, Surface, load_of
from ..core.drive.trip import simulate
from ..core.drive.tyres import driven_gauge
from ..core.drive.usual import more_when_cold
from ..core.heat.around import AirAt, driven_c, parked_between
from ..core.heat.lumped import relax
from ..core.heat.schedule import last_before, next_at
from ..core.heat.warm import WarmUpChoice
from ..household.facts import TyreReading, level_now, tyres_now
from ..household.home import Home, world_of
from ..household.models import CarRow, HouseholdRow, PlaceRow, PlanRow
from ..household.parts import car_of, cars, household, place_of, supply_of, tariff_of, trip_of
from ..household.plans import coming_plan
from ..standins.weather import TypedNight
from ..world import Weather, World
from .departures import next_departure
from .past import recent_errors
from .remembered import once


@dataclass(frozen=True, kw_only=True)
class Levers:
    """What can be pulled tonight. Levels 0 to 1, °C, kPa (gauge, as read at the reading's temperature), km, km/h."""

    soc_now: float
    limit: float
    depart: time
    plug_in: time
    km: float
    motorway_kmh: float
    tyre_kpa: float
    cabin_c: float
    out_now_c: float
    out_low_c: float
    people: int
    warm_up: WarmUpChoice
    surface: Surface = Surface.DRY


class NotSetUp(RuntimeError):
    """There is no car, outlet, tariff or place yet."""


@dataclass(frozen=True, kw_only=True)
class Setting:
    """What the household says of the evening; `listed` is the next listed departure of the coming week, `kept` a kept plan."""

    world: World
    house: HouseholdRow
    place: PlaceRow
    row: CarRow
    tariff: Tariff
    names: tuple[tuple[int, str], ...]
    listed: datetime | None
    kept: PlanRow | None
    soc_now: float
    tyres: TyreReading
    now: datetime
    known: OwnDays

    @property
    def zone(self) -> ZoneInfo:
        """The clock of the place where the car stands."""
        return ZoneInfo(self.place.zone)

    @cached_property
    def habits(self) -> Levers:
        """The levers by habit: the usual evening, the weather as it is, and the departure that is listed, if any."""
        row, weather = self.row, self.weather()
        return Levers(
            soc_now=self.soc_now,
            limit=row.habit.limit,
            depart=self.listed.time() if self.listed else row.habit.depart,
            plug_in=row.habit.plug_in,
            km=row.habit.km,
            motorway_kmh=row.habit.motorway_kmh,
            tyre_kpa=self.tyres.kpa,
            cabin_c=row.habit.cabin_c,
            out_now_c=round(weather.temperature_c(self.now), 1),
            out_low_c=round(weather.temperature_c(next_at(self.now, time(6, 0))), 1),
            people=row.habit.people,
            warm_up=WarmUpChoice(row.habit.warm_up),
        )

    @cached_property
    def usual(self) -> Levers:
        """The levers before anybody pulls one: by habit, or those of the plan that is kept for the coming night."""
        return self.habits if self.kept is None else replace(self.habits, **pulled_levers(self.kept))  # type: ignore[arg-type]

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


def pulled_levers(kept: PlanRow) -> dict[str, object]:
    """The levers of a kept plan that were not as usual, as they were."""
    kinds = get_type_hints(Levers)
    found = {name: kept.levers[name] for name in kept.pulled if name in kept.levers and name in kinds}
    return {name: time.fromisoformat(str(value)) if kinds[name] is time else kinds[name](value) for name, value in found.items()}


def setting_at(home: Home, now: datetime, car_id: int | None = None) -> Setting:
    """What the household says of a car (the first when None), read once for each minute and state. Raises: NotSetUp."""

    def read() -> Setting:
        with home.reading() as session:
            return setting_of(session, now, car_id)

    return once(home, ("setting", now, car_id), read)


def setting_of(session: Session, now: datetime, car_id: int | None = None) -> Setting:
    """What the household says of a car (the first when None). Raises: NotSetUp."""
    house, rows = household(session), cars(session)
    row = next((each for each in rows if car_id in (None, each.id)), None)
    if row is None or not house.complete or row.habit.outlet is None or row.habit.tariff is None:
        raise NotSetUp
    place = place_of(row, session)
    here = now.astimezone(ZoneInfo(place.zone))
    listed = next_departure(session, row.id, here)
    until, tyres = (listed or here) + timedelta(days=2), tyres_now(session, row)
    return Setting(
        world=world_of(session),
        house=house,
        place=place,
        row=row,
        tariff=tariff_of(session, row.habit.tariff, house.currency, place.zone, (here - timedelta(hours=1), until)),
        names=tuple((each.id, each.name) for each in rows),
        listed=listed,
        kept=coming_plan(session, row.id, here),
        soc_now=level_now(session, row.id),
        tyres=tyres,
        now=here,
        known=own_days(recent_errors(session, row, tyres), car_of(row).factors),
    )


@dataclass(frozen=True)
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
    car = setting.known.of(car_of(row).checked())
    departure = departure or setting.departure(levers.depart)
    weather = setting.weather(levers)
    place, night = setting.place, (now.astimezone(UTC), departure.astimezone(UTC))
    around = parked_between(weather.temperature_c, *night, place.garage, place.garage_heated_c)
    trip = trip_of(row.habit).scaled_to(levers.km).at_motorway_speed(levers.motorway_kmh)
    plug_in = max(last_before(departure, levers.plug_in), now)
    conditions, gauge = _conditions(setting, levers, weather, departure)
    request = NightRequest(
        now=now,
        plug_in=plug_in,
        departure=departure,
        soc=levers.soc_now,
        target_soc=levers.limit,
        car=car,
        rate=charge_rate(supply_of(row.habit.outlet), car),
        tariff=setting.tariff,
        ambient_c=around,
        pack_c=_pack_at(car, trip, weather, around, max(now, plug_in), row.habit.depart),
        choice=levers.warm_up,
        cabin_c=levers.cabin_c,
        morning_kwh=more_when_cold(car, trip, conditions, Start(levers.limit, 0.0, levers.cabin_c)),
    )
    return Evening(request, trip, conditions, gauge, weather)


def _conditions(setting: Setting, levers: Levers, weather: Weather, departure: datetime) -> tuple[Conditions, float]:
    """Conditions of the day's drives: the mean of the hours of departure and return; the tyres cold at that air."""
    place = setting.place
    air_c = driven_c(weather.temperature_c, departure, setting.row.habit.parked_h)
    gauge = driven_gauge(levers.tyre_kpa, setting.tyres.read_c, air_c, place.altitude_m)
    made = Conditions(
        ambient_c=air_c,
        relative_humidity=0.8,
        altitude_m=place.altitude_m,
        wind_mps=weather.wind_mps(departure),
        surface=levers.surface,
        tyre_gauge_kpa=gauge,
        load_kg=load_of(levers.people),
        cabin_set_c=levers.cabin_c,
    )
    return (made.seats_only() if levers.warm_up is WarmUpChoice.SEATS else made), gauge


def _pack_at(car: Car, trip: Trip, weather: Weather, around: AirAt, plugged: datetime, left: time) -> float:
    """Pack temperature when plugged in: soaked in the morning, driven through the usual day, then cooled since it stopped."""
    ended_c, hours = _driven(car, trip, weather.temperature_c(plugged))
    begun = plugged.replace(hour=left.hour, minute=left.minute, second=0, microsecond=0)
    if begun > plugged:
        begun -= timedelta(days=1)
    stood_s = max(0.0, (plugged - begun).total_seconds() - 3600.0 * hours)
    return float(relax(ended_c, around(plugged), 0.0, PARKED_W_PER_K, car.pack.capacity_j_per_k, stood_s))


@lru_cache(maxsize=64)
def _driven(car: Car, trip: Trip, air_c: float) -> tuple[float, float]:
    """Pack temperature at the end of a day that began soaked, and its hours; kept, for a lever seldom changes it."""
    done = simulate(car, trip, Conditions(ambient_c=air_c), Start(1.0, air_c, air_c))
    return float(done.end_pack_c[0]), float(done.ends[-1].hours[0])
