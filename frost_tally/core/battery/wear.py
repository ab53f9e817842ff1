"""What loading a pack wears, by its temperature, in kilowatt-hours of mild driving and in money."""

import numpy as np

from ..basis import Basis, figure
from ..units import Array, Number
from .cold import Chemistry

_AT_C = (-20.0, -10.0, 0.0, 10.0, 20.0)
_SOURCE = "cells cycled in the cold age faster below 20 °C, most from lithium plating; spread between studies is wide"


def _column(name: str, values: tuple[float, ...]) -> tuple[float, ...]:
    return tuple(
        figure(f"wear.{name}.at_{temp_c:+.0f}", value, "", Basis.FROM_MEMORY, _SOURCE)
        for temp_c, value in zip(_AT_C, values, strict=True)
    )


_FACTOR = {Chemistry.NMC: _column("nmc", (3.6, 2.5, 1.7, 1.25, 1.0)), Chemistry.LFP: _column("lfp", (4.5, 3.0, 2.0, 1.4, 1.0))}
CYCLES = {
    Chemistry.NMC: figure("wear.cycles_nmc", 1500.0, "", Basis.FROM_MEMORY, "full cycles until a pack is thought worn, mild"),
    Chemistry.LFP: figure("wear.cycles_lfp", 3000.0, "", Basis.FROM_MEMORY, "full cycles until a pack is thought worn, mild"),
}
PACK_PER_KWH = figure("wear.pack_price", 130.0, "EUR/kWh", Basis.FROM_MEMORY, "a new pack, per kWh; falls from year to year")


def wear_factor(temp_c: Number, chemistry: Chemistry) -> Array:
    """What a kWh drawn at a pack temperature (°C) wears against one at 20 °C or above; linear between points, 1 or more."""
    return np.asarray(np.interp(temp_c, _AT_C, _FACTOR[chemistry]))


def wear_per_kwh(chemistry: Chemistry, pack_per_kwh: float = PACK_PER_KWH) -> float:
    """Money that a mild kWh wears: the price of a new pack spread over its full cycles."""
    return pack_per_kwh / CYCLES[chemistry]
