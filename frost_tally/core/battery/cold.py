"""What the pack gives, takes and resists at a temperature.

All functions take scalars or arrays of °C and return arrays of the same shape. Why: docs/decisions/0001.
"""

from bisect import bisect
from enum import StrEnum
from math import exp

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Number


class Chemistry(StrEnum):
    """Cell chemistry of a traction battery."""

    NMC = "NMC"
    LFP = "LFP"


_TABLE_C = (-20.0, -10.0, 0.0, 25.0)
_CELLS = "typical of cell data sheets"


def _column(name: str, values: tuple[float, ...], unit: str = "") -> tuple[float, ...]:
    return tuple(
        figure(f"pack.{name}.at_{temp_c:+.0f}", value, unit, Basis.FROM_MEMORY, _CELLS)
        for temp_c, value in zip(_TABLE_C, values, strict=True)
    )


def _on_to_minus_40(column: tuple[float, ...]) -> Array:
    """With the value at −40 °C, on the slope of the last interval."""
    return np.array([column[0] - 2 * (column[1] - column[0]), *column])


_USABLE_C = np.array([-40.0, *_TABLE_C])
_USABLE = {
    Chemistry.NMC: _on_to_minus_40(_column("usable_nmc", (0.82, 0.90, 0.95, 1.0))),
    Chemistry.LFP: _on_to_minus_40(_column("usable_lfp", (0.66, 0.80, 0.90, 1.0))),
}
_RESISTANCE = (6.0, 3.75, 2.5, 1.0)
_TABLE_AT, _LOGS = np.array(_TABLE_C), np.log(_RESISTANCE)
_LOG_RESISTANCE: tuple[float, ...] = tuple(_LOGS.tolist())
for _temp_c, _factor in zip(_TABLE_C, _RESISTANCE, strict=True):
    figure(f"pack.resistance.at_{_temp_c:+.0f}", _factor, "", Basis.FROM_MEMORY, f"{_CELLS}; geometric between")

REGEN_NONE_C = figure("pack.regen_none_below", -5.0, "°C", Basis.COMMON_PRACTICE, "cold packs refuse braking energy")
REGEN_HALF_C = figure("pack.regen_half_at", 5.0, "°C", Basis.COMMON_PRACTICE, "cold packs refuse braking energy")
REGEN_FULL_C = figure("pack.regen_full_from", 15.0, "°C", Basis.COMMON_PRACTICE, "cold packs refuse braking energy")
REGEN_FADES_SOC = figure("pack.regen_fades_from_level", 0.90, "", Basis.COMMON_PRACTICE, "a full pack cannot take braking energy")
RESERVE_LIGHT = figure("pack.reserve_light", 0.13, "", Basis.COMMON_PRACTICE, "level at which many cars light the reserve lamp")
LESS_POWER = figure("pack.less_power", 0.05, "", Basis.COMMON_PRACTICE, "level under which cars give less power")
CHARGE_FROM_C = {
    Chemistry.NMC: figure("pack.charges_from_nmc", 0.0, "°C", Basis.COMMON_PRACTICE, "no fast lithium plating above it"),
    Chemistry.LFP: figure("pack.charges_from_lfp", 5.0, "°C", Basis.COMMON_PRACTICE, "no fast lithium plating above it"),
}
_REGEN_C, _REGEN = np.array([REGEN_NONE_C, REGEN_HALF_C, REGEN_FULL_C]), np.array([0.0, 0.5, 1.0])
_POWER = tuple(
    (
        temp_c,
        figure(f"pack.power_at_{temp_c:+.0f}", share, "", Basis.FROM_MEMORY, "of full power that a cold pack gives; cars differ"),
    )
    for temp_c, share in ((-20.0, 0.35), (-10.0, 0.55), (0.0, 0.75), (10.0, 1.0))
)
LITTLE_POWER = figure(
    "pack.little_power", 0.8, "", Basis.COMMON_PRACTICE, "of full power: under it a driver on a motorway is told"
)
COLD_CHARGE_C_RATE = figure("pack.cold_charge_rate", 0.1, "1/h", Basis.FROM_MEMORY, "what is accepted at the threshold")
COLD_CHARGE_SPAN_K = figure("pack.cold_charge_span", 10.0, "K", Basis.FROM_MEMORY, "nothing is accepted this far below it")


def usable_fraction(temp_c: Number, chemistry: Chemistry) -> Array:
    """Share of the capacity that can be drawn at a pack temperature, 0 to 1.

    Linear between −20, −10, 0 and 25 °C, on the slope of the last interval down to −40 °C; comes back with warmth.
    Source: the table `pack.usable…`, from memory.
    """
    return np.asarray(np.interp(temp_c, _USABLE_C, _USABLE[chemistry]))


def resistance_factor(temp_c: Number) -> Array:
    """Internal resistance against its value at 25 °C, geometric between table points; 1 above 25, 6 below −20 °C.

    Source: the table `pack.resistance…`, from memory; geometric, for ions move as Arrhenius has it (exp −E/RT).
    """
    return np.exp(np.interp(temp_c, _TABLE_AT, _LOGS))


def resistance_at(temp_c: float) -> float:
    """`resistance_factor` for one float, many times faster."""
    i = bisect(_TABLE_C, temp_c)
    if not 0 < i < len(_TABLE_C):
        return exp(_LOG_RESISTANCE[0 if i == 0 else -1])
    low_c, low = _TABLE_C[i - 1], _LOG_RESISTANCE[i - 1]
    return exp(low + (temp_c - low_c) / (_TABLE_C[i] - low_c) * (_LOG_RESISTANCE[i] - low))


def regen_acceptance(temp_c: Number, soc: Number) -> Array:
    """Share of the full braking power that the pack accepts, 0 to 1, by temperature and by level (0 to 1) above 0.9.

    Source: the figures `pack.regen_…`, common practice.
    """
    room = np.minimum(np.maximum((1.0 - np.asarray(soc)) / (1.0 - REGEN_FADES_SOC), 0.0), 1.0)
    return np.asarray(np.interp(temp_c, _REGEN_C, _REGEN) * room)


def power_share(temp_c: float) -> float:
    """Share of its full power that a pack gives at a temperature (°C), 0 to 1; linear between −20, −10, 0 and 10 °C, from memory."""
    at, share = zip(*_POWER, strict=True)
    return float(np.interp(temp_c, at, share))


def charge_limit_kw(temp_c: float, chemistry: Chemistry, capacity_kwh: float) -> float:
    """Largest power the cold pack takes, kW; unlimited (inf) from the chemistry's threshold up.

    Source: `CHARGE_FROM_C`, `COLD_CHARGE_C_RATE`, with their bases; plating below it.
    """
    below_k = CHARGE_FROM_C[chemistry] - temp_c
    if below_k <= 1e-9:
        return float("inf")
    return COLD_CHARGE_C_RATE * capacity_kwh * max(0.0, 1 - below_k / COLD_CHARGE_SPAN_K)


def charge_limits_kw(temp_c: Array, chemistry: Chemistry, capacity_kwh: float) -> Array:
    """`charge_limit_kw` for arrays of °C."""
    below_k = CHARGE_FROM_C[chemistry] - temp_c
    cold_kw = COLD_CHARGE_C_RATE * capacity_kwh * np.maximum(0.0, 1 - below_k / COLD_CHARGE_SPAN_K)
    return np.where(below_k <= 1e-9, np.inf, cold_kw)
