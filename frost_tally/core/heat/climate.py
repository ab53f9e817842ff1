"""Electric power for warm or cool people: heat pump, resistance heater, cooling, seats."""

from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..units import S_PER_H, Array, Number
from .lumped import warm_and_hold

_PUMP_C = (-20.0, -10.0, 0.0, 10.0)
_PUMP = tuple(
    figure(f"climate.heat_pump.at_{at:+.0f}", value, "", Basis.FROM_MEMORY, "coefficient of performance, typical")
    for at, value in zip(_PUMP_C, (1.2, 1.6, 2.2, 3.0), strict=True)
)
SEAT_W = figure("climate.seat", 60.0, "W", Basis.FROM_MEMORY, "one seat heater")
COOLING_COP = figure("climate.cooling_performance", 2.5, "", Basis.FROM_MEMORY, "heat moved per electric energy")
SUN_W = figure("climate.sun_gain", 1800.0, "W", Basis.FROM_MEMORY, "steady sun on the glass, about 1 kW electric with the walls")
COOLING_FROM_C = figure("climate.cooling_from", 23.0, "°C", Basis.COMMON_PRACTICE, "people switch cooling on above it")
COOLING_MAX_W = figure("climate.cooling_max", 4000.0, "W", Basis.COMMON_PRACTICE, "electric, at the start of a hot drive")


@dataclass(frozen=True)
class CabinStep:
    """End of a step in the cabin: temperature (°C) and electric energy used (kWh)."""

    end_c: Array
    electric_kwh: Array


def coefficient_of_performance(ambient_c: Number, heat_pump: bool) -> Array:
    """Heat given per electric energy: 1 for a resistance heater, 1.2 to 3 for a heat pump by outside temperature."""
    ambient = np.asarray(ambient_c, dtype=float)
    return np.interp(ambient, _PUMP_C, _PUMP) if heat_pump else np.ones_like(ambient)


def step(
    start_c: Number,
    ambient_c: Number,
    set_c: float,
    heater_w: Number,
    heat_pump: bool,
    conductance: Number,
    capacity: Number,
    seconds: Number,
    seats: Number = 0.0,
) -> CabinStep:
    """Hold the cabin at its set temperature as far as the heater or the cooler can.

    Heating while it is colder outside than set; cooling when it is above 23 °C outside and warmer than set.
    `heater_w` is heat, not electricity. Source: needed power = losses to the set temperature + warm-up.
    """
    start, ambient = np.asarray(start_c, dtype=float), np.asarray(ambient_c, dtype=float)
    span = np.asarray(seconds, dtype=float)
    held = warm_and_hold(start, ambient, set_c, heater_w, 0.0, conductance, capacity, span)
    warm_j = held.heater_j / coefficient_of_performance(ambient, heat_pump)
    cooling = (ambient > COOLING_FROM_C) & (ambient > set_c)
    if not cooling.any():
        return CabinStep(held.end_c, (warm_j + np.asarray(seats) * SEAT_W * span) / (1000.0 * S_PER_H))
    steady_w = (np.asarray(conductance) * (ambient - set_c) + SUN_W) / COOLING_COP
    pull_down_j = np.maximum(start - set_c, 0.0) * capacity / COOLING_COP
    cool_j = np.minimum(steady_w * span + pull_down_j, COOLING_MAX_W * span)
    seats_j = np.where(cooling, 0.0, np.asarray(seats) * SEAT_W * span)
    end = np.where(cooling, np.minimum(start, set_c), held.end_c)
    return CabinStep(end, (np.where(cooling, cool_j, warm_j) + seats_j) / (1000.0 * S_PER_H))
