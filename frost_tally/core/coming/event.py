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
    here, leaves = now.now, night.stay.leaves
    begun, open_blocks = night.stay.begin <= here, [each for each in night.plan.blocks if each.end > here]
    if not begun or night.stay.stays:
        return Event.PLUG_IN
    read = now.level.read_soc
    charged = now.level.source is Source.NIGHT and read is not None and now.level.likely > read
    if leaves - here <= SOON and not open_blocks:
        return Event.LEAVE
    return Event.UNDER_WAY if charged and open_blocks else Event.PLUG_IN
