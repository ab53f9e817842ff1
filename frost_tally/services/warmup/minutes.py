"""Warm-up, how long the car needs: the minutes that its owner timed, beside those of its class. Why: docs/decisions/0061."""

from dataclasses import dataclass, replace

from ...core.car import Pack
from ...core.errors import Refusal
from ...core.heat.own_minutes import OwnWarmUp, WarmNote, own_warm_up, pack_minutes
from ...core.home import OwnedCar
from ...household.parts import write_warm_notes
from ...household.unit_of_work import Household

MOST_NOTES = 6


@dataclass(frozen=True, kw_only=True)
class PackMinutes:
    """How long a soaked pack takes, min: by its class, and by its owner's minutes with what they say of it (None without any)."""

    by_class: float
    by_own: float
    own: OwnWarmUp | None


def minutes_of(owned: OwnedCar, soak_c: float) -> PackMinutes:
    """How long a car's soaked pack of some °C takes; 0 where nothing heats it."""
    plain, pack = _plain(owned), owned.car.pack
    own = None if pack.preheat_kw is None else own_warm_up(plain, owned.warm_notes)
    return PackMinutes(by_class=pack_minutes(plain, soak_c), by_own=pack_minutes(pack, soak_c), own=own)


def _plain(owned: OwnedCar) -> Pack:
    """A car's pack as its class or its entered numbers have it, without what its owner timed."""
    return replace(owned.car.pack, preheat_kw=None, preheat_to_c=None)


def note_minutes(household: Household, car_id: int, note: WarmNote, seen_revision: int | None) -> int:
    """Note how long a car took to warm its pack; the latest six count. Returns the number to undo it by.

    Raises: Refusal ("minutes") for minutes that no heater can be; Stale.
    """
    with household.deciding("Noted how long it takes to warm up", seen_revision) as session:
        owned = household.as_decided(session).home.car(car_id)
        notes = (*owned.warm_notes, note)[-MOST_NOTES:]
        own_warm_up(_plain(owned), notes)
        write_warm_notes(session, car_id, notes)
    return session.number


def drop_minutes(household: Household, car_id: int, number: int, seen_revision: int | None) -> int:
    """Take a note of minutes away (0: the earliest); returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding("A note of minutes is gone", seen_revision) as session:
        notes = list(household.as_decided(session).home.car(car_id).warm_notes)
        if not 0 <= number < len(notes):
            raise Refusal("There is no such note any more.")
        del notes[number]
        write_warm_notes(session, car_id, notes)
    return session.number
