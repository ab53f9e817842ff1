"""The coming nights of a car: from when it can be plugged in until it leaves, and what it leaves for."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from ..heat.schedule import Due, next_at
from ..home import OwnedCar

NIGHTS = 7


@dataclass(frozen=True, kw_only=True)
class Stay:
    """A stay at home, local: when the cable can go in, when the car leaves (or usually does, where it `stays`), and the listed departures
    of the day that follows.
    """

    begin: datetime
    leaves: datetime
    due: tuple[Due, ...]
    stays: bool


def stays(owned: OwnedCar, now: datetime, count: int = NIGHTS) -> tuple[Stay, ...]:
    """The next stays of a car from a moment on (on the clock of its place), one for each night.

    The first has begun where the car leaves before it is usually plugged in again. A car with a list leaves when something is listed, one
    without on its usual days (so many of a week, from Monday on).
    """
    habit, found = owned.habit, list[Stay]()
    again = next_at(now, habit.plug_in)
    due = _due(owned, now + timedelta(seconds=1), again)
    home = bool(due) or next_at(now, habit.depart) < again
    begin = now if home else again
    while len(found) < count:
        again = next_at(begin, habit.plug_in)
        due = _due(owned, begin + timedelta(seconds=1), again)
        usual = next_at(begin, habit.depart)
        leaves = due[0].at if due else usual
        driven = bool(due) or (not owned.departures and usual.weekday() < round(habit.days_a_week))
        found.append(Stay(begin=begin, leaves=leaves, due=due, stays=not driven))
        begin = again
    return tuple(found)


def _due(owned: OwnedCar, begin: datetime, end: datetime) -> tuple[Due, ...]:
    return tuple(Due(each.listed, each.at.astimezone(owned.zone)) for each in owned.due_between(begin, end))


def next_outing(nights: Sequence[Stay]) -> int | None:
    """The number of the first stay that ends with a drive; None where the car stays all the time."""
    return next((i for i, each in enumerate(nights) if not each.stays), None)


def hours(begin: datetime, end: datetime) -> float:
    """Real hours between two moments, also where the clock is changed."""
    return (end.astimezone(UTC) - begin.astimezone(UTC)).total_seconds() / 3600.0
