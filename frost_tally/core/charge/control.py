"""How a night's plan is carried out: by hand, by a timer, or linked; and the starts that each can make.

Basis: common practice; nobody is awake at 03:41, and a timer takes whole minutes and one start.
"""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from enum import StrEnum
from typing import Annotated, Protocol
from zoneinfo import ZoneInfo

import numpy as np

from ..errors import Refusal
from ..fields import Field
from ..units import Flags

QUARTER_MIN = 15
STEPS_MIN = (5, 10, 15, 30)
AT_BEDTIME = timedelta(minutes=45)


class How(StrEnum):
    """What starts and stops the charging."""

    HAND = "hand"
    TIMER = "timer"
    LINKED = "linked"


class Kind(Protocol):
    """What a way to carry nights out can do.

    `one_start`: it starts once a night, and then draws until the car is full or pulled, or the house closes; else any hours are drawn.
    `on_plugging_in`: it can begin the moment the cable goes in; `by_plug`: and not unless it goes in then.
    """

    one_start: bool
    on_plugging_in: bool
    by_plug: bool

    def step_min(self, control: "Control") -> int:
        """Minutes between the starts that it can make, of the local clock."""

    def able(self, control: "Control", at: time) -> bool:
        """Whether it can start at a step of the local clock."""


class ByHand:
    """A car begins when it is plugged in: on arrival, and on the quarter hours on which somebody is awake."""

    one_start = on_plugging_in = by_plug = True

    def step_min(self, control: "Control") -> int:
        """See `Kind`."""
        return QUARTER_MIN

    def able(self, control: "Control", at: time) -> bool:
        """See `Kind`."""
        return control.awake(at)


class ByTimer:
    """The car's or the wall unit's own timer: one start, on its steps of the local clock."""

    one_start = True
    on_plugging_in = by_plug = False

    def step_min(self, control: "Control") -> int:
        """See `Kind`."""
        return control.step_min

    def able(self, control: "Control", at: time) -> bool:
        """See `Kind`."""
        return control.only is None or at == control.only


class ByLink:
    """Something that carries out any profile: every hour can be drawn or left; a single start is weighed on every quarter hour."""

    one_start = by_plug = False
    on_plugging_in = True

    def step_min(self, control: "Control") -> int:
        """See `Kind`."""
        return QUARTER_MIN

    def able(self, control: "Control", at: time) -> bool:
        """See `Kind`."""
        return True


KINDS: dict[How, Kind] = {How.HAND: ByHand(), How.TIMER: ByTimer(), How.LINKED: ByLink()}


@dataclass(frozen=True, kw_only=True)
class Control:
    """A car on an outlet as its owner can set it: `step_min` is what its timer takes, the awake hours are local and may pass midnight;
    `only` is the one start to which a timer is set and left (None: another one each night).

    Raises: Refusal for a step that is not 5, 10, 15 or 30 minutes.
    """

    how: Annotated[How, Field(column="control", empty=How.LINKED)] = How.LINKED
    step_min: Annotated[int, Field(column="timer_step", codes=STEPS_MIN, empty=15)] = 15
    awake_from: Annotated[time, Field(empty=time(6, 30))] = time(6, 30)
    awake_until: Annotated[time, Field(empty=time(22, 30))] = time(22, 30)
    only: time | None = None

    def __post_init__(self) -> None:
        if self.step_min not in STEPS_MIN:
            raise Refusal("A timer takes steps of 5, 10, 15 or 30 minutes.", "timer_step")

    @property
    def kind(self) -> Kind:
        """What it can do."""
        return KINDS[self.how]

    def awake(self, at: time) -> bool:
        """Whether somebody is awake at a time of the local clock."""
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

    def of_day(self) -> Flags:
        """In which five minutes of the local day a start can be made: shape (288,)."""
        step = self.kind.step_min(self)
        clock = [(5 * i, (datetime.combine(date.min, time()) + timedelta(minutes=5 * i)).time()) for i in range(288)]
        return np.array([minute % step == 0 and self.kind.able(self, at) for minute, at in clock])

    def starts(self, begin: datetime, end_s: float, zone: str) -> tuple[float, ...]:
        """Single starts that it can make between plugging in (aware) and so many seconds later, s from plugging in, in order."""
        step_s, local = 60.0 * self.kind.step_min(self), begin.astimezone(ZoneInfo(zone))
        past_s = (60.0 * local.minute + local.second + local.microsecond / 1e6) % step_s
        first = 0.0 if past_s < 1e-6 else step_s - past_s
        grid = [first + step_s * i for i in range(int(max(0.0, end_s - first) // step_s) + 1)]
        clock = [(each, (begin + timedelta(seconds=each)).astimezone(ZoneInfo(zone)).time()) for each in grid]
        able = {each for each, at in clock if self.kind.able(self, at)}
        return tuple(sorted(able | {0.0} if self.kind.on_plugging_in else able))
