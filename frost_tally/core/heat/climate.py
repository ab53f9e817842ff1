"""Electric power for warm or cool people: heat pump, resistance heater, cooling, seats."""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..units import J_PER_KWH, Array, Number
from .lumped import Held, warm_and_hold

_PUMP_C = (-20.0, -10.0, 0.0, 10.0)
_PUMP = tuple(
    figure(f"climate.heat_pump.at_{at:+.0f}", value, "", Basis.FROM_MEMORY, "coefficient of performance, typical")
    for at, value in zip(_PUMP_C, (1.2, 1.6, 2.2, 3.0), strict=True)
)
SEAT_W = figure("climate.seat", 60.0, "W", Basis.FROM_MEMORY, "one seat heater")
COOLING_COP = figure("climate.cooling_performance", 2.5, "", Basis.FROM_MEMORY, "heat moved per electric energy")
SUN_W = figure("climate.sun_gain", 1800.0, "W", Basis.FROM_MEMORY, "steady sun on the glass, about 1 kW electric with the walls")
COOLING_TO_C = figure(
    "climate.cooling_to", 25.0, "°C", Basis.COMMON_PRACTICE, "what people cool to in summer, or their setting above it"
)
OPEN_AIR = figure(
    "climate.open_air", 190.0, "W/K", Basis.FROM_MEMORY, "blower and windows: in steady sun a cabin is {6 K} warmer than the air"
)
COOLING_MAX_W = figure("climate.cooling_max", 4000.0, "W", Basis.COMMON_PRACTICE, "electric, at the start of a hot drive")
NO_COOLER = np.array(np.inf)


@dataclass(frozen=True)
class CabinStep:
    """A step in the cabin: its course as heated, the temperature (°C) that a cooler allows, and electric energy used (kWh)."""

    held: Held
    most_c: Array
    electric_kwh: Array

    @property
    def end_c(self) -> Array:
        """Temperature at its end, °C."""
        return np.minimum(self.held.end_c, self.most_c)

    def at(self, share: float) -> Array:
        """Temperature (°C) when so much of the step has passed (0 to 1)."""
        return np.minimum(self.held.at(share), self.most_c)


def coefficient_of_performance(ambient_c: Number, heat_pump: bool) -> Array:
    """Heat given per electric energy: 1 for a resistance heater, 1.2 to 3 for a heat pump by outside temperature.

    Source: the figures `climate.heat_pump…`, from memory.
    """
    ambient = np.asarray(ambient_c, dtype=float)
    return np.interp(ambient, _PUMP_C, _PUMP) if heat_pump else np.ones_like(ambient)


class Climate:
    """A cabin held at its set temperature in one air: what does not change from step to step is worked out once.

    Heating while it is colder outside than set. Cooling takes what sun and warm air bring beyond what open air carries off:
    it sets in with the temperature that the cabin would reach, and no window helps once it is warmer outside than wanted.
    `heater_w` is heat, not electricity. Source: needed power = losses to the set temperature + warm-up.
    """

    def __init__(
        self,
        ambient_c: Number,
        set_c: Number,
        heater_w: Number,
        heat_pump: bool,
        conductance: Number,
        *,
        capacity: Number,
        seats: Number = 0.0,
    ) -> None:
        self.ambient_c, self.set_c, self.heater_w = np.asarray(ambient_c, dtype=float), np.asarray(set_c), np.asarray(heater_w)
        self.conductance, self.capacity = np.asarray(conductance), capacity
        self.performance = coefficient_of_performance(ambient_c, heat_pump)
        self.gain_w = cooling_w(ambient_c, set_c, conductance)
        self.cools, self.goal_c = bool((self.gain_w > 0).any()), np.maximum(set_c, COOLING_TO_C)
        self.seats_w = np.asarray(seats) * SEAT_W

    def step(self, start_c: Number, seconds: Number) -> CabinStep:
        """From a temperature (°C) through so much time (s), as far as the heater or the cooler can."""
        start, span = np.asarray(start_c), np.asarray(seconds)
        held = warm_and_hold(
            start,
            self.ambient_c,
            self.set_c,
            heater_w=self.heater_w,
            other_w=0.0,
            conductance=self.conductance,
            capacity=self.capacity,
            seconds=span,
        )
        electric_j = held.heater_j / self.performance + self.seats_w * span
        if not self.cools:
            return CabinStep(held, NO_COOLER, electric_j / J_PER_KWH)
        hot = self.gain_w > 0
        pull_down_j = np.maximum(start - self.goal_c, 0.0) * self.capacity
        cool_j = np.where(hot, np.minimum((self.gain_w * span + pull_down_j) / COOLING_COP, COOLING_MAX_W * span), 0.0)
        idle_j = np.where(self.ambient_c > self.goal_c, self.seats_w * span, 0.0)
        return CabinStep(held, np.where(hot, self.goal_c, np.inf), (electric_j - idle_j + cool_j) / J_PER_KWH)


def cooling_w(ambient_c: Number, set_c: Number, conductance: Number) -> Array:
    """Heat (W) that a cooler must carry out of a cabin in the sun to keep it at 25 °C, or at a setting above it; 0 or more.

    Source: the heat balance of a body in the sun: gain less what open air carries off at Newton's law.

    >>> cooling_w(np.array([18.0, 25.0]), 20.0, 110.0).tolist()
    [0.0, 1800.0]
    """
    ambient, k = np.asarray(ambient_c, dtype=float), np.asarray(conductance, dtype=float)
    warmer = ambient - np.maximum(set_c, COOLING_TO_C)
    heated = k * np.maximum(set_c - ambient, 0.0)
    return np.asarray(np.maximum(SUN_W + np.where(warmer > 0, k, k + OPEN_AIR) * warmer - heated, 0.0))
