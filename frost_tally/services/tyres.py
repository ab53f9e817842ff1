"""The tyre log: readings by wheel, what they show without the temperature, and the simulated sensors."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.drive.air import pressure_at
from ..core.drive.tyre_log import WHEELS, Reading, TyreAlarm, WheelTrend, alarms, trends
from ..core.errors import Refusal, require
from ..household.facts import TYRE, wheels_now
from ..household.home import Home, seen
from ..household.models import CarRow, ReadingRow
from ..household.parts import cars, household, place_of

SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class TyreLog:
    """A car's readings: all of them, the latest looks (time, °C, warm, source, kPa by wheel), and each wheel's trend."""

    car_id: int
    name: str
    cars: tuple[tuple[int, str], ...]
    placard_kpa: float
    readings: tuple[Reading, ...]
    all_looks: tuple[tuple[datetime, float, bool, str, Mapping[str, float]], ...]
    wheels: tuple[WheelTrend, ...]
    alarms: tuple[TyreAlarm, ...]
    outside_c: float
    simulated: bool
    revision: int

    @property
    def looks(self) -> tuple[tuple[datetime, float, bool, str, Mapping[str, float]], ...]:
        """The latest looks, the newest first."""
        return self.all_looks[:SHOWN]


def tyre_log(home: Home, now: datetime, car_id: int | None = None, years: float = 2.5) -> TyreLog:
    """Everything the page shows for a car (the first when None) of the last years. Raises: Refusal without a car."""
    with home.reading() as session:
        row, rows = _car(session, car_id), cars(session)
        place, house = place_of(row, session), household(session)
        of_wheels = (ReadingRow.car_id == row.id, ReadingRow.kind == TYRE, ReadingRow.part != "")
        since = ReadingRow.read_at > now - timedelta(days=365 * years)
        stored = list(session.scalars(select(ReadingRow).where(*of_wheels, since).order_by(ReadingRow.read_at, ReadingRow.id)))
        latest_read, outside_kpa = wheels_now(session, row.id), pressure_at(place.altitude_m) / 1000.0
        stamp = seen(session)
        outside = home.world.weather.temperature_c(now) if home.world.weather is not None else house.out_now_c
    readings = tuple(Reading(r.part, r.read_at.timestamp(), r.value, r.temp_c or 0.0, r.warm) for r in stored)
    looks: dict[datetime, tuple[float, bool, str, dict[str, float]]] = {}
    for each in stored:
        looks.setdefault(each.read_at, (each.temp_c or 0.0, each.warm, each.source, {}))[3][each.part] = each.value
    latest = tuple((at, *looks[at]) for at in sorted(looks, reverse=True))
    return TyreLog(
        car_id=row.id,
        name=row.name,
        cars=tuple((each.id, each.name) for each in rows),
        placard_kpa=row.placard_kpa,
        readings=readings,
        all_looks=latest,
        wheels=trends(readings, outside_kpa),
        alarms=alarms(latest_read, row.placard_kpa, outside_kpa),
        outside_c=outside,
        simulated=home.world.wheel_sensors is not None,
        revision=stamp,
    )


def _car(session: Session, car_id: int | None) -> CarRow:
    row = next((each for each in cars(session) if car_id in (None, each.id)), None)
    if row is None:
        raise Refusal("There is no car yet.")
    return row


def note(
    home: Home,
    car_id: int,
    now: datetime,
    kpa: Mapping[str, float],
    *,
    tyre_c: float,
    warm: bool,
    source: str,
    seen_revision: int | None = None,
) -> int:
    """Keep a look at some wheels; a cold one of the softest is what the plan uses from now on. Returns its undo number.

    Raises: Refusal for no wheel, OutOfRange for impossible readings; Stale.
    """
    if not kpa:
        raise Refusal("Enter at least one wheel.", "FL")
    for wheel, value in kpa.items():
        require(value, 50, 600, "The pressure", "kPa", wheel)
    require(tyre_c, -45, 70, "The tyre", "°C", "tyre_c")
    with home.deciding("Tyres noted; a cold reading is what the plan uses from now on", seen_revision) as session:
        row = _car(session, car_id)
        made = [
            ReadingRow(
                car_id=row.id,
                read_at=now,
                kind=TYRE,
                part=wheel,
                value=kpa[wheel],
                unit="kPa",
                temp_c=tyre_c,
                warm=warm,
                source=source,
            )
            for wheel in WHEELS
            if wheel in kpa
        ]
        session.add_all(made)
    return session.number


def read_sensors(home: Home, car_id: int, now: datetime) -> int:
    """Note what the wheel sensors say, tyres at the outside temperature. Raises: Refusal for a home without."""
    log, sensors = tyre_log(home, now, car_id), home.world.wheel_sensors
    if sensors is None:
        raise Refusal("These cars have no wheel sensors that can be read: enter your own readings.")
    found = sensors.read(log.name, log.placard_kpa, now, log.outside_c)
    return note(home, car_id, now, found, tyre_c=log.outside_c, warm=False, source="car")
