"""What a point is asked to keep: amperes by time, from a plan."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from ..charge.night import NightPlan
from ..charge.supply import MINIMUM_A


@dataclass(frozen=True)
class Profile:
    """Amperes by time as a point keeps them: what counts from each moment on (sorted); 0 before the first. Under 6 A is asked for as 0
    (IEC 61851-1).
    """

    periods: tuple[tuple[datetime, float], ...] = ()

    def amps(self, at: datetime) -> float:
        """What may flow at a moment, A: 0, or 6 and more."""
        amps = 0.0
        for begin, most in self.periods:
            if begin > at:
                break
            amps = most
        return amps if amps >= MINIMUM_A else 0.0

    def opened(self, at: datetime | None, amps: float) -> "Profile":
        """The same, with so many amperes from a moment on (None: none): the wall feeds a warm-up then."""
        return self if at is None else Profile((*(each for each in self.periods if each[0] < at), (at, amps)))

    def from_now(self, now: datetime) -> tuple[tuple[datetime, float], ...]:
        """The same from a moment on: what counts then, and what comes after it."""
        return ((now, self.amps(now)), *(each for each in self.periods if each[0] > now))


def warms_from(plan: NightPlan) -> datetime | None:
    """When a plan's warm-up by the wall begins; None for none."""
    return plan.warm_start if plan.warm.lead_s > 0 and plan.request.by_wall else None


def highest(plan: NightPlan) -> float:
    """The level that a plan charges to, 0 to 1."""
    return max(step.soc for step in plan.session.steps)


def standing(plan: NightPlan, amps: float) -> Profile:
    """A plan as a point keeps it: its hours in all the amperes that there may be, and after the last of them open."""
    return Profile(tuple(_periods(plan, amps, math.inf)))


def hours_alone(plan: NightPlan) -> Profile:
    """A plan's hours and nothing else: what is left where nobody watches."""
    return Profile(tuple(_periods(plan, plan.request.rate.amps, 0.0)))


def _periods(plan: NightPlan, amps: float, after: float) -> Iterator[tuple[datetime, float]]:
    """The amperes of a plan's hours; `after` the last of them at most so many; in the hours of the house what it leaves."""
    if not plan.blocks:
        return
    spans, last = [(each.start, each.end) for each in plan.blocks], plan.blocks[-1].end
    edges = {edge for span in spans for edge in span} | {edge for each in plan.held for edge in (each.start, each.end)}
    for at in sorted(edge for edge in edges if edge >= spans[0][0]):
        wanted = amps if any(begin <= at < end for begin, end in spans) else min(amps, after) if at >= last else 0.0
        yield at, min([wanted, *(each.amps for each in plan.held if each.start <= at < each.end)])
