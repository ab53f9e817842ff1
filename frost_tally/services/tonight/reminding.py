"""What people of the home are to be reminded of now, from what Tonight says of each car."""

from dataclasses import dataclass
from datetime import datetime

from ...core.coming.event import Event
from ...core.errors import Refusal
from ...core.home import NotSetUp
from ...core.live.reminders import Evening, Kind, Reminder, due
from ...household import told
from ...household.snapshot import Snapshot
from ...household.told import Told as Told
from ...household.unit_of_work import Household
from .room import Tonight, tonight

COIN = 0.01
LATELY = 6


@dataclass(frozen=True, kw_only=True, eq=False)
class Due:
    """A reminder of a car, with what Tonight says of it, and the minute that it is told in."""

    reminder: Reminder
    night: Tonight
    now: datetime


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
    return found


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
        seen_in=night.started.noted is not None or night.event is not Event.PLUG_IN or not night.in_turn,
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
