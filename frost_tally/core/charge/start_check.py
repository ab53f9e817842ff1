"""The first minutes of a charge, as its owner saw them: what is wrong, and what the night may count on.

Basis: common practice, and the cautions of the manuals of cars and cables.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from ..basis import Basis, figure
from .supply import MINIMUM_A, ChargeRate, Limit

SAME_SHARE = figure(
    "start.same_current", 0.05, "", Basis.COMMON_PRACTICE, "a display that shows so much less or more shows the same"
)
HALF_SHARE = figure(
    "start.half_current",
    0.62,
    "",
    Basis.COMMON_PRACTICE,
    "under this share of the plan it is half of it: one phase, or a cable set low",
)
OVER_SHARE = figure(
    "start.over_current", 1.10, "", Basis.COMMON_PRACTICE, "of what the circuit may carry for hours; more wants an electrician"
)


class Trouble(StrEnum):
    """What can be wrong when the cable goes in; each keeps the car from charging until it is put right."""

    PORT = "port"
    CLICK = "click"
    POWER = "power"
    FAULT = "fault"
    IDLE = "idle"
    HOT = "hot"


class Current(StrEnum):
    """The amperes that the car shows, beside those of the plan."""

    AS_PLANNED = "as_planned"
    LESS = "less"
    HALF = "half"
    NONE = "none"
    OVER = "over"


@dataclass(frozen=True)
class StartCheck:
    """What was seen: troubles, and the amperes that the car shows (None: not read)."""

    troubles: tuple[Trouble, ...] = ()
    amps: float | None = None

    def current(self, planned: ChargeRate, circuit_a: float) -> Current:
        """Its amperes beside the plan's, and beside what the circuit may carry for hours."""
        if self.amps is None:
            return Current.AS_PLANNED
        if self.amps < MINIMUM_A:
            return Current.NONE
        if self.amps > OVER_SHARE * circuit_a:
            return Current.OVER
        share = self.amps / planned.amps
        if share >= 1 - SAME_SHARE:
            return Current.AS_PLANNED
        return Current.HALF if share <= HALF_SHARE else Current.LESS

    def rate(self, planned: ChargeRate, circuit_a: float) -> ChargeRate | None:
        """What the night may count on: the plan's, fewer amperes, or nothing."""
        found = self.current(planned, circuit_a)
        if self.troubles or found in (Current.NONE, Current.OVER):
            return None
        return planned if self.amps is None or found is Current.AS_PLANNED else planned.held_to(self.amps, Limit.SEEN)


def read(troubles: Sequence[str], amps: float | None) -> StartCheck:
    """A check from its codes; unknown ones are left out."""
    return StartCheck(tuple(each for each in Trouble if each.value in troubles), amps)


@dataclass(frozen=True)
class NotedStart:
    """What was seen when the cable went in, and when."""

    at: datetime
    check: StartCheck
