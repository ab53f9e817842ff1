"""What people of the home are to be reminded of now, from what Tonight says of each car."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from ...core.coming.event import Event
from ...core.errors import Refusal
from ...core.home import NotSetUp
from ...core.live.lines import Line
from ...core.live.reminders import ALARM_KINDS, Evening, Kind, Reminder, due
from ...household import told
from ...household.snapshot import Snapshot
from ...household.told import Told as Told
from ...household.unit_of_work import Household
from .point import point_now
from .room import Tonight, tonight

COIN, LATELY = 0.01, 6
LATEST = timedelta(hours=2)
"""What a night ran into longer ago is no news."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Due:
    """A reminder of a car, with what Tonight says of it, the minute that it is told in, and the runner's line that it is of, if any."""

    reminder: Reminder
    night: Tonight
    now: datetime
    line: Line | None = None


def due_now(snapshot: Snapshot) -> list[Due]:
    """What is due of all cars, where somebody said yes to letters and a mail server is set; told or not."""
    if snapshot.world.mail is None or not any(each.mailed and each.email for each in snapshot.home.people):
        return []
    found = []
    for owned in snapshot.home.cars:
        try:
            night = tonight(snapshot, owned.id)
        except (NotSetUp, Refusal):
            continue
        now = night.now.astimezone(night.zone)
        found += [Due(reminder=each, night=night, now=now) for each in due(_evening(night, now), now)]
        found += _alarm(snapshot, night, now)
    return found


def _alarm(snapshot: Snapshot, night: Tonight, now: datetime) -> list[Due]:
    """What the night at a charge point ran into lately, unless it is mended."""
    point = point_now(snapshot, night)
    line = None if point is None else point.alarm
    if line is None or line.code not in ALARM_KINDS or now - line.at > LATEST:
        return []
    departure = night.plan.request.departure.astimezone(night.zone)
    return [Due(reminder=Reminder(ALARM_KINDS[line.code], departure, line.at), night=night, now=now, line=line)]


def _evening(night: Tonight, now: datetime) -> Evening:
    """The night that Tonight speaks of, as reminders ask for it; one on which nobody leaves, or the car is away, asks for nothing."""
    comes = night.night.evening.request.now.astimezone(night.zone)
    about = not night.idle and night.event in (Event.PLUG_IN, Event.UNDER_WAY, Event.LEAVE)
    asks = night.event is Event.PLUG_IN and night.level.asks
    return Evening(
        comes=comes,
        departure=night.before_drive.evening.request.departure.astimezone(night.zone),
        control=night.owned.habit.control,
        plug=night.plug_in(COIN),
        seen_in=bool(night.state.plugged)
        or night.started.noted is not None
        or night.event is not Event.PLUG_IN
        or not night.in_turn,
        asks_level=about and asks,
        enough=night.enough or not about,
    )


def claim_told(household: Household, each: Due) -> bool:
    """Whether nobody was told of it yet; written down before it is sent."""
    with household.recording() as session:
        return told.claim(session, each.night.car_id, each.reminder.kind.value, each.reminder.departure, each.now)


def note_problem(household: Household, each: Due, problem: str) -> None:
    """Why it did not go out."""
    with household.recording() as session:
        told.went_wrong(session, each.night.car_id, each.reminder.kind.value, each.reminder.departure, problem)


def told_lately(snapshot: Snapshot) -> tuple[tuple[Kind, str, Told], ...]:
    """The latest reminders: of what, of which car, and what was noted of it."""
    names = dict(snapshot.home.names)
    return tuple((Kind(each.kind), names.get(each.car_id, ""), each) for each in told.lately(snapshot.log, LATELY))
