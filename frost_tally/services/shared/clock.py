"""What time it is in the home: the world's clock, which in the demo stands still until somebody moves it on.

Why: docs/decisions/0050.
"""

from datetime import datetime, timedelta

from ...core.errors import Refusal
from ...household.unit_of_work import Household
from ...world import StandingClock


def can_move(household: Household) -> bool:
    """Whether the clock stands still until somebody moves it."""
    return isinstance(household.world.clock, StandingClock)


def move_on(household: Household) -> datetime:
    """Move a standing clock to the next evening or morning (18:12 or 08:00), whichever comes first, and note what happens until then.

    Raises: Refusal for any other.
    """
    clock = household.world.clock
    if not isinstance(clock, StandingClock):
        raise Refusal("This household’s clock goes by itself.")
    with household.reading() as snapshot:
        here = snapshot.now
    times = [
        here.replace(hour=hour, minute=minute) + timedelta(days=day) for day in (0, 1) for hour, minute in ((8, 0), (18, 12))
    ]
    then = min(at for at in times if at > here)
    if household.world.point is not None:
        household.world.point.pull()  # what passes at once is the night as it was planned
    if household.world.passing is not None:
        household.world.passing(household, here, then)
    clock.set(then)
    return then
