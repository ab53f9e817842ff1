"""The runner: what should be, what is, and what to do, each minute; every change of its state is a line with its reason.

An unknown never leaves the car empty in silence: what is asked of the point stays open after the last planned hour until the car stops by
its own limit, and what cannot be mended is said. Pure: it is handed the moment and what the point reports, and asks for plans.
Why: docs/decisions/0074.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from ..basis import Basis, figure
from ..charge.night import NightPlan, NightRequest
from ..charge.schedules import tapers
from ..charge.session import TAPER_FROM_SOC, Running
from ..charge.supply import MINIMUM_A, ChargeRate, Limit
from ..errors import Refusal
from ..heat.warm import WarmUpChoice
from ..units import S_PER_H
from .house import Seen
from .lines import Line, Order, State
from .profile import Profile, highest, hours_alone, standing, warms_from

LOST_MIN = figure("live.lost", 5.0, "min", Basis.COMMON_PRACTICE, "a point that was not heard for so long is lost")
STALLED_MIN = figure("live.stalled", 3.0, "min", Basis.COMMON_PRACTICE, "a car that is offered power for so long and draws none")
BEHIND_SOC = figure("live.behind", 0.02, "", Basis.COMMON_PRACTICE, "so much under its plan a night is planned anew")
LESS_SHARE = figure(
    "live.less_current", 0.9, "", Basis.COMMON_PRACTICE, "under this share of the planned power it is planned anew"
)
DONE_SOC, COUNTED_SOC = 0.01, 0.03
"""A car that stops by itself this near to its target is done: where it tells its level, and where the level is a sum of energy."""
REACHED_SOC = LACKS_SOC = 0.003
"""Once its hours are over and its level is this near, what was open for an emergency is closed; a plan that lacks more is told of."""
AROUND_S, FLAT_SHARE = 600.0, 0.97
ROUNDS, LEAST_KWH = 40, 0.0005
"""Where a pack takes less than its supply gives, energy is put into it in steps."""
AGAIN = timedelta(minutes=15)
"""A night that is behind its plan is not planned anew more often."""


class Runner:
    """One car's night. `tick` each minute and on each message; `departure` may be moved."""

    def __init__(self, request: NightRequest, need_soc: float, plan: Callable[[NightRequest], NightPlan]) -> None:
        """`need_soc` is the level to leave with (0 to 1); `plan` makes a night's plan."""
        self.request, self.need_soc, self._plan_of = request, need_soc, plan
        self.departure, self.state, self.lines = request.departure, State.WAITS, list[Line]()
        self.plan: NightPlan | None = None
        self.rate, self.wall_kwh = request.rate, 0.0
        self.model = Running(request.car, request.rate, 1.0, self._air_c, request.soc, pack_c=request.pack_c, step_s=300.0)
        self._made_of: tuple[NightPlan | None, bool] = None, False
        self._profile = Profile()
        self.heard_at: datetime | None = None
        self.still_since: datetime | None = None
        self.less_since: datetime | None = None
        self.closed, self.planned_at, self.wakes, self._told = False, request.now, 0, set[str]()

    def tick(self, seen: Seen) -> Order | None:
        """What to ask of the point now; None where nothing can be asked, or what stands is right."""
        before = self.plan, self.closed
        if seen.at >= self.departure:
            return self._left(seen)
        if not seen.heard:
            return self._unheard(seen)
        anew = self._heard(seen)
        if not seen.plugged or not seen.ours:
            return self._away(seen)
        if self.plan is None or anew:
            self._replan(seen.at, _WHY_ANEW.get(self.state, "heard_again"))
        wake = self._watch(seen)
        return self.order(wake) if wake or (self.plan, self.closed) != before else None

    def _air_c(self, at_s: float) -> float:
        return float(self.request.ambient_c(self.request.now + timedelta(seconds=at_s)))

    def leave_at(self, departure: datetime, now: datetime) -> Order:
        """The departure was moved."""
        self.departure = departure
        if self.plan is not None:
            self._replan(now, "departure_moved")
        return self.order()

    def change(self, request: NightRequest, need_soc: float, now: datetime, code: str = "changed") -> None:
        """The night is another by now, as its owner wants it or by its prices: of this request, from the level that is known."""
        soc, off = request.soc, (now - self.request.now).total_seconds()
        self.request = replace(request, now=self.request.now, plug_in=self.request.plug_in)
        self.need_soc, self.departure = need_soc, request.departure
        self.model.wait(off)
        self.model.soc = soc
        if self.plan is not None:
            self._replan(now, code)

    def resume(self, lines: Sequence[Line], heard_at: datetime | None) -> None:
        """The night was watched before: its lines so far, and when the point was heard last (None: nobody knows)."""
        self.lines, self._told, self.heard_at = list(lines), {each.code for each in lines}, heard_at
        self.state = State.HOLDS if heard_at is not None else State.WAITS
        self.wakes = int("wakes" in self._told)

    def order(self, wake: bool = False) -> Order:
        """What is asked now."""
        return Order(profile=self.profile, warms_from=None if self.plan is None else warms_from(self.plan), wake=wake)

    @property
    def profile(self) -> Profile:
        """What stands in the point: the plan's hours, and after the last of them open until the car stops by its own limit, so that it
        reaches what it needs when nobody asks for anything any more.
        """
        if self.plan is None:
            return Profile(((self.request.now, self.request.rate.amps),))
        if self._made_of[0] is not self.plan or self._made_of[1] != self.closed:
            made = hours_alone(self.plan) if self.closed else standing(self.plan, self.request.rate.amps)
            self._made_of, self._profile = (self.plan, self.closed), made
        return self._profile

    def _left(self, seen: Seen) -> Order | None:
        if self.state is not State.LEFT:
            short = self.need_soc - self.soc
            self._go(seen.at, State.LEFT, "short" if short > DONE_SOC else "left", soc=self.soc, need=self.need_soc)
        return None

    def _unheard(self, seen: Seen) -> Order | None:
        since = self.heard_at or self.request.now
        if self.state is not State.LOST and seen.at - since >= timedelta(minutes=LOST_MIN):
            self._go(seen.at, State.LOST, "lost")
        return None

    def _heard(self, seen: Seen) -> bool:
        """Level and pack by now: as the car tells them, else as it goes with what is drawn; whether it was away so long that all is read
        anew.
        """
        gap = self.heard_at is not None and seen.at - self.heard_at >= timedelta(minutes=LOST_MIN)
        added, self.wall_kwh, self.heard_at = seen.wall_kwh - self.wall_kwh, seen.wall_kwh, seen.at
        in_taper = self.model.soc >= TAPER_FROM_SOC  # there the car asks for less by itself, as the model does
        rate = None if in_taper or gap or not seen.amps else self.request.rate.held_to(max(MINIMUM_A, seen.amps), Limit.SEEN)
        if added > 0:
            self._drew(added, rate or self.rate)
        self.model.wait((seen.at - self.request.now).total_seconds())
        if seen.soc is not None:
            self.model.soc = seen.soc
        return gap

    def _drew(self, wall_kwh: float, rate: ChargeRate) -> None:
        """So much came from the wall, at about this power: energy is what counts, for a meter tells it some time after it flowed. The model
        may run ahead of the clock by that time; of one in which nobody looked, all of it came at once.
        """
        model = self.model
        model.draw_from(rate)
        goal_kwh = model.wall_kwh + wall_kwh
        for _ in range(ROUNDS):
            left_kwh = goal_kwh - model.wall_kwh
            if left_kwh < LEAST_KWH or model.through:
                return
            model.charge(model.at_s + left_kwh / rate.wall_kw * S_PER_H)

    @property
    def soc(self) -> float:
        """The level by now, 0 to 1."""
        return self.model.soc

    def _away(self, seen: Seen) -> Order | None:
        lacks = self.need_soc - self.soc > LACKS_SOC
        state, code = (State.WRONG_CAR, "wrong_car") if seen.plugged else (State.WAITS, "unplugged" if lacks else "taken")
        code = "freed" if self.state is State.WRONG_CAR and not seen.plugged else code
        if self.state is State.LOST and self.plan is None and not seen.plugged:
            self._go(seen.at, state, "heard")
        elif state is not self.state:
            self._go(seen.at, state, code, soc=self.soc)
            self.plan, self.still_since = None, None
        elif self.plan is None and lacks and "no_cable" not in self._told and seen.at >= self._latest():
            self._go(seen.at, state, "no_cable")
        return None

    def _latest(self) -> datetime:
        """When the cable has to be in for what the car needs, in full power."""
        need_h = max(0.0, self.need_soc - self.soc) * self.request.car.pack.usable_kwh / max(0.1, self.rate.pack_kw)
        return self.departure - timedelta(hours=need_h, minutes=self.request.margin_min)

    def _replan(self, at: datetime, code: str) -> None:
        """The best from here: with the level, the power and the time that there are."""
        here = {
            "now": at,
            "plug_in": at,
            "departure": self.departure,
            "soc": self.soc,
            "rate": self.rate,
            "pack_c": self.model.pack_c,
            "unplug": None if self.request.unplug is None or self.request.unplug <= at else self.request.unplug,
        }
        asked = replace(self.request, **here)  # type: ignore[arg-type]
        try:
            self.plan = self._plan_of(asked)
            if self._lacks(self.plan):  # the day comes before a warm pack and a margin
                self.plan = self._plan_of(replace(asked, margin_min=0.0, choice=WarmUpChoice.NOTHING))
        except Refusal:  # nothing can be planned any more: whatever flows is good
            self._go(at, State.CHARGES, "all_there_is")
            return
        self.closed = False
        self.planned_at, state = at, State.CHARGES if self.state is State.CHARGES else State.HOLDS
        values = {
            "soc": self.soc,
            "to": highest(self.plan),
            "cost": self.plan.cost,
            "need": self.need_soc,
            "amps": self.rate.amps,
        }
        self._go(at, state, code, **values)
        if self._lacks(self.plan) and "short" not in self._told:
            self._go(at, state, "short", **values)

    def _is_enough(self, seen: Seen, plan: NightPlan) -> bool:
        """Whether what stays open after the plan's hours can be closed: the level is told, or the rest of a full pack would cost for
        nothing. Else the car stops by its own limit, and nobody knows better.
        """
        over = not self.closed and bool(plan.blocks) and seen.at >= plan.blocks[-1].end
        return (
            over and (seen.soc is not None or bool(tapers(self.request.target_soc))) and self.soc >= highest(plan) - REACHED_SOC
        )

    def _lacks(self, plan: NightPlan) -> bool:
        """Whether a plan leaves less than is needed, before what a warm-up takes."""
        return self.need_soc - highest(plan) > LACKS_SOC

    def _watch(self, seen: Seen) -> bool:
        """Hold what is against what should be; whether to wake the car."""
        plan = self.plan
        if plan is None:
            return False
        if self._is_enough(seen, plan):
            self.closed = True
            self._go(seen.at, State.DONE, "reached", soc=self.soc)
            return False
        warm = warms_from(plan)
        if warm is not None and seen.at >= warm:  # the wall feeds the warm-up
            return False
        asked = self.profile.amps(seen.at)
        draws = seen.wall_kw > 0
        self.still_since = None if draws or not asked else self.still_since or seen.at
        if not asked:
            if self.state in (State.CHARGES, State.STALLED):
                self._go(seen.at, State.HOLDS, "pauses")
            return False
        if not draws:
            return self._still(seen)
        stalled = self.state is State.STALLED
        if self.state is not State.CHARGES:
            self._go(seen.at, State.CHARGES, "draws", kw=seen.wall_kw)
        at_s = (seen.at - plan.start).total_seconds()
        if stalled:
            self._replan(seen.at, "draws_again")
        elif not self._current(seen, plan, at_s) and self._behind(seen, plan, at_s):
            self._replan(seen.at, "behind")
        return False

    def _current(self, seen: Seen, plan: NightPlan, at_s: float) -> bool:
        """It draws less than planned for this moment, or more again: planned anew with what is seen."""
        around = [plan.session.wall_kw(at_s + each) for each in (-AROUND_S, 0.0, AROUND_S)]
        planned_kw = self.rate.wall_kw
        flat = min(around) > FLAT_SHARE * planned_kw  # neither cold nor taper nor an edge of its hours
        other = flat and not LESS_SHARE < seen.wall_kw / planned_kw < 1 / LESS_SHARE
        self.less_since = (self.less_since or seen.at) if other else None
        if self.less_since is None or seen.at - self.less_since < timedelta(minutes=STALLED_MIN):
            return False
        self.less_since = None
        held = self.request.rate.held_to(max(MINIMUM_A, self.rate.amps * seen.wall_kw / planned_kw), Limit.SEEN)
        if held is None or abs(held.amps - self.rate.amps) < 0.5:
            return False
        code = "less_current" if held.amps < self.rate.amps else "more_current"
        self.rate = held
        self._replan(seen.at, code)
        return True

    def _behind(self, seen: Seen, plan: NightPlan, at_s: float) -> bool:
        """Whether the level is clearly under what the plan has by now."""
        return seen.at - self.planned_at > AGAIN and self.soc < plan.session.at(at_s)[0] - BEHIND_SOC

    def _still(self, seen: Seen) -> bool:
        """It is offered power and draws none."""
        if self.state in (State.DONE, State.STALLED) or self.still_since is None:
            return False
        if seen.at - self.still_since < timedelta(minutes=STALLED_MIN):
            return False
        if self.soc >= self.request.target_soc - (DONE_SOC if seen.soc is not None else COUNTED_SOC):
            self._go(seen.at, State.DONE, "done", soc=self.soc)
            return False
        if not self.wakes:
            self.wakes, self.still_since = 1, None
            self._go(seen.at, State.STALLED, "wakes")
            self.state = State.CHARGES
            return True
        code = "stalled" if self.soc < self.need_soc else "stops_early"
        self._go(seen.at, State.STALLED, code, soc=self.soc, need=self.need_soc)
        return False

    def _go(self, at: datetime, state: State, code: str, **values: float) -> None:
        self.state = state
        self._told.add(code)
        self.lines.append(Line(at, state, code, values))


_WHY_ANEW = {State.WAITS: "plugged_in", State.WRONG_CAR: "right_car"}
"""Why a night is planned anew where it stood so; else because the point was heard again."""
