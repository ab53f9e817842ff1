"""Tonight: from what the home knows and the levers to the night plan, the tally and the arrival band."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import cached_property
from typing import Any

from ..core.advice.limit import Charges, LimitAdvice, Need, advise_limit, target_as_needed
from ..core.advice.night_inputs import NightInputs
from ..core.car import Car
from ..core.charge.control import Control
from ..core.charge.night import NightPlan, plan
from ..core.charge.plan import LOWER_SOC
from ..core.charge.plug_in import PlugIn, plug_in
from ..core.charge.saved_plan import DrivenPlan, SavedPlan
from ..core.charge.supply import ChargeRate
from ..core.drive.batch import Driving, in_one_batch
from ..core.drive.causes import Kind
from ..core.drive.certainty import LevelBand, OwnDays, fan
from ..core.drive.day import Start, Trip
from ..core.drive.day_inputs import DayInputs
from ..core.drive.outing import Outing
from ..core.drive.road import Conditions
from ..core.drive.tally import Tally, tallied
from ..core.drive.trip import simulate
from ..core.drive.tyre_log import TyreAlarm
from ..core.heat.schedule import Due
from ..core.heat.warm import WarmUpChoice
from ..core.home import OfCar, OwnedCar
from ..household.facts import full_at
from ..household.plans import last_plan, plans_driven
from ..household.snapshot import Snapshot
from ..household.state import Stamp
from ..world import Weather
from .derived import in_this_minute
from .evening import Now, evening, now_of
from .started import Started, started_of

COLD = (Kind.COLD, Kind.HEAT)


@dataclass(frozen=True, kw_only=True)
class Nights:
    """What the log has of a car's nights: the plan that waits for its day, the plans driven, the last one that was kept, when it was full
    last, and the kilometres of the longest listed day of the coming week (0: none).
    """

    open: SavedPlan | None
    noted: tuple[DrivenPlan, ...]
    last: SavedPlan | None
    full_at: datetime | None
    longest_km: float


NOTHING_KEPT = Nights(open=None, noted=(), last=None, full_at=None, longest_km=0.0)


@dataclass(frozen=True, kw_only=True)
class Tonight(OfCar):
    """Everything the room shows; the day that follows is driven when somebody asks for it."""

    owned: OwnedCar
    car: Car
    cars: tuple[tuple[int, str], ...]
    currency: str
    now: datetime
    inputs: NightInputs
    defaults: NightInputs
    habits: NightInputs
    rate: ChargeRate
    plan: NightPlan
    trip: Trip
    conditions: Conditions
    start: Start
    weather: Weather
    outside: tuple[tuple[datetime, float], ...]
    tyre_cold_kpa: float
    tyre_read_c: float
    kept: SavedPlan | None
    nights: Nights
    as_needed: bool
    due: tuple[Due, ...]
    idle: bool
    days: Mapping[str, tuple[str, DayInputs]]
    outing: Outing
    alarms: tuple[TyreAlarm, ...]
    known: OwnDays
    started: Started
    revision: Stamp
    level_at: datetime | None

    @property
    def reserve(self) -> float:
        """What its owner keeps at arrival, 0 to 1."""
        return self.owned.habit.reserve

    @property
    def floor(self) -> float:
        """The lowest level that its owner plans to see, 0 to 1."""
        return self.owned.habit.floor

    @property
    def feed(self) -> bool:
        """Whether somebody publishes its tariff's dated prices."""
        return bool(self.owned.pays.feed)

    @property
    def other_tariff(self) -> str:
        """The tariff that it is priced by, when that is not its own; else ""."""
        name = self.plan.request.tariff.name
        return name if name != self.owned.pays.name else ""

    @property
    def open(self) -> SavedPlan | None:
        """The plan that waits for what happened on it."""
        return self.nights.open

    @property
    def noted(self) -> tuple[DrivenPlan, ...]:
        """The latest plans with what was driven on them."""
        return self.nights.noted

    @property
    def control(self) -> Control:
        """How the night is carried out."""
        return self.plan.request.control

    @property
    def raises(self) -> bool:
        """Whether a higher limit for this night alone is proposed, and would help: also where even a full pack lacks something."""
        advice = self.limit_advice
        higher = advice.target_soc > self.inputs.limit + LOWER_SOC
        return not self.idle and self.plan.reaches_limit and higher and advice.need in (Need.RAISE, Need.FULL, Need.TOO_FAR)

    def plug_in(self, coin: float) -> PlugIn:
        """When to plug in; `coin` is the smallest amount that its reader's money shows, in the tariff's."""
        needed = self.limit_advice.need is not Need.SKIP
        return plug_in(self.plan, self.control, self.now, needed=needed, coin=coin)

    @property
    def expected_soc(self) -> float | None:
        """The level that the kept plan has by now, 0 to 1; None without one that has begun."""
        return None if self.kept is None else self.kept.soc_at(self.now)

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
            limit=self.inputs.limit,
            soc_now=self.inputs.soc_now,
            as_needed=self.as_needed,
            floor=self.floor,
            chemistry=self.car.pack.chemistry,
            days_since_full=None if full is None else (self.now - full).total_seconds() / 86_400.0,
            longest_ahead=bool(self.due) and self.inputs.km >= self.nights.longest_km - 0.5,
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
        points, *tally = in_one_batch(*works)
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
    snapshot: Snapshot,
    car_id: int | None = None,
    override: Callable[[NightInputs], NightInputs] = lambda defaults: defaults,
    day: str = "",
    tariff: int | None = None,
) -> Tonight:
    """Compute the room for a car (the first when None) with the inputs that were set, for a kept day when its key is given, priced by
    another tariff than the car's when its number is.

    Raises: NotSetUp for an empty household, Refusal with its field for an input that cannot be.
    """
    now = now_of(snapshot, car_id, tariff)
    defaults = now.defaults_on(day)
    inputs = override(defaults)
    if inputs.charges is Charges.AS_NEEDED and now.kept is None and not now.idle:
        defaults = replace(defaults, limit=_needed(snapshot, now, inputs))
        inputs = override(defaults)
    idle = now.idle and now.kept is None and not day and inputs.depart == defaults.depart

    def work() -> Tonight:
        return _compute(now, snapshot.home.names, (defaults, inputs), _nights(snapshot, now), idle)

    return in_this_minute(snapshot, ("tonight", now.owned.id, inputs, idle, now.tariff.name), work)


def _needed(snapshot: Snapshot, now: Now, inputs: NightInputs) -> float:
    """The limit of a habit that charges only as much as the day with these inputs needs."""
    full = replace(inputs, limit=1.0)

    def work() -> float:
        found = _compute(now, (), (full, full), NOTHING_KEPT, False)
        return max(0.1, target_as_needed(found.need_limit, now.owned.habit.floor))

    return in_this_minute(snapshot, ("needed", now.owned.id, full, now.tariff.name), work)


def _compute(
    now: Now, cars: tuple[tuple[int, str], ...], asked: tuple[NightInputs, NightInputs], nights: Nights, idle: bool
) -> Tonight:
    defaults, inputs = asked
    made = evening(now, replace(inputs, warm_up=WarmUpChoice.NOTHING) if idle else inputs)
    if idle:  # nobody leaves: whether the cable is in is all the same
        made = replace(made, request=replace(made.request, plug_in=made.request.departure))
    car, trip, conditions, night = made.request.car, made.trip, made.conditions, plan(made.request)
    return Tonight(
        owned=now.owned,
        car=car,
        cars=cars,
        currency=now.currency,
        now=now.now,
        inputs=inputs,
        defaults=defaults,
        habits=now.habits,
        rate=made.request.rate,
        plan=night,
        trip=trip,
        conditions=conditions,
        start=Start(night.soc_departure, night.warm.pack_c, night.warm.cabin_c),
        weather=made.weather,
        outside=_outside(made.weather, night.start, made.request.departure),
        tyre_cold_kpa=made.tyre_kpa,
        tyre_read_c=now.tyres.read_c,
        kept=now.kept,
        nights=nights,
        as_needed=inputs.charges is Charges.AS_NEEDED,
        due=now.due,
        idle=idle,
        days=now.days,
        outing=now.outing(inputs),
        alarms=now.alarms,
        known=now.errors,
        started=started_of(now.started, now.owned.at, car),
        revision=now.revision,
        level_at=now.level_at,
    )


def _nights(snapshot: Snapshot, now: Now) -> Nights:
    """What the log has of a car's nights."""
    owned, (last, driven) = now.owned, last_plan(snapshot.log, now.owned.id, now.now)
    by_day: dict[date, float] = {}
    for each in owned.due_between(now.now, now.now + timedelta(days=7)):
        by_day[each.at.date()] = by_day.get(each.at.date(), 0.0) + 2 * each.listed.km
    return Nights(
        open=None if driven else last,
        noted=plans_driven(snapshot.log, owned.id),
        last=last,
        full_at=full_at(snapshot.log, owned, now.now),
        longest_km=max(by_day.values(), default=0.0),
    )


def _outside(weather: Weather, start: datetime, departure: datetime) -> tuple[tuple[datetime, float], ...]:
    """Outside temperature on whole local hours from an hour before the start to an hour after departure."""
    local = (start - timedelta(hours=1)).astimezone(departure.tzinfo).replace(minute=0, second=0, microsecond=0)
    first = local.astimezone(UTC)
    hours = int((departure.astimezone(UTC) - first).total_seconds() // 3600) + 3
    return tuple((at, weather.temperature_c(at)) for at in (first + timedelta(hours=h) for h in range(hours)))
