"""The next event of a car, whatever the clock says: to plug in, under way, to leave, away."""

from datetime import timedelta
from enum import StrEnum

from .level import Source
from .night import CarNight
from .now import Now

SOON = timedelta(hours=3)
"""Before the departure by so long, and once nothing more is charged, the room speaks of leaving."""


class Event(StrEnum):
    """What comes next: plugging in, or not; the charging that is under way; leaving; coming home."""

    PLUG_IN = "plug_in"
    UNDER_WAY = "under_way"
    LEAVE = "leave"
    AWAY = "away"


def event(now: Now, night: CarNight) -> Event:
    """What comes next for a car whose next night is known."""
    if now.away is not None:
        return Event.AWAY
    here = now.now
    if night.stay.begin > here or night.stay.stays:
        return Event.PLUG_IN
    if any(each.end > here for each in night.plan.blocks):
        return Event.UNDER_WAY if _has_charged(now) else Event.PLUG_IN
    return Event.LEAVE if night.stay.leaves - here <= SOON else Event.PLUG_IN


def _has_charged(now: Now) -> bool:
    """Whether the level, carried on through the night, is above the one that was read."""
    read = now.level.read_soc
    return now.level.source is Source.NIGHT and read is not None and now.level.likely > read
