"""The coming nights of a car: from when it can be plugged in until it leaves, and what it leaves for.

Why: docs/decisions/0036 and docs/decisions/0057.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import lru_cache

from ..drive.day import Trip
from ..heat.schedule import Due, ListedDeparture, due_between, next_at
from ..home import OwnedCar

NIGHTS = 7


@dataclass(frozen=True, kw_only=True)
class Stay:
    """A stay at home, local: when the cable can go in, when the car leaves (or usually does, where it `stays`), and the listed departures
    of the day that follows. `away`: the car is elsewhere, for a departure that it stays away on; the last of these nights ends with the way
    home.
    """

    begin: datetime
    leaves: datetime
    due: tuple[Due, ...]
    stays: bool
    away: ListedDeparture | None = None

    @property
    def leaves_home(self) -> bool:
        """Whether it ends with a drive from home: not where the car stays, and not with the way home from elsewhere."""
        return not self.stays and self.away is None

    @property
    def km(self) -> float:
        """What is driven after a night away: the way home; 0 on other days."""
        return self.away.km if self.away is not None and not self.stays else 0.0


def stays(owned: OwnedCar, now: datetime, count: int = NIGHTS) -> tuple[Stay, ...]:
    """The next stays of a car from a moment on (on the clock of its place), one for each night.

    The first has begun where the car leaves before it is usually plugged in again. A car with weekly departures leaves when something is
    listed, one without on its usual days, too (so many of a week, from Monday on).
    """
    return _stays(owned, now, count, now.fold)  # two moments of the hour that comes twice are equal but for that


@lru_cache(maxsize=64)
def _stays(owned: OwnedCar, now: datetime, count: int, _fold: int) -> tuple[Stay, ...]:
    habit, found = owned.habit, list[Stay]()
    again = next_at(now, habit.plug_in)
    due = _due(owned, now + timedelta(seconds=1), again)
    gone = trip_away(owned, now)
    home = bool(due) or next_at(now, habit.depart) < again or (gone is not None and gone[1] < again)
    begin = now if home else again
    while len(found) < count:
        again = next_at(begin, habit.plug_in)
        found.append(_stay(owned, begin, again, (begin.fold, again.fold)))
        begin = again
    return tuple(found)


@lru_cache(maxsize=256)
def _stay(owned: OwnedCar, begin: datetime, again: datetime, _folds: tuple[int, int]) -> Stay:
    """One stay, until the car is usually plugged in again."""
    usual, gone = next_at(begin, owned.habit.depart), trip_away(owned, begin)
    if gone is not None:
        away, back = gone
        return Stay(begin=begin, leaves=back if back < again else usual, due=(), stays=back >= again, away=away)
    due = _due(owned, begin + timedelta(seconds=1), again)
    driven = bool(due) or (not owned.by_list and usual.weekday() < round(owned.habit.days_a_week))
    return Stay(begin=begin, leaves=due[0].at if due else usual, due=due, stays=not driven)


def trip_away(owned: OwnedCar, moment: datetime) -> tuple[ListedDeparture, datetime] | None:
    """The departure on which a car is away at a moment, and when it sets off home: at its usual hour after so many nights."""
    long = [each for each in owned.departures if each.nights]
    if not long:
        return None
    begun = due_between(long, moment - timedelta(days=max(each.nights for each in long) + 1), moment)
    for due in reversed(begun):
        at = due.at.astimezone(owned.zone)
        back = datetime.combine(at.date() + timedelta(days=due.listed.nights), owned.habit.depart, owned.zone)
        if at < moment < back:
            return due.listed, back
    return None


def _due(owned: OwnedCar, begin: datetime, end: datetime) -> tuple[Due, ...]:
    found = [Due(each.listed, each.at.astimezone(owned.zone)) for each in owned.due_between(begin, end)]
    away = next((i for i, each in enumerate(found) if each.listed.nights), len(found))
    return tuple(found[: away + 1])  # what is listed for a day on which the car is gone waits


def next_outing(nights: Sequence[Stay]) -> int | None:
    """The number of the first stay that ends with a drive; None where the car stays all the time."""
    return next((i for i, each in enumerate(nights) if each.leaves_home), None)


def spoken_of(nights: Sequence[Stay]) -> int:
    """The number of the stay that the rooms speak of: the next that ends with a drive, else the first at home."""
    number = next_outing(nights)
    return next((i for i, each in enumerate(nights) if each.away is None), 0) if number is None else number


def km_of(owned: OwnedCar, stay: Stay) -> float:
    """Kilometres of the day after a stay: the way home, the kept day that is listed, the listed ways, else the usual ones."""
    if stay.away is not None:
        return stay.km
    if not stay.due:
        return owned.habit.km
    own = next((each for each in owned.days if each.id == stay.due[0].listed.day_id), None)
    return own.inputs.trip().distance_km if own else sum(each.listed.day_km for each in stay.due)


def trip_of(owned: OwnedCar, stay: Stay) -> Trip:
    """The roads of the same day."""
    own = next((each for each in owned.days if stay.due and each.id == stay.due[0].listed.day_id), None)
    if own is not None:
        return own.inputs.trip()
    drives = 1 if stay.away is not None else sum(each.listed.drives for each in stay.due) or 2
    return owned.habit.outing(km_of(owned, stay) / drives, trips=drives, motorway_kmh=owned.habit.motorway_kmh).trip()


def hours(begin: datetime, end: datetime) -> float:
    """Real hours between two moments, also where the clock is changed."""
    return (end.astimezone(UTC) - begin.astimezone(UTC)).total_seconds() / 3600.0
