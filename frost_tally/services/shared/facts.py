"""What the log tells of a car, asked of the store once until somebody writes to its tables: every room asks the same each minute."""

from datetime import datetime, timedelta
from functools import partial
from itertools import takewhile

from ...core.battery.cold import Chemistry
from ...core.charge.saved_plan import DrivenPlan, SavedPlan
from ...core.charge.start_check import NotedStart, StartCheck
from ...core.charge.tariff import Tariff
from ...core.drive.tyre_log import Reading, TyreReading
from ...core.home import OwnedCar
from ...core.parts import Contract
from ...household import facts, log, plans, points
from ...household.facts import EVER, known_by
from ...household.prices import with_prices
from ...household.snapshot import Snapshot
from .derived import derived

LEVELS = ("reading", "drive", "charge", "point_report")
DAY_S = 86_400


def level_known(snapshot: Snapshot, car_id: int, before: datetime = EVER) -> tuple[datetime, float] | None:
    """See `facts.level_known`."""
    return derived(snapshot, ("level", car_id, before), lambda: facts.level_known(snapshot.log, car_id, before), LEVELS)


def level_read(snapshot: Snapshot, car_id: int) -> tuple[datetime, float, int] | None:
    """See `facts.level_read`."""
    return derived(snapshot, ("level read", car_id), lambda: facts.level_read(snapshot.log, car_id), LEVELS)


def tyres_now(snapshot: Snapshot, owned: OwnedCar) -> TyreReading:
    """See `facts.tyres_now`."""
    what = "tyres", owned.id, owned.car.tyres.placard_kpa
    return derived(snapshot, what, lambda: facts.tyres_now(snapshot.log, owned), ("reading",))


def wheels_now(snapshot: Snapshot, car_id: int) -> list[Reading]:
    """See `facts.wheels_now`."""
    return derived(snapshot, ("wheels", car_id), lambda: facts.wheels_now(snapshot.log, car_id), ("reading",))


def _kept(snapshot: Snapshot, car_id: int) -> tuple[SavedPlan, ...]:
    tables = ("night_plan", "plan_block")
    return derived(snapshot, ("kept plans", car_id), lambda: plans.kept_plans(snapshot.log, car_id), tables)


def coming_plan(snapshot: Snapshot, car_id: int, now: datetime) -> SavedPlan | None:
    """The kept plan of a car whose departure is still to come, whenever it is."""
    return next((each for each in _kept(snapshot, car_id) if each.departure > now), None)


def plans_since(snapshot: Snapshot, car_id: int, since: datetime, now: datetime) -> tuple[SavedPlan, ...]:
    """The plans of a car that were kept by now and whose departure lies after a time, the earliest first."""
    coming = takewhile(lambda each: each.departure > since, _kept(snapshot, car_id))  # the latest departure is first
    return tuple(reversed([each for each in coming if each.kept_at <= now]))


def last_plan(snapshot: Snapshot, car_id: int, now: datetime) -> tuple[SavedPlan | None, bool]:
    """The latest kept plan whose departure has passed, and whether somebody noted what was driven on it."""
    last = next((each for each in _kept(snapshot, car_id) if each.departure <= now), None)
    noted = derived(snapshot, ("plans noted", car_id), lambda: plans.plans_noted(snapshot.log, car_id), ("drive",))
    return last, last is not None and last.id in noted


def unsaid_plan(snapshot: Snapshot, car_id: int, now: datetime) -> SavedPlan | None:
    """The latest kept plan whose departure has passed, while nobody has noted what was driven on it."""
    plan, driven = last_plan(snapshot, car_id, now)
    return None if driven else plan


def plans_driven(snapshot: Snapshot, car_id: int) -> tuple[DrivenPlan, ...]:
    """See `plans.plans_driven`."""
    tables = ("night_plan", "drive")
    return derived(snapshot, ("plans driven", car_id), lambda: plans.plans_driven(snapshot.log, car_id), tables)


def driven_count(snapshot: Snapshot, car_id: int) -> int:
    """See `facts.driven_count`."""
    return derived(snapshot, ("driven count", car_id), lambda: facts.driven_count(snapshot.log, car_id), ("drive",))


def season_done(snapshot: Snapshot, car_id: int, since: datetime) -> list[tuple[datetime, str, str, int]]:
    """What of `log.season_done` lies after a time and is known."""
    done = derived(snapshot, ("season done", car_id), lambda: log.season_done(snapshot.log, car_id), ("event",))
    until = known_by(snapshot.minute)
    return [each for each in done if since < each[0] < until]


def twelve_volt_read(snapshot: Snapshot, car_id: int) -> list[tuple[datetime, float, float | None]]:
    """What of `facts.twelve_volt_read` is known."""
    seen = derived(snapshot, ("twelve_volt read", car_id), lambda: facts.twelve_volt_read(snapshot.log, car_id), ("reading",))
    until = known_by(snapshot.minute)
    return [each for each in seen if each[0] < until]


def start_noted(snapshot: Snapshot, car_id: int, since: datetime) -> NotedStart | None:
    """The latest check of a start between a time and the present, by somebody or by what a charge point saw flow."""
    seen = derived(snapshot, ("starts", car_id), lambda: _starts(snapshot, car_id), ("start_check", "night_line"))
    return next((each for each in seen if since <= each.at <= known_by(snapshot.minute)), None)


def _starts(snapshot: Snapshot, car_id: int) -> list[NotedStart]:
    flowed = [NotedStart(at, StartCheck(amps=amps)) for at, amps in points.currents_seen(snapshot.log, car_id)]
    return sorted([*plans.starts_noted(snapshot.log, car_id), *flowed], key=lambda each: each.at, reverse=True)


def full_at(snapshot: Snapshot, owned: OwnedCar) -> datetime | None:
    """When an LFP pack was charged full last; None for never, and for the others, which want no full charge."""
    if owned.car.pack.chemistry is not Chemistry.LFP:
        return None
    full = derived(snapshot, ("full", owned.id), lambda: facts.charged_full(snapshot.log, owned.id), ("charge",))
    return next((each for each in full if each < known_by(snapshot.minute)), None)


def tariff_on(snapshot: Snapshot, contract: Contract, first: datetime, last: datetime) -> Tariff:
    """A contract's tariff with the dated prices of whole days about a span of time."""
    begin_s = int(first.timestamp()) // DAY_S * DAY_S
    days = -(int(-last.timestamp()) // DAY_S) - begin_s // DAY_S
    begin = datetime.fromtimestamp(begin_s, first.tzinfo)
    span = begin, begin + timedelta(days=days)
    return derived(snapshot, ("prices", contract, *span), lambda: with_prices(snapshot.log, contract, span), ("price",))


def counted_soc(snapshot: Snapshot, owned: OwnedCar, since: datetime, until: datetime) -> float | None:
    """What the point at a car's outlet gave it between two times (shares of its pack); None where no point was heard then."""
    if owned.outlet is None or not owned.outlet.point:
        return None
    if not _heard_since(snapshot, since):
        return points.counted_unheard(since, known_by(until))
    what, outlet_id = ("counted", owned.id, owned.outlet.id, since, until), owned.outlet.id
    asked = partial(points.counted_between, snapshot.log, outlet_id, owned.id, since, known_by(until))
    return derived(snapshot, what, asked, ("point_report",))


def on_cable(snapshot: Snapshot, owned: OwnedCar, at: datetime) -> bool | None:
    """Whether a car was on its outlet's cable at a time; None where no point tells."""
    if owned.outlet is None or not owned.outlet.point or not _heard_since(snapshot, at - points.FRESH):
        return None
    outlet_id = owned.outlet.id
    asked = partial(points.on_cable_at, snapshot.log, outlet_id, known_by(at))
    told = derived(snapshot, ("on cable", outlet_id, at), asked, ("point_report",))
    return None if told is None else told == owned.id


def _heard_since(snapshot: Snapshot, at: datetime) -> bool:
    """Whether any point told anything from a time on: of a silent one nothing needs to be asked each minute."""
    last = derived(snapshot, "heard at", lambda: points.heard_at(snapshot.log), ("point_report",))
    return last is not None and last >= at


def told_by_point(snapshot: Snapshot, car_id: int, at: datetime) -> bool:
    """Whether the level that is known of a moment was told by a charge point: it says nothing of who came home."""
    last = derived(snapshot, ("told level", car_id), lambda: points.level_told_at(snapshot.log, car_id), ("point_report",))
    return last == at
