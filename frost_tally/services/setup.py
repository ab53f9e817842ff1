"""Setting up: car, outlet, tariff, place and usual day, each kept whole or not at all."""

from dataclasses import dataclass
from datetime import time

from ..core.car import PRESETS, Car
from ..core.charge.supply import Code, Supply, charge_rate
from ..core.charge.tariff import Band
from ..household.home import Home, car_of, cars, household, supply_of
from ..household.models import BandRow, CarRow, HouseholdRow, OutletRow, TariffRow

STEPS = ("car", "outlet", "tariff", "place")


@dataclass(frozen=True)
class Progress:
    """What is entered already: the first car's row (with outlet and tariff), the household, its revision."""

    car: CarRow | None
    home: HouseholdRow

    @property
    def done(self) -> dict[str, bool]:
        """Which of the four steps are complete."""
        return {
            "car": self.car is not None,
            "outlet": self.car is not None and self.car.outlet is not None,
            "tariff": self.car is not None and self.car.tariff is not None,
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
        return Progress(row, household(session))


def keep_car(home: Home, car: Car, preset: str, warm_up: str, seen_revision: int | None) -> None:
    """Keep the (first) car. Raises: OutOfRange with its field, Stale."""
    car.checked()
    with home.changing(seen_revision) as session:
        row = next(iter(cars(session)), None)
        fields = car_fields(car, preset, warm_up)
        if row is None:
            session.add(CarRow(**fields, tyre_kpa=car.tyres.placard_kpa, tyre_read_c=20.0))
        else:
            for name, value in fields.items():
                setattr(row, name, value)


def car_fields(car: Car, preset: str, warm_up: str) -> dict[str, object]:
    """The columns of a core car."""
    return {
        "name": car.name,
        "preset": preset,
        "chemistry": car.pack.chemistry.value,
        "usable_kwh_new": car.pack.usable_kwh_new,
        "soh": car.pack.soh,
        "pack_heater_kw": car.pack.heater_kw,
        "preheats": car.pack.preheats.value,
        "drive_heat_to_c": car.pack.drive_heat_to_c,
        "mass_kg": car.body.mass_kg,
        "drag_area_m2": car.body.drag_area_m2,
        "cabin_heater_kw": car.cabin.heater_kw,
        "heat_pump": car.cabin.heat_pump,
        "ac_limit_a": car.charger.ac_limit_a,
        "ac_phases": car.charger.phases,
        "ac_limit_kw": car.charger.ac_limit_kw,
        "placard_kpa": car.tyres.placard_kpa,
        "rolling_coefficient": car.tyres.rolling_coefficient,
        "winter_tyres": car.tyres.winter,
        "warm_up": warm_up,
    }


def keep_outlet(home: Home, supply: Supply, seen_revision: int | None) -> None:
    """Keep the outlet for the car. Raises: OutOfRange with its field, also when the car could not charge from it; Stale."""
    supply.checked()
    with home.changing(seen_revision) as session:
        row = cars(session)[0]
        charge_rate(supply, car_of(row))
        if row.outlet is None:
            row.outlet = OutletRow(name=supply.name, voltage_v=0, phases=1, breaker_a=0, code=Code.IEC.value)
        outlet = row.outlet
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


def keep_tariff(home: Home, name: str, currency: str, bands: tuple[Band, ...], seen_revision: int | None) -> None:
    """Keep the tariff for the car; the bands have been checked. Raises: Stale."""
    with home.changing(seen_revision) as session:
        row = cars(session)[0]
        if row.tariff is None:
            row.tariff = TariffRow(name=name)
        row.tariff.name = name
        row.tariff.bands = band_rows(bands)
        household(session).currency = currency


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


@dataclass(frozen=True)
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


def keep_place(home: Home, step: PlaceAndDay, seen_revision: int | None) -> None:
    """Keep the place and the usual day; setting up is complete then. Raises: Stale."""
    with home.changing(seen_revision) as session:
        house, row = household(session), cars(session)[0]
        house.place, house.zone, house.altitude_m = step.place, step.zone, step.altitude_m
        house.garage, house.garage_heated_c = step.garage, step.garage_heated_c
        house.distance_unit, house.temperature_unit, house.pressure_unit = step.units
        house.out_now_c, house.out_low_c, house.complete = step.out_now_c, step.out_low_c, True
        for name in ("depart", "plug_in", "town_km", "country_km", "motorway_km", "motorway_kmh", "soc_now"):
            setattr(row, name, getattr(step, name))


def car_rate(home: Home) -> tuple[float, str] | None:
    """Power at the wall (kW) and its binding limit for the first car, once it has an outlet."""
    with home.reading() as session:
        row = next(iter(cars(session)), None)
        if row is None or row.outlet is None:
            return None
        rate = charge_rate(supply_of(row.outlet), car_of(row))
        return rate.wall_kw, rate.limited_by


PRESET_NAMES = {key: label for key, (label, _) in PRESETS.items()}
