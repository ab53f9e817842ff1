"""Road load: the force at the wheels and the energy from the pack."""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure
from ..car import Car
from ..errors import OutOfRange, require
from ..units import GRAVITY_MPS2, J_PER_KWH, KMH_PER_MPS, Array, Number
from .air import density, pressure_at
from .cycles import samples
from .tyres import WINTER_FACTOR, cold_factor, pressure_factor

ROTATING = figure("road.rotating_mass", 1.03, "", Basis.COMMON_PRACTICE, "wheels and motor spin up with the car")


PERSON_KG = figure("road.person", 75.0, "kg", Basis.COMMON_PRACTICE, "one person with what they carry")


def load_of(people: int, luggage_kg: float = 0.0) -> float:
    """Mass besides the car and its driver, kg."""
    return PERSON_KG * (people - 1) + luggage_kg


class Surface(StrEnum):
    """What lies on the road."""

    DRY = "dry"
    WET = "wet"
    SLUSH = "slush"


SURFACE_FACTOR = {
    Surface.DRY: 1.0,
    Surface.WET: figure("road.wet", 1.10, "", Basis.FROM_MEMORY, "water on the road, rolling + 10 %"),
    Surface.SLUSH: figure("road.slush", 1.40, "", Basis.FROM_MEMORY, "slush or fresh snow, rolling + 20–60 %"),
}


SEAT_AND_WHEEL = 1.5
FORECAST_K = figure(
    "weather.miss_tomorrow", 1.5, "K", Basis.FROM_MEMORY, "one standard deviation of a forecast of tomorrow's air"
)


@dataclass(frozen=True, kw_only=True)
class Conditions:
    """The air, the road and what the car carries.

    Temperatures °C, speeds m/s, pressure kPa cold gauge at `ambient_c` (None: placard), load in kg beyond the driver,
    `drag_factor` for boxes and carriers, `style` multiplies accelerations in town and country (0.85 gentle, 1.2 brisk),
    `wind_mps` blows from any side equally often, `headwind_mps` from the front; `cabin_set_c` None: climate off;
    `seats` warm ones at 60 W each, a warm wheel counts half; `heater` 0 leaves cabin and pack unheated on the way. `ambient_sigma_k` is how
    far the planned air misses, one standard deviation (K): a forecast of tomorrow unless it is told. `pack_heat` 0: the driver has switched
    pack heating off; `friction_share` of the braking goes to the discs (0 to 1; None: as the car does it).
    """

    ambient_c: float = 20.0
    relative_humidity: float = 0.7
    altitude_m: float = 0.0
    headwind_mps: float = 0.0
    wind_mps: float = 0.0
    surface: Surface = Surface.DRY
    tyre_gauge_kpa: float | None = None
    load_kg: float = 0.0
    drag_factor: float = 1.0
    style: float = 1.0
    cabin_set_c: float | None = None
    seats: float = 0
    heater: float = 1.0
    ambient_sigma_k: float = FORECAST_K
    pack_heat: float = 1.0
    friction_share: float | None = None

    def seats_only(self) -> "Conditions":
        """The same, with a warm seat and wheel in place of the cabin heater, and the pack left as it is."""
        return replace(self, heater=0.0, seats=max(self.seats, SEAT_AND_WHEEL))

    def checked(self) -> "Conditions":
        """The same conditions. Raises: OutOfRange with its field."""
        require(self.ambient_c, -45, 50, "The temperature", "°C", "out_low_c")
        require(self.load_kg, 0, 2000, "The load", "kg", "load_kg")
        require(self.wind_mps, 0, 40, "The wind", "m/s", "wind_mps")
        require(self.friction_share or 0.0, 0, 1, "The friction brakes' share", "", "friction_share")
        if self.cabin_set_c is not None:
            require(self.cabin_set_c, 10, 28, "The cabin", "°C", "cabin_c")
        return self


@dataclass(frozen=True, kw_only=True)
class RoadLoad:
    """Coefficients of F(v): mass (kg), rolling coefficient, air density (kg/m³), drag area (m²), winds (m/s), style.

    Fields are floats, or arrays of shape (cases, 1) to compute many cases at once.
    """

    mass_kg: Number
    rolling: Number
    density: Number
    drag_area_m2: Number
    headwind_mps: Number = 0.0
    wind_mps: Number = 0.0
    style: Number = 1.0

    def force_n(self, speed_mps: Array, accel_mps2: Array, slope: Number = 0.0) -> Array:
        """m·g·Crr·cosθ + ½·ρ·CdA·v_rel² + m·g·sinθ + 1.03·m·a, in N; v_rel² averaged over wind directions."""
        mass = np.asarray(self.mass_kg)
        relative = speed_mps + np.asarray(self.headwind_mps)
        drag = (
            0.5
            * np.asarray(self.density)
            * self.drag_area_m2
            * (relative * np.abs(relative) + np.asarray(self.wind_mps) ** 2 / 2)
        )
        angle = np.arctan(slope)
        rolling = mass * GRAVITY_MPS2 * self.rolling * np.cos(angle)
        inertia = ROTATING * mass * accel_mps2 * self.style
        return np.asarray(rolling + drag + mass * GRAVITY_MPS2 * np.sin(angle) + inertia)

    def wheel_power_w(self, speed_mps: Array, accel_mps2: Array, slope: Number = 0.0) -> Array:
        """Power at the wheels, W; negative when braking."""
        return self.force_n(speed_mps, accel_mps2, slope) * speed_mps


def rolling_coefficient(car: Car, conditions: Conditions) -> float:
    """Rolling coefficient for temperature, pressure, tread and road.

    Source: the figures `road.rolling…` and `tyres…`, with their bases.
    """
    gauge = car.tyres.placard_kpa if conditions.tyre_gauge_kpa is None else conditions.tyre_gauge_kpa
    tread = WINTER_FACTOR if car.tyres.winter else 1.0
    return (
        car.tyres.rolling_coefficient
        * tread
        * cold_factor(conditions.ambient_c)
        * pressure_factor(gauge, car.tyres.placard_kpa)
        * SURFACE_FACTOR[conditions.surface]
    )


def road_load(car: Car, conditions: Conditions) -> RoadLoad:
    """The car's road load under the conditions."""
    at = conditions.checked()
    air = density(at.ambient_c, pressure_at(at.altitude_m), at.relative_humidity)
    return RoadLoad(
        mass_kg=car.body.mass_kg + at.load_kg,
        rolling=rolling_coefficient(car, at),
        density=air,
        drag_area_m2=car.body.drag_area_m2 * at.drag_factor,
        headwind_mps=at.headwind_mps,
        wind_mps=at.wind_mps,
        style=at.style,
    )


def friction_share(car: Car, conditions: Conditions) -> float:
    """Share of the braking that friction brakes turn into heat, 0 to 1: as the driver does it, else as the car."""
    return car.drivetrain.friction_share if conditions.friction_share is None else conditions.friction_share


def cycle_energy_kwh(car: Car, speeds_mps: Number, conditions: Conditions, dt_s: float = 1.0) -> float:
    """Energy from the pack over a speed trace, without climate, kWh.

    Args: at least two speeds ≥ 0 in m/s, `dt_s` seconds apart. Braking returns energy as far as the regen efficiency
    goes; the pack is warm and takes all of it.
    Raises: OutOfRange for a trace that is too short or runs backwards.
    Source: F = m·g·Crr·cosθ + ½·ρ·CdA·v² + m·g·sinθ + 1.03·m·a; power = F·v.
    """
    trace = np.asarray(speeds_mps, dtype=float)
    if trace.ndim != 1 or trace.size < 2 or trace.min() < 0 or dt_s <= 0:
        raise OutOfRange("A speed trace needs two or more speeds of 0 m/s or more.")
    power = road_load(car, conditions).wheel_power_w(*samples(trace, dt_s))
    drive = car.drivetrain
    back = (1 - friction_share(car, conditions)) * np.maximum(power * drive.regen_efficiency, -1000 * drive.regen_kw)
    wheel = np.where(power > 0, power / drive.efficiency, back).sum() * dt_s
    return float(wheel / J_PER_KWH + drive.auxiliary_kw * (trace.size - 1) * dt_s / 3600.0)


def consumption_wh_per_km(car: Car, speed_kmh: float, conditions: Conditions, climate_kw: float = 0.0) -> float:
    """Consumption from the pack at a steady speed (5 to 200 km/h) on the flat, Wh/km, with `climate_kw` for the cabin.

    Source: the road load equation, as SAE J1263 has it: rolling, air and climb; the pack gives it by the drivetrain's efficiency.
    """
    require(speed_kmh, 5, 200, "Speed", "km/h", "motorway_kmh")
    speed = np.array([speed_kmh / KMH_PER_MPS])
    push_w = float(road_load(car, conditions).wheel_power_w(speed, np.zeros(1))[0]) / car.drivetrain.efficiency
    return (push_w + 1000 * (car.drivetrain.auxiliary_kw + climate_kw)) / speed_kmh


TRADES_KMH = figure(
    "road.trades_thriftiest", 70.0, "km/h", Basis.COMMON_PRACTICE, "the steady speed that the trade calls thriftiest"
)
FROST_HEAT_KW = figure("road.frost_heat", 2.3, "kW", Basis.COMMON_PRACTICE, "what holds a cabin warm in ordinary frost, 2–2.5 kW")


def thriftiest_kmh(car: Car, conditions: Conditions, climate_kw: float = 0.0) -> float:
    """The steady speed on the flat at which a kilometre takes least, km/h, in still air.

    Rolling takes the same at every speed, drag grows with its square, and what runs all the time counts by the hour: v³ = P / 2k, P the
    auxiliaries with `climate_kw`, k = ½ ρ CdA over the drive's efficiency. Source: the derivative of `consumption_wh_per_km`.
    """
    return KMH_PER_MPS * float(np.cbrt(1000 * (car.drivetrain.auxiliary_kw + climate_kw) / _drag_w(car, conditions)))


def _drag_w(car: Car, conditions: Conditions) -> float:
    """Twice k of `thriftiest_kmh`: what drag takes from the pack at 1 m/s, doubled, W."""
    load = road_load(car, conditions)
    return float(np.asarray(load.density)) * float(np.asarray(load.drag_area_m2)) / car.drivetrain.efficiency


def heat_for_thriftiest_kw(car: Car, conditions: Conditions, speed_kmh: float) -> float:
    """The climate power (kW) that would make a speed the thriftiest one; below 0 where none would.

    Source: the derivative of `consumption_wh_per_km` by speed, set to 0.
    """
    return _drag_w(car, conditions) * (speed_kmh / KMH_PER_MPS) ** 3 / 1000 - car.drivetrain.auxiliary_kw
