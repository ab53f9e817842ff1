"""Tonight: from what the home knows and the levers to the night plan, the tally and the arrival band."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np

from ..core.car import PARKED_W_PER_K, Car
from ..core.charge.night import NightPlan, NightRequest, plan
from ..core.charge.supply import ChargeRate, charge_rate
from ..core.charge.tariff import Tariff
from ..core.drive.air import pressure_at
from ..core.drive.certainty import Band, arrival
from ..core.drive.day import Start, Trip
from ..core.drive.road import Conditions, Surface
from ..core.drive.tally import Tally, fair_tally
from ..core.drive.trip import simulate
from ..core.drive.tyres import gauge_at
from ..core.errors import Refusal
from ..core.heat.warm import WarmUpChoice, soak_c
from ..core.heat.lumped import relax
from ..household.home import (
    Home,
    car_of,
    cars,
    coming_night,
    household,
    last_night,
    noted_nights,
    place_of,
    supply_of,
    tariff_of,
    trip_of,
)
from ..household.models import CarRow, HouseholdRow, NightRow, PlaceRow
from ..standins.weather import SeededYear, TypedNight, Weather

PERSON_KG = 75.0
BEDTIME = time(22, 30)
ERRORS_FROM = 3


@dataclass(frozen=True)
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


@dataclass(frozen=True)
class Tonight:
    """Everything the room shows. `need_soc` is the level at departure whose cautious arrival is just the reserve."""

    car_id: int
    car: Car
    cars: tuple[tuple[int, str], ...]
    revision: int
    zone: ZoneInfo
    currency: str
    now: datetime
    levers: Levers
    usual: Levers
    rate: ChargeRate
    plan: NightPlan
    trip: Trip
    conditions: Conditions
    arrival: Band
    tally: Tally | None
    reserve: float
    floor: float
    need_soc: float
    day_kwh: float
    outside: tuple[tuple[datetime, float], ...]
    tyre_cold_kpa: float
    tyre_read_c: float
    motorway_km: float
    kept: NightRow | None
    last: NightRow | None
    noted: tuple[NightRow, ...]

    @property
    def enough(self) -> bool:
        """Whether the cautious end of the arrival stays above the reserve."""
        return self.arrival.low >= self.reserve


class NotSetUp(RuntimeError):
    """There is no car, outlet, tariff or place yet."""


def usual_levers(row: CarRow, home: HouseholdRow, now: datetime) -> Levers:
    """The levers as they stand before anybody pulls one."""
    weather = _weather(home, now, None)
    morning = _next(now, time(6, 0))
    return Levers(
        row.soc_now,
        row.habit_limit,
        row.depart,
        row.plug_in,
        row.town_km + row.country_km + row.motorway_km,
        row.motorway_kmh,
        row.tyre_kpa,
        row.cabin_c,
        round(weather.temperature_c(now), 1),
        round(weather.temperature_c(morning), 1),
        row.people,
        WarmUpChoice(row.warm_up),
    )


def tonight(
    home: Home, now: datetime, car_id: int | None = None, pull: Callable[[Levers], Levers] = lambda usual: usual
) -> Tonight:
    """Compute the room for a car (the first when None) with the levers pulled.

    Raises: NotSetUp for an empty household, Refusal with its field for a lever that cannot be.
    """
    with home.reading() as session:
        house, rows = household(session), cars(session)
        row = next((each for each in rows if car_id in (None, each.id)), None)
        if row is None or not house.complete or row.outlet is None or row.tariff is None:
            raise NotSetUp
        place = place_of(row, session)
        here = now.astimezone(ZoneInfo(place.zone))
        span = (here - timedelta(hours=1), here + timedelta(days=2))
        tariff = tariff_of(session, row.tariff, house.currency, place.zone, span)
        usual = usual_levers(row, house, here)
        last, noted = last_night(session, row.id, here), tuple(noted_nights(session, row.id))
        kept = coming_night(session, row.id, here)
    setting = _Setting(house, place, row, tariff, tuple((each.id, each.name) for each in rows))
    return _compute(setting, here, usual, pull(usual), (kept, last, noted))


@dataclass(frozen=True)
class _Setting:
    """What the household says of the evening."""

    house: HouseholdRow
    place: PlaceRow
    row: CarRow
    tariff: Tariff
    names: tuple[tuple[int, str], ...]


def _compute(
    setting: _Setting,
    now: datetime,
    usual: Levers,
    levers: Levers,
    nights: tuple[NightRow | None, NightRow | None, tuple[NightRow, ...]],
) -> Tonight:
    house, place, row = setting.house, setting.place, setting.row
    if row.outlet is None:
        raise NotSetUp
    car = car_of(row).checked()
    departure = _next(now, levers.depart)
    weather = _weather(house, now, levers if (levers.out_now_c, levers.out_low_c) != (usual.out_now_c, usual.out_low_c) else None)
    garage = _garage(place, weather, now.astimezone(UTC), departure.astimezone(UTC))
    trip = trip_of(row).scaled_to(levers.km).at_motorway_speed(levers.motorway_kmh)
    rate = charge_rate(supply_of(row.outlet), car)
    plug_in = _plug_in(now, levers.plug_in, departure)
    night = plan(
        NightRequest(
            now,
            plug_in,
            departure,
            levers.soc_now,
            levers.limit,
            car,
            rate,
            setting.tariff,
            garage,
            _pack_at(car, trip, weather, garage, max(now, plug_in)),
            levers.warm_up,
            levers.cabin_c,
        )
    )
    conditions, gauge = _conditions(place, row, levers, weather, departure, car)
    start = Start(night.soc_departure, night.warm.pack_c, night.warm.cabin_c)
    band = arrival(car, trip, conditions, start, past_error(nights[2]))
    price = night.cost / max(night.session.pack_kwh, 1e-9) if night.session.pack_kwh > 0.5 else _mean_price(night)
    standby = max(0.0, max(step.soc for step in night.session.steps) - night.soc_departure)
    tally = (
        fair_tally(car, trip, conditions, start, reserve_soc=row.reserve, standby_soc=standby, price_per_kwh=price)
        if start.soc > row.reserve + 0.005
        else None
    )
    return Tonight(
        row.id,
        car,
        setting.names,
        house.revision,
        ZoneInfo(place.zone),
        house.currency,
        now,
        levers,
        usual,
        rate,
        night,
        trip,
        conditions,
        band,
        tally,
        row.reserve,
        row.floor,
        night.soc_departure - band.low + row.reserve,
        tally.day_kwh if tally else float(simulate(car, trip, conditions, start).energy_kwh[0]),
        _outside(weather, night.start, departure),
        gauge,
        row.tyre_read_c,
        row.motorway_km,
        *nights,
    )


def _conditions(
    place: PlaceRow, row: CarRow, levers: Levers, weather: Weather, departure: datetime, car: Car
) -> tuple[Conditions, float]:
    """Conditions of the day's drives: the mean of the hours of departure and return; the tyres cold at that air."""
    home_again = departure + timedelta(hours=row.parked_h + 1)
    air_c = (weather.temperature_c(departure) + weather.temperature_c(home_again)) / 2
    outside_kpa = pressure_at(place.altitude_m) / 1000.0
    gauge = gauge_at(levers.tyre_kpa, row.tyre_read_c, air_c, outside_kpa)
    if gauge < 80:
        raise Refusal(f"At {air_c:.0f} °C this reading leaves {gauge:.0f} kPa: the tyre is flat, do not drive on it.", "tyre_kpa")
    return Conditions(
        air_c,
        0.8,
        place.altitude_m,
        wind_mps=weather.wind_mps(departure),
        surface=levers.surface,
        tyre_gauge_kpa=gauge,
        load_kg=PERSON_KG * (levers.people - 1),
        cabin_set_c=levers.cabin_c,
    ), gauge


def _weather(house: HouseholdRow, now: datetime, levers: Levers | None) -> Weather:
    if levers is not None:
        return TypedNight(now, levers.out_now_c, levers.out_low_c)
    return SeededYear() if house.weather == "village" else TypedNight(now, house.out_now_c, house.out_low_c)


def _garage(place: PlaceRow, weather: Weather, now: datetime, departure: datetime) -> Callable[[datetime], float]:
    """Air around the parked car between now and departure (both UTC), from values on every half hour."""
    halves = range(int((departure - now).total_seconds() // 1800) + 2)
    air = [weather.temperature_c(now + timedelta(minutes=30 * i - 24 * 60)) for i in range(len(halves) + 48)]
    around = [soak_c(air[i + 48], float(np.mean(air[i : i + 48])), place.garage, place.garage_heated_c) for i in halves]

    def at(moment: datetime) -> float:
        place = min(max((moment - now).total_seconds() / 1800.0, 0.0), len(around) - 1.001)
        whole = int(place)
        return around[whole] + (around[whole + 1] - around[whole]) * (place - whole)

    return at


def _pack_at(car: Car, trip: Trip, weather: Weather, garage: Callable[[datetime], float], plugged: datetime) -> float:
    """Pack temperature when plugged in: soaked in the morning, driven through the usual day, then an hour's rest."""
    air = weather.temperature_c(plugged)
    return float(relax(_driven_pack_c(car, trip, air), garage(plugged), 0.0, PARKED_W_PER_K, car.pack.capacity_j_per_k, 3600.0))


@lru_cache(maxsize=64)
def _driven_pack_c(car: Car, trip: Trip, air_c: float) -> float:
    """Pack temperature at the end of a day's driving that began soaked; kept, for a lever seldom changes it."""
    return float(simulate(car, trip, Conditions(air_c), Start(1.0, air_c, air_c)).end_pack_c[0])


def _outside(weather: Weather, start: datetime, departure: datetime) -> tuple[tuple[datetime, float], ...]:
    """Outside temperature on whole local hours from an hour before the start to an hour after departure."""
    local = (start - timedelta(hours=1)).astimezone(departure.tzinfo).replace(minute=0, second=0, microsecond=0)
    first = local.astimezone(UTC)
    hours = int((departure.astimezone(UTC) - first).total_seconds() // 3600) + 3
    return tuple((at, weather.temperature_c(at)) for at in (first + timedelta(hours=h) for h in range(hours)))


def past_error(noted: tuple[NightRow, ...]) -> float:
    """Root mean square of the owner's own arrival errors, once there are three of them; 0 before."""
    errors = [night.actual_arrival - night.arrival_likely for night in noted if night.actual_arrival is not None]
    return float(np.sqrt(np.mean(np.square(errors)))) if len(errors) >= ERRORS_FROM else 0.0


def _mean_price(night: NightPlan) -> float:
    return float(np.mean([slot.price_per_kwh for slot in night.prices])) if night.prices else 0.0


def _next(now: datetime, at: time) -> datetime:
    """The next time the local clock shows `at`."""
    moment = now.replace(hour=at.hour, minute=at.minute, second=0, microsecond=0)
    return moment if moment > now else moment + timedelta(days=1)


def _plug_in(now: datetime, at: time, departure: datetime) -> datetime:
    """When the car is plugged in: the last such time before departure, at the earliest now."""
    moment = departure.replace(hour=at.hour, minute=at.minute)
    if moment >= departure:
        moment -= timedelta(days=1)
    return max(moment, now)
