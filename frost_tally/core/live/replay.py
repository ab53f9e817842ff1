"""A night again: what the runner makes of it, what becomes of its plan when nobody watches, and the cheapest for who knew all."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from ..charge.control import Control
from ..charge.night import NightPlan, NightRequest, in_utc, plan
from ..charge.night_clock import Held, NightClock
from ..charge.session import Session
from ..charge.supply import ChargeRate
from ..errors import Refusal
from ..heat.warm import WarmUpChoice
from .faults import AWAY, FaultKind, Faults
from .hindsight import bill
from .house import House, offered_amps
from .lines import Line, Order, State
from .profile import highest, hours_alone, standing, warms_from
from .runner import DONE_SOC, LACKS_SOC, Runner

TICK, QUIET, AFTER = timedelta(minutes=1), timedelta(minutes=4), timedelta(minutes=12)


@dataclass(frozen=True)
class Outages:
    """What a supply gives by the moment, where that is less than always: in place of the house's own hours when a night is known whole."""

    spans: tuple[tuple[datetime, datetime, float], ...]

    def held(self, rate: ChargeRate, start: datetime, end_s: float, zone: str) -> tuple[Held, ...]:
        """As `HeldHours.held`."""
        found = []
        for begin, end, amps in self.spans:
            begin_s, until_s = (begin - start).total_seconds(), min(end_s, (end - start).total_seconds())
            if until_s > max(0.0, begin_s):
                found.append(Held(max(0.0, begin_s), until_s, rate.held_to(amps)))
        return tuple(found)


@dataclass(frozen=True, kw_only=True)
class Course:
    """A way through the night: its session, the bill (money), the level it leaves with (0 to 1), and what was decided on it."""

    session: Session
    cost: float
    soc: float
    lines: tuple[Line, ...] = ()

    @property
    def told(self) -> bool:
        """Whether somebody was told that something is amiss, before the car left."""
        return any(line.tells and line.state is not State.LEFT for line in self.lines)


@dataclass(frozen=True, kw_only=True)
class Replay:
    """One night three ways: with the runner, with the evening's plan and nobody who watches, and as it would have been planned by who knew
    all (None: not even then anything could be drawn). `departure` is when the car really left.
    """

    request: NightRequest
    faults: Faults
    need_soc: float
    departure: datetime
    evening: NightPlan
    runner: Course
    alone: Course
    hindsight: NightPlan | None

    @property
    def feasible(self) -> bool:
        """Whether the need could have been met, knowing all."""
        return self.hindsight is not None and self.best_soc >= self.need_soc - DONE_SOC

    @property
    def best_soc(self) -> float:
        """The level that it could have left with, 0 to 1."""
        return self.request.soc if self.hindsight is None else self.hindsight.session.steps[-1].soc

    @property
    def short(self) -> bool:
        """Whether it left with less than it needs."""
        return self.runner.soc < self.need_soc - DONE_SOC

    @property
    def silent(self) -> bool:
        """Whether it left short though it need not have, and nobody was told."""
        return self.short and self.feasible and not self.runner.told

    @property
    def best_cost(self) -> float:
        """The bill of the hindsight, money."""
        return 0.0 if self.hindsight is None else bill(self.hindsight)

    @property
    def above(self) -> float | None:
        """By which share the runner's bill is above hindsight's; None where their levels differ, or nothing was to be paid."""
        if self.best_cost <= 0.01 or abs(self.runner.soc - self.best_soc) > DONE_SOC:
            return None
        return self.runner.cost / self.best_cost - 1.0


def replay(
    request: NightRequest, faults: Faults, need_soc: float, *, tells_soc: bool = False, control: Control | None = None
) -> Replay:
    """The night of a request with faults; `need_soc` is the level that it needs to leave with (0 to 1), `control` how it is carried out
    where nobody watches (None: as the request says).

    Raises: what `plan` raises.
    """
    ask = in_utc(request)
    start = max(ask.now, ask.plug_in)
    departure = faults.departure(ask.departure)
    end_s = (ask.departure - start).total_seconds()
    held = ask.held.held(ask.rate, start, end_s, ask.tariff.zone)
    clock = NightClock(start, end_s, tuple(ask.tariff.prices(start, ask.departure)), held)
    evening = plan(replace(ask, now=start, plug_in=start))
    quiet = not faults.each and need_soc - highest(evening) <= LACKS_SOC  # nothing more could be known
    return Replay(
        request=ask,
        faults=faults,
        need_soc=need_soc,
        departure=departure,
        evening=evening,
        runner=_watched(replace(ask, now=start, plug_in=start), faults, need_soc, clock, tells_soc),
        alone=_alone(replace(ask, now=start, plug_in=start, control=control or ask.control), faults, clock),
        hindsight=evening if quiet else _hindsight(ask, faults, need_soc, clock=clock, departure=departure),
    )


def _watched(ask: NightRequest, faults: Faults, need_soc: float, clock: NightClock, tells_soc: bool) -> Course:
    """With the runner."""
    house, runner = House(request=ask, faults=faults, clock=clock, tells_soc=tells_soc), Runner(ask, need_soc, plan)
    moved = sorted(faults.of((FaultKind.EARLIER,)), key=lambda each: each.begin)
    at, end = ask.now, faults.departure(ask.departure)
    while at <= end:
        house.until(max(at, house.now))
        while moved and moved[0].begin <= at:
            earlier = moved.pop(0)
            if earlier.end < runner.departure:
                _obey(house, runner.leave_at(earlier.end, at))
        order = None if faults.any_at(at, FaultKind.SERVER_DOWN) else runner.tick(house.seen())
        if order is not None:
            _obey(house, order)
        at = min(end, _next(house, at, runner.state)) if at < end else end + TICK
    return _course(house, clock, tuple(runner.lines))


def _obey(house: House, order: Order) -> None:
    house.profile, house.warms_from = order.profile, order.warms_from
    if order.wake:
        house.wake()


def _alone(ask: NightRequest, faults: Faults, clock: NightClock) -> Course:
    """By the evening's plan and nobody who watches: its hours stand in the point, or what starts once draws on until the car stops. A car
    that sleeps is not woken.
    """
    made = plan(ask)
    stands = standing(made, ask.rate.amps) if ask.control.kind.one_start else hours_alone(made)
    asked = {"profile": stands, "warms_from": warms_from(made)}
    house = House(request=ask, faults=faults, clock=clock, **asked)  # type: ignore[arg-type]
    house.until(faults.departure(ask.departure))
    return _course(house, clock)


def _course(house: House, clock: NightClock, lines: tuple[Line, ...] = ()) -> Course:
    session = house.session()
    return Course(session=session, cost=clock.bill(session), soc=session.steps[-1].soc, lines=lines)


def _next(house: House, at: datetime, state: State) -> datetime:
    """When to look next: each minute where something happens or may have, else as seldom as changes nothing: while nothing may be drawn,
    and in a night without a fault long before the car can reach where it stops, and once it has.
    """
    edges = [edge for each in house.faults for edge in (each.begin, each.end)] + [begin for begin, _ in house.profile.periods]
    draws_on = state is State.CHARGES and house.draws_for_s > QUIET.total_seconds()
    steady = not house.faults.each and (draws_on or state is State.DONE)
    if (house.profile.amps(at) and not steady) or any(edge - TICK <= at <= edge + AFTER for edge in edges):
        return at + TICK
    return min([at + QUIET, *(edge for edge in edges if edge > at)])


def _hindsight(ask: NightRequest, faults: Faults, need_soc: float, *, clock: NightClock, departure: datetime) -> NightPlan | None:
    """The best for who knew all: when the cable is in, what the supply gives, when it leaves, where the car stops."""
    limit, start = min(ask.target_soc, faults.limit(ask.target_soc)), clock.start
    outages = Outages(tuple(_outages(ask.rate, faults, clock, departure)))
    known = replace(ask, now=start, plug_in=start, departure=departure, target_soc=max(0.1, limit), held=outages)  # type: ignore[arg-type]
    try:
        best = plan(known)
        if need_soc - highest(best) > LACKS_SOC:
            best = plan(replace(known, margin_min=0.0, choice=WarmUpChoice.NOTHING))
        return best
    except Refusal:
        return None


def _outages(rate: ChargeRate, faults: Faults, clock: NightClock, end: datetime) -> Iterable[tuple[datetime, datetime, float]]:
    """Where the supply gives less than always, by faults and by the house: sorted, disjoint."""
    start, house = clock.start, [clock.moment(edge) for each in clock.held for edge in (each.begin_s, each.end_s)]
    stops = (FaultKind.POWER_CUT, FaultKind.REFUSES, *AWAY)
    edges = sorted(
        {
            start,
            end,
            *(min(max(edge, start), end) for edge in [*house, *(edge for each in faults for edge in (each.begin, each.end))]),
        }
    )
    for begin, until in zip(edges, edges[1:], strict=False):
        middle = begin + (until - begin) / 2
        here = None if faults.any_at(middle, *stops) else clock.rate_at(clock.seconds(middle), rate)
        amps = 0.0 if here is None else offered_amps(here, faults, middle)
        if amps < rate.amps and until > begin:
            yield begin, until, amps
