"""Times of day in words, on a place's clock."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from ..units import Units


def hour(moment: datetime, zone: ZoneInfo, units: Units) -> str:
    """Local time on a place's clock."""
    return units.clock(moment.astimezone(zone))


def hour_up(moment: datetime, zone: ZoneInfo, units: Units) -> str:
    """Local time, rounded up to the minute."""
    return hour(moment + timedelta(seconds=59), zone, units)
