"""What the next day's verdict rests on: each number that was entered, and what it would change."""

from dataclasses import dataclass

from ..core.drive.sensitivity import DayAsEntered, what_moves
from ..household.snapshot import Snapshot
from .shared.derived import in_this_minute
from .tonight.room import Tonight, tonight


@dataclass(frozen=True)
class RestsOn:
    """A car's next day, and what each number changes at its end (level, 0 to 1), the most first."""

    night: Tonight
    moves: tuple[tuple[str, float], ...]


def rests_on(snapshot: Snapshot, car_id: int | None = None) -> RestsOn:
    """What a car's next day rests on. Raises: NotSetUp."""

    def work() -> RestsOn:
        night = tonight(snapshot, car_id)
        return RestsOn(night, what_moves(DayAsEntered(night.car, night.trip, night.conditions, night.start)))

    return in_this_minute(snapshot, ("rests-on", car_id), work)
