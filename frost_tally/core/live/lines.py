"""What the runner decides: where a night stands, a line with its reason, and what is asked of the point."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

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
