"""Departures as an iCalendar file or feed (RFC 5545): plug in, charge, warm up, leave; the same UIDs at every renewal."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar, Event, vDuration

DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
RENEWED = timedelta(hours=1)


@dataclass(frozen=True, kw_only=True)
class CalendarEntry:
    """One appointment at aware local times; `alarm` reminds at its start; `days` repeats it weekly except on dates."""

    uid: str
    start: datetime
    end: datetime
    summary: str
    description: str = ""
    alarm: bool = False
    days: frozenset[int] = frozenset()
    without: Sequence[date] = field(default=())


def write_calendar(name: str, entries: Sequence[CalendarEntry], stamp: datetime) -> bytes:
    """The calendar as UTF-8 bytes with the zones it needs. `stamp` is when it was made, aware."""
    calendar = Calendar()
    calendar.add("prodid", "-//Frost Tally//Departures//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("name", name)
    calendar.add("refresh-interval", vDuration(RENEWED), parameters={"VALUE": "DURATION"})
    for entry in entries:
        calendar.add_component(_event(entry, stamp))
    calendar.add_missing_timezones()
    return bytes(calendar.to_ical())


def _event(entry: CalendarEntry, stamp: datetime) -> Event:
    event = Event()
    event.add("uid", entry.uid)
    event.add("dtstamp", stamp.astimezone(ZoneInfo("UTC")))
    event.add("dtstart", entry.start.replace(microsecond=0))
    event.add("dtend", entry.end.replace(microsecond=0))
    event.add("summary", entry.summary)
    if entry.description:
        event.add("description", entry.description)
    event.add("transp", "TRANSPARENT")
    if entry.days:
        event.add("rrule", {"freq": "weekly", "byday": [DAYS[day] for day in sorted(entry.days)]})
        at = time(entry.start.hour, entry.start.minute)
        skipped = [datetime.combine(day, at, entry.start.tzinfo) for day in sorted(entry.without)]
        if skipped:
            event.add("exdate", skipped)
    if entry.alarm:
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", entry.summary)
        alarm.add("trigger", timedelta(0))
        event.add_component(alarm)
    return event
