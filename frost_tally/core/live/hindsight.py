"""What a night that is over cost, against its cheapest hours: those that its control could have had, and any."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import cached_property

from ..charge.night import NightPlan, NightRequest, in_utc, plan
from ..charge.night_clock import NightClock
from ..charge.plan import LINKED
from ..charge.session import Running

SAME = 0.02
"""Money under this share of a night's bill is no difference."""


@dataclass(frozen=True, kw_only=True)
class Hindsight:
    """A night as it was charged (`was` in money, by the tariff and the model of the car), as its own control could have charged as much for
    the least money, and as any hours could have. `begun` is when it began.
    """

    begun: datetime
    departure: datetime
    soc: float
    was: float
    own: NightPlan
    linked: NightPlan

    @cached_property
    def best_own(self) -> float:
        """The least bill that its own control could have had, money; never more than what was."""
        return min(self.was, bill(self.own))

    @cached_property
    def best(self) -> float:
        """The least bill of all hours, money."""
        return min(self.best_own, bill(self.linked))

    @property
    def hours(self) -> float:
        """What other hours of its own control would have spared, money."""
        return self.was - self.best_own

    @property
    def control(self) -> float:
        """What a control that can draw any hours would have spared beside that, money."""
        return self.best_own - self.best

    @property
    def because(self) -> str:
        """The decision that made the most difference: "hours", "control", or "" where there is next to none."""
        if max(self.hours, self.control) <= SAME * max(self.was, 0.05):
            return ""
        return "hours" if self.hours >= self.control else "control"


def bill(made: NightPlan) -> float:
    """What the charging of a plan costs, money."""
    start = made.start
    return NightClock(start, (made.request.departure - start).total_seconds(), made.prices).bill(made.session)


def hindsight(request: NightRequest, spans: Sequence[tuple[datetime, datetime]]) -> Hindsight:
    """A night that was charged in some spans (aware, in order) from its request's level to its target.

    Compared are bills of the same model: what the meter says is in the log. Raises: what `plan` raises.
    """
    ask = in_utc(request)
    own, linked = plan(ask), plan(replace(ask, control=LINKED))
    clock = NightClock(own.start, (ask.departure - own.start).total_seconds(), own.prices)
    return Hindsight(
        begun=spans[0][0], departure=request.departure, soc=ask.target_soc, was=_was(ask, spans, clock), own=own, linked=linked
    )


def _was(ask: NightRequest, spans: Sequence[tuple[datetime, datetime]], clock: NightClock) -> float:
    """The bill of charging in some spans, and on after the last of them until the level is there."""

    def air_c(at_s: float) -> float:
        return float(ask.ambient_c(clock.moment(at_s)))

    running = Running(ask.car, ask.rate, ask.target_soc, air_c, ask.soc, pack_c=ask.pack_c, step_s=300.0)
    for i, (begin, end) in enumerate(spans):
        running.wait(clock.seconds(begin.astimezone(UTC)))
        running.charge(clock.end_s if i == len(spans) - 1 else clock.seconds(end.astimezone(UTC)))
    running.wait(clock.end_s)
    return clock.bill(running.session())
