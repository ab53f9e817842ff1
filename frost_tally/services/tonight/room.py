"""Tonight: from what the home knows and the levers to the night plan, the tally and the arrival band."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import cached_property

from ...core.advice.limit import Charges, LimitAdvice, Need, advise_limit
from ...core.advice.night_inputs import DECIDED, NightInputs
from ...core.car import Car
from ...core.charge.control import Control
from ...core.charge.night import NightPlan
from ...core.charge.plan import LOWER_SOC
from ...core.charge.plug_in import PlugIn, plug_in
from ...core.charge.saved_plan import DrivenPlan, SavedPlan
from ...core.charge.supply import ChargeRate
from ...core.coming.car_ahead import CarAhead
from ...core.coming.event import Event, event
from ...core.coming.kept import has_moved, of_this_evening
from ...core.coming.level import Level, NightTold
from ...core.coming.night import CarNight, Choice, need_limit, need_soc
from ...core.coming.now import STAYS, Now
from ...core.drive.batch import alone
from ...core.drive.causes import Kind
from ...core.drive.certainty import LevelBand, OwnDays
from ...core.drive.day import Start, Trip
from ...core.drive.day_inputs import DayInputs
from ...core.drive.outing import Outing
from ...core.drive.road import Conditions
from ...core.drive.tally import Tally, tallied
from ...core.drive.trip import simulate
from ...core.drive.tyre_log import TyreAlarm
from ...core.heat.schedule import Due
from ...core.home import OfCar, OwnedCar
from ...household.snapshot import Snapshot
from ...household.state import Stamp
from ...world import Weather
from ..shared.coming import coming, shown
from ..shared.facts import last_plan, plans_driven
from ..shared.now import doubted_night, other_level
from .started import Started, started_of

COLD = (Kind.COLD, Kind.HEAT)


@dataclass(frozen=True, kw_only=True)
class Nights:
    """What the log has of a car's nights: the plan that waits for its day, the plans driven, the last one that was kept, and the kilometres
    of the longest listed day of the coming week (0: none).
    """

    open: SavedPlan | None
    noted: tuple[DrivenPlan, ...]
    last: SavedPlan | None
    longest_km: float


@dataclass(frozen=True, kw_only=True, eq=False)
class Tonight(OfCar):
    """Everything the room shows: the car's week with the night that it speaks of; the tally is driven when somebody asks for it.

    `night` is the night that it speaks of: the next on which it charges, else the one before the next drive, `before_drive`. `defaults` are
    the inputs before anybody sets one. `started` is what was seen when the cable went in. `doubt` is the night that the level read last
    contradicts, `other_level` one that was known shortly before and disagrees: when, and which.
    """

    ahead: CarAhead
    night: CarNight
    before_drive: CarNight
    inputs: NightInputs
    defaults: NightInputs
    cars: tuple[tuple[int, str], ...]
    currency: str
    nights: Nights
    started: Started
    doubt: NightTold | None
    other_level: tuple[datetime, float] | None
    revision: Stamp

    @property
    def number(self) -> int:
        """The number of the night that it speaks of."""
        return self.ahead.next_charge

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.state.owned

    @property
    def state(self) -> Now:
        """What is true of it now."""
        return self.ahead.now

    @property
    def now(self) -> datetime:
        """The minute that it is planned in."""
        return self.state.now

    @property
    def level(self) -> Level:
        """The level now, with where it comes from."""
        return self.state.level

    @property
    def kept(self) -> SavedPlan | None:
        """The plan that is kept for a departure to come."""
        return self.state.kept

    @property
    def plan(self) -> NightPlan:
        """The night's plan."""
        return self.night.plan

    @property
    def car(self) -> Car:
        """The car as it charges here, and as its latest days went."""
        return self.plan.request.car

    @property
    def rate(self) -> ChargeRate:
        """What its outlet gives it."""
        return self.night.evening.request.rate

    @property
    def trip(self) -> Trip:
        """The day that follows."""
        return self.before_drive.evening.trip

    @property
    def outing(self) -> Outing:
        """The same as equal trips, where it is no kept day."""
        return self.before_drive.evening.outing

    @property
    def conditions(self) -> Conditions:
        """Of the day's drives."""
        return self.before_drive.evening.conditions

    @property
    def start(self) -> Start:
        """How the day begins."""
        return self.before_drive.start

    @property
    def weather(self) -> Weather:
        """The weather that is planned with."""
        return self.night.evening.weather

    @property
    def tyre_cold_kpa(self) -> float:
        """The cold pressure in the day's air, kPa."""
        return self.before_drive.evening.tyre_kpa

    @property
    def tyre_read_c(self) -> float:
        """The temperature at which the tyres were read, °C."""
        return self.state.tyres.read_c

    @cached_property
    def habits(self) -> NightInputs:
        """The inputs by habit, limit and warm-up as they are decided when nobody sets them, or were for the plan that is kept."""
        chosen = self.kept.overrides if self.kept else ()
        return replace(self.state.habits, **{name: getattr(self.defaults, name) for name in DECIDED if name not in chosen})

    @property
    def as_needed(self) -> bool:
        """Whether it is charged only as much as the days need."""
        return self.inputs.charges is Charges.AS_NEEDED

    @property
    def due(self) -> tuple[Due, ...]:
        """The listed departures of the next outing in the coming week."""
        return self.state.due

    @property
    def idle(self) -> bool:
        """Whether nobody leaves in the coming week."""
        return self.ahead.asked.idle

    @property
    def days(self) -> Mapping[str, tuple[str, DayInputs]]:
        """The kept days by key."""
        return self.state.days

    @property
    def alarms(self) -> tuple[TyreAlarm, ...]:
        """What is wrong with the tyres."""
        return self.state.alarms

    @property
    def known(self) -> OwnDays:
        """How the latest days went against the model."""
        return self.state.errors

    @property
    def level_at(self) -> datetime | None:
        """When the level was read."""
        return self.level.at

    @cached_property
    def outside(self) -> tuple[tuple[datetime, float], ...]:
        """Outside temperature on whole local hours from an hour before the night to an hour after departure."""
        return _outside(self.weather, self.plan.start, self.plan.request.departure)

    @cached_property
    def choice(self) -> Choice:
        """Whether the cable goes in, and why."""
        return self.ahead.choice(self.number)

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

    @property
    def in_turn(self) -> bool:
        """Whether the cable is this car's for the night, or a part of it, and goes in."""
        return self.idle or self.night.turn.span is not None

    @property
    def comes_over(self) -> bool:
        """Whether another car has the cable before."""
        span = self.night.turn.span
        usual = self.ahead.evenings[self.number].request.plug_in
        return span is not None and span.begin_s > usual.timestamp() + 60.0

    @property
    def others_plugged(self) -> tuple[str, ...]:
        """The names of the other cars that have the cable on this night."""
        number, me = self.number, self.ahead
        others = [each for each in me.group.cars if each is not me and each.turns[number].span is not None]
        return tuple(each.now.owned.name for each in others)

    @cached_property
    def event(self) -> Event:
        """What comes next for the car."""
        return event(self.state, self.night)

    @property
    def raised(self) -> bool:
        """Whether the limit is above the habit's for this night alone, as the day needs it."""
        return self.night.raised and self.ahead.asked.takes("limit") and not self.fills

    @property
    def fills(self) -> bool:
        """Whether this is the night of the full charge that an LFP pack wants."""
        asked = self.ahead.asked
        return asked.full_night == self.number and self.night.plugged

    def plug_in(self, coin: float) -> PlugIn:
        """When to plug in; `coin` is the smallest amount that its reader's money shows, in the tariff's."""
        needed = self.limit_advice.need is not Need.SKIP
        return plug_in(self.plan, self.control, self.now, needed=needed, coin=coin)

    @property
    def by_itself(self) -> bool:
        """Whether its owner keeps every evening's plan, and nothing stands against keeping this one: no change, no question, no error."""
        asks = self.doubt is not None or self.open is not None or self.level.asks or self.started.blocked
        as_usual = self.inputs == self.defaults and not self.other_tariff
        before = self.event is Event.PLUG_IN and not self.idle and of_this_evening(self.plan, self.now)
        return self.owned.habit.keeps and self.kept is None and before and as_usual and not asks

    @cached_property
    def moved(self) -> bool:
        """Whether the plan that is kept says something else than the night as it is now, as nobody changed anything since."""
        return self.kept is not None and self.inputs == self.defaults and has_moved(self.kept, self.night)

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
        full = self.state.full_at
        return advise_limit(
            need_soc=self.need_limit,
            limit=self.inputs.limit,
            soc_now=self.before_drive.soc,
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
    def tally(self) -> Tally | None:
        """Where the kilometres of a mild day go; None where there are none left to count."""
        if self.start.soc <= self.reserve + 0.005:
            return None
        more = {"reserve_soc": self.reserve, "standby_soc": self.stood_soc, "price_per_kwh": self.plan.price_in_pack}
        return alone(tallied(self.car, self.trip, self.conditions, self.start, **more))

    @property
    def stood_soc(self) -> float:
        """What standing after the charge, and a warm-up from the pack, took of the level before it leaves, 0 to 1."""
        return round(max(0.0, self.before_drive.plan.highest_soc - self.start.soc), 6)

    @property
    def arrival(self) -> LevelBand:
        """The level's band when the day is over."""
        return self.before_drive.arrival

    @property
    def need_soc(self) -> float:
        """The level at departure whose cautious arrival is just the reserve."""
        return need_soc(self.before_drive, self.reserve)

    @property
    def need_limit(self) -> float:
        """The limit that the day needs: the level at departure, and what is lost until then."""
        return need_limit(self.before_drive, self.reserve)

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
    """The room for a car (the first when None) with the inputs that were set, for a kept day when its key is given, priced by another
    tariff than the car's when its number is.

    Raises: NotSetUp for an empty household, Refusal with its field for an input that cannot be.
    """
    found = coming(snapshot, car_id, override, day, tariff)
    ahead, now = found.ahead, found.ahead.now

    def work() -> Tonight:
        night, before_drive = ahead.night(ahead.next_charge), ahead.tonight
        return Tonight(
            ahead=ahead,
            night=night,
            before_drive=before_drive,
            inputs=_shown_inputs(ahead, before_drive),
            defaults=found.defaults,
            cars=snapshot.home.names,
            currency=snapshot.home.currency,
            nights=_nights(snapshot, now),
            started=started_of(now.started, now.owned.at, now.car),
            doubt=doubted_night(snapshot, now.owned),
            other_level=other_level(snapshot, now.owned),
            revision=snapshot.revision,
        )

    return shown(ahead, ("tonight", found.defaults), work)


def _shown_inputs(ahead: CarAhead, before_drive: CarNight) -> NightInputs:
    """The inputs as they are planned with, the level and the weather those of now."""
    base = ahead.asked.base
    if ahead.asked.idle:
        return base
    return replace(before_drive.inputs, soc_now=base.soc_now, out_now_c=base.out_now_c, out_low_c=base.out_low_c)


def _nights(snapshot: Snapshot, now: Now) -> Nights:
    """What the log has of a car's nights."""
    owned, (last, driven) = now.owned, last_plan(snapshot, now.owned.id, now.now)
    by_day: dict[date, float] = {}
    for each in owned.due_between(now.now, now.now + timedelta(days=7)):
        by_day[each.at.date()] = by_day.get(each.at.date(), 0.0) + each.listed.day_km
    return Nights(
        open=None if driven or (last is not None and last.km < STAYS) else last,
        noted=plans_driven(snapshot, owned.id),
        last=last,
        longest_km=max(by_day.values(), default=0.0),
    )


def _outside(weather: Weather, start: datetime, departure: datetime) -> tuple[tuple[datetime, float], ...]:
    """Outside temperature on whole local hours from an hour before the start to an hour after departure."""
    local = (start - timedelta(hours=1)).astimezone(departure.tzinfo).replace(minute=0, second=0, microsecond=0)
    first = local.astimezone(UTC)
    hours = int((departure.astimezone(UTC) - first).total_seconds() // 3600) + 3
    return tuple((at, weather.temperature_c(at)) for at in (first + timedelta(hours=h) for h in range(hours)))
