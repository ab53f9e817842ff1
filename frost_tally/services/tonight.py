"""Tonight: from what the home knows and the levers to the night plan, the tally and the arrival band."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..core.car import Car
from ..core.charge.night import NightPlan, plan
from ..core.charge.supply import ChargeRate
from ..core.drive.certainty import LevelBand, OwnDays, arrival
from ..core.drive.day import Start, Trip
from ..core.drive.road import Conditions
from ..core.drive.tally import Tally, fair_tally
from ..core.drive.trip import simulate
from ..household.home import Home
from ..household.models import PlanRow
from ..household.plans import PlanAndDrive, open_plan, plans_driven
from ..world import Weather
from .evening import Levers, Setting, evening, setting_of

BEDTIME = time(22, 30)
Nights = tuple[PlanRow | None, tuple[PlanAndDrive, ...]]


@dataclass(frozen=True, kw_only=True)
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
    habits: Levers
    rate: ChargeRate
    plan: NightPlan
    trip: Trip
    conditions: Conditions
    arrival: LevelBand
    tally: Tally | None
    reserve: float
    floor: float
    need_soc: float
    day_kwh: float
    weather: Weather
    outside: tuple[tuple[datetime, float], ...]
    tyre_cold_kpa: float
    tyre_read_c: float
    motorway_km: float
    kept: PlanRow | None
    open: PlanRow | None
    noted: tuple[PlanAndDrive, ...]
    listed: datetime | None
    known: OwnDays

    @property
    def enough(self) -> bool:
        """Whether the cautious end of the arrival stays above the reserve."""
        return self.arrival.low >= self.reserve


def tonight(
    home: Home,
    now: datetime,
    car_id: int | None = None,
    pull: Callable[[Levers], Levers] = lambda usual: usual,
    tallied: bool = True,
) -> Tonight:
    """Compute the room for a car (the first when None) with the levers pulled; without its tally when it is not `tallied`.

    Raises: NotSetUp for an empty household, Refusal with its field for a lever that cannot be.
    """
    with home.reading() as session:
        setting = setting_of(session, now, car_id)
        row = setting.row
        last, noted = open_plan(session, row.id, setting.now), plans_driven(session, row.id)
    return _compute(setting, pull(setting.usual), (last, noted), tallied)


def _compute(setting: Setting, levers: Levers, nights: Nights, tallied: bool) -> Tonight:
    row, made = setting.row, evening(setting, levers)
    car, trip, conditions, night = made.request.car, made.trip, made.conditions, plan(made.request)
    start = Start(night.soc_departure, night.warm.pack_c, night.warm.cabin_c)
    band = arrival(car, trip, conditions, start, setting.known)
    standby = max(0.0, max(step.soc for step in night.session.steps) - night.soc_departure)
    tally = (
        fair_tally(
            car, trip, conditions, start, reserve_soc=row.habit.reserve, standby_soc=standby, price_per_kwh=night.price_in_pack
        )
        if tallied and start.soc > row.habit.reserve + 0.005
        else None
    )
    return Tonight(
        car_id=row.id,
        car=car,
        cars=setting.names,
        revision=setting.house.revision,
        zone=setting.zone,
        currency=setting.house.currency,
        now=setting.now,
        levers=levers,
        usual=setting.usual,
        habits=setting.habits,
        rate=made.request.rate,
        plan=night,
        trip=trip,
        conditions=conditions,
        arrival=band,
        tally=tally,
        reserve=row.habit.reserve,
        floor=row.habit.floor,
        need_soc=night.soc_departure - band.low + row.habit.reserve,
        day_kwh=tally.day_kwh if tally else float(simulate(car, trip, conditions, start).energy_kwh[0]),
        weather=made.weather,
        outside=_outside(made.weather, night.start, made.request.departure),
        tyre_cold_kpa=made.tyre_kpa,
        tyre_read_c=setting.tyres.read_c,
        motorway_km=row.habit.motorway_km,
        kept=setting.kept,
        open=nights[0],
        noted=nights[1],
        listed=setting.listed,
        known=setting.known,
    )


def _outside(weather: Weather, start: datetime, departure: datetime) -> tuple[tuple[datetime, float], ...]:
    """Outside temperature on whole local hours from an hour before the start to an hour after departure."""
    local = (start - timedelta(hours=1)).astimezone(departure.tzinfo).replace(minute=0, second=0, microsecond=0)
    first = local.astimezone(UTC)
    hours = int((departure.astimezone(UTC) - first).total_seconds() // 3600) + 3
    return tuple((at, weather.temperature_c(at)) for at in (first + timedelta(hours=h) for h in range(hours)))
