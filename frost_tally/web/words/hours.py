"""Times of day in words, on a place's clock."""

from datetime import datetime, timedelta
from typing import Protocol
from zoneinfo import ZoneInfo

from ..units import Units


class Zoned(Protocol):
    """What has a clock."""

    @property
    def zone(self) -> ZoneInfo:
        """The place's."""


def hour(moment: datetime, night: Zoned, units: Units) -> str:
    """Local time on the household's clock."""
    return units.clock(moment.astimezone(night.zone))


def hour_up(moment: datetime, night: Zoned, units: Units) -> str:
    """Local time, rounded up to the minute."""
    return hour(moment + timedelta(seconds=59), night, units)
