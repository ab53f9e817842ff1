"""Tonight: from what the home knows and the levers to the night plan, the tally and the arrival band."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ..core.advice.limit import Charges, LimitAdvice, advise_limit, target_as_needed
from ..core.car import Car
from ..core.charge.control import Control
from ..core.charge.night import NightPlan, plan
from ..core.charge.supply import ChargeRate
from ..core.drive.causes import Kind
from ..core.drive.certainty import LevelBand, OwnDays, fan
from ..core.drive.day import Start, Trip
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions
from ..core.drive.tally import Tally, tallied
from ..core.drive.together import Driving, together
from ..core.drive.trip import simulate
from ..core.drive.tyre_log import TyreAlarm
from ..core.heat.warm import WarmUpChoice
from ..household.facts import full_at
from ..household.home import Home
from ..household.models import PlanRow
from ..household.parts import tariff_of, tariffs
from ..household.plans import PlanAndDrive, open_plan, plan_before, plans_driven
from ..world import Weather
from .day_levers import DayLevers
from .departures import Due, due_between
from .evening import Setting, evening, setting_at
from .night_levers import Levers
from .remembered import once
from .started import Started, started_of

COLD = (Kind.COLD, Kind.HEAT)


@dataclass(frozen=True, kw_only=True)
class Nights:
    """What the store has of a car's nights: the plan that waits for its day, the plans driven, the limit and the start that were set for
    the last one (None: none was kept), when it was full last, and the kilometres of the longest listed day of the coming week (0: none).
    """

    open: PlanRow | None
    noted: tuple[PlanAndDrive, ...]
    set_limit: float | None
    set_start: datetime | None
    set_for: datetime | None
    full_at: datetime | None
    longest_km: float


NOTHING_KEPT = Nights(open=None, noted=(), set_limit=None, set_start=None, set_for=None, full_at=None, longest_km=0.0)


@dataclass(frozen=True, kw_only=True)
class Tonight:
    """Everything the room shows; the day that follows is driven when somebody asks for it."""

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
    start: Start
    reserve: float
    floor: float
    weather: Weather
    outside: tuple[tuple[datetime, float], ...]
    tyre_cold_kpa: float
    tyre_read_c: float
    motorway_km: float
    kept: PlanRow | None
    nights: Nights
    as_needed: bool
    due: tuple[Due, ...]
    idle: bool
    days: Mapping[str, tuple[str, DayLevers]]
    outing: Outing
    alarms: tuple[TyreAlarm, ...]
    known: OwnDays
    started: Started
    level_at: datetime | None
    feed: bool
    other_tariff: str

    @property
    def open(self) -> PlanRow | None:
        """The plan that waits for what happened on it."""
        return self.nights.open

    @property
    def noted(self) -> tuple[PlanAndDrive, ...]:
        """The latest plans with what was driven on them."""
        return self.nights.noted

    @property
    def control(self) -> Control:
        """How the night is carried out."""
        return self.plan.request.control

    @property
    def kept_begun(self) -> datetime | None:
        """When the charging of the kept plan began; None while it has not."""
        begun = [each.begin for each in self.kept.blocks if each.kind == "charge" and each.begin < self.now] if self.kept else []
        return min(begun, default=None)

    @property
    def expected_soc(self) -> float | None:
        """The level that the kept plan has by now, 0 to 1; None without one that has begun."""
        if self.kept is None or self.kept_begun is None:
            return None
        blocks = [each for each in self.kept.blocks if each.kind == "charge"]
        whole = sum(each.kw * (each.end - each.begin).total_seconds() for each in blocks)
        done = sum(each.kw * max(0.0, (min(each.end, self.now) - each.begin).total_seconds()) for each in blocks)
        return self.kept.soc_start + (self.kept.limit - self.kept.soc_start) * done / max(whole, 1e-9)

    @cached_property
    def cheapest_of_day(self) -> float:
        """The least price of the day that ends with departure."""
        leaves = self.plan.request.departure
        return float(self.plan.request.tariff.cells(leaves - timedelta(hours=24), leaves).price_per_kwh.min())

    @cached_property
    def limit_advice(self) -> LimitAdvice:
        """How full this night should be, and why."""
        full = self.nights.full_at
        return advise_limit(
            need_soc=self.need_limit,
            limit=self.levers.limit,
            soc_now=self.levers.soc_now,
            as_needed=self.as_needed,
            floor=self.floor,
            chemistry=self.car.pack.chemistry,
            days_since_full=None if full is None else (self.now - full).total_seconds() / 86_400.0,
            longest_ahead=bool(self.due) and self.levers.km >= self.nights.longest_km - 0.5,
        )

    @property
    def cold_km(self) -> float:
        """What the cold takes of the range tonight, km."""
        return sum(each.lost_km for each in self.tally.steps if each.cause.kind in COLD) if self.tally else 0.0

    @property
    def listed_day(self) -> str:
        """What the list has planned: LISTED or the key of a kept day; "" when nothing is listed."""
        return self.habits.day if self.due else ""

    @property
    def listed(self) -> datetime | None:
        """The next listed departure of the coming week."""
        return self.due[0].at if self.due else None

    @cached_property
    def _driven(self) -> tuple[LevelBand, Tally | None]:
        """The band at arrival and the day's tally, in one pass; no tally where the level is at the reserve already."""
        works: list[Driving[Any]] = [fan(self.car, self.trip, self.conditions, self.start, self.known)]
        if self.start.soc > self.reserve + 0.005:
            standby = max(0.0, self.plan.highest_soc - self.plan.soc_departure)
            more = {"reserve_soc": self.reserve, "standby_soc": standby, "price_per_kwh": self.plan.price_in_pack}
            works.append(tallied(self.car, self.trip, self.conditions, self.start, **more))
        points, *tally = together(*works)
        return points[-1].level, tally[0] if tally else None

    @property
    def arrival(self) -> LevelBand:
        """The level's band when the day is over."""
        return self._driven[0]

    @property
    def tally(self) -> Tally | None:
        """Where the kilometres of a mild day go; None where there are none left to count."""
        return self._driven[1]

    @property
    def need_soc(self) -> float:
        """The level at departure whose cautious arrival is just the reserve."""
        return self.plan.soc_departure - self.arrival.low + self.reserve

    @property
    def need_limit(self) -> float:
        """The limit that the day needs: the level at departure, and what is lost until then."""
        return self.need_soc + max(0.0, self.plan.highest_soc - self.plan.soc_departure)

    @cached_property
    def day_kwh(self) -> float:
        """What the day takes from the pack, kWh."""
        if self.tally is not None:
            return self.tally.day_kwh
        return float(simulate(self.car, self.trip, self.conditions, self.start).energy_kwh[0])

    @property
    def enough(self) -> bool:
        """Whether the cautious end of the arrival stays above the reserve."""
        return self.arrival.low >= self.reserve


def tonight(
    home: Home,
    now: datetime,
    car_id: int | None = None,
    pull: Callable[[Levers], Levers] = lambda usual: usual,
    day: str = "",
    tariff: int | None = None,
) -> Tonight:
    """Compute the room for a car (the first when None) with the levers pulled, for a kept day when its key is given, priced by another
    tariff than the car's when its number is.

    Raises: NotSetUp for an empty household, Refusal with its field for a lever that cannot be.
    """
    setting = setting_at(home, now, car_id)
    now = setting.now
    if tariff is not None and tariff != setting.row.habit.tariff_id:
        setting = once(
            home, ("other_tariff", now, car_id, tariff), lambda: _on_tariff(home, setting_at(home, now, car_id), tariff)
        )
    usual = setting.usual_on(day)
    levers = pull(usual)
    if levers.charges is Charges.AS_NEEDED and setting.kept is None and not setting.idle:
        usual = replace(usual, limit=_needed(home, setting, levers))
        levers = pull(usual)
    idle = setting.idle and setting.kept is None and not day and levers.depart == usual.depart

    def compute() -> Tonight:
        with home.reading() as session:
            nights = _nights(session, setting)
        return _compute(setting, usual, levers, nights, idle)

    return once(home, ("tonight", now, car_id, levers, idle, setting.tariff.name), compute)


def _on_tariff(home: Home, setting: Setting, number: int) -> Setting:
    """The same evening priced by another tariff of the household; as it is where there is no such."""
    with home.reading() as session:
        row = next((each for each in tariffs(session) if each.id == number), None)
        if row is None:
            return setting
        span = setting.now - timedelta(hours=1), (setting.listed or setting.now) + timedelta(days=2)
        return replace(setting, tariff=tariff_of(session, row, setting.house.currency, setting.place.zone, span))


def _needed(home: Home, setting: Setting, levers: Levers) -> float:
    """The limit of a habit that charges only as much as the day with these levers needs."""
    full = replace(levers, limit=1.0)
    priced = setting.tariff.name

    def work() -> float:
        found = _compute(setting, full, full, NOTHING_KEPT, False)
        return max(0.1, target_as_needed(found.need_limit, setting.row.habit.floor))

    return once(home, ("needed", setting.now, setting.row.id, full, priced), work)


def _compute(setting: Setting, usual: Levers, levers: Levers, nights: Nights, idle: bool) -> Tonight:
    row, made = setting.row, evening(setting, replace(levers, warm_up=WarmUpChoice.NOTHING) if idle else levers)
    if idle:  # nobody leaves: whether the cable is in is all the same
        made = replace(made, request=replace(made.request, plug_in=made.request.departure))
    car, trip, conditions, night = made.request.car, made.trip, made.conditions, plan(made.request)
    start = Start(night.soc_departure, night.warm.pack_c, night.warm.cabin_c)
    return Tonight(
        car_id=row.id,
        car=car,
        cars=setting.names,
        revision=setting.seen,
        zone=setting.zone,
        currency=setting.house.currency,
        now=setting.now,
        levers=levers,
        usual=usual,
        habits=setting.habits,
        rate=made.request.rate,
        plan=night,
        trip=trip,
        conditions=conditions,
        start=start,
        reserve=row.habit.reserve,
        floor=row.habit.floor,
        weather=made.weather,
        outside=_outside(made.weather, night.start, made.request.departure),
        tyre_cold_kpa=made.tyre_kpa,
        tyre_read_c=setting.tyres.read_c,
        motorway_km=row.habit.motorway_km,
        kept=setting.kept,
        nights=nights,
        as_needed=levers.charges is Charges.AS_NEEDED,
        due=setting.due,
        idle=idle,
        days=setting.days,
        outing=setting.outing(levers),
        alarms=setting.alarms,
        known=setting.known,
        started=started_of(setting, car),
        level_at=setting.level_at,
        feed=bool(row.habit.tariff and row.habit.tariff.feed),
        other_tariff=setting.tariff.name if row.habit.tariff and setting.tariff.name != row.habit.tariff.name else "",
    )


def _nights(session: Session, setting: Setting) -> Nights:
    """What the store has of a car's nights."""
    number, now = setting.row.id, setting.now
    before = plan_before(session, number, now)
    blocks = [each.begin for each in before.blocks if each.kind == "charge"] if before else []
    week = due_between(session, number, setting.place.zone, now, now + timedelta(days=7))
    by_day: dict[date, float] = {}
    for each in week:
        by_day[each.at.date()] = by_day.get(each.at.date(), 0.0) + 2 * each.row.km
    return Nights(
        open=open_plan(session, number, now),
        noted=plans_driven(session, number),
        set_limit=before.limit if before else None,
        set_start=min(blocks) if blocks else None,
        set_for=before.departure if before else None,
        full_at=full_at(session, setting.row, now),
        longest_km=max(by_day.values(), default=0.0),
    )


def _outside(weather: Weather, start: datetime, departure: datetime) -> tuple[tuple[datetime, float], ...]:
    """Outside temperature on whole local hours from an hour before the start to an hour after departure."""
    local = (start - timedelta(hours=1)).astimezone(departure.tzinfo).replace(minute=0, second=0, microsecond=0)
    first = local.astimezone(UTC)
    hours = int((departure.astimezone(UTC) - first).total_seconds() // 3600) + 3
    return tuple((at, weather.temperature_c(at)) for at in (first + timedelta(hours=h) for h in range(hours)))
