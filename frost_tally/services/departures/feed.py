"""A car's departures as a calendar needs them: each listed one as it repeats, and the nights of the coming week before them.

Why: docs/decisions/0018.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from ...core.coming.night import CarNight
from ...core.heat.schedule import ListedDeparture
from ...formats.values import FIRST, LAST
from ...household.snapshot import Snapshot
from ..shared.coming import ahead_of

HOLIDAYS_AHEAD_DAYS = 800


@dataclass(frozen=True)
class Repeated:
    """A listed departure: its first day by the local clock, the weekdays it comes back on, and the days without."""

    listed: ListedDeparture
    first: datetime
    days: frozenset[int]
    without: tuple[date, ...]


@dataclass(frozen=True)
class Planned:
    """A departure of the coming week with its night, for the calendar; `name` "" where it is by habit."""

    name: str
    uid: str
    at: datetime
    night: CarNight


@dataclass(frozen=True)
class Feed:
    """What the calendar of a car holds."""

    car: str
    leaves: tuple[Repeated, ...]
    nights: tuple[Planned, ...]


def departure_feed(snapshot: Snapshot, car_id: int | None = None) -> Feed:
    """The feed of a car (the first when None). Raises: NotSetUp before its outlet and tariff."""
    owned = snapshot.home.ready_car(car_id)
    listed = [each for each in owned.departures if (on := each.schedule.on_date) is None or FIRST <= on <= LAST]
    nights = week_ahead(snapshot, owned.id)
    return Feed(owned.name, tuple(_repeated(listed)), nights)


def _repeated(listed: Iterable[ListedDeparture]) -> Iterable[Repeated]:
    for each in listed:
        schedule = each.schedule
        begin = datetime.combine(schedule.on_date or each.since, time(0), ZoneInfo(schedule.zone))
        first = each.next_after(begin, timedelta(days=400))
        if first is not None:
            last = first.date() + timedelta(days=HOLIDAYS_AHEAD_DAYS)
            without = (day for day in schedule.holidays if first.date() <= day <= last and day.weekday() in schedule.days)
            yield Repeated(each, first, schedule.days, tuple(without))


def week_ahead(snapshot: Snapshot, car_id: int) -> tuple[Planned, ...]:
    """The departures from home of the coming week, listed or by habit, each with the night before it."""
    ahead = ahead_of(snapshot, car_id)
    found = []
    for i, stay in enumerate(ahead.nights):
        if stay.leaves_home:
            uid = stay.due[0].uid if stay.due else f"car-{ahead.now.owned.id}-{stay.leaves:%Y%m%d}"
            name = " and ".join(dict.fromkeys(each.listed.name for each in stay.due))
            found.append(Planned(name, uid, stay.leaves, ahead.night(i)))
    return tuple(found)
