"""The tyre log: readings by wheel, what they show without the temperature, and the simulated sensors."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from ..core.drive.air import pressure_at
from ..core.drive.tyre_log import WHEELS, Reading, TyreAlarm, WheelTrend, alarms, trends
from ..core.errors import Refusal, require
from ..core.home import OfCar, OwnedCar
from ..household.facts import WheelLook, note_wheels, wheel_looks
from ..household.parts import car_row
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .shared.climate import weather_ahead
from .shared.facts import wheels_now

SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class TyreLog(OfCar):
    """A car's readings: all of them, the latest looks (time, °C, warm, source, kPa by wheel), and each wheel's trend."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    readings: tuple[Reading, ...]
    all_looks: tuple[tuple[datetime, float, bool, str, Mapping[str, float]], ...]
    wheels: tuple[WheelTrend, ...]
    alarms: tuple[TyreAlarm, ...]
    outside_c: float
    simulated: bool

    @property
    def placard_kpa(self) -> float:
        """The maker's cold pressure, kPa gauge."""
        return self.owned.car.tyres.placard_kpa

    @property
    def looks(self) -> tuple[tuple[datetime, float, bool, str, Mapping[str, float]], ...]:
        """The latest looks, the newest first."""
        return self.all_looks[:SHOWN]


def tyre_log(snapshot: Snapshot, car_id: int | None = None, years: float = 2.5) -> TyreLog:
    """Everything the page shows for a car (the first when None) of the last years. Raises: NotSetUp without a car."""
    owned, now = snapshot.home.car(car_id), snapshot.now
    stored = wheel_looks(snapshot.log, owned.id, now - timedelta(days=365 * years))
    outside_kpa = pressure_at(owned.place.altitude_m) / 1000.0
    readings = tuple(Reading(each.wheel, each.at.timestamp(), each.kpa, each.tyre_c, each.warm) for each in stored)
    looks: dict[datetime, tuple[float, bool, str, dict[str, float]]] = {}
    for each in stored:
        looks.setdefault(each.at, (each.tyre_c, each.warm, each.source, {}))[3][each.wheel] = each.kpa
    return TyreLog(
        owned=owned,
        cars=snapshot.home.names,
        readings=readings,
        all_looks=tuple((at, *looks[at]) for at in sorted(looks, reverse=True)),
        wheels=trends(readings, outside_kpa),
        alarms=alarms(wheels_now(snapshot, owned.id), owned.car.tyres.placard_kpa, outside_kpa),
        outside_c=weather_ahead(snapshot, owned).temperature_c(now),
        simulated=snapshot.world.wheel_sensors is not None,
    )


def note(
    household: Household,
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
    with household.deciding("Tyres noted; a cold reading is what the plan uses from now on", seen_revision) as session:
        car_row(session, car_id)
        looks = [(wheel, kpa[wheel]) for wheel in WHEELS if wheel in kpa]
        made = (WheelLook(wheel=wheel, at=now, kpa=value, tyre_c=tyre_c, warm=warm, source=source) for wheel, value in looks)
        note_wheels(session, car_id, made)
    return session.number


def read_sensors(household: Household, snapshot: Snapshot, car_id: int) -> int:
    """Note what the wheel sensors say, tyres at the outside temperature. Raises: Refusal for a home without."""
    log, sensors, now = tyre_log(snapshot, car_id), snapshot.world.wheel_sensors, snapshot.now
    if sensors is None:
        raise Refusal("These cars have no wheel sensors that can be read: enter your own readings.")
    found = sensors.read(log.owned.name, log.placard_kpa, now, log.outside_c)
    return note(household, log.owned.id, now, found, tyre_c=log.outside_c, warm=False, source="car")
