"""When a departure that repeats, or happens once, comes round on the local clock; those that are listed for a car.

Why: docs/decisions/0027.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..errors import Refusal


@dataclass(frozen=True)
class Departure:
    """`at` on the clock of `zone`: on weekdays (0 = Monday) except `holidays`, or once on a date."""

    at: time
    zone: str
    days: frozenset[int] = frozenset()
    on_date: date | None = None
    holidays: frozenset[date] = frozenset()

    def checked(self) -> "Departure":
        """The same departure. Raises: Refusal with its field when it never comes, or both repeats and happens once."""
        if not self.days and self.on_date is None:
            raise Refusal("Choose the weekdays it repeats on, or one date.", "days")
        if self.days and self.on_date is not None:
            raise Refusal("Either weekdays or one date: clear one of them.", "on_date")
        return self

    def falls_on(self, day: date) -> bool:
        """Whether it comes on a day."""
        return day == self.on_date if self.on_date else day.weekday() in self.days and day not in self.holidays

    def between(self, start: datetime, end: datetime) -> Iterator[datetime]:
        """Aware local times from `start` to before `end`, in order; a time that the clock skips comes that much later."""
        zone = ZoneInfo(self.zone)
        day = start.astimezone(zone).date()
        while day <= end.astimezone(zone).date():
            if self.falls_on(day):
                moment = datetime.combine(day, self.at, zone).astimezone(UTC).astimezone(zone)
                if start.astimezone(UTC) <= moment.astimezone(UTC) < end.astimezone(UTC):
                    yield moment
            day += timedelta(days=1)


ADVISED = "advised"
"""Of a listed departure's warm-up: whatever is advised on its day."""
BY_HABIT = "habit"
"""The same: the car's usual one."""


@dataclass(frozen=True, kw_only=True)
class ListedDeparture:
    """A departure on a car's list: `schedule` is on the clock of its place, without the holidays of `region`, if any; `warm_up` is
    ADVISED, BY_HABIT or the code of a choice; `km` one way, or the kept day `day_id` in their place; `since` is the day it was entered
    first, `entered_at` when it was entered or changed last; `uid` its name in calendars. For so many
    `nights` the car stays away, at a place of the home (None: one without an outlet).
    """

    id: int
    uid: str
    name: str
    schedule: Departure
    region: str
    warm_up: str
    km: float
    since: date
    entered_at: datetime | None
    day_id: int | None
    nights: int = 0
    place_id: int | None = None

    @property
    def drives(self) -> int:
        """How often its way is driven before the car stands for the night: out and home, or out alone."""
        return 1 if self.nights else 2

    @property
    def day_km(self) -> float:
        """What its day drives of its way, km."""
        return self.drives * self.km

    def next_after(self, now: datetime, within: timedelta) -> datetime | None:
        """When it comes round next; None when it does not in that time."""
        return next(self.schedule.between(now, now + within), None)


@dataclass(frozen=True)
class Due:
    """One time a listed departure comes round."""

    listed: ListedDeparture
    at: datetime

    @property
    def uid(self) -> str:
        """Its name in calendars, the same whenever it is written."""
        return f"{self.listed.uid}-{self.at:%Y%m%d}"

    @property
    def was_listed(self) -> bool:
        """Whether it was on the list before it was due; one that was changed since is as new."""
        return self.listed.since <= self.at.date() and (self.listed.entered_at is None or self.listed.entered_at < self.at)


def due_between(listed: Iterable[ListedDeparture], start: datetime, end: datetime) -> list[Due]:
    """All departures of a list in a span of time, in order; of two at one moment the first of the list."""
    found: dict[datetime, Due] = {}
    for each in listed:
        for moment in each.schedule.between(start, end):
            found.setdefault(moment, Due(each, moment))
    return [found[moment] for moment in sorted(found)]


def next_at(now: datetime, at: time) -> datetime:
    """The next time the clock of `now` shows `at`."""
    moment = now.replace(hour=at.hour, minute=at.minute, second=0, microsecond=0)
    return moment if moment > now else moment + timedelta(days=1)


def last_before(moment: datetime, at: time) -> datetime:
    """The last time before a moment that its clock showed `at`: when a car is usually plugged in before it leaves."""
    then = moment.replace(hour=at.hour, minute=at.minute, second=0, microsecond=0)
    return then if then < moment else then - timedelta(days=1)
