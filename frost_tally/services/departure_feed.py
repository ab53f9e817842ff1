"""The calendar of a car's departures: what each evening and morning of the coming week asks for."""

from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from ..core.heat.warm import WarmUpChoice
from ..formats.calendar_feed import CalendarEntry, write_calendar
from ..household.home import Home
from ..household.models import DepartureRow
from .departures import departures, schedule_of
from .warmup import Planned, week_ahead

HOLIDAYS_AHEAD_DAYS = 800
WARMS = {
    WarmUpChoice.NOTHING: "nothing to warm",
    WarmUpChoice.SEATS: "seats only, on the way",
    WarmUpChoice.CABIN: "cabin",
    WarmUpChoice.CABIN_AND_PACK: "cabin and pack",
    WarmUpChoice.LATE: "cabin; charging keeps the pack warm",
}


def departure_calendar(home: Home, now: datetime, car_id: int | None = None) -> bytes:
    """The feed of a car (the first when None). Raises: Refusal for no such car, NotSetUp before its outlet and tariff."""
    listed = departures(home, now, car_id)
    entries = [entry for row, _ in listed.rows if (entry := _leave(row, listed.zone.key, listed.car.name)) is not None]
    for planned in week_ahead(home, now, listed.car.id):
        entries += _evening(planned, listed.car.name)
    return write_calendar(f"Departures of {listed.car.name}", entries, now)


def _leave(row: DepartureRow, zone: str, car: str) -> CalendarEntry | None:
    """The departure itself, repeating on the local clock from the first day it was entered for."""
    schedule = schedule_of(row, zone)
    begin = datetime.combine(row.on_date or row.since, time(0), ZoneInfo(zone))
    first = next(schedule.between(begin, begin + timedelta(days=400)), None)
    if first is None:
        return None
    last = first.date() + timedelta(days=HOLIDAYS_AHEAD_DAYS)
    without = [day for day in schedule.holidays if first.date() <= day <= last and day.weekday() in schedule.days]
    words = "Clear screens and lights, clear the roof, unplug, then drive."
    end = first + timedelta(minutes=10)
    return CalendarEntry(
        uid=f"{row.uid}-leave@frost-tally",
        start=first,
        end=end,
        summary=f"{car}: leave, {row.name}",
        description=words,
        alarm=True,
        days=schedule.days,
        without=without,
    )


def _minute(moment: datetime) -> datetime:
    """The whole minute that has begun."""
    return moment.replace(second=0, microsecond=0)


def _evening(planned: Planned, car: str) -> list[CalendarEntry]:
    """Plugging in, charging and warming up for one departure, at local times."""
    due, night, zone = planned.due, planned.option.plan, planned.due.at.tzinfo
    name, found = due.row.name, list[CalendarEntry]()
    if night.blocks or night.warm.wall_kwh > 0:
        begin = planned.plug_in.astimezone(zone)
        why = f"For {name} on {due.at:%A} at {due.at:%H:%M}. The limit is {100 * planned.limit:.0f} %."
        found.append(
            CalendarEntry(
                f"{due.uid}-plug-in@frost-tally", begin, begin + timedelta(minutes=10), f"{car}: plug in", why, alarm=True
            )
        )
    for i, block in enumerate(night.blocks, 1):
        begin, end = _minute(block.start.astimezone(zone)), _minute(block.end.astimezone(zone) + timedelta(seconds=59))
        words = f"{block.wall_kwh:.1f} kWh at the wall."
        found.append(CalendarEntry(f"{due.uid}-charge-{i}@frost-tally", begin, end, f"{car}: charging", words))
    if night.warm.lead_s > 0:
        begin = _minute(night.warm_start.astimezone(zone))
        words = f"{WARMS[planned.option.choice].capitalize()}. Switch it off when you stay."
        found.append(CalendarEntry(f"{due.uid}-warm-up@frost-tally", begin, due.at, f"{car}: warm up", words))
    return found
