"""Setting up: car, outlet, tariff, place and usual day, each kept whole or not at all."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import time
from typing import Any

from sqlalchemy.orm import Session

from ..core.basis import Basis, Figure
from ..core.car import SPANS, Car, preset
from ..core.charge.supply import Code, Supply, charge_rate
from ..core.charge.tariff import Band
from ..household.facts import UNKNOWN_SOC, level_now, level_read
from ..household.home import Home
from ..household.models import BandRow, CarRow, HabitRow, HouseholdRow, OutletRow, PersonRow, PlaceRow, TariffRow
from ..household.parts import car_of, cars, home_place, household, outlets, people, place_of

STEPS = ("car", "outlet", "tariff", "place")


@dataclass(frozen=True)
class Progress:
    """What is entered already: the first car's row (with outlet and tariff), the household, its revision."""

    car: CarRow | None
    home: HouseholdRow
    place: PlaceRow
    person: PersonRow
    soc_now: float

    @property
    def done(self) -> dict[str, bool]:
        """Which of the four steps are complete."""
        return {
            "car": self.car is not None,
            "outlet": self.car is not None and self.car.habit.outlet is not None,
            "tariff": self.car is not None and self.car.habit.tariff is not None,
            "place": self.home.complete,
        }

    @property
    def next_step(self) -> str | None:
        """The first step that is missing; None when all are done."""
        return next((step for step in STEPS if not self.done[step]), None)


def progress(home: Home, car_id: int | None = None) -> Progress:
    """Where setting up stands."""
    with home.reading() as session:
        row = next((each for each in cars(session) if car_id in (None, each.id)), None)
        place = home_place(session) if row is None else place_of(row, session)
        soc_now = level_now(session, row.id) if row is not None else UNKNOWN_SOC
        return Progress(row, household(session), place, people(session)[0], soc_now)


def keep_car(home: Home, car: Car, class_key: str, warm_up: str, seen_revision: int | None, car_id: int | None = None) -> int:
    """Keep a car, the first without a number; returns the undo number, as all of these do. Raises: OutOfRange, Stale."""
    car.checked()
    with home.deciding("The car kept", seen_revision) as session:
        row = next((each for each in cars(session) if car_id in (None, each.id)), None)
        if row is None:
            row = CarRow(habit=HabitRow())
            session.add(row)
        write_car(row, {**car_fields(car, class_key), "warm_up": warm_up})
    return session.number


def write_car(row: CarRow, values: Mapping[str, Any]) -> None:
    """Write columns of a car, each where it belongs: its specification, or its habits."""
    for name, value in values.items():
        setattr(row.habit if name in HabitRow.__table__.columns else row, name, value)


def car_fields(car: Car, class_key: str) -> dict[str, object]:
    """The columns of a core car."""
    return {"name": car.name, "preset": class_key, **car.values()}


def keep_outlet(home: Home, supply: Supply, seen_revision: int | None, car_id: int | None = None) -> int:
    """Keep the outlet for the car. Raises: OutOfRange with its field, also when the car could not charge from it; Stale."""
    supply.checked()
    with home.deciding("The outlet kept", seen_revision) as session:
        row = _car(session, car_id)
        charge_rate(supply, car_of(row))
        if row.habit.outlet is None:
            row.habit.outlet = OutletRow(name=supply.name, voltage_v=0, phases=1, breaker_a=0, code=Code.IEC.value)
        outlet = row.habit.outlet
        outlet.name, outlet.voltage_v, outlet.phases, outlet.breaker_a = (
            supply.name,
            supply.voltage_v,
            supply.phases,
            supply.breaker_a,
        )
        outlet.code, outlet.cable_a, outlet.selector_a, outlet.car_setting_a = (
            supply.code.value,
            supply.cable_a,
            supply.selector_a,
            supply.car_setting_a,
        )
    return session.number


def keep_tariff(
    home: Home, name: str, currency: str, bands: tuple[Band, ...], seen_revision: int | None, car_id: int | None = None
) -> int:
    """Keep the tariff for the car; the bands have been checked. Raises: Stale."""
    with home.deciding("The tariff kept", seen_revision) as session:
        row = _car(session, car_id)
        if row.habit.tariff is None:
            row.habit.tariff = TariffRow(name=name)
        row.habit.tariff.name = name
        row.habit.tariff.bands = band_rows(bands)
        household(session).currency = currency
        person = people(session)[0]
        _stored(session, person)
        if person.per_contract == 1.0:
            person.currency = currency
    return session.number


def _car(session: Session, car_id: int | None) -> CarRow:
    return next(each for each in cars(session) if car_id in (None, each.id))


def band_rows(bands: tuple[Band, ...]) -> list[BandRow]:
    """The rows of a tariff's bands."""
    return [
        BandRow(
            name=band.name,
            price_per_kwh=band.price_per_kwh,
            start=band.start,
            end=band.end,
            days="".join(str(day) for day in sorted(band.days)),
        )
        for band in bands
    ]


@dataclass(frozen=True, kw_only=True)
class PlaceAndDay:
    """The last step: place, units, and the usual day (km by road, km/h, °C)."""

    place: str
    zone: str
    altitude_m: float
    garage: str
    garage_heated_c: float
    units: tuple[str, str, str]
    depart: time
    plug_in: time
    town_km: float
    country_km: float
    motorway_km: float
    motorway_kmh: float
    out_now_c: float
    out_low_c: float
    soc_now: float


def keep_place(home: Home, step: PlaceAndDay, seen_revision: int | None, car_id: int | None = None) -> int:
    """Keep the place and the usual day; setting up is complete then. Raises: Stale."""
    with home.deciding("Place and usual day kept", seen_revision) as session:
        house, row = household(session), _car(session, car_id)
        place, person = place_of(row, session), people(session)[0]
        place.name, place.zone, place.altitude_m = step.place, step.zone, step.altitude_m
        place.garage, place.garage_heated_c = step.garage, step.garage_heated_c
        person.distance_unit, person.temperature_unit, person.pressure_unit = step.units
        for each in (place, person):
            _stored(session, each)
        for outlet in outlets(session):
            outlet.place = outlet.place or place
        house.out_now_c, house.out_low_c, house.complete = step.out_now_c, step.out_low_c, True
        for name in ("depart", "plug_in", "town_km", "country_km", "motorway_km", "motorway_kmh"):
            setattr(row.habit, name, getattr(step, name))
        session.add(level_read(row.id, home.world.clock.now(), step.soc_now))
    return session.number


def _stored(session: Session, row: PlaceRow | PersonRow) -> None:
    """Put a row that only stood for the usual into the store."""
    if not row.id:
        row.id = None  # type: ignore[assignment]
        session.add(row)


def own_numbers(home: Home) -> list[tuple[CarRow, list[Figure]]]:
    """Each car's own numbers, by field, with their basis: entered, or still those of its class (then its key is the source)."""
    with home.reading() as session:
        rows = cars(session)
    found = []
    for row in rows:
        of_class = car_fields(preset(row.preset), row.preset)
        figures = []
        for column, span in SPANS.items():
            value = float(getattr(row, column))
            basis = Basis.COMMON_PRACTICE if value == of_class[column] else Basis.ENTERED
            figures.append(Figure(column, value, span.unit, basis, row.preset))
        found.append((row, figures))
    return found
