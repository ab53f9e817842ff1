"""Tyres: pressure with temperature, and what temperature and pressure do to rolling resistance."""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..errors import OutOfRange
from ..units import ZERO_C_IN_K
from .air import pressure_at

REFERENCE_C = figure("tyres.reference_temperature", 25.0, "°C", Basis.PUBLISHED, "ISO 28580, reference temperature")
TEMPERATURE_SLOPE = figure("tyres.temperature_slope", 0.008, "1/K", Basis.PUBLISHED, "ISO 28580, temperature correction")
FLATTEN_C = figure("tyres.flatten_below", -10.0, "°C", Basis.COMMON_PRACTICE, "the linear correction is not used further down")
PRESSURE_EXPONENT = figure("tyres.pressure_exponent", -0.4, "", Basis.FROM_MEMORY, "form of SAE J2452; reported −0.3 to −0.5")
SIDEWALL_KPA = figure(
    "tyres.sidewall", 350.0, "kPa", Basis.COMMON_PRACTICE, "maximum on many car tyres' sidewalls; yours says its own"
)
WINTER_FACTOR = figure("tyres.winter_factor", 1.07, "", Basis.FROM_MEMORY, "winter tread rolls 5–10 % harder")


def gauge_at(gauge_kpa: float, from_c: float, to_c: float, ambient_kpa: float = 101.325) -> float:
    """Gauge pressure of a tyre after its air went from one temperature to another.

    Ideal gas at constant volume: absolute pressure is proportional to absolute temperature.

    Args: pressures in kPa, temperatures in °C; `ambient_kpa` is the air outside the tyre.
    Raises: OutOfRange for temperatures at or below −273.15 °C or a gauge pressure under 0.
    Source: Gay-Lussac's law.

    >>> round(gauge_at(290, 20, -1), 1)
    262.0
    """
    if min(from_c, to_c) <= -ZERO_C_IN_K:
        raise OutOfRange("A temperature must be above absolute zero (−273.15 °C).")
    if gauge_kpa < 0:
        raise OutOfRange("A gauge pressure cannot be below 0 kPa.")
    return (gauge_kpa + ambient_kpa) * (to_c + ZERO_C_IN_K) / (from_c + ZERO_C_IN_K) - ambient_kpa


FLAT_KPA = figure("tyres.flat_under", 80.0, "kPa", Basis.COMMON_PRACTICE, "a tyre under this is flat")


@dataclass(frozen=True)
class TyreAdvice:
    """A tyre tomorrow (kPa gauge, cold): what it will have, what to set where it stands now to be at placard then, and the step."""

    tomorrow_kpa: float
    set_now_kpa: float
    add_kpa: float
    rolling_more: float


def advise(
    reading_kpa: float,
    reading_c: float,
    here_c: float,
    tomorrow_c: float,
    placard_kpa: float,
    *,
    ambient_kpa: float = 101.325,
    sidewall_kpa: float = SIDEWALL_KPA,
) -> TyreAdvice:
    """From a cold reading to tomorrow's pressure, and what to set here so that tomorrow it is at placard.

    Args: pressures in kPa gauge, temperatures in °C: of the tyre when read, where it stands now, and of tomorrow's air.
    `add_kpa` is against what the tyre has here now, negative when it is above; never beyond the sidewall's maximum.
    `rolling_more` is the extra rolling resistance tomorrow if nothing is done (0.02: 2 %).
    Raises: OutOfRange for impossible temperatures or a flat tyre.
    Source: Gay-Lussac's law; `pressure_factor`.
    """
    tomorrow = gauge_at(reading_kpa, reading_c, tomorrow_c, ambient_kpa)
    wanted = min(gauge_at(placard_kpa, tomorrow_c, here_c, ambient_kpa), sidewall_kpa)
    now = gauge_at(reading_kpa, reading_c, here_c, ambient_kpa)
    return TyreAdvice(tomorrow, wanted, wanted - now, pressure_factor(tomorrow, placard_kpa) - 1)


def cold_factor(temp_c: float) -> float:
    """Factor on the rolling coefficient for the air temperature, 1 at 25 °C, flat below −10 and above 45 °C.

    Source: ISO 28580 temperature correction, 0.8 % per kelvin.
    """
    return float(1 + TEMPERATURE_SLOPE * (REFERENCE_C - np.clip(temp_c, FLATTEN_C, 45.0)))


def pressure_factor(gauge_kpa: float, placard_kpa: float) -> float:
    """Factor on the rolling coefficient for the cold gauge pressure against the placard, both kPa above 50.

    Raises: OutOfRange for pressures under 50 kPa, where a tyre is flat and no model holds.
    Source: pressure term of the SAE J2452 form, exponent from memory.
    """
    if min(gauge_kpa, placard_kpa) < 50:
        raise OutOfRange("A tyre under 50 kPa is flat: do not drive on it.", "tyre_gauge_kpa")
    return float((gauge_kpa / placard_kpa) ** PRESSURE_EXPONENT)


def driven_gauge(read_kpa: float, read_c: float, air_c: float, altitude_m: float) -> float:
    """Gauge pressure of a cold tyre on a drive, kPa, from a reading at another temperature.

    Raises: OutOfRange under `FLAT_KPA`: the tyre is flat.
    Source: Gay-Lussac's law, by `gauge_at`.
    """
    gauge = gauge_at(read_kpa, read_c, air_c, pressure_at(altitude_m) / 1000.0)
    if gauge < FLAT_KPA:
        raise OutOfRange(
            "In the cold of the drive this reading leaves next to no pressure: the tyre is flat, do not drive on it.", "tyre_kpa"
        )
    return gauge
