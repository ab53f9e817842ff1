"""Setting up in three steps: car; outlet and tariff; place and usual day. Each is kept whole or not at all."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import time
from typing import Any

from sqlalchemy.orm import Session

from ..core.basis import Basis, Figure
from ..core.car import SPANS, Car, preset
from ..core.charge.supply import ChargeRate, Code, Supply, charge_rate
from ..core.charge.tariff import Band
from ..core.drive.road import Conditions, consumption_wh_per_km
from ..household.facts import UNKNOWN_SOC, level_now, level_read
from ..household.home import Home
from ..household.models import BandRow, CarRow, HabitRow, HouseholdRow, OutletRow, PersonRow, PlaceRow, TariffRow
from ..household.parts import car_of, cars, home_place, household, outlets, people, place_of

Ways = Mapping[str, str]
"""Units, money and way of writing: columns of a person."""
PLAIN_KMH, PLAIN_C = 80.0, 0.0
STEPS = ("car", "outlet", "place")


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
        """Which of the three steps are complete."""
        return {
            "car": self.car is not None,
            "outlet": self.car is not None and self.car.habit.outlet is not None and self.car.habit.tariff is not None,
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


def _write_ways(session: Session, ways: Ways) -> None:
    """The units and money of the first person; the contracts' money too, unless this person counts in another."""
    person = people(session)[0]
    own_money = person.per_contract != 1.0
    for name, value in ways.items():
        if name != "currency" or not own_money:
            setattr(person, name, value)
    _stored(session, person)
    if not own_money:
        household(session).currency = person.currency


def keep_car(
    home: Home, car: Car, class_key: str, warm_up: str, ways: Ways, seen_revision: int | None, car_id: int | None = None
) -> int:
    """Keep a car, the first without a number; returns the undo number, as all of these do. Raises: OutOfRange, Stale."""
    car.checked()
    with home.deciding("The car kept", seen_revision) as session:
        row = next((each for each in cars(session) if car_id in (None, each.id)), None)
        if row is None:
            row = CarRow(habit=HabitRow())
            session.add(row)
        write_car(row, {**car_fields(car, class_key), "warm_up": warm_up})
        _write_ways(session, ways)
    return session.number


def write_car(row: CarRow, values: Mapping[str, Any]) -> None:
    """Write columns of a car, each where it belongs: its specification, or its habits."""
    for name, value in values.items():
        setattr(row.habit if name in HabitRow.__table__.columns else row, name, value)


def car_fields(car: Car, class_key: str) -> dict[str, object]:
    """The columns of a core car."""
    return {"name": car.name, "preset": class_key, **car.values()}


def keep_charging(
    home: Home,
    supply: Supply,
    tariff: tuple[str, tuple[Band, ...]],
    ways: Ways,
    seen_revision: int | None,
    car_id: int | None = None,
) -> int:
    """Keep outlet and tariff (its name and bands, which have been checked) for the car.

    Raises: OutOfRange with its field, also when the car could not charge from the outlet; Stale.
    """
    supply.checked()
    with home.deciding("Outlet and tariff kept", seen_revision) as session:
        row = _car(session, car_id)
        charge_rate(supply, car_of(row))
        if row.habit.outlet is None:
            row.habit.outlet = OutletRow(name=supply.name, voltage_v=0, phases=1, breaker_a=0, code=Code.IEC.value)
        for name, value in vars(supply).items():
            if name != "shared_a":
                setattr(row.habit.outlet, name, value.value if name == "code" else value)
        if row.habit.tariff is None:
            row.habit.tariff = TariffRow(name=tariff[0])
        row.habit.tariff.name, row.habit.tariff.bands = tariff[0], band_rows(tariff[1])
        _write_ways(session, ways)
    return session.number


def rate_of(home: Home, supply: Supply, car_id: int | None) -> tuple[ChargeRate, float]:
    """What the car gets from an outlet, and the km an hour of it gives at 80 km/h and 0 °C. Raises: OutOfRange."""
    with home.reading() as session:
        car = car_of(_car(session, car_id))
    rate = charge_rate(supply, car)
    return rate, 1000 * rate.pack_kw / float(consumption_wh_per_km(car, PLAIN_KMH, Conditions(ambient_c=PLAIN_C)))


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
    """The last step: place, and the usual day (km by road, km/h, °C)."""

    place: str
    zone: str
    altitude_m: float
    garage: str
    garage_heated_c: float
    depart: time
    plug_in: time
    town_km: float
    country_km: float
    motorway_km: float
    motorway_kmh: float
    out_now_c: float
    out_low_c: float
    soc_now: float


def keep_place(home: Home, step: PlaceAndDay, ways: Ways, seen_revision: int | None, car_id: int | None = None) -> int:
    """Keep the place and the usual day; setting up is complete then. Raises: Stale."""
    with home.deciding("Place and usual day kept", seen_revision) as session:
        house, row = household(session), _car(session, car_id)
        place = place_of(row, session)
        place.name, place.zone, place.altitude_m = step.place, step.zone, step.altitude_m
        place.garage, place.garage_heated_c = step.garage, step.garage_heated_c
        _stored(session, place)
        _write_ways(session, ways)
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
        of_class = car_fields(preset(row.preset, phases=row.ac_phases), row.preset)
        figures = []
        for column, span in SPANS.items():
            value = float(getattr(row, column))
            basis = Basis.COMMON_PRACTICE if value == of_class[column] else Basis.ENTERED
            figures.append(Figure(column, value, span.unit, basis, row.preset))
        found.append((row, figures))
    return found
