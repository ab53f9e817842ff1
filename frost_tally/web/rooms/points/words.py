"""Words of the charge points in the Garage: when each was heard, and why somebody was not let in."""

from datetime import datetime
from zoneinfo import ZoneInfo

from ....services.tonight.point import Report, is_heard

KNOCKS = {
    "name": "two names: one in its address, another in its password",
    "unknown": "no outlet has a point of this name",
    "password": "a wrong password",
    "tries": "too many tries",
}


def told_last(report: Report | None, now: datetime, zone: ZoneInfo) -> str:
    """When a point was heard last."""
    if report is None:
        return "It was never heard."
    at = report.at.astimezone(zone)
    return "It is connected." if is_heard(report, now) else f"Not heard since {at:%A} at {at:%H:%M}."
