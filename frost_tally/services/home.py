"""The home as every room sees it: who looks and in which units, the contracts' money, the clock, and how old a page may be."""

from dataclasses import dataclass

from ..household.calendar import holidays_of
from ..household.home import Home, seen
from ..household.parts import home_place, household, people
from ..household.state import Stale, Stamp

__all__ = ["Basics", "Home", "Stale", "Stamp", "Viewer", "basics", "holidays_of", "viewer"]


@dataclass(frozen=True)
class Basics:
    """What many rooms need: the clock at home, the contracts' money, and the revision that a change is made on."""

    zone: str
    currency: str
    revision: Stamp


def basics(home: Home) -> Basics:
    """The home's clock, money and revision."""
    with home.reading() as session:
        house = household(session)
        return Basics(home_place(session).zone, house.currency, seen(session))


@dataclass(frozen=True, kw_only=True)
class Viewer:
    """Who looks: units of distance, temperature, pressure and weight, way of writing, money, and how much of it one of the contracts' is
    worth; `known` is False for somebody who has not chosen yet."""

    known: bool
    distance: str
    temperature: str
    pressure: str
    currency: str
    per_contract: float
    weight: str
    hours: str
    week_start: str
    decimal: str


def viewer(home: Home, person: int | None = None) -> Viewer:
    """The person of that number, else the first."""
    with home.reading() as session:
        everybody = people(session)
        row = next((each for each in everybody if each.id == person), everybody[0])
        return Viewer(
            known=bool(row.id),
            distance=row.distance_unit,
            temperature=row.temperature_unit,
            pressure=row.pressure_unit,
            currency=row.currency,
            per_contract=row.per_contract,
            weight=row.weight_unit,
            hours=row.hours,
            week_start=row.week_start,
            decimal=row.decimal_mark,
        )
