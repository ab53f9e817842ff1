"""Moist air: density and the pressure at an altitude."""

import math

from ..basis import Basis, figure
from ..errors import require
from ..units import STANDARD_PRESSURE_PA, ZERO_C_IN_K

GAS_CONSTANT = figure("air.gas_constant", 8.314472, "J/(mol·K)", Basis.PUBLISHED, "CIPM-2007, Metrologia 45 (2008) 149")
DRY_MOLAR_MASS = figure("air.dry_molar_mass", 28.96546e-3, "kg/mol", Basis.PUBLISHED, "CIPM-2007, Metrologia 45 (2008) 149")
WATER_MOLAR_MASS = figure("air.water_molar_mass", 18.01528e-3, "kg/mol", Basis.PUBLISHED, "CIPM-2007, Metrologia 45 (2008) 149")
USUAL_HUMIDITY = figure(
    "air.usual_humidity", 0.8, "", Basis.COMMON_PRACTICE, "relative, of winter air where nobody measured it: it hardly matters"
)


def saturation_pressure_pa(temp_c: float) -> float:
    """Saturation vapour pressure over water, Pa. Source: CIPM-2007, equation A1.1."""
    kelvin = temp_c + ZERO_C_IN_K
    return math.exp(1.2378847e-5 * kelvin**2 - 1.9121316e-2 * kelvin + 33.93711047 - 6.3431645e3 / kelvin)


def density(temp_c: float, pressure_pa: float, relative_humidity: float) -> float:
    """Density of moist air, kg/m³.

    Args: temperature in °C (−60 to 60), absolute pressure in Pa (30 000 to 120 000), relative humidity 0 to 1.
    Raises: OutOfRange outside these.
    Source: A. Picard et al., "Revised formula for the density of moist air (CIPM-2007)", Metrologia 45 (2008) 149–155.

    >>> round(density(20.0, 101325.0, 0.5), 4)
    1.1993
    """
    require(temp_c, -60, 60, "Air temperature", "°C")
    require(pressure_pa, 30_000, 120_000, "Air pressure", "Pa")
    require(relative_humidity, 0, 1, "Relative humidity")
    kelvin = temp_c + ZERO_C_IN_K
    enhancement = 1.00062 + 3.14e-8 * pressure_pa + 5.6e-7 * temp_c**2
    vapour = relative_humidity * enhancement * saturation_pressure_pa(temp_c) / pressure_pa
    first = 1.58123e-6 - 2.9331e-8 * temp_c + 1.1043e-10 * temp_c**2
    second = (5.707e-6 - 2.051e-8 * temp_c) * vapour + (1.9898e-4 - 2.376e-6 * temp_c) * vapour**2
    ratio = pressure_pa / kelvin
    compressibility = 1 - ratio * (first + second) + ratio**2 * (1.83e-11 - 0.765e-8 * vapour**2)
    dry = pressure_pa * DRY_MOLAR_MASS / (compressibility * GAS_CONSTANT * kelvin)
    return dry * (1 - vapour * (1 - WATER_MOLAR_MASS / DRY_MOLAR_MASS))


def pressure_at(altitude_m: float) -> float:
    """Standard pressure at an altitude of −500 to 5000 m, Pa. Source: US Standard Atmosphere 1976, troposphere.

    >>> round(pressure_at(1000.0))
    89875
    """
    require(altitude_m, -500, 5000, "Altitude", "m")
    return float(STANDARD_PRESSURE_PA * (1 - 2.25577e-5 * altitude_m) ** 5.25588)
