"""Charging and warming tabulated from the simulations, for planning hundreds of nights at once."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..car import Car
from ..grid import Grid
from ..heat.warm import WarmUpChoice, warm_up
from ..units import S_PER_H, Array
from .supply import ChargeRate


@dataclass(frozen=True)
class WarmTable:
    """Lead time (h), wall energy and pack energy (kWh) of the warm-up by pack and air temperature."""

    all_three: Grid

    def ask(self, pack_c: Array, air_c: Array) -> tuple[Array, Array, Array]:
        """The three for each morning; arrays of one shape."""
        at = np.clip(pack_c, -40, 45), np.clip(air_c, -40, 45)
        lead_h, wall_kwh, pack_kwh = np.moveaxis(self.all_three.at(*at), -1, 0)
        return lead_h, wall_kwh, pack_kwh


@lru_cache(maxsize=64)
def warm_table(car: Car, rate: ChargeRate, choice: WarmUpChoice, cabin_c: float) -> WarmTable:
    """Ask `warm_up` on a grid of temperatures."""
    temps = np.array([-40.0, -30, -20, -15, -10, -5, 0, 5, 10, 15, 20, 25, 45])
    found = np.zeros((len(temps), len(temps), 3))
    for j, pack_c in enumerate(temps):
        for k, air_c in enumerate(temps):
            warm = warm_up(
                car, choice, cabin_c=air_c, pack_c=pack_c, ambient_c=air_c, set_c=cabin_c,
                wall_kw=rate.wall_kw, overhead_kw=rate.overhead_kw,
            )  # fmt: skip
            found[j, k] = warm.lead_s / S_PER_H, warm.wall_kwh, warm.pack_kwh
    return WarmTable(Grid(temps, temps, found))
