"""The unit of work: reading and changing the household, with a revision that grows at every change."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Engine, Select, select, update
from sqlalchemy.orm import Session

from ..core.battery.cold import Chemistry
from ..core.car import Body, Cabin, Car, OnboardCharger, Pack, Preheats, Tyres
from ..core.charge.supply import Code, Supply
from ..core.charge.tariff import Band, Tariff
from ..core.drive.day import Leg, Road, Trip
from .models import CarRow, HouseholdRow, NightRow, OutletRow, TariffRow


class Stale(RuntimeError):
    """The page was made from an older state of the household."""


@dataclass(frozen=True)
class Home:
    """The store of one household."""

    engine: Engine

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that only reads."""
        with Session(self.engine, expire_on_commit=False) as session:
            yield session

    @contextmanager
    def changing(self, seen_revision: int | None = None) -> Iterator[Session]:
        """A transaction: all or nothing. Raises: Stale when the household moved on since `seen_revision`."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            _household(session)
            moved = update(HouseholdRow).values(revision=HouseholdRow.revision + 1)
            if seen_revision is not None:
                moved = moved.where(HouseholdRow.revision == seen_revision)
            if session.connection().execute(moved).rowcount != 1:
                raise Stale("Something was changed elsewhere since this page was opened.")
            session.expire_all()
            yield session


def _household(session: Session) -> HouseholdRow:
    row = session.get(HouseholdRow, 1)
    if row is None:
        row = HouseholdRow(id=1, revision=0)
        session.add(row)
        session.flush()
    return row


def household(session: Session) -> HouseholdRow:
    """The household's row; an empty one, not stored, before the first change."""
    return session.get(HouseholdRow, 1) or HouseholdRow(
        id=1,
        revision=0,
        place="",
        zone="UTC",
        altitude_m=0.0,
        garage="outdoor",
        garage_heated_c=10.0,
        currency="EUR",
        distance_unit="km",
        temperature_unit="C",
        pressure_unit="kPa",
        weather="typed",
        out_now_c=0.0,
        out_low_c=-5.0,
        complete=False,
    )


def cars(session: Session) -> list[CarRow]:
    """All cars in the order they were entered."""
    return list(session.scalars(select(CarRow).order_by(CarRow.id)))


def _kept_nights(car_id: int) -> Select[NightRow]:
    """A car's kept plans that were not withdrawn, the latest departure first."""
    kept = select(NightRow).where(NightRow.car_id == car_id, NightRow.withdrawn.is_(False))
    return kept.order_by(NightRow.departure.desc(), NightRow.id.desc())


def last_night(session: Session, car_id: int, now: datetime) -> NightRow | None:
    """The latest kept plan of a car whose departure has passed."""
    return session.scalars(_kept_nights(car_id).where(NightRow.departure <= now).limit(1)).first()


def coming_night(session: Session, car_id: int, now: datetime) -> NightRow | None:
    """The kept plan of a car whose departure is still to come, whenever it is."""
    return session.scalars(_kept_nights(car_id).where(NightRow.departure > now).limit(1)).first()


def noted_nights(session: Session, car_id: int, limit: int = 7) -> list[NightRow]:
    """The latest nights with both plan and fact."""
    return list(session.scalars(_kept_nights(car_id).where(NightRow.actual_arrival.is_not(None)).limit(limit)))


def car_of(row: CarRow) -> Car:
    """The core's car."""
    return Car(
        row.name,
        Pack(
            Chemistry(row.chemistry), row.usable_kwh_new, row.soh, row.pack_heater_kw, Preheats(row.preheats), row.drive_heat_to_c
        ),
        Body(row.mass_kg, row.drag_area_m2),
        Cabin(row.cabin_heater_kw, row.heat_pump),
        OnboardCharger(row.ac_limit_a, row.ac_phases, row.ac_limit_kw),
        tyres=Tyres(row.placard_kpa, row.rolling_coefficient, row.winter_tyres),
    )


def supply_of(row: OutletRow) -> Supply:
    """The core's supply."""
    return Supply(
        row.name, row.voltage_v, row.phases, row.breaker_a, Code(row.code), row.cable_a, row.selector_a, row.car_setting_a
    )


def tariff_of(row: TariffRow, home: HouseholdRow) -> Tariff:
    """The core's tariff, on the household's clock and in its money."""
    bands = tuple(Band(b.name, b.price_per_kwh, b.start, b.end, frozenset(int(d) for d in b.days)) for b in row.bands)
    return Tariff(row.name, home.zone, bands, home.currency, row.standing_per_day)


def trip_of(row: CarRow) -> Trip:
    """The usual day: half of each road out, parked, and the same way home."""
    out = [
        Leg(Road.TOWN, row.town_km / 2),
        Leg(Road.COUNTRY, row.country_km / 2),
        Leg(Road.MOTORWAY, row.motorway_km / 2, row.motorway_kmh),
    ]
    out = [leg for leg in out if leg.distance_km > 0]
    return Trip((*out, Leg(Road.PARKED, hours=row.parked_h), *reversed(out)))
