"""Schedules of a night weighed: what follows from each, and what it is worth against the others."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..drive.usual import MoreWhenCold
from ..heat.warm import WarmUp, warm_up, warm_ups
from ..units import S_PER_H, Array
from .night_clock import NightClock, Schedule
from .plan import NightRequest
from .session import Interval, wears
from .sessions import Sessions


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """What follows from a schedule: its warm-up and that one's cost, the cost of both, what it wears, what the pack's warmth is worth on
    the day (from an arbitrary zero), the level at departure, and what is left of it above the target (negative: missing), all in money.
    """

    warm: WarmUp
    warm_cost: float
    cost: float
    wear: float
    warmth: float
    level: float
    left: float


class Weighing:
    """One warm-up on one night: each way to draw is weighed once. `price` is what a kWh in the pack costs."""

    def __init__(self, request: NightRequest, clock: NightClock, price: float) -> None:
        self.request, self.clock, self.price = request, clock, price
        self.end_s = clock.end_s
        ambient_c = request.ambient_c(request.departure)
        self.morning = {
            "cabin_c": ambient_c,
            "ambient_c": ambient_c,
            "set_c": request.cabin_c,
            "wall_kw": request.rate.wall_kw if request.by_wall else 0.0,
            "overhead_kw": request.rate.overhead_kw,
            "longest_s": self.end_s,
        }
        self.warmed: dict[float, WarmUp] = {}
        self.known: dict[tuple[tuple[Interval, ...], int], Weighed] = {}

    def of(self, schedule: Schedule) -> Weighed:
        """A schedule with what follows from it, worked out once."""
        key = _key(schedule)
        if key not in self.known:
            self.weigh([schedule])
        return self.known[key]

    def weigh(self, schedules: Iterable[Schedule]) -> None:
        """Work some out at once, those that are not known."""
        new = {key: each for each in schedules if (key := _key(each)) not in self.known}
        price, sessions = self.request.pack_price, [each.session for each in new.values()]
        worn = wears(self.request.car, price, sessions).tolist() if price > 0 and new else [0.0] * len(new)
        self.known |= {key: self._weigh(each, wear) for (key, each), wear in zip(new.items(), worn, strict=True)}

    def _weigh(self, schedule: Schedule, wear: float) -> Weighed:
        ask, last = self.request, schedule.session.steps[-1]
        warm = self._warm(last.pack_c)
        begin_s = self.end_s - warm.lead_s
        spent = self.clock.spent(begin_s, self.end_s) / (warm.lead_s / S_PER_H) if warm.lead_s > 0 else 0.0
        capacity = ask.car.pack.usable_kwh
        level = max(0.0, last.soc - warm.pack_kwh / capacity)
        cost = schedule.bill + warm.wall_kwh * spent
        warmth = -self.price * ask.morning_kwh(warm.pack_c) if ask.morning_kwh is not None else 0.0
        return Weighed(
            warm=warm,
            warm_cost=warm.wall_kwh * spent,
            cost=cost,
            wear=wear,
            warmth=warmth,
            level=level,
            left=self.price * capacity * (level - ask.target_soc),
        )

    def _warm(self, pack_c: float) -> WarmUp:
        """Warm-up from a pack temperature; one that leaves the pack alone is the same for all."""
        ask = self.request
        key = pack_c if ask.warms_pack else 0.0
        if key not in self.warmed:
            self.warmed[key] = warm_up(ask.car, ask.choice, pack_c=pack_c, **self.morning)
        found = self.warmed[key]
        return found if ask.warms_pack else replace(found, pack_c=pack_c)

    def least(self, schedules: Sequence[Schedule]) -> Schedule:
        """The one whose `net` is least, the first of equals."""
        self.weigh(schedules)
        return min(schedules, key=self.net)

    def cost(self, schedule: Schedule) -> float:
        """Charging and warm-up, in money."""
        return self.of(schedule).cost

    def net(self, schedule: Schedule) -> float:
        """What a schedule comes to, by which it is chosen: charging, warm-up and wear, less what its warmth spares on the day and the level
        that is left. What is lost while waiting is lost before charging or after it: only so are early and late weighed alike.
        """
        weighed = self.of(schedule)
        return weighed.cost + weighed.wear - weighed.warmth - weighed.left

    def nets(self, sessions: Sessions) -> tuple[Array, Array, Array]:
        """`net` and `cost` of many sessions, and the lead of each one's warm-up (s): arrays of shape (rows,)."""
        ask, pack_c = self.request, sessions.pack_c[-1]
        capacity = ask.car.pack.usable_kwh
        warm = warm_ups(ask.car, ask.choice, pack_c=pack_c, **self.morning)
        lead_s, wall_kwh, pack_kwh = warm.lead_s, warm.wall_kwh, warm.pack_kwh
        price = self.clock.paid(np.full(len(lead_s), self.end_s)) - self.clock.paid(self.end_s - lead_s)
        cost = sessions.bill(self.clock.paid) + wall_kwh * price * S_PER_H / np.maximum(lead_s, 1e-9)
        left = self.price * capacity * (np.maximum(0.0, sessions.soc[-1] - pack_kwh / capacity) - ask.target_soc)
        wear = sessions.wear(ask.pack_price) if ask.pack_price > 0 else 0.0
        return cost + wear - self._warmth(warm.pack_c) - left, cost, lead_s

    def _warmth(self, leaves_c: Array) -> Array:
        """What the warmth of many packs (°C) is worth on the day, money from an arbitrary zero."""
        more = self.request.morning_kwh
        if more is None:
            return np.zeros_like(leaves_c)
        kwh = more.of_many(leaves_c) if isinstance(more, MoreWhenCold) else np.array([more(float(each)) for each in leaves_c])
        return np.asarray(-self.price * kwh)


def _key(schedule: Schedule) -> tuple[tuple[Interval, ...], int]:
    return schedule.intervals, len(schedule.session.steps)
