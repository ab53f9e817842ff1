"""Ways to draw on a night weighed: what follows from each, and what it is worth against the others."""

from dataclasses import dataclass, replace

from ..heat.warm import WarmUp, warm_up
from ..units import S_PER_H
from .night_clock import Drawing, NightClock
from .plan import NightRequest
from .session import Interval


@dataclass(frozen=True, kw_only=True)
class Weighed:
    """What follows from a drawing: its warm-up and that one's cost, the cost of both, what it wears, what the pack's warmth is worth on the
    day (from an arbitrary zero), the level at departure, and what is left of it above the target (negative: missing), all in money.
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

    def __init__(self, request: NightRequest, clock: NightClock, price: float, in_frost: bool) -> None:
        self.request, self.clock, self.price, self.in_frost = request, clock, price, in_frost
        self.end_s = clock.end_s
        self.warmed: dict[float, WarmUp] = {}
        self.known: dict[tuple[Interval, ...], Weighed] = {}

    def of(self, drawing: Drawing) -> Weighed:
        """A drawing with what follows from it, worked out once."""
        found = self.known.get(drawing.intervals)
        if found is None:
            found = self.known[drawing.intervals] = self._weigh(drawing)
        return found

    def _weigh(self, drawing: Drawing) -> Weighed:
        ask, last = self.request, drawing.session.steps[-1]
        warm = self._warm(last.pack_c)
        begin_s = self.end_s - warm.lead_s
        spent = self.clock.spent(begin_s, self.end_s) / (warm.lead_s / S_PER_H) if warm.lead_s > 0 else 0.0
        capacity = ask.car.pack.usable_kwh
        level = max(0.0, last.soc - warm.pack_kwh / capacity)
        cost = drawing.bill + warm.wall_kwh * spent
        wear = drawing.session.wear(ask.car, ask.pack_price) if ask.pack_price > 0 else 0.0
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
            ambient = ask.ambient_c(ask.departure)
            self.warmed[key] = warm_up(
                ask.car,
                ask.choice,
                cabin_c=ambient,
                pack_c=pack_c,
                ambient_c=ambient,
                set_c=ask.cabin_c,
                wall_kw=ask.rate.wall_kw if ask.plugged else 0.0,
                overhead_kw=ask.rate.overhead_kw,
                longest_s=self.end_s,
            )
        found = self.warmed[key]
        return found if ask.warms_pack else replace(found, pack_c=pack_c)

    def cost(self, drawing: Drawing) -> float:
        """Charging and warm-up, in money."""
        return self.of(drawing).cost

    def worth(self, drawing: Drawing) -> float:
        """What a way costs with its wear, less what its warmth is worth on the day, and out of frost the level that is left."""
        return (self.paid if self.in_frost else self.spent)(drawing) - self.of(drawing).warmth

    def spent(self, drawing: Drawing) -> float:
        """Charging, warm-up and wear, less the level that is left."""
        return self.paid(drawing) - self.of(drawing).left

    def paid(self, drawing: Drawing) -> float:
        """Charging, warm-up and wear, in money."""
        weighed = self.of(drawing)
        return weighed.cost + weighed.wear
