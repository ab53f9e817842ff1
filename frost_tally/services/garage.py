"""The garage's parts: cars, outlets, places, people; each kept whole or not at all, put away, and undone; and letters to people."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..core.charge.control import How
from ..core.charge.supply import ChargeRate, charge_rate
from ..core.errors import Missing, OutOfRange, Refusal
from ..core.home import Home, HouseUse, OwnedCar
from ..household import parts
from ..household.snapshot import Snapshot
from ..household.undo import Decision
from ..household.unit_of_work import Household
from ..world import Letter
from .shared.measured import charging_car

KINDS = ("car", "outlet", "place", "person")


@dataclass(frozen=True)
class CarOnOutlet:
    """A car with what it charges at, or why it cannot."""

    owned: OwnedCar
    rate: ChargeRate | None
    refusal: str


def cars_on_outlets(snapshot: Snapshot) -> tuple[CarOnOutlet, ...]:
    """All cars with what they charge at."""
    return tuple(_hung(snapshot, each) for each in snapshot.home.cars)


def _hung(snapshot: Snapshot, owned: OwnedCar) -> CarOnOutlet:
    if owned.outlet is None:
        return CarOnOutlet(owned, None, "")
    try:
        return CarOnOutlet(owned, charge_rate(owned.outlet.supply, charging_car(snapshot, owned)), "")
    except OutOfRange as refusal:
        return CarOnOutlet(owned, None, refusal.message)


def part(snapshot: Snapshot, kind: str, number: int) -> Mapping[str, Any]:
    """One part's fields as they are kept, by name. Raises: Refusal when there is none."""
    return parts.part_values(snapshot.log, kind, number)


def keep_part(household: Household, kind: str, number: int | None, values: Mapping[str, Any], seen_revision: int) -> int:
    """Keep a part, new (None) or changed; returns the number to undo it by.

    Raises: Refusal or OutOfRange with the field, also when a car could no longer charge; Stale.
    """
    with household.deciding("", seen_revision) as session:
        kept = parts.write_part(session, kind, number, values)
        name = parts.part_values(session, kind, kept)["name"]
        session.words = f"“{name}” {'added' if number is None else 'changed'}"
        _check(home := household.as_decided(session).home, kind, kept)
        if kind == "outlet" and values.get("point"):
            _linked(session, home, kept)
    return session.number


def keep_point(household: Household, outlet_id: int, name: str, seen_revision: int) -> int:
    """Keep the name of an outlet's charge point ("": it has none); returns the number to undo it by. Raises: Refusal; Stale."""
    return keep_part(household, "outlet", outlet_id, {"point": name}, seen_revision)


def _linked(session: Decision, home: Home, outlet_id: int) -> None:
    """What a charge point carries out is linked: the cars on its outlet are, from now on."""
    for owned in home.cars:
        if owned.outlet is not None and owned.outlet.id == outlet_id and owned.habit.control.how is not How.LINKED:
            parts.write_habit(session, owned.id, control=How.LINKED.value)
            session.words += f"; {owned.name} is linked"


def _check(home: Home, kind: str, number: int) -> None:
    """What must hold for the whole garage after a part was changed."""
    if kind == "outlet":
        kept = next(each for each in home.outlets if each.id == number)
        kept.supply.checked()
        if kept.point and any(each.point == kept.point and each.id != number for each in home.outlets):
            raise Refusal("Another outlet’s point has this name.", "point")
    for owned in home.cars:
        if owned.outlet is None or number != {"car": owned.id, "outlet": owned.outlet.id}.get(kind):
            continue
        owned.car.checked()
        try:
            charge_rate(owned.outlet.supply, owned.car)
        except OutOfRange as refusal:
            raise Refusal(f"{owned.name} could not charge then: {refusal.message}", refusal.field) from None


def remove(household: Household, kind: str, number: int, seen_revision: int) -> int:
    """Put a part away; returns the number to undo it by. Raises: Refusal when something still needs it; Stale."""
    with household.deciding("", seen_revision) as session:
        session.words = f"“{parts.put_part_away(session, kind, number)}” put away"
    return session.number


def keep_house(household: Household, use: HouseUse, seen_revision: int) -> int:
    """Keep what the house uses; returns the number to undo it by. Raises: Stale."""
    with household.deciding("The house’s use changed", seen_revision) as session:
        parts.write_house(session, use)
    return session.number


def reached(snapshot: Snapshot) -> tuple[str, ...]:
    """The addresses to which letters go: of those who said so, where a mail server is set."""
    if snapshot.world.mail is None:
        return ()
    return tuple(each.email for each in snapshot.home.people if each.mailed and each.email)


def send_test(snapshot: Snapshot, person_id: int, subject: str, text: str) -> str:
    """A letter to somebody who wants to see whether it comes; returns the address. Raises: Refusal with what went wrong; Missing."""
    person = next((each for each in snapshot.home.people if each.id == person_id), None)
    if person is None:
        raise Missing("There is nobody of this number.")
    if snapshot.world.mail is None:
        raise Refusal("No mail server is set: name one with FROST_TALLY_SMTP_HOST, and start again.")
    if not person.email:
        raise Refusal(f"{person.name} has no address yet.")
    snapshot.world.mail.send(Letter(to=person.email, subject=subject, text=text))
    return person.email
