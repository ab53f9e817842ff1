"""The night plan: when to draw power so that the car is ready, at least cost."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from ..basis import Basis, figure
from ..car import Car
from ..errors import Refusal, require
from ..heat.warm import WarmUp, WarmUpChoice, warm_up
from .allocate import TIME_STEP_H, allocate
from .session import Interval, Session, simulate
from .supply import ChargeRate
from .tariff import PriceSlot, Tariff

MARGIN_MIN = figure("night.margin", 30.0, "min", Basis.COMMON_PRACTICE, "done this long before departure")


MOST_ROUNDS = 18


@dataclass(frozen=True)
class NightRequest:
    """What is known in the evening. Times are aware; levels 0 to 1; `ambient_c` gives the parking place's °C at a time.

    A `plug_in` at or after departure means that the car stands unplugged from now on.

    `school` is "late" (default) or "early" among equals, or "last": up to departure, whatever the price.
    `cabin_c` is the temperature the cabin is warmed to.
    """

    now: datetime
    plug_in: datetime
    departure: datetime
    soc: float
    target_soc: float
    car: Car
    rate: ChargeRate
    tariff: Tariff
    ambient_c: Callable[[datetime], float]
    pack_c: float
    choice: WarmUpChoice = WarmUpChoice.NOTHING
    cabin_c: float = 20.0
    margin_min: float = MARGIN_MIN
    school: str = "late"


@dataclass(frozen=True)
class Block:
    """An uninterrupted time of drawing power, with its wall energy (kWh), cost and highest power at the wall (kW)."""

    start: datetime
    end: datetime
    wall_kwh: float
    cost: float
    wall_kw: float


@dataclass(frozen=True)
class NightPlan:
    """The plan and what it leads to. Times in UTC, energies in kWh, levels 0 to 1, money in the tariff's currency."""

    request: NightRequest
    start: datetime
    blocks: tuple[Block, ...]
    warm: WarmUp
    warm_start: datetime
    warm_cost: float
    session: Session
    prices: tuple[PriceSlot, ...]
    soc_departure: float
    short_soc: float
    cost: float
    cost_at_once: float
    cost_dearest: float
    latest_plug_in: datetime
    hours_above_80: float
    reason: str

    def soc_at(self, moment: datetime) -> float:
        """Level at a time of the night, 0 to 1."""
        return self.session.at((moment - self.start).total_seconds())[0]


def plan(request: NightRequest) -> NightPlan:
    """Least-cost plan that reaches the target by departure less the margin, or comes as close as it can.

    Order of goals: reach the target; cost; fewest starts; then late or early by the owner's school. With a warm pack and
    no taper the cost is the optimum of the mixed-integer problem. Below the cold threshold, and in the taper, the drawn
    time is refined until the simulated session meets the target.
    Raises: Refusal for a departure that is not after now, or levels out of range.
    """
    return plans(request, (request.choice,))[request.choice]


def plans(request: NightRequest, choices: Sequence[WarmUpChoice]) -> dict[WarmUpChoice, NightPlan]:
    """`plan` for several warm-ups of one night: the charging is chosen once where it is the same for them."""
    if request.departure.astimezone(UTC) <= request.now.astimezone(UTC):
        raise Refusal("The departure has passed: set a later one.", "depart")
    require(100 * request.soc, 0, 100, "The level now", "%", "soc_now")
    require(100 * request.target_soc, 10, 100, "The limit", "%", "limit")
    request = _in_utc(request)
    start = request.now if request.plug_in >= request.departure else max(request.now, request.plug_in)
    found, usual = {}, _Night(request, start)
    for choice in choices:
        own = replace(request, choice=choice)
        late = choice is WarmUpChoice.LATE
        night = _Night(replace(own, school="last", margin_min=0.0), start) if late else usual
        night.request = replace(night.request, choice=choice)
        found[choice] = night.made()
    return found


def _in_utc(request: NightRequest) -> NightRequest:
    """The same request on UTC, where subtracting two times gives real seconds also on the nights the clocks change."""
    moved = {name: getattr(request, name).astimezone(UTC) for name in ("now", "plug_in", "departure")}
    return replace(request, **moved)


class _Night:
    """One request, its clock and its prices."""

    def __init__(self, request: NightRequest, start: datetime) -> None:
        self.request, self.start = request, start
        self.end_s = self._seconds(request.departure)
        self.prices = request.tariff.prices(start, request.departure)
        self.charged: dict[datetime, tuple[Session, list[Interval]]] = {}

    def made(self) -> NightPlan:
        """The plan for the request as it stands; a warm-up that needs the margin makes charging end before it."""
        ask = self.request
        deadline = max(self.start, ask.departure - timedelta(minutes=ask.margin_min))
        session, intervals = self.charge(deadline)
        warm = self.warm(session)
        warm_start = ask.departure - timedelta(seconds=warm.lead_s)
        short = ask.target_soc - max(step.soc for step in session.steps)
        if warm_start < deadline or short > 0.002:
            session, intervals = self.charge(max(self.start, warm_start))
            warm = self.warm(session)
        return self.result(session, intervals, warm)

    def _seconds(self, moment: datetime) -> float:
        return (moment - self.start).total_seconds()

    def _moment(self, seconds: float) -> datetime:
        return self.start + timedelta(seconds=seconds)

    def _ambient(self, seconds: float) -> float:
        return self.request.ambient_c(self._moment(seconds))

    def _simulate(self, intervals: Sequence[Interval]) -> Session:
        ask = self.request
        return simulate(ask.car, ask.rate, ask.soc, max(ask.target_soc, 0.01), ask.pack_c, intervals, self.end_s, self._ambient)

    def charge(self, deadline: datetime) -> tuple[Session, list[Interval]]:
        """Choose the time drawn before the deadline, once for each."""
        if deadline not in self.charged:
            self.charged[deadline] = self._charge(deadline)
        return self.charged[deadline]

    def _charge(self, deadline: datetime) -> tuple[Session, list[Interval]]:
        """Choose the time drawn before the deadline; refine it until the simulated level meets the target."""
        ask = self.request
        slots = [
            PriceSlot(slot.start, min(slot.end, deadline), slot.price_per_kwh, slot.band)
            for slot in self.prices
            if slot.start < deadline
        ]
        window_h = sum(slot.hours for slot in slots)
        need_h = max(0.0, ask.target_soc - ask.soc) * ask.car.pack.usable_kwh / max(ask.rate.pack_kw, 1e-6)
        session, intervals = self._simulate([]), list[Interval]()
        if ask.target_soc <= ask.soc or ask.plug_in >= ask.departure:
            return session, intervals
        growth = 1.0
        for turn in range(MOST_ROUNDS):
            hours = self._allocate(slots, min(need_h, window_h))
            intervals = self._intervals(slots, hours)
            session = self._simulate(intervals)
            missing_soc = ask.target_soc - max(step.soc for step in session.steps)
            if session.unused_s > 0.01 and turn < MOST_ROUNDS // 2:
                need_h, growth = need_h - session.unused_s / 3600.0, 1.0
            elif missing_soc > 1e-8 and need_h < window_h - 1e-6:
                step_h = missing_soc * ask.car.pack.usable_kwh / max(ask.rate.pack_kw, 1e-6)
                need_h += window_h if turn == MOST_ROUNDS - 2 else growth * step_h
                growth *= 1.5
            else:
                break
        return session, intervals

    def _allocate(self, slots: Sequence[PriceSlot], need_h: float) -> list[float]:
        """Hours in each slot by the owner's school; "last" does not ask what they cost."""
        last = self.request.school == "last"
        return allocate(
            [0.0 if last else slot.price_per_kwh for slot in slots],
            [slot.hours for slot in slots],
            need_h,
            "late" if last else self.request.school,
        )

    def _intervals(self, slots: Sequence[PriceSlot], hours: Sequence[float]) -> list[Interval]:
        """Drawn time as seconds from the start. A part-used slot is drawn next to a drawn neighbour, or by the school."""
        found: list[Interval] = []
        for i, (slot, drawn) in enumerate(zip(slots, hours, strict=True)):
            if drawn <= TIME_STEP_H:
                continue
            begin, end = self._seconds(slot.start), self._seconds(slot.end)
            if drawn < slot.hours - TIME_STEP_H:
                before = i > 0 and hours[i - 1] > TIME_STEP_H
                after = i + 1 < len(slots) and hours[i + 1] > TIME_STEP_H
                late = after if before != after else self.request.school != "early"
                begin, end = (end - 3600 * drawn, end) if late else (begin, begin + 3600 * drawn)
            if found and begin - found[-1][1] < 1e-6:
                found[-1] = (found[-1][0], end)
            else:
                found.append((begin, end))
        return found

    def warm(self, session: Session) -> WarmUp:
        """Warm-up from the pack temperature that the night leaves."""
        ask = self.request
        ambient = ask.ambient_c(ask.departure)
        plugged = ask.plug_in < ask.departure
        return warm_up(
            ask.car,
            ask.choice,
            cabin_c=ambient,
            pack_c=session.steps[-1].pack_c,
            ambient_c=ambient,
            set_c=ask.cabin_c,
            wall_kw=ask.rate.wall_kw if plugged else 0.0,
            overhead_kw=ask.rate.overhead_kw,
            longest_s=self.end_s,
        )

    def cost(self, session: Session) -> float:
        """Money for the wall energy of each step at the price of its time; steps never cross a price change by much."""
        total, cursor = 0.0, 0
        for before, step in zip(session.steps, session.steps[1:], strict=False):
            if step.wall_kw <= 0:
                continue
            at_s = before.at_s
            while at_s < step.at_s - 1e-9:
                while cursor + 1 < len(self.prices) and self._seconds(self.prices[cursor].end) <= at_s + 1e-6:
                    cursor += 1
                until = min(step.at_s, self._seconds(self.prices[cursor].end)) if cursor + 1 < len(self.prices) else step.at_s
                total += step.wall_kw * (until - at_s) / 3600.0 * self.prices[cursor].price_per_kwh
                at_s = until
        return total

    def _cost_of(self, drawn_s: float, order: str) -> float:
        """Cost of the same hours of drawing at once, or in the dearest hours."""
        hours = allocate([s.price_per_kwh for s in self.prices], [s.hours for s in self.prices], drawn_s / 3600.0, order=order)
        return sum(h * s.price_per_kwh for h, s in zip(hours, self.prices, strict=True)) * self.request.rate.wall_kw

    def _mean_price(self, start_s: float, end_s: float) -> float:
        """Mean price between two times, weighted by time."""
        parts = [
            (max(0.0, min(end_s, self._seconds(s.end)) - max(start_s, self._seconds(s.start))), s.price_per_kwh)
            for s in self.prices
        ]
        total = sum(part for part, _ in parts)
        return sum(part * price for part, price in parts) / total if total > 0 else 0.0

    def result(self, session: Session, intervals: Sequence[Interval], warm: WarmUp) -> NightPlan:
        ask = self.request
        warm_s = self.end_s - warm.lead_s
        warm_cost = warm.wall_kwh * self._mean_price(warm_s, self.end_s)
        charge_cost = self.cost(session)
        drawn_s = sum(end - begin for begin, end in intervals)
        soc = max(0.0, session.steps[-1].soc - warm.pack_kwh / ask.car.pack.usable_kwh)
        highest = max(step.soc for step in session.steps)
        above = (
            sum(b.at_s - a.at_s for a, b in zip(session.steps, session.steps[1:], strict=False) if b.soc > 0.8 + 1e-6) / 3600.0
        )
        latest = min(
            ask.departure,
            max(
                self.start,
                min(ask.departure - timedelta(minutes=ask.margin_min), self._moment(warm_s)) - timedelta(seconds=drawn_s),
            ),
        )
        return NightPlan(
            ask,
            self.start,
            self._blocks(session, intervals),
            warm,
            self._moment(warm_s),
            warm_cost,
            session,
            self.prices,
            soc,
            max(0.0, ask.target_soc - highest if ask.target_soc > ask.soc else 0.0),
            charge_cost + warm_cost,
            self._cost_of(drawn_s, "first") + warm_cost,
            self._cost_of(drawn_s, "dearest") + warm_cost,
            latest,
            above,
            self._reason(highest, intervals),
        )

    def _blocks(self, session: Session, intervals: Sequence[Interval]) -> tuple[Block, ...]:
        blocks = []
        for begin, end in intervals:
            steps = [
                (a, b)
                for a, b in zip(session.steps, session.steps[1:], strict=False)
                if a.at_s >= begin - 1e-6 and b.at_s <= end + 1e-6 and b.wall_kw > 0
            ]
            if steps:
                part = replace(session, steps=(steps[0][0], *(b for _, b in steps)))
                kwh = sum(b.wall_kw * (b.at_s - a.at_s) / 3600.0 for a, b in steps)
                blocks.append(
                    Block(
                        self._moment(steps[0][0].at_s),
                        self._moment(steps[-1][1].at_s),
                        kwh,
                        self.cost(part),
                        max(b.wall_kw for _, b in steps),
                    )
                )
        return tuple(blocks)

    def _reason(self, highest: float, intervals: Sequence[Interval]) -> str:
        """Why it is so, in words, when the plan is not the plain one."""
        ask = self.request
        if ask.soc >= ask.target_soc:
            return "already at the limit"
        if ask.plug_in >= ask.departure:
            return "there is no time between plugging in and departure"
        if ask.rate.pack_kw <= 0:
            return "the outlet is too weak: the car's own overhead eats it all"
        if ask.target_soc - highest > 0.002:
            reach = f"{ask.rate.pack_kw:.1f} kW reach the pack, limited by the {ask.rate.limited_by}"
            return f"the outlet is too weak for the window: {reach}"
        return ""
