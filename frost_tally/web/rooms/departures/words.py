"""The words of the calendar feed: what to do on each evening and morning of the coming week."""

from collections.abc import Iterator
from datetime import datetime, timedelta

from ....core.heat.warm import WarmUpChoice
from ....formats.calendar_feed import CalendarEntry
from ....services.departures.feed import Feed, Planned, Repeated

SHORT = timedelta(minutes=10)
WARMS = {
    WarmUpChoice.NOTHING: "nothing to warm",
    WarmUpChoice.SEATS: "seats only, on the way",
    WarmUpChoice.CABIN: "cabin",
    WarmUpChoice.CABIN_AND_PACK: "cabin and pack",
    WarmUpChoice.LATE: "cabin; charging keeps the pack warm",
}


def calendar_name(feed: Feed) -> str:
    """What the calendar is called."""
    return f"Departures of {feed.car}"


def entries(feed: Feed) -> list[CalendarEntry]:
    """Every departure, plugging in, charging and warming up of a feed."""
    return [_leave(each, feed.car) for each in feed.leaves] + [one for night in feed.nights for one in _evening(night, feed.car)]


def _leave(leave: Repeated, car: str) -> CalendarEntry:
    return CalendarEntry(
        uid=f"{leave.listed.uid}-leave@frost-tally",
        start=leave.first,
        end=leave.first + SHORT,
        summary=f"{car}: leave, {leave.listed.name}",
        description="Clear screens and lights, clear the roof, unplug, then drive.",
        alarm=True,
        days=leave.days,
        without=leave.without,
    )


def _minute(moment: datetime) -> datetime:
    """The whole minute that has begun."""
    return moment.replace(second=0, microsecond=0)


def _evening(planned: Planned, car: str) -> Iterator[CalendarEntry]:
    """Plugging in, charging and warming up for one departure, at local times."""
    made, zone = planned.night, planned.at.tzinfo
    night, what_for = made.plan, planned.name or "the usual day"

    def entry(what: str, start: datetime, end: datetime, summary: str, words: str, *, alarm: bool = False) -> CalendarEntry:
        uid = f"{planned.uid}-{what}@frost-tally"
        return CalendarEntry(uid=uid, start=start, end=end, summary=f"{car}: {summary}", description=words, alarm=alarm)

    if made.plugged:
        begin = night.request.plug_in.astimezone(zone)
        why = f"For {what_for} on {planned.at:%A} at {planned.at:%H:%M}. The limit is {100 * made.inputs.limit:.0f} %."
        yield entry("plug-in", begin, begin + SHORT, "plug in", why, alarm=True)
    for i, block in enumerate(night.blocks, 1):
        end = _minute(block.end.astimezone(zone) + timedelta(seconds=59))
        yield entry(
            f"charge-{i}", _minute(block.start.astimezone(zone)), end, "charging", f"{block.wall_kwh:.1f} kWh at the wall."
        )
    if night.warm.lead_s > 0:
        words = f"{WARMS[night.request.choice].capitalize()}. Switch it off when you stay."
        yield entry("warm-up", _minute(night.warm_start.astimezone(zone)), planned.at, "warm up", words)
