"""A night again, with faults that somebody drops on it; and a year of such nights, drawn from a seed."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from random import Random
from statistics import median

from ..core.charge.control import Control
from ..core.charge.night import NightRequest
from ..core.coming.car_ahead import CarAhead
from ..core.coming.night import need_limit
from ..core.errors import Missing
from ..core.heat.around import parked_between
from ..core.home import OfCar, OwnedCar
from ..core.live.faults import Fault, FaultKind, Faults, drawn
from ..core.live.hindsight import Hindsight, hindsight
from ..core.live.replay import Replay, replay
from ..household.snapshot import Snapshot
from .shared.coming import ahead_of
from .shared.derived import in_this_minute
from .shared.past_nights import LONGEST, PastNight, past_nights

AIR_SIGMA_K, DAY_SHARE = 4.0, (0.4, 1.6)
"""How far the air of a made-up night is off the normal (one standard deviation), and its day's use in shares of the next day's."""


@dataclass(frozen=True)
class Dropped:
    """A fault that somebody dropped on the night: which ("": none), when by the local clock, and for how many minutes."""

    kind: str
    at: time
    minutes: float = 60.0


SLOTS = tuple(Dropped("", time(hour)) for hour in (2, 3, 4))


@dataclass(frozen=True, kw_only=True)
class ReplayInputs:
    """What can be set: some faults; what is left of the current and where the car stops by itself where they are of that kind; whether
    the car tells its level; a seed for faults at random (0: none); and the day on which a night of the log was left (None: the coming one).
    """

    soc: float
    left_on: date | None = None
    dropped: tuple[Dropped, ...] = SLOTS
    amps: float = 8.0
    own_limit: float = 0.6
    tells: bool = False
    seed: int = 0

    def faults(self, start: datetime, departure: datetime) -> Faults:
        """The faults on a night (aware, local), those that were dropped first."""
        more = drawn(Random(self.seed), start, departure).each if self.seed else ()  # noqa: S311 - a made-up night, no secret
        return Faults((*self.placed(start, departure).values(), *more))

    def placed(self, start: datetime, departure: datetime) -> dict[int, Fault]:
        """The dropped faults that fall on a night, by their places from 1: each the next time that its clock shows."""
        found = dict[int, Fault]()
        for i, each in enumerate(self.dropped, 1):
            if not each.kind:
                continue
            clock = (datetime.combine(start.date() + timedelta(days=day), each.at, start.tzinfo) for day in (0, 1))
            begin = next(at for each_day in clock if (at := each_day.astimezone(UTC)) >= start or each_day.date() > start.date())
            kind, end = FaultKind(each.kind), begin + timedelta(minutes=each.minutes)
            if kind is FaultKind.LATE:
                begin, end = start, begin
            elif kind is FaultKind.OWN_LIMIT:
                begin, end = start, departure
            elif kind is FaultKind.EARLIER:
                begin, end = max(start, begin - timedelta(hours=1)), begin
            if begin < departure and end > begin:
                found[i] = Fault(kind=kind, begin=begin, end=min(end, departure), amps=self.amps, soc=self.own_limit)
        return found


@dataclass(frozen=True, kw_only=True, eq=False)
class ReplayRoom(OfCar):
    """Everything the room shows: a night, done again with its faults; `places` are those of the first of them among the inputs, `past` what
    it was where it is one of the log.
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: ReplayInputs
    defaults: ReplayInputs
    places: tuple[int, ...]
    past: Hindsight | None
    done: Replay


def replay_room(
    snapshot: Snapshot, car_id: int | None = None, override: Callable[[ReplayInputs], ReplayInputs] = lambda defaults: defaults
) -> ReplayRoom:
    """A night of a car (the first when None), again: the coming one, or one of the log. Raises: NotSetUp; Refusal with its field."""
    owned = snapshot.home.ready_car(car_id)
    past = _past(snapshot, owned, override(ReplayInputs(soc=0.5)).left_on)
    asked, need = _night(ahead_of(snapshot, car_id)) if past is None else _again(past, owned)
    defaults = ReplayInputs(soc=round(asked.soc, 2))
    inputs = override(defaults)
    was = None if past is None else _was(snapshot, owned, past)

    def work() -> ReplayRoom:
        here = replace(asked, soc=inputs.soc)
        start, leaves = max(here.now, here.plug_in), here.departure
        span = start.astimezone(owned.zone), leaves.astimezone(owned.zone)
        done = replay(here, inputs.faults(*span), need, tells_soc=inputs.tells, control=owned.habit.control)
        return ReplayRoom(
            owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, places=tuple(inputs.placed(*span)),
            past=was, done=done,
        )  # fmt: skip

    return in_this_minute(snapshot, ("replay", owned.id, inputs), work)


def _past(snapshot: Snapshot, owned: OwnedCar, left_on: date | None) -> PastNight | None:
    """The night of the log after which somebody left on a day, the one that took most where there are two; None where none is asked for."""
    if left_on is None:
        return None
    since = datetime.combine(left_on, time(), owned.zone)
    found = [
        each
        for each in past_nights(snapshot, owned, since - LONGEST, since + timedelta(days=1))
        if each.request.departure.astimezone(owned.zone).date() == left_on
    ]
    if not found:
        raise Missing("The log has no night at home before that day that was charged, with its levels.", "left_on")
    return max(found, key=lambda each: each.request.target_soc - each.request.soc)


def _was(snapshot: Snapshot, owned: OwnedCar, past: PastNight) -> Hindsight:
    """What a night of the log was; faults that are dropped on it change nothing of it."""
    return in_this_minute(snapshot, ("past", owned.id, past.spans[0]), lambda: hindsight(past.request, past.spans))


def _again(past: PastNight, owned: OwnedCar) -> tuple[NightRequest, float]:
    """A night of the log as somebody linked would have carried it out, and the level that the drive after it needed."""
    asked = replace(past.request, control=Control())
    need = past.used + owned.habit.reserve if past.used else asked.target_soc
    return asked, min(asked.target_soc, need)


def _night(ahead: CarAhead) -> tuple[NightRequest, float]:
    """The next night on which it charges as somebody linked would carry it out, and the level that its day needs."""
    night = ahead.night(ahead.next_charge)
    asked = replace(night.evening.request, control=Control())
    if not asked.plugged:
        asked = replace(asked, plug_in=asked.now)
    return asked, min(asked.target_soc, max(0.0, need_limit(ahead.tonight, ahead.now.owned.habit.reserve)))


@dataclass(frozen=True, kw_only=True)
class Figures:
    """What many nights came to: how many, with a fault, under the need with the runner, of these where it could have been met, in silence,
    under the need with nobody who watches; the runner's bill above hindsight's where levels are the same, in the median and at most; both
    bills (money).
    """

    nights: int
    with_faults: int
    short: int
    short_needlessly: int
    silent: int
    short_alone: int
    above_median: float
    above_most: float
    above_most_without: float
    cost: float
    best_cost: float
    currency: str


def nights_again(
    snapshot: Snapshot, car_id: int | None, nights: int, seed: int, tick: Callable[[], None] = lambda: None
) -> Figures:
    """So many made-up nights of a car in its home's climate, on its outlet and tariff, with faults from a seed. Raises: NotSetUp."""
    ahead = ahead_of(snapshot, car_id)
    asked, need = _night(ahead)
    done = []
    for number in range(nights):
        done.append(_made_up(ahead, asked, need, number=number, draw=Random(seed * 100_003 + number)))  # noqa: S311 - no secret
        tick()
    same = [each for each in done if each.above is not None]
    above = [each.above or 0.0 for each in same]
    without = [each.above or 0.0 for each in same if not each.faults.each]
    return Figures(
        nights=nights,
        with_faults=sum(bool(each.faults.each) for each in done),
        short=sum(each.short for each in done),
        short_needlessly=sum(each.short and each.feasible for each in done),
        silent=sum(each.silent for each in done),
        short_alone=sum(each.alone.soc < each.need_soc - 0.01 for each in done),
        above_median=median(above) if above else 0.0,
        above_most=max(above, default=0.0),
        above_most_without=max(without, default=0.0),
        cost=sum(each.runner.cost for each in same),
        best_cost=sum(each.best_cost for each in same),
        currency=snapshot.home.currency,
    )


def _made_up(ahead: CarAhead, asked: NightRequest, need: float, *, number: int, draw: Random) -> Replay:
    """A night some days after the next one: its own air, its own level at home and need."""
    days, zone, owned = timedelta(days=number), ahead.now.owned.zone, ahead.now.owned
    plug_in, leaves = ((each.astimezone(zone) + days) for each in (max(asked.now, asked.plug_in), asked.departure))
    off_k = draw.gauss(0.0, AIR_SIGMA_K)

    def air_c(at: datetime) -> float:
        return ahead.now.outside.temperature_c(at) + off_k

    around = parked_between(air_c, plug_in, leaves, *owned.place.standing)
    target = asked.target_soc
    used = max(0.05, target - asked.soc) * draw.uniform(*DAY_SHARE)
    soc = min(max(0.05, target - used), target)
    request = replace(
        asked, now=plug_in, plug_in=plug_in, departure=leaves, ambient_c=around, pack_c=float(around(plug_in)) + 3.0, soc=soc
    )
    faults = drawn(draw, plug_in, leaves)
    return replay(request, faults, min(target, need * draw.uniform(0.8, 1.1)), tells_soc=draw.random() < 0.5)
