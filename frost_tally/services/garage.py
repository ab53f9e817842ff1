"""The garage's parts: cars, outlets, places, people; each kept whole or not at all, put away, and undone."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from ..core.charge.supply import ChargeRate, charge_rate
from ..core.errors import OutOfRange, Refusal
from ..household.home import Home
from ..household.models import CarRow, HabitRow, HouseholdRow, OutletRow, PersonRow, PlaceRow, TariffRow
from ..household.parts import car_of, cars, household, outlets, people, places, supply_of, tariffs
from .measured import charging_car
from .setup import write_car

KINDS: Mapping[str, Any] = {"car": CarRow, "outlet": OutletRow, "place": PlaceRow, "person": PersonRow}


@dataclass(frozen=True)
class CarOnOutlet:
    """A car with what it charges at, or why it cannot."""

    row: CarRow
    rate: ChargeRate | None
    refusal: str


@dataclass(frozen=True, kw_only=True)
class Garage:
    """All parts of the home."""

    house: HouseholdRow
    cars: tuple[CarOnOutlet, ...]
    outlets: tuple[OutletRow, ...]
    places: tuple[PlaceRow, ...]
    people: tuple[PersonRow, ...]
    tariffs: tuple[TariffRow, ...]


def garage(home: Home) -> Garage:
    """Everything that is set up."""
    with home.reading() as session:
        return Garage(
            house=household(session),
            cars=tuple(_hung(session, row) for row in cars(session)),
            outlets=tuple(outlets(session)),
            places=tuple(places(session)),
            people=tuple(people(session)),
            tariffs=tuple(tariffs(session)),
        )


def _hung(session: Session, row: CarRow) -> CarOnOutlet:
    if row.habit.outlet is None:
        return CarOnOutlet(row, None, "")
    try:
        return CarOnOutlet(row, charge_rate(supply_of(row.habit.outlet), charging_car(session, row)), "")
    except OutOfRange as refusal:
        return CarOnOutlet(row, None, refusal.message)


def part(home: Home, kind: str, number: int) -> Any:
    """One part's row. Raises: Refusal when there is none."""
    with home.reading() as session:
        return _row(session, kind, number)


def _row(session: Session, kind: str, number: int) -> Any:
    found = session.get(KINDS[kind], number)
    if found is None or found.withdrawn:
        raise Refusal("There is no such part; it may have been put away.")
    return found


def keep_part(home: Home, kind: str, number: int | None, values: Mapping[str, Any], seen_revision: int) -> int:
    """Keep a part, new (None) or changed; returns the number to undo it by.

    Raises: Refusal or OutOfRange with the field, also when a car could no longer charge; Stale.
    """
    with home.deciding("", seen_revision) as session:
        if number is None:
            row = CarRow(habit=HabitRow()) if kind == "car" else KINDS[kind]()
            session.add(row)
        else:
            row = _row(session, kind, number)
        if kind == "car":
            write_car(row, values)
        else:
            for name, value in values.items():
                setattr(row, name, value)
        session.words = f"“{row.name}” {'added' if number is None else 'changed'}"
        session.flush()
        session.expire_all()
        _check(session, kind, row)
    return session.number


def _check(session: Session, kind: str, row: Any) -> None:
    """What must hold for the whole garage after a change."""
    if kind == "outlet":
        supply_of(row).checked()
    for car in cars(session):
        if car.habit.outlet is None or not (car is row or car.habit.outlet is row):
            continue
        car_of(car).checked()
        try:
            charge_rate(supply_of(car.habit.outlet), car_of(car))
        except OutOfRange as refusal:
            raise Refusal(f"{car.name} could not charge then: {refusal.message}", refusal.field) from None


def remove(home: Home, kind: str, number: int, seen_revision: int) -> int:
    """Put a part away; returns the number to undo it by. Raises: Refusal when something still needs it; Stale."""
    with home.deciding("", seen_revision) as session:
        row = _row(session, kind, number)
        users = {
            "outlet": [car.name for car in cars(session) if car.habit.outlet_id == number],
            "place": [each.name for each in outlets(session) if each.place_id == number],
        }.get(kind, [])
        if users:
            raise Refusal(f"“{row.name}” is still used by {', '.join(users)}: move that first.")
        left = {"car": len(cars(session)), "outlet": len(outlets(session)), "place": len(places(session))}
        if left.get(kind, len(people(session))) == 1:
            raise Refusal(f"“{row.name}” is the only one there is: change it instead.")
        session.words = f"“{row.name}” put away"
        row.withdrawn = True
    return session.number


@dataclass(frozen=True)
class HouseUse:
    """What the house uses: twelve monthly figures (kWh, none before they are entered), the shape of a day, the share that can be moved."""

    kwh: tuple[float, ...]
    shape: str
    shift: float


def house_use(home: Home) -> HouseUse:
    """What the house uses."""
    with home.reading() as session:
        row = household(session)
        return HouseUse(tuple(row.house_kwh), row.house_shape, row.shift)


def keep_house(home: Home, use: HouseUse, seen_revision: int) -> int:
    """Keep what the house uses; returns the number to undo it by. Raises: Stale."""
    with home.deciding("The house’s use changed", seen_revision) as session:
        row = household(session)
        row.house_kwh, row.house_shape, row.shift = list(use.kwh), use.shape, use.shift
    return session.number
