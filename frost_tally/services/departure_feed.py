"""A car's departures as a calendar needs them: each listed one as it repeats, and the nights of the coming week before them."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..formats.values import FIRST, LAST
from ..household.home import Home
from ..household.models import DepartureRow
from .departures import departures, schedule_of
from .remembered import once
from .warmup import Planned, week_ahead

HOLIDAYS_AHEAD_DAYS = 800


@dataclass(frozen=True)
class Repeated:
    """A listed departure: its first day by the local clock, the weekdays it comes back on, and the days without."""

    row: DepartureRow
    first: datetime
    days: frozenset[int]
    without: tuple[date, ...]


@dataclass(frozen=True)
class Feed:
    """What the calendar of a car holds."""

    car: str
    leaves: tuple[Repeated, ...]
    nights: tuple[Planned, ...]


def departure_feed(home: Home, now: datetime, car_id: int | None = None) -> Feed:
    """The feed of a car (the first when None). Raises: Refusal for no such car, NotSetUp before its outlet and tariff."""
    listed = departures(home, now, car_id)
    car, rows = listed.car, [row for row, _ in listed.rows if row.on_date is None or FIRST <= row.on_date <= LAST]
    nights = once(home, ("week ahead", now, car.id), lambda: tuple(week_ahead(home, now, car.id)))
    return Feed(car.name, tuple(_repeated(rows, listed.zone.key)), nights)


def _repeated(rows: Iterable[DepartureRow], zone: str) -> Iterable[Repeated]:
    for row in rows:
        schedule = schedule_of(row, zone)
        begin = datetime.combine(row.on_date or row.since, time(0), ZoneInfo(zone))
        first = next(schedule.between(begin, begin + timedelta(days=400)), None)
        if first is not None:
            last = first.date() + timedelta(days=HOLIDAYS_AHEAD_DAYS)
            without = (day for day in schedule.holidays if first.date() <= day <= last and day.weekday() in schedule.days)
            yield Repeated(row, first, schedule.days, tuple(without))
