"""What became of a listed departure: asked of the cars, or noted by their owner; with the energy of a warm-up for nobody."""

from datetime import datetime, timedelta

from ...core.coming.car_ahead import CarAhead
from ...core.coming.night import CarNight
from ...core.errors import Refusal
from ...core.heat.schedule import Due
from ...core.heat.warm import HOLD_S, held_kwh
from ...household.departures import Leaving, write_leaving
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.coming import ahead_of
from .room import unsettled


def settle(household: Household, now: datetime) -> int:
    """Ask the cars what became of their departures past their switch-off; returns how many, none without a link to them."""
    link = household.world.car_link
    if link is None:
        return 0
    with household.reading(now) as snapshot:
        off_after = timedelta(seconds=HOLD_S)
        found = [(owned, due) for owned in snapshot.home.cars for due in unsettled(snapshot, owned, off_after)]
        told = [
            (owned.id, _leaving(snapshot, owned.id, due, link.left_at(owned.name, due.at) is not None, "car"))
            for owned, due in found
        ]
    with household.recording() as session:
        for car_id, leaving in told:
            write_leaving(session, car_id, leaving)
    return len(found)


def _leaving(snapshot: Snapshot, car_id: int, due: Due, left: bool, source: str) -> Leaving:
    """What became of a departure; a warm-up that nobody drove off with spent its energy from its start to the switch-off, kWh."""
    kwh = 0.0
    if not left:
        night = _before(ahead_of(snapshot.at(due.at - timedelta(hours=11)), car_id), due)
        request, warm = night.evening.request, night.plan.warm
        kwh = warm.wall_kwh + warm.pack_kwh + held_kwh(request.car, warm, request.ambient_c(due.at))
    return Leaving(name=due.listed.name, due_at=due.at, outcome="left" if left else "missed", kwh=kwh, source=source)


def note_by_owner(household: Household, snapshot: Snapshot, car_id: int, due_at: datetime, outcome: str) -> int:
    """Note that the car left or stayed at a listed departure; returns the undo number. Raises: Refusal when none was due then."""
    due = snapshot.home.ready_car(car_id).due_between(due_at, due_at + timedelta(seconds=1))
    if not due or due_at > snapshot.now:
        raise Refusal("No departure was due then.")
    if outcome not in ("left", "missed"):
        raise Refusal("Left, or stayed.")
    leaving = _leaving(snapshot, car_id, due[0], outcome == "left", "owner")
    with household.deciding(f"Noted that it {'stayed' if outcome == 'missed' else 'left'}") as session:
        write_leaving(session, car_id, leaving)
    return session.number


def _before(ahead: CarAhead, due: Due) -> CarNight:
    """The night before a listed departure, as the week had it on the evening before."""
    ends = (i for i, stay in enumerate(ahead.nights) if any(each.uid == due.uid for each in stay.due))
    return ahead.night(next(ends, ahead.shown))
