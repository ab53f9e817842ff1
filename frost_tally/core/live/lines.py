"""What the runner decides: where a night stands, a line with its reason, and what is asked of the point."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

from ..basis import Basis, figure
from .profile import Profile


class State(StrEnum):
    """Where a night stands."""

    WAITS = "waits"
    HOLDS = "holds"
    CHARGES = "charges"
    STALLED = "stalled"
    DONE = "done"
    LOST = "lost"
    WRONG_CAR = "wrong_car"
    LEFT = "left"


ALARMS = frozenset(("no_cable", "unplugged", "wrong_car", "stalled", "short", "lost", "refused", "fault"))
"""Codes of lines that somebody is told of."""


MENDED = frozenset(
    ("plugged_in", "right_car", "heard_again", "heard", "draws_again", "reached", "done", "left", "taken", "freed")
)
"""Codes of lines after which what was told before is no more so."""
MISSED_MIN = figure("live.missed", 20.0, "min", Basis.COMMON_PRACTICE, "a departure that nobody took by then is missed")


@dataclass(frozen=True)
class Line:
    """What the runner decided, when and why; `tells` whether somebody is told."""

    at: datetime
    state: State
    code: str
    values: Mapping[str, float] = field(default_factory=dict)

    @property
    def tells(self) -> bool:
        """Whether it is worth telling somebody."""
        return self.code in ALARMS


@dataclass(frozen=True, kw_only=True)
class Order:
    """What is asked of the point: a profile that stands until another comes, when the car warms up by it (None: not at all), and whether to
    try and wake the car now.
    """

    profile: Profile
    warms_from: datetime | None = None
    wake: bool = False


def standing_alarm(lines: Sequence[Line]) -> Line | None:
    """The last line of a night (in order) that somebody is told of, while nothing better came after it."""
    last = next((each for each in reversed(lines) if each.tells or each.code in MENDED), None)
    return last if last is not None and last.tells else None
