"""The night plan: when to draw power so that the car is ready, at least cost."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal, require
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H
from ..why import NOTHING_TO_SAY, Why, why
from .night_clock import HeldHours, NightClock, Schedule
from .plan import Block, HeldSpan
from .plan import NightPlan as NightPlan
from .plan import NightRequest as NightRequest
from .plan import Rival as Rival
from .rivals import Others
from .schedules import AIR_S, ScheduleSearch, schedules, tapers
from .starts import EveryStart
from .supply import ChargeRate
from .tariff import Tariff
from .weighing import Weighing

EQUAL_SHARE = figure("night.equal", 0.001, "", Basis.COMMON_PRACTICE, "within this share of its cost the tie-break chooses")
ROUNDS, NO_SOC = 4, 1e-7
PRICE_DIGITS, DEPARTURE_DIGITS = 6, 5
"""Of a kWh in the pack and of the level at departure: finer than anybody can tell, so that the same night leaves the same a minute later,
and its day is driven once."""


def plan(request: NightRequest) -> NightPlan:
    """Least-cost plan that reaches the target by departure less the margin, or comes as close as it can.

    Order of goals: reach the target; cost with wear, less what the warmth spares and the level that is left; fewest starts; then the
    owner's tie_break. With a warm pack, no wear and no taper the cost is the optimum of the mixed-integer problem. A control that starts
    once a night gets the best of all its starts (docs/decisions/0053); else the hours by price and every start are weighed together.
    Raises: Refusal for a departure that is not after now, or levels out of range.
    """
    return plans(request, (request.choice,))[request.choice]


def plans(request: NightRequest, choices: Sequence[WarmUpChoice]) -> dict[WarmUpChoice, NightPlan]:
    """`plan` for several warm-ups of one night: what is the same for them is simulated once, and a night that was asked for lately (of
    equal inputs) is not worked out again.
    """
    return dict(_plans(in_utc(request), tuple(choices)))


@lru_cache(maxsize=64)
def _plans(request: NightRequest, choices: tuple[WarmUpChoice, ...]) -> Mapping[WarmUpChoice, NightPlan]:
    if request.departure <= request.now:
        raise Refusal("The departure has passed: set a later one.", "depart")
    require(100 * request.soc, 0, 100, "The level now", "%", "soc_now")
    require(100 * request.target_soc, 10, 100, "The limit", "%", "limit")
    search = _search(request)
    every, chosen = EveryStart(search), dict[float, tuple[Schedule, list[Schedule]]]()
    return {choice: _Night(replace(request, choice=choice), search, every, chosen).plan() for choice in choices}


def _search(request: NightRequest) -> ScheduleSearch:
    start = max(request.now, request.plug_in) if request.plugged else request.now
    clock = _clock(request.tariff, start, request.departure, request.held, request.rate)
    air_c = _air(request.ambient_c, start, clock.end_s)
    starts, once = request.control.starts(start, clock.end_s, request.tariff.zone), request.control.kind.one_start
    at = {"pack_c": request.pack_c, "air_c": air_c, "starts": starts, "one_start": once}
    return schedules(clock, request.car, request.rate, request.soc, request.target_soc, **at)


@lru_cache(maxsize=16)
def _clock(tariff: Tariff, start: datetime, departure: datetime, held: HeldHours, rate: ChargeRate) -> NightClock:
    """A night's prices and hours of the house, kept: one night is asked for several warm-ups and levels."""
    end_s = (departure - start).total_seconds()
    return NightClock(start, end_s, tuple(tariff.prices(start, departure)), held.held(rate, start, end_s, tariff.zone))


@lru_cache(maxsize=16)
def _air(ambient_c: Callable[[datetime], float], start: datetime, end_s: float) -> tuple[float, ...]:
    """Air around the car (°C) on every five minutes of a night."""
    return tuple(float(ambient_c(start + timedelta(seconds=AIR_S * i))) for i in range(int(end_s // AIR_S) + 2))


def in_utc(request: NightRequest) -> NightRequest:
    """The same request on UTC, where subtracting two times gives real seconds also on the nights the clocks change, and two moments of the
    hour that comes twice are not equal.
    """
    moved = {name: getattr(request, name).astimezone(UTC) for name in ("now", "plug_in", "departure")}
    unplug = None if request.unplug is None else request.unplug.astimezone(UTC)
    return replace(request, unplug=unplug, **moved)


class _Night:
    """One warm-up on one night: its schedules are weighed with what follows from each."""

    def __init__(
        self,
        request: NightRequest,
        search: ScheduleSearch,
        every: EveryStart,
        chosen: dict[float, tuple[Schedule, list[Schedule]]],
    ) -> None:
        self.request, self.search, self.every, self.clock, self.chosen = request, search, every, search.clock, chosen
        self.end_s, self.late_choice = search.clock.end_s, request.choice is WarmUpChoice.LATE
        self.tie_break = "late" if self.late_choice else request.tie_break
        self.able: list[Schedule] | None = None
        self.last_s = search.clock.end_s if request.unplug is None else max(0.0, search.clock.seconds(request.unplug))

    def plan(self) -> NightPlan:
        """The plan; a warm-up that needs the margin makes charging end before it, and a target out of reach may use what is left of it."""
        margin_s = 0.0 if self.late_choice else 60.0 * self.request.margin_min
        deadline_s = min(max(0.0, self.end_s - margin_s), self.last_s)
        price = self._price(self.search.by_price(deadline_s, "late") if self.request.plugged else self.search.idle)
        self.weighing = Weighing(self.request, self.clock, price)
        made = self.best(deadline_s)
        warm_s = self.end_s - self.weighing.of(made).warm.lead_s
        if made.done_s <= warm_s + 1e-6 and self.search.reaches(made):
            return self.result(made, min(deadline_s, warm_s))
        deadline_s = min(max(0.0, warm_s), self.last_s)
        return self.result(self.best(deadline_s), deadline_s)

    def rest(self, request: NightRequest, whole: Others) -> NightPlan | None:
        """See `NightPlan.rest`."""
        made = whole.made
        ask = replace(in_utc(request), choice=self.request.choice)
        search = _search(ask)
        night, gone_s = _Night(ask, search, EveryStart(search), {}), (search.clock.start - self.clock.start).total_seconds()
        night.weighing = Weighing(ask, search.clock, self.weighing.price)
        left = search.simulated([(max(0.0, begin - gone_s), end - gone_s) for begin, end in made.asked if end > gone_s])
        if search.need_kwh <= 0 or not search.reaches(left):
            return None
        drawn = any(step.wall_kw > 0 and step.at_s <= gone_s for step in made.session.steps)
        return night.result(left, whole.deadline_s - gone_s, None if drawn else whole)

    def _price(self, schedule: Schedule) -> float:
        """What a kWh in the pack costs: the charging's bill over what it put in, else the cheapest hour's price."""
        charged = schedule.session.pack_kwh
        cheapest = min((slot.price_per_kwh for slot in self.clock.prices), default=0.0)
        return max(0.0, schedule.bill / charged if charged > 0.5 else cheapest / self.request.rate.efficiency)

    def best(self, deadline_s: float) -> Schedule:
        """The schedule that is kept; warm-ups that leave the pack alone share it."""
        if self.request.warms_pack or self.late_choice:
            return self._best(deadline_s)
        if deadline_s not in self.chosen:
            # as if nothing were warmed: so a night comes out the same whichever warm-ups it is asked for with
            plain = _Night(replace(self.request, choice=WarmUpChoice.NOTHING), self.search, self.every, self.chosen)
            plain.weighing = Weighing(plain.request, self.clock, self.weighing.price)
            self.chosen[deadline_s] = plain._best(deadline_s), plain.able or []
        made, self.able = self.chosen[deadline_s]
        return made

    def _best(self, deadline_s: float) -> Schedule:
        """The best of what control and supply allow until a time: docs/decisions/0053."""
        search = self.search
        if not self.request.plugged or search.need_kwh <= 0:
            return search.idle
        # Where price alone tells the hours apart they are exact, and no other schedule can be cheaper.
        if not search.one_start and not self._more_than_price():
            return search.by_price(deadline_s, self.tie_break)
        by_price, with_taper = self._by_hours(deadline_s)
        found = [*by_price, *with_taper, *self._by_start(deadline_s)]
        able = self.able = [each for each in found if search.reaches(each)]
        if not able:
            found = [*found, *filter(None, [self.every.best_short(deadline_s)])]
            return self._as_much(found, deadline_s) or search.highest(found, deadline_s)
        for each in (by_price, with_taper):  # a price that jumps about has valleys, and each leads into its own
            able += self._moved([schedule for schedule in each if schedule.pauses and search.reaches(schedule)], deadline_s)
        return self._least(able)

    def _as_much(self, short: Sequence[Schedule], deadline_s: float) -> Schedule | None:
        """Where all fall short in the taper, the cheapest that leaves as much as any: the last of a full pack takes hours."""
        search, most_soc = self.search, max((each.highest_soc for each in short), default=0.0)
        if search.one_start or not tapers(most_soc):
            return None
        lower = search.as_high(most_soc)
        night = _Night(self.request, lower, EveryStart(lower), {})
        night.weighing = self.weighing
        made = night._best(deadline_s)
        return search.simulated([(begin, min(end, made.done_s)) for begin, end in made.asked if begin < made.done_s])

    def _least(self, able: Sequence[Schedule]) -> Schedule:
        """Of those that come to the same as the least the owner's tie-break decides, so that a cent does not move the night about."""
        best = self.weighing.least(able)
        least = self.weighing.net(best) + EQUAL_SHARE * abs(self.weighing.cost(best))
        return self._tied([each for each in able if self.weighing.net(each) <= least])

    def _more_than_price(self) -> bool:
        """Whether frost, wear, the air's coolness or the taper make hours of one price unequal; late charging asks for price alone."""
        ask, search = self.request, self.search
        unequal = search.in_frost or ask.pack_price > 0 or self.tie_break == "cool"
        return search.tapers or (unequal and not self.late_choice)

    def _by_hours(self, deadline_s: float) -> tuple[list[Schedule], list[Schedule]]:
        """Hours by price, and those of a full pack, for a control that can draw any: late and early among equals, for a pack that waits
        cools and wears; and as early as they come, for one that is still warm takes in frost what a later start would heat for.
        """
        if self.search.one_start:
            return [], []
        orders = (self.tie_break,) if self.late_choice else ("late", "early", "earliest")
        by_price = [self.search.by_price(deadline_s, each) for each in orders]
        tried = [made for each in orders for made in self.search.tried.get((deadline_s, each), ())]
        return [*by_price, *tried], self.search.with_taper(deadline_s)

    def _by_start(self, deadline_s: float) -> list[Schedule]:
        """Of every single start that reaches the target before its warm-up begins: the best, and the tie-break's of those as good."""
        if not len(self.every.begin_s) or (self.late_choice and not self.search.one_start):
            return []
        net, cost, lead_s = self.weighing.nets(self.every.sessions(deadline_s))
        able = self.every.reaching(deadline_s, self.end_s - lead_s)
        if not able.any():
            return []
        net = np.where(able, net, np.inf)
        best = int(np.argmin(net))
        equal = np.flatnonzero(net <= net[best] + EQUAL_SHARE * abs(cost[best]))
        cool = self.tie_break == "cool"
        place = int(np.argmin(self.every.air_while(deadline_s)[equal])) if cool else {"late": -1, "early": 0}[self.tie_break]
        chosen = {best, int(equal[place])}
        return [self.search.from_start(float(self.every.begin_s[i]), deadline_s) for i in sorted(chosen)]

    def _moved(self, firsts: Sequence[Schedule], deadline_s: float) -> list[Schedule]:
        """The best neighbour of the best of some that draw in several blocks, and the best of its: see `ScheduleSearch.moved`."""
        if not firsts:
            return []
        best, found = self.weighing.least(firsts), list[Schedule]()
        for _ in range(ROUNDS):
            moved = [each for each in self.search.moved(best, deadline_s) if self.search.reaches(each)]
            better = self.weighing.least([best, *moved])
            if self.weighing.net(better) >= self.weighing.net(best):
                break
            found.append(better)
            best = better
        return found

    def _tied(self, equal: Sequence[Schedule]) -> Schedule:
        """The one that the tie-break takes."""
        if self.tie_break == "cool":
            return min(equal, key=self.search.air_while)
        drawn = [each for each in equal if each.intervals] or equal  # so little may be missing that nothing needs to be drawn
        return (min if self.tie_break == "early" else max)(drawn, key=lambda each: each.intervals[:1])

    def rival(self, other: Schedule, made: Schedule) -> Rival:
        other = self.search.told(other)
        start = other.intervals[0][0] if other.intervals else self.end_s
        theirs = self.weighing.of(other)
        return Rival(
            start=self.clock.moment(start),
            end=self.clock.moment(other.done_s if other.intervals else self.end_s),
            cost=theirs.cost,
            pack_c=theirs.warm.pack_c,
            warmth_worth=self.weighing.of(made).warmth - theirs.warmth,
            wear=theirs.wear,
        )

    def result(self, made: Schedule, deadline_s: float, whole: Others | None = None) -> NightPlan:
        ask, search, made = self.request, self.search, self.search.told(made)
        weighed = self.weighing.of(made)
        warm = weighed.warm
        frosty = ask.plugged and search.in_frost and not self.late_choice and not search.one_start
        steps = made.session.steps
        return NightPlan(
            request=ask,
            start=self.clock.start,
            blocks=self._blocks(made),
            warm=warm,
            warm_start=self.clock.moment(self.end_s - warm.lead_s),
            warm_cost=weighed.warm_cost,
            session=made.session,
            prices=self.clock.prices,
            held=self._held(),
            soc_departure=round(weighed.level, DEPARTURE_DIGITS),
            short_soc=short if (short := ask.target_soc - made.highest_soc) > NO_SOC and ask.target_soc > ask.soc else 0.0,
            cost=weighed.cost,
            wear=weighed.wear,
            price_in_pack=round(self._price(made), PRICE_DIGITS),
            frosty=frosty,
            hours_above_80=sum(b.at_s - a.at_s for a, b in pairwise(steps) if b.soc > 0.8 + 1e-6) / S_PER_H,
            reason=self._reason(made, deadline_s),
            others=Others(self, made, deadline_s, frosty, whole),
        )

    def _held(self) -> tuple[HeldSpan, ...]:
        spans = [(self.clock.moment(each.begin_s), self.clock.moment(each.end_s), each.rate) for each in self.clock.held]
        return tuple(HeldSpan(begin, end, rate.amps if rate else 0.0) for begin, end, rate in spans)

    def _blocks(self, made: Schedule) -> tuple[Block, ...]:
        blocks = []
        for begin, end in made.intervals:
            steps = [
                (a, b)
                for a, b in pairwise(made.session.steps)
                if a.at_s >= begin - 1e-6 and b.at_s <= end + 1e-6 and b.wall_kw > 0
            ]
            if steps:
                part = replace(made.session, steps=(steps[0][0], *(b for _, b in steps)))
                blocks.append(
                    Block(
                        self.clock.moment(steps[0][0].at_s),
                        self.clock.moment(steps[-1][1].at_s),
                        sum(b.wall_kw * (b.at_s - a.at_s) / S_PER_H for a, b in steps),
                        self.clock.bill(part),
                        max(b.wall_kw for _, b in steps),
                    )
                )
        return tuple(blocks)

    def _reason(self, made: Schedule, deadline_s: float) -> Why:
        """Why it is so, when the plan is not the plain one."""
        ask, search = self.request, self.search
        if ask.soc >= ask.target_soc:
            return why("at_the_limit")
        if not ask.plugged:
            return why("no_window")
        if ask.rate.pack_kw <= 0:
            return why("all_overhead")
        return NOTHING_TO_SAY if search.reaches(made) else self._why_short(made, deadline_s)

    def _why_short(self, made: Schedule, deadline_s: float) -> Why:
        """Why it falls short: the house's hours, the cold, or else the outlet."""
        ask, search = self.request, self.search
        if search.clock.held and search.reaches(search.unheld(deadline_s)):
            return why("held_hours")
        pack_c = min(step.pack_c for step in made.session.steps)
        if pack_c < search.threshold_c and search.cold_binds(made, deadline_s):
            cold = {"pack_c": pack_c, "from_c": search.threshold_c}
            if ask.car.pack.heater_kw > 0:
                return why("cold_takes_hours", heat_kwh=made.session.heating_kwh, **cold)
            return why("pack_too_cold", **cold)
        return why("weak_outlet", pack_kw=ask.rate.pack_kw, limit=ask.rate.limited_by.value)
