"""Departures that repeat or happen once: the list, what became of each, and which comes next."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

from ...core.errors import Refusal
from ...core.heat.schedule import Departure, Due, ListedDeparture
from ...core.home import WITHIN, OwnedCar
from ...household import departures as kept
from ...household.calendar import holidays_of
from ...household.departures import Leaving
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household

LATEST = 14


@dataclass(frozen=True, kw_only=True)
class TypedDeparture:
    """A departure as it was typed; `km` is one way, `day_id` a kept day in its place, `region` names the holidays it skips, "" for none."""

    name: str
    at: time
    days: frozenset[int]
    on_date: date | None
    region: str
    warm_up: str
    km: float
    day_id: int | None = None
    nights: int = 0
    place_id: int | None = None


@dataclass(frozen=True)
class DepartureList:
    """The room's list: departures with the next time each comes, the latest leavings, and the one that nobody has said anything of yet."""

    listed: tuple[tuple[ListedDeparture, datetime | None], ...]
    leavings: tuple[Leaving, ...]
    open: Due | None
    owned: OwnedCar


def departures(snapshot: Snapshot, car_id: int | None = None) -> DepartureList:
    """The list of a car (the first when None). Raises: NotSetUp."""
    owned, now = snapshot.home.car(car_id), snapshot.now
    leavings = kept.leavings(snapshot.log, owned.id, LATEST)
    known = {each.due_at.timestamp() for each in leavings}
    past = owned.due_between(now - timedelta(hours=20), now)
    unsaid = [due for due in past if due.at.timestamp() not in known and due.was_listed]
    listed = tuple((each, each.next_after(now, WITHIN)) for each in owned.departures)
    return DepartureList(listed, leavings, unsaid[-1] if unsaid else None, owned)


def keep_departure(
    household: Household,
    now: datetime,
    car_id: int,
    *,
    typed: TypedDeparture,
    number: int | None = None,
    seen_revision: int | None = None,
) -> int:
    """Enter a departure, or change one; returns the number to undo it by. Raises: Refusal with its field; Stale."""
    name, region = typed.name.strip(), typed.region.strip().upper()
    if not 1 <= len(name) <= 40:
        raise Refusal("A departure needs a name of up to 40 letters.", "name")
    schedule = Departure(typed.at, "UTC", typed.days, typed.on_date, holidays_of(region) if region else frozenset()).checked()
    if typed.on_date is not None and typed.on_date < now.date():
        raise Refusal("That day has passed.", "on_date")
    made = ListedDeparture(
        id=number or 0, uid="", name=name, schedule=schedule, region=region, warm_up=typed.warm_up, km=typed.km, since=now.date(),
        entered_at=now, day_id=typed.day_id, nights=typed.nights, place_id=typed.place_id,
    )  # fmt: skip
    with household.deciding(f"Departure “{name}” {'entered' if number is None else 'changed'}", seen_revision) as session:
        home = household.as_decided(session).home
        if typed.day_id is not None and typed.day_id not in {each.id for each in home.car(car_id).days}:
            raise Refusal("There is no such day.", "day_id")
        if typed.place_id is not None and typed.place_id not in {each.id for each in home.places}:
            raise Refusal("There is no such place.", "place_id")
        kept.write_departure(session, car_id, made)
    return session.number


def drop_departure(household: Household, number: int, seen_revision: int | None = None) -> int:
    """Put a departure away; returns the number to undo it by. Raises: Refusal when there is none; Stale."""
    with household.deciding("Departure put away", seen_revision) as session:
        session.words = f"Departure “{kept.put_departure_away(session, number)}” put away"
    return session.number


def leavings(snapshot: Snapshot, car_id: int | None) -> tuple[Leaving, ...]:
    """All that became of a car's departures, the oldest first; of all cars when None."""
    return tuple(reversed(kept.leavings(snapshot.log, car_id)))


def unsettled(snapshot: Snapshot, owned: OwnedCar, off_after: timedelta) -> list[Due]:
    """Departures of the last fortnight that are past their switch-off and not noted yet."""
    start = snapshot.now - timedelta(days=14)
    known = {each.due_at.timestamp() for each in kept.leavings(snapshot.log, owned.id) if each.due_at >= start}
    due = owned.due_between(start, snapshot.now - off_after)
    return [each for each in due if each.at.timestamp() not in known and each.was_listed]
