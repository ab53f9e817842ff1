"""Charging and warming tabulated from the simulations, for planning hundreds of nights at once."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.interpolate import RegularGridInterpolator

from ..battery.cold import CHARGE_FROM_C
from ..car import Car
from ..heat.warm import WarmUpChoice, warm_up
from ..units import S_PER_H, Array
from .session import TAPER_FROM_SOC, fill_up, simulate
from .supply import ChargeRate

COLDER_K = (30.0, 15.0, 6.0, 2.0, 0.0)
AIRS_C = (-40.0, -24.0, -12.0, -5.0, 0.0, 5.0, 20.0)
NEEDS = 12
LONGEST_H = 24.0


@dataclass(frozen=True)
class ChargeTable:
    """Hours of drawing and wall energy to bring a pack up to the limit, by what is missing, pack and air temperature.

    Built from `session.simulate`, one session from empty for each pair of temperatures; linear between its points. With
    pack and air above the chemistry's threshold and a limit under the taper the simulation itself is linear, so that
    nothing is lost there. `hours` beyond `LONGEST_H` mean never.
    """

    hours_and_kwh: RegularGridInterpolator
    needs_kwh: Array
    packs_c: Array

    def ask(self, need_kwh: Array, pack_c: Array, air_c: Array) -> tuple[Array, Array]:
        """Hours drawn and wall kWh for each night; arrays of one shape."""
        points = np.stack(self._clipped(need_kwh, pack_c, air_c), axis=-1)
        hours, wall_kwh = np.moveaxis(self.hours_and_kwh(points), -1, 0)
        return hours, wall_kwh

    def _clipped(self, need_kwh: Array, pack_c: Array, air_c: Array) -> tuple[Array, Array, Array]:
        """The three inside the grid."""
        return (
            np.clip(need_kwh, 0.0, self.needs_kwh[-1]),
            np.clip(pack_c, self.packs_c[0], self.packs_c[-1]),
            np.clip(air_c, AIRS_C[0], AIRS_C[-1]),
        )

    def gain_kwh(self, window_h: Array, pack_c: Array, air_c: Array) -> Array:
        """The most that reaches the pack in some hours of drawing, kWh."""
        points = np.stack(np.broadcast_arrays(*self._clipped(self.needs_kwh[:, None], pack_c, air_c)), axis=-1)
        columns = np.asarray(self.hours_and_kwh(points)[..., 0])
        row, below = np.arange(len(window_h)), np.clip((columns <= window_h).sum(axis=0) - 1, 0, len(self.needs_kwh) - 2)
        low, high = columns[below, row], columns[below + 1, row]
        part = np.clip((window_h - low) / np.maximum(high - low, 1e-9), 0.0, 1.0)
        return np.asarray(self.needs_kwh[below] + part * (self.needs_kwh[below + 1] - self.needs_kwh[below]))


@lru_cache(maxsize=64)
def charge_table(car: Car, rate: ChargeRate, limit_soc: float) -> ChargeTable:
    """Simulate charging to a limit over the grid (35 sessions)."""
    threshold_c = CHARGE_FROM_C[car.pack.chemistry]
    flat_soc, capacity = min(limit_soc, TAPER_FROM_SOC), car.pack.usable_kwh
    tail = fill_up(car, rate, flat_soc, limit_soc, 25.0, 25.0) if limit_soc > flat_soc else None
    needs = np.linspace(0.0, flat_soc * capacity, NEEDS)
    packs = threshold_c - np.array(COLDER_K)
    hours = np.zeros((NEEDS, len(packs), len(AIRS_C)))
    wall = np.zeros_like(hours)
    for j, pack_c in enumerate(packs):
        for k, air_c in enumerate(AIRS_C):
            hours[:, j, k], wall[:, j, k] = _column(car, rate, needs, float(pack_c), air_c)
    if tail is not None:
        needs = np.array([0.0, *(needs + tail.pack_kwh)])
        hours, wall = (
            np.concatenate([np.zeros((1, *each.shape[1:])), each + extra])
            for each, extra in ((hours, tail.hours_to_limit), (wall, tail.wall_kwh))
        )
    grid = (needs, packs, np.array(AIRS_C))
    return ChargeTable(RegularGridInterpolator(grid, np.stack([hours, wall], axis=-1)), needs, packs)


def _column(car: Car, rate: ChargeRate, needs_kwh: Array, pack_c: float, air_c: float) -> tuple[Array, Array]:
    """Hours and wall energy after which each need has reached the pack, from one session below the taper."""
    threshold_c = CHARGE_FROM_C[car.pack.chemistry]
    if pack_c >= threshold_c and air_c >= threshold_c and rate.pack_kw > 0:
        return needs_kwh / rate.pack_kw, needs_kwh / rate.pack_kw * rate.wall_kw
    longest_s = LONGEST_H * S_PER_H
    done = simulate(car, rate, 0.0, TAPER_FROM_SOC, pack_c, [(0.0, longest_s)], longest_s, lambda _: air_c)
    steps = done.steps
    spans = np.diff([step.at_s for step in steps]) / S_PER_H
    gained = np.cumsum(spans * [step.pack_kw for step in steps[1:]])
    drawn = np.cumsum(spans * [step.wall_kw for step in steps[1:]])
    at_h = np.cumsum(spans)
    begun = max(0, int(np.argmax(gained > 1e-9)) - 1) if gained[-1] > 1e-9 else len(gained) - 1
    gained, drawn, at_h = gained[begun:], drawn[begun:], at_h[begun:]
    hours = np.interp(needs_kwh, gained, at_h)
    beyond = np.maximum(0.0, needs_kwh - gained[-1])
    hours += beyond * LONGEST_H
    hours[0] = 0.0
    energy = np.interp(needs_kwh, gained, drawn)
    energy[0] = 0.0
    return hours, energy


@dataclass(frozen=True)
class WarmTable:
    """Lead time (h), wall energy and pack energy (kWh) of the warm-up by pack and air temperature."""

    all_three: RegularGridInterpolator

    def ask(self, pack_c: Array, air_c: Array) -> tuple[Array, Array, Array]:
        """The three for each morning; arrays of one shape."""
        points = np.stack([np.clip(pack_c, -40, 45), np.clip(air_c, -40, 45)], axis=-1)
        lead_h, wall_kwh, pack_kwh = np.moveaxis(self.all_three(points), -1, 0)
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
    return WarmTable(RegularGridInterpolator((temps, temps), found))
