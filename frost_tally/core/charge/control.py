"""How a night's plan is carried out: by hand, by a timer, or linked; and the starts that each can make.

Basis: common practice; nobody is awake at 03:41, and a timer takes whole minutes and one start.
"""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from enum import StrEnum
from zoneinfo import ZoneInfo

import numpy as np

from ..errors import Refusal
from ..units import Flags

QUARTER_MIN = 15
STEPS_MIN = (5, 10, 15, 30)
AT_BEDTIME = timedelta(minutes=45)


class How(StrEnum):
    """What starts and stops the charging."""

    HAND = "hand"
    TIMER = "timer"
    LINKED = "linked"


@dataclass(frozen=True, kw_only=True)
class Control:
    """A car on an outlet as its owner can set it: `step_min` is what its timer takes, the awake hours are local and may pass midnight.

    Raises: Refusal for a step that is not 5, 10, 15 or 30 minutes.
    """

    how: How = How.LINKED
    step_min: int = 15
    awake_from: time = time(6, 30)
    awake_until: time = time(22, 30)

    def __post_init__(self) -> None:
        if self.step_min not in STEPS_MIN:
            raise Refusal("A timer takes steps of 5, 10, 15 or 30 minutes.", "timer_step")

    @property
    def single(self) -> bool:
        """Whether it starts once a night, and then draws until it is full or pulled."""
        return self.how is not How.LINKED

    def awake(self, local: datetime) -> bool:
        """Whether somebody is awake at a local time."""
        at = local.time()
        if self.awake_from <= self.awake_until:
            return self.awake_from <= at <= self.awake_until
        return at >= self.awake_from or at <= self.awake_until

    def bedtime(self, local: datetime) -> datetime:
        """When somebody goes to bed in the night that a local time belongs to: before noon it is the night that began the day before."""
        evening = local.date() - timedelta(days=local.hour < 12)
        day = evening + timedelta(days=self.awake_until.hour < 12)
        return datetime.combine(day, self.awake_until, local.tzinfo)

    def at_bedtime(self, local: datetime) -> bool:
        """Whether a local time is about when somebody goes to bed."""
        return abs(local - self.bedtime(local)) <= AT_BEDTIME

    def of_cells(self) -> Flags:
        """In which quarter hours of the local day a start can be made: shape (96,)."""
        minutes = [15 * i for i in range(96)]
        if self.how is How.HAND:
            return np.array([self.awake(datetime.combine(date.min, time(each // 60, each % 60))) for each in minutes])
        return np.array([each % self.step_min == 0 for each in minutes]) | (self.how is How.LINKED)

    def starts(self, begin: datetime, end_s: float, zone: str) -> tuple[float, ...] | None:
        """Starts that it can make between plugging in (aware) and so many seconds later, s from plugging in; None: any.

        By hand a car begins when it is plugged in: then, and on the quarter hours on which somebody is awake. A timer begins on its steps
        of the local clock.
        """
        if self.how is How.LINKED:
            return None
        minutes = self.step_min if self.how is How.TIMER else QUARTER_MIN
        local = begin.astimezone(ZoneInfo(zone))
        past_s = (60.0 * local.minute + local.second + local.microsecond / 1e6) % (60.0 * minutes)
        first = 0.0 if past_s < 1e-6 else 60.0 * minutes - past_s
        grid = [first + 60.0 * minutes * i for i in range(int(max(0.0, end_s - first) // (60.0 * minutes)) + 1)]
        if self.how is How.TIMER:
            return tuple(grid)
        able = [each for each in grid if self.awake((begin + timedelta(seconds=each)).astimezone(ZoneInfo(zone)))]
        return tuple(sorted({0.0, *able}))
