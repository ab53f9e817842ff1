"""What time it is in the home: the world's clock, which in the demo stands still until somebody moves it on."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from ..core.errors import Refusal
from ..household.home import Home
from ..household.parts import home_place
from ..world import StandingClock


def now(home: Home) -> datetime:
    """The household's present moment, on its local clock."""
    with home.reading() as session:
        return home.world.clock.now().astimezone(ZoneInfo(home_place(session).zone))


def minute_of(now: datetime) -> datetime:
    """The minute of a moment, from which rooms plan: the same for all who ask within it. What was noted in it is `known_by` then."""
    return now.replace(second=0, microsecond=0)


def minute(home: Home) -> datetime:
    """The household's present minute, as rooms plan from it."""
    return minute_of(now(home))


def can_move(home: Home) -> bool:
    """Whether the clock stands still until somebody moves it."""
    return isinstance(home.world.clock, StandingClock)


def move_on(home: Home) -> datetime:
    """Move a standing clock to the next evening or morning (18:12 or 08:00), whichever comes first, and note what happens until then.

    Raises: Refusal for any other.
    """
    clock, here = home.world.clock, now(home)
    if not isinstance(clock, StandingClock):
        raise Refusal("This household’s clock goes by itself.")
    times = [
        here.replace(hour=hour, minute=minute) + timedelta(days=day) for day in (0, 1) for hour, minute in ((8, 0), (18, 12))
    ]
    then = min(at for at in times if at > here)
    if home.world.passing is not None:
        home.world.passing(home, here, then)
    clock.set(then)
    return now(home)
