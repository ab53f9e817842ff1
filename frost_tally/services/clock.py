"""What time it is: the machine's clock, or the demo's, which stands still until somebody moves it on."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from ..household.home import Home, home_place, household


def now(home: Home) -> datetime:
    """The household's present moment, on its local clock."""
    with home.reading() as session:
        row = household(session)
        return (row.clock or datetime.now(UTC)).astimezone(ZoneInfo(home_place(session).zone))


def is_demo(home: Home) -> bool:
    """Whether the clock is the demo's."""
    with home.reading() as session:
        return household(session).clock is not None


def move_on(home: Home) -> datetime:
    """Move the demo's clock to the next evening or morning (18:12 or 08:00), whichever comes first."""
    with home.changing() as session:
        row = household(session)
        if row.clock is None:
            return datetime.now(UTC)
        here = row.clock.astimezone(ZoneInfo(home_place(session).zone))
        times = [
            here.replace(hour=hour, minute=minute) + timedelta(days=day) for day in (0, 1) for hour, minute in ((8, 0), (18, 12))
        ]
        row.clock = min(at for at in times if at > here)
        return row.clock
