"""What somebody at home is reminded of, and when: while somebody is awake, and once for each departure. Source: the trade's practice."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from ..charge.control import Control
from ..charge.plug_in import Plug, PlugIn


class Kind(StrEnum):
    """What a reminder is of: the cable, a level that nobody read for too long, a morning that comes out short; and what a charge point's
    night ran into.
    """

    PLUG_IN = "plug_in"
    LEVEL = "level"
    SHORT = "short"
    STALLED = "stalled"
    UNPLUGGED = "unplugged"
    WRONG_CAR = "wrong_car"
    LOST = "lost"
    REFUSED = "refused"
    FAULT = "fault"


ALARM_KINDS = {"no_cable": Kind.PLUG_IN, **{each.value: each for each in Kind if each not in (Kind.PLUG_IN, Kind.LEVEL)}}
"""What somebody is told of by the code of a runner's line: of the cable and a short morning once, whoever finds it out first."""


BEFORE, AT_DAWN = timedelta(minutes=30), timedelta(hours=2)
"""So long before bed or a time that counts, and before a departure."""


@dataclass(frozen=True)
class Reminder:
    """A reminder of a kind for a departure (aware), due from a moment on."""

    kind: Kind
    departure: datetime
    at: datetime


@dataclass(frozen=True, kw_only=True)
class Evening:
    """What reminders ask of a car's night: when it comes home and leaves (aware, local), what to do with the cable, whether somebody saw it
    go in, whether its level has to be read first, and whether the day that follows is long enough on the cautious side.
    """

    comes: datetime
    departure: datetime
    control: Control
    plug: PlugIn
    seen_in: bool
    asks_level: bool
    enough: bool


def due(night: Evening, now: datetime) -> tuple[Reminder, ...]:
    """What is due at a moment (local) and still of use: nothing before it, nothing once the car has left."""
    found = [each for each in (_level(night), _plug_in(night), _short(night)) if each is not None]
    return tuple(each for each in found if each.at <= now < each.departure)


def _plug_in(night: Evening) -> Reminder | None:
    """In time to walk to the garage; a night on which the cable may stay out is left alone."""
    plug = night.plug
    if night.seen_in or plug.plug in (Plug.LEAVE, Plug.EITHER) or plug.on is not None:
        return None
    wanted = plug.by if plug.plug in (Plug.AT, Plug.NOW) else plug.by - BEFORE
    return Reminder(Kind.PLUG_IN, night.departure, max(night.comes, _awake(night.control, wanted, night.comes)))


def _level(night: Evening) -> Reminder | None:
    """When it comes home: what follows hangs on it."""
    return Reminder(Kind.LEVEL, night.departure, _later(night.control, night.comes)) if night.asks_level else None


def _short(night: Evening) -> Reminder | None:
    """In the morning: there is still time for another car, a shorter way, a stop on it."""
    return None if night.enough else Reminder(Kind.SHORT, night.departure, _later(night.control, night.departure - AT_DAWN))


def _awake(control: Control, wanted: datetime, comes: datetime) -> datetime:
    """The wanted time, or else before going to bed on that evening."""
    if control.awake(wanted.time()):
        return wanted
    bed = control.bedtime(comes)
    return min(wanted, bed - BEFORE)


def _later(control: Control, wanted: datetime) -> datetime:
    """The wanted time, or else when somebody wakes after it."""
    if control.awake(wanted.time()):
        return wanted
    wakes = datetime.combine(wanted.date(), control.awake_from, wanted.tzinfo)
    return wakes if wakes >= wanted else wakes + timedelta(days=1)
