"""A charging session simulated in time: level, wall and pack energy, pack temperature, taper and cold."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import CHARGE_FROM_C, charge_limit_kw, resistance_factor
from ..car import HEATER_TO_PACK, PACK_VOLTAGE_V, PARKED_W_PER_K, STANDBY_PER_DAY, Car
from ..errors import OutOfRange
from ..heat.lumped import relax, warm_and_hold
from ..units import S_PER_H
from .supply import ChargeRate

TAPER_FROM_SOC = figure("session.taper_from", 0.97, "", Basis.COMMON_PRACTICE, "AC power is flat up to about 97 %")
TAPER_END = figure("session.taper_end", 0.10, "", Basis.COMMON_PRACTICE, "share of the power left at 100 %")
WASTE_TO_PACK = figure(
    "session.charger_heat_to_pack", 0.3, "", Basis.FROM_MEMORY, "share of the charger's loss that warms the pack"
)
CHARGING_STEP_S = 300.0
WAITING_STEP_S = 1800.0

Interval = tuple[float, float]


@dataclass(frozen=True)
class Step:
    """State at `at_s` (s from the start of the session) and the powers that led there."""

    at_s: float
    soc: float
    pack_c: float
    wall_kw: float
    pack_kw: float


@dataclass(frozen=True)
class Session:
    """Steps from start to end, and totals in kWh; `heating_kwh` is wall energy that went to the pack heater."""

    steps: tuple[Step, ...]
    wall_kwh: float
    pack_kwh: float
    heating_kwh: float
    unused_s: float

    @property
    def hours_to_limit(self) -> float:
        """Hours until the limit was reached, when charging went on from the start; inf when it never was."""
        return (self.steps[-1].at_s - self.unused_s) / S_PER_H if self.unused_s > 0 else float("inf")

    @property
    def lost_kwh(self) -> float:
        """Wall energy that neither reached the pack nor warmed it."""
        return self.wall_kwh - self.pack_kwh - self.heating_kwh

    def at(self, at_s: float) -> tuple[float, float]:
        """Level and pack temperature at a time between the steps, linear."""
        times = [step.at_s for step in self.steps]
        return (
            float(np.interp(at_s, times, [step.soc for step in self.steps])),
            float(np.interp(at_s, times, [step.pack_c for step in self.steps])),
        )


def simulate(
    car: Car,
    rate: ChargeRate,
    soc: float,
    limit_soc: float,
    pack_c: float,
    intervals: Sequence[Interval],
    end_s: float,
    ambient_c: Callable[[float], float],
) -> Session:
    """Charge during `intervals` (seconds from now, sorted, disjoint) until `limit_soc`; idle otherwise, to `end_s`.

    AC power is flat to 97 % and tapers to 10 % of it at 100 %. Below the chemistry's threshold the pack heater takes
    its share of the wall power first. Charger and pack losses warm the pack. Steps are at most five minutes.
    Args: `soc`, `limit_soc` 0 to 1; `pack_c` °C; `ambient_c` gives °C at a second from now.
    Raises: OutOfRange for levels outside 0 to 1.
    """
    if not (0 <= soc <= 1 and 0 < limit_soc <= 1):
        raise OutOfRange("Levels must lie between 0 and 100 %.", "soc_now")
    run = _Run(car, rate, limit_soc, ambient_c, soc, pack_c)
    for start, stop in intervals:
        run.wait(start)
        run.charge(stop)
    run.wait(end_s)
    return Session(tuple(run.steps), run.wall_kwh, run.pack_kwh, run.heating_kwh, run.unused_s)


@lru_cache(maxsize=128)
def fill_up(
    car: Car, rate: ChargeRate, soc: float, limit_soc: float, pack_c: float, air_c: float, longest_h: float = 120.0
) -> Session:
    """Charge without a break at one air temperature until the limit, or for `longest_h`; raises what `simulate` raises."""
    missing_kwh = max(0.0, limit_soc - soc) * car.pack.usable_kwh
    guess_h = min(longest_h, 3.0 + 1.4 * missing_kwh / max(rate.pack_kw, 1e-6))
    done = simulate(car, rate, soc, limit_soc, pack_c, [(0.0, guess_h * S_PER_H)], guess_h * S_PER_H, lambda _: air_c)
    if done.unused_s > 0 or guess_h >= longest_h:
        return done
    return simulate(car, rate, soc, limit_soc, pack_c, [(0.0, longest_h * S_PER_H)], longest_h * S_PER_H, lambda _: air_c)


class _Run:
    """The moving state of one simulation."""

    def __init__(self, car: Car, rate: ChargeRate, limit: float, ambient: Callable[[float], float], soc: float, pack_c: float):
        self.car, self.rate, self.limit, self.ambient = car, rate, limit, ambient
        self.at_s, self.soc, self.pack_c = 0.0, soc, pack_c
        self.wall_kwh = self.pack_kwh = self.heating_kwh = self.unused_s = 0.0
        self.steps = [Step(0.0, soc, pack_c, 0.0, 0.0)]

    def wait(self, until_s: float) -> None:
        while until_s - self.at_s > 1e-6:
            span = min(WAITING_STEP_S, until_s - self.at_s)
            self.pack_c = float(
                relax(self.pack_c, self.ambient(self.at_s + span / 2), 0.0, PARKED_W_PER_K, self.car.pack.capacity_j_per_k, span)
            )
            self._advance(span, 0.0, 0.0, -STANDBY_PER_DAY * span / (24 * S_PER_H))

    def charge(self, until_s: float) -> None:
        while until_s - self.at_s > 1e-6:
            if self.soc >= self.limit - 1e-9:
                self.unused_s += until_s - self.at_s
                return self.wait(until_s)
            self._charge_step(min(CHARGING_STEP_S, until_s - self.at_s))

    def _charge_step(self, span: float) -> None:
        """One step at the car's power; cut short where the limit is reached."""
        pack, capacity = self.car.pack, self.car.pack.usable_kwh
        taper = float(np.interp(self.soc, (TAPER_FROM_SOC, 1.0), (1.0, TAPER_END)))
        offered_kw = self.rate.into_pack_kw(self.rate.wall_kw) * taper
        threshold = CHARGE_FROM_C[pack.chemistry]
        heater_kw = min(pack.heater_kw, offered_kw) if self.pack_c < threshold + 0.05 else 0.0
        into_kw = min(
            offered_kw - heater_kw if self.pack_c < threshold - 1e-9 else offered_kw,
            charge_limit_kw(self.pack_c, pack.chemistry, capacity),
        )
        if into_kw > 0:
            span = min(span, (self.limit - self.soc) * capacity / into_kw * S_PER_H)
        waste_w = self._waste_w(into_kw)
        outside_c = self.ambient(self.at_s + span / 2)
        if heater_kw > 0:
            held = warm_and_hold(
                self.pack_c,
                outside_c,
                threshold,
                1000 * HEATER_TO_PACK * heater_kw,
                waste_w,
                PARKED_W_PER_K,
                pack.capacity_j_per_k,
                span,
            )
            self.pack_c, heating_kwh = float(held.end_c), float(held.heater_j) / HEATER_TO_PACK / 3.6e6
        else:
            self.pack_c, heating_kwh = (
                float(relax(self.pack_c, outside_c, waste_w, PARKED_W_PER_K, pack.capacity_j_per_k, span)),
                0.0,
            )
        pack_kwh = into_kw * span / S_PER_H
        if self.pack_c >= threshold - 1e-9 and heating_kwh:
            pack_kwh = min(pack_kwh, max(0.0, offered_kw * span / S_PER_H - heating_kwh))
        wall_kwh = self._wall_kwh(pack_kwh + heating_kwh, span)
        self.wall_kwh, self.pack_kwh = self.wall_kwh + wall_kwh, self.pack_kwh + pack_kwh
        self.heating_kwh += heating_kwh
        self._advance(span, wall_kwh / span * S_PER_H, pack_kwh / span * S_PER_H, pack_kwh / capacity)

    def _wall_kwh(self, useful_kwh: float, span: float) -> float:
        """Wall energy for energy behind the charger: conversion loss and the overhead while awake."""
        return useful_kwh / self.rate.efficiency + self.rate.overhead_kw * span / S_PER_H

    def _waste_w(self, into_kw: float) -> float:
        """Heat that charging itself leaves in the pack: I²R and a share of the charger's loss."""
        current_a = 1000 * into_kw / PACK_VOLTAGE_V
        resistance = self.car.pack.resistance_ohm * float(resistance_factor(self.pack_c))
        return float(resistance * current_a**2 + WASTE_TO_PACK * 1000 * into_kw * (1 / self.rate.efficiency - 1))

    def _advance(self, span: float, wall_kw: float, pack_kw: float, soc_change: float) -> None:
        self.at_s += span
        self.soc = min(1.0, max(0.0, self.soc + soc_change))
        self.steps.append(Step(self.at_s, self.soc, self.pack_c, wall_kw, pack_kw))
