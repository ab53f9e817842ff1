"""The night plan: when to draw power so that the car is ready, at least cost."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from itertools import pairwise

from ..basis import Basis, figure
from ..errors import Refusal, require
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H
from ..why import NOTHING_TO_SAY, Why, why
from .drawing import AIR_S, GRID_S, REACHED_SOC, Drawings, drawings
from .night_clock import Drawing, HeldHours, NightClock
from .plan import FULL_SOC, Block, HeldSpan
from .plan import NightPlan as NightPlan
from .plan import NightRequest as NightRequest
from .plan import Rival as Rival
from .starts import Starts
from .supply import ChargeRate
from .tariff import Tariff
from .weighing import Weighing

BILL_SLACK = figure(
    "night.bill_slack", 0.003, "", Basis.COMMON_PRACTICE, "what a warmer or fuller car may cost more when nobody knows the day"
)
EQUAL_SHARE, ROUNDS, LATE_FROM = 0.001, 4, 3


def plan(request: NightRequest) -> NightPlan:
    """Least-cost plan that reaches the target by departure less the margin, or comes as close as it can.

    Order of goals: reach the target; cost; fewest starts; then late or early by the owner's tie_break. With a warm pack and
    no taper the cost is the optimum of the mixed-integer problem. In frost waiting cools the pack, which must be warmed again:
    the hours by price (late and early) and a start on every quarter hour are simulated and the cheapest is kept, with what is
    left at departure counted: level at `price_in_pack`, warmth at what it spares that morning.
    Raises: Refusal for a departure that is not after now, or levels out of range.
    """
    return plans(request, (request.choice,))[request.choice]


def plans(request: NightRequest, choices: Sequence[WarmUpChoice]) -> dict[WarmUpChoice, NightPlan]:
    """`plan` for several warm-ups of one night: what is the same for them is simulated once, and a night that was asked for lately (of
    equal inputs) is not worked out again.
    """
    return dict(_plans(_in_utc(request), tuple(choices)))


@lru_cache(maxsize=64)
def _plans(request: NightRequest, choices: tuple[WarmUpChoice, ...]) -> Mapping[WarmUpChoice, NightPlan]:
    if request.departure <= request.now:
        raise Refusal("The departure has passed: set a later one.", "depart")
    require(100 * request.soc, 0, 100, "The level now", "%", "soc_now")
    require(100 * request.target_soc, 10, 100, "The limit", "%", "limit")
    start = max(request.now, request.plug_in) if request.plugged else request.now
    clock = _clock(request.tariff, start, request.departure, request.held, request.rate)
    air_c = _air(request.ambient_c, start, clock.end_s)
    allowed = request.control.starts(start, clock.end_s, request.tariff.zone)
    ways = drawings(clock, request.car, request.rate, request.soc, request.target_soc, request.pack_c, air_c, allowed)
    chosen: dict[float, tuple[Drawing, list[Drawing]]] = {}
    return {choice: _Night(replace(request, choice=choice), ways, chosen).plan() for choice in choices}


@lru_cache(maxsize=16)
def _clock(tariff: Tariff, start: datetime, departure: datetime, held: HeldHours, rate: ChargeRate) -> NightClock:
    """A night's prices and hours of the house, kept: one night is asked for several warm-ups and levels."""
    end_s = (departure - start).total_seconds()
    return NightClock(start, end_s, tuple(tariff.prices(start, departure)), held.held(rate, start, end_s, tariff.zone))


@lru_cache(maxsize=16)
def _air(ambient_c: Callable[[datetime], float], start: datetime, end_s: float) -> tuple[float, ...]:
    """Air around the car (°C) on every five minutes of a night."""
    return tuple(float(ambient_c(start + timedelta(seconds=AIR_S * i))) for i in range(int(end_s // AIR_S) + 2))


def _in_utc(request: NightRequest) -> NightRequest:
    """The same request on UTC, where subtracting two times gives real seconds also on the nights the clocks change, and two moments of the
    hour that comes twice are not equal.
    """
    moved = {name: getattr(request, name).astimezone(UTC) for name in ("now", "plug_in", "departure")}
    return replace(request, **moved)


class _Night:
    """One warm-up on one night: the ways to draw are weighed with what follows from each."""

    def __init__(self, request: NightRequest, drawings: Drawings, chosen: dict[float, tuple[Drawing, list[Drawing]]]) -> None:
        self.request, self.drawings, self.clock, self.chosen = request, drawings, drawings.clock, chosen
        self.starts, self.end_s = Starts(drawings), drawings.clock.end_s
        self.late_choice = request.choice is WarmUpChoice.LATE
        self.able: list[Drawing] = []

    def plan(self) -> NightPlan:
        """The plan; a warm-up that needs the margin makes charging end before it."""
        margin_s = 0.0 if self.late_choice else 60.0 * self.request.margin_min
        deadline_s = max(0.0, self.end_s - margin_s)
        price = self._price(self.drawings.by_price(deadline_s, "late") if self.request.plugged else self.drawings.idle)
        self.weighing = Weighing(self.request, self.clock, price, self.drawings.in_frost)
        made = self.best(deadline_s)
        warm_s = self.end_s - self.weighing.of(made).warm.lead_s
        if warm_s < deadline_s - 1e-6 or not self.drawings.reaches(made):
            deadline_s = max(0.0, warm_s)
            made = self.best(deadline_s)
        return self.result(made, deadline_s)

    def _price(self, drawing: Drawing) -> float:
        """What a kWh in the pack costs: the charging's bill over what it put in, else the cheapest hour's price."""
        charged = drawing.session.pack_kwh
        cheapest = min((slot.price_per_kwh for slot in self.clock.prices), default=0.0)
        return max(0.0, drawing.bill / charged if charged > 0.5 else cheapest / self.request.rate.efficiency)

    def best(self, deadline_s: float) -> Drawing:
        """The drawing that is kept; warm-ups that leave the pack alone share it."""
        if self.request.warms_pack or self.late_choice:
            return self._best(deadline_s)
        if deadline_s not in self.chosen:
            self.chosen[deadline_s] = self._best(deadline_s), self.able
        made, self.able = self.chosen[deadline_s]
        return made

    def _best(self, deadline_s: float) -> Drawing:
        drawings, tie_break = self.drawings, "late" if self.late_choice else self.request.tie_break
        if not self.request.plugged or drawings.need_kwh <= 0:
            return drawings.idle
        plain = drawings.by_price(deadline_s, tie_break)
        single = self.request.control.single
        if not single and (self.late_choice or not (drawings.in_frost or self.request.pack_price > 0 or tie_break == "cool")):
            return min(self._late_full([plain], deadline_s), key=self.weighing.cost, default=plain)
        found = [] if single else [drawings.by_price(deadline_s, other) for other in ("late", "early")]
        found += self.starts.cheap(deadline_s, self.weighing.worth)
        found += self.starts.coolest(deadline_s) if tie_break == "cool" else []
        able = [each for each in found if drawings.reaches(each)]
        if able and not single:
            best = min(able, key=self.weighing.worth)
            for _ in range(ROUNDS if len(best.intervals) > 1 else 0):
                able += [each for each in drawings.moved(best, deadline_s) if drawings.reaches(each)]
                before, best = best, min(able, key=self.weighing.worth)
                if best is before:
                    break
        able = self.able = self._late_full(able, deadline_s) or able
        if not able:
            found.append(drawings.idle)
            highest = max(each.highest_soc for each in found)
            return min((each for each in found if each.highest_soc > highest - REACHED_SOC), key=lambda each: each.bill)
        # what is lost while waiting is lost before charging or after: in frost the bill decides, else what is left counts too
        spent = self.weighing.paid if drawings.in_frost else self.weighing.spent
        cheapest = min(able, key=spent)
        # the slack is a share of what is paid, also where the night earns: never less than nothing
        allowed = spent(cheapest) + BILL_SLACK * abs(self.weighing.paid(cheapest))
        warmth = self.weighing.of(cheapest).warmth
        able = [each for each in able if spent(each) <= allowed + max(0.0, self.weighing.of(each).warmth - warmth)]
        net = {each.intervals: self.weighing.spent(each) - self.weighing.of(each).warmth for each in able}
        least = min(net.values()) + EQUAL_SHARE * abs(self.weighing.cost(cheapest))
        equal = [each for each in able if net[each.intervals] <= least]
        if tie_break == "cool":
            return min(equal, key=drawings.air_while)
        return (min if tie_break == "early" else max)(equal, key=lambda each: each.intervals[0][0])

    def _late_full(self, able: Sequence[Drawing], deadline_s: float) -> list[Drawing]:
        """Ways that fill the pack no earlier than asked before departure, from others that fill it; none where that is not asked."""
        ask, drawings = self.request, self.drawings
        if ask.full_within_h is None or ask.target_soc <= FULL_SOC or not able:
            return []
        from_s = min(self.end_s - S_PER_H * ask.full_within_h, deadline_s - GRID_S) - 60.0
        late = [each for each in able if each.done_s >= from_s]
        late.append(drawings.from_start(self.starts.latest(deadline_s), deadline_s))
        if not ask.control.single:
            cheapest = sorted(able, key=self.weighing.worth)[:LATE_FROM]
            late += [made for each in cheapest for made in drawings.topped_late(each, FULL_SOC, deadline_s)]
        return [each for each in late if each.done_s >= from_s and drawings.reaches(each)]

    def rival(self, other: Drawing, made: Drawing) -> Rival:
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

    def result(self, made: Drawing, deadline_s: float) -> NightPlan:
        ask, drawings, weighed = self.request, self.drawings, self.weighing.of(made)
        warm = weighed.warm
        frosty = ask.plugged and drawings.in_frost and not self.late_choice and not ask.control.single
        late = drawings.by_price(deadline_s, "late") if frosty else made
        cheapest = min(self.able, key=self.weighing.cost, default=made) if frosty else made
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
            soc_departure=weighed.level,
            short_soc=max(0.0, ask.target_soc - made.highest_soc if ask.target_soc > ask.soc else 0.0),
            cost=weighed.cost,
            wear=weighed.wear,
            price_in_pack=self._price(made),
            late=self.rival(late, made) if frosty else None,
            cheapest=self.rival(cheapest, made) if frosty else None,
            hours_above_80=sum(b.at_s - a.at_s for a, b in pairwise(steps) if b.soc > 0.8 + 1e-6) / S_PER_H,
            reason=self._reason(made, deadline_s),
            others=Others(self, made, deadline_s, frosty),
        )

    def _held(self) -> tuple[HeldSpan, ...]:
        spans = [(self.clock.moment(each.begin_s), self.clock.moment(each.end_s), each.rate) for each in self.clock.held]
        return tuple(HeldSpan(begin, end, rate.amps if rate else 0.0) for begin, end, rate in spans)

    def _blocks(self, made: Drawing) -> tuple[Block, ...]:
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

    def _reason(self, made: Drawing, deadline_s: float) -> Why:
        """Why it is so, when the plan is not the plain one."""
        ask, drawings = self.request, self.drawings
        if ask.soc >= ask.target_soc:
            return why("at_the_limit")
        if not ask.plugged:
            return why("no_window")
        if ask.rate.pack_kw <= 0:
            return why("all_overhead")
        if not drawings.reaches(made):
            if drawings.clock.held and drawings.reaches(drawings.unheld(deadline_s)):
                return why("held_hours")
            pack_c = min(step.pack_c for step in made.session.steps)
            if pack_c < drawings.threshold_c and drawings.cold_binds(made, deadline_s):
                cold = {"pack_c": pack_c, "from_c": drawings.threshold_c}
                heats = ask.car.pack.heater_kw > 0
                return (
                    why("cold_takes_hours", heat_kwh=made.session.heating_kwh, **cold) if heats else why("pack_too_cold", **cold)
                )
            return why("weak_outlet", pack_kw=ask.rate.pack_kw, limit=ask.rate.limited_by.value)
        return NOTHING_TO_SAY


@dataclass(frozen=True)
class Others:
    """The plans beside the one that is kept (`plan.OtherPlans`)."""

    night: _Night
    made: Drawing
    deadline_s: float
    frosty: bool

    def by_order(self, order: str) -> Rival:
        """See `plan.OtherPlans`."""
        drawings, other = self.night.drawings, self.made
        if self.night.request.plugged and drawings.need_kwh > 0:
            at_once = order == "first"
            other = drawings.from_start(0.0, self.deadline_s) if at_once else drawings.by_price(self.deadline_s, "late", order)
        return self.night.rival(other, self.made)

    def an_hour_late(self) -> tuple[float, float]:
        """See `plan.OtherPlans`."""
        drawings, begun = self.night.drawings, self.made.intervals
        if not begun:
            return 0.0, 0.0
        after_s = begun[0][0] + S_PER_H
        if self.night.request.control.single:
            later = [each for each in self.night.starts.able(self.deadline_s) if each >= after_s][:1]
            others = [drawings.from_start(each, self.deadline_s) for each in later] or [drawings.idle]
        else:
            others = [drawings.by_price(self.deadline_s, "late", "cheapest", after_s)]
        if self.frosty and after_s < self.deadline_s:
            others.append(drawings.from_start(after_s, self.deadline_s))
        best = min(
            others,
            key=lambda each: (not drawings.reaches(each), -each.highest_soc if not drawings.reaches(each) else 0, each.bill),
        )
        return self.night.weighing.cost(best) - self.night.weighing.cost(self.made), max(
            0.0, self.made.highest_soc - best.highest_soc
        )

    @property
    def latest_plug_in(self) -> datetime:
        """See `plan.OtherPlans`; on the quarter hour in frost."""
        drawings, made = self.night.drawings, self.made
        drawn_s = sum(end - begin for begin, end in made.intervals) - made.session.unused_s
        latest_s = max(0.0, self.deadline_s - drawn_s)
        if (self.frosty or drawings.clock.held) and drawings.reaches(made):
            latest_s = self.night.starts.latest(self.deadline_s)
        return drawings.clock.moment(min(latest_s, drawings.clock.end_s))
