"""One lumped temperature in closed form: C dT/dt = P − K (T − T_amb).

Long steps stay exact because each phase is the exponential itself. Scalars or arrays throughout; temperatures in °C,
powers in W, conductance K in W/K (above 0), heat capacity C in J/K (above 0), times in s. Why: docs/decisions/0017.
"""

from dataclasses import dataclass

import numpy as np

from ..units import Array, Number

TINY = 1e-300
_Phase = tuple[Array, Number, Array, Number, Number, Array]


@dataclass(frozen=True)
class Held:
    """End of a step: temperature (°C) and heat the heater gave (J)."""

    end_c: Array
    heater_j: Array
    phases: tuple[_Phase, _Phase]

    @property
    def seconds(self) -> Array:
        """How long the step is (s)."""
        return np.asarray(self.phases[0][5] + self.phases[1][5])

    def at(self, share: float) -> Array:
        """Temperature (°C) when so much of the step has passed (0 to 1)."""
        (start, ambient, power, conductance, capacity, first_s), (middle, _, rest_w, *_) = self.phases
        passed_s = share * self.seconds
        early = relax(start, ambient, power, conductance=conductance, capacity=capacity, seconds=np.minimum(passed_s, first_s))
        return np.where(
            passed_s <= first_s,
            early,
            relax(
                middle, ambient, rest_w, conductance=conductance, capacity=capacity, seconds=np.maximum(passed_s - first_s, 0.0)
            ),
        )

    @property
    def leaked_j(self) -> Array:
        """Heat that leaked to the air outside (J), integrated over both phases by hand."""
        return np.asarray(
            sum(_leak_j(*phase[:3], conductance=phase[3], capacity=phase[4], seconds=phase[5]) for phase in self.phases)
        )


def relax(
    start_c: Number, ambient_c: Number, power_w: Number, *, conductance: Number, capacity: Number, seconds: Number
) -> Array:
    """Temperature after `seconds` under constant power. Source: solution of the linear first-order equation."""
    settles = ambient_c + power_w / conductance
    cooled: Array = settles + (start_c - settles) * np.exp(-seconds * conductance / capacity)
    return cooled


def time_to(
    start_c: Number, end_c: Number, ambient_c: Number, *, power_w: Number, conductance: Number, capacity: Number
) -> Array:
    """Seconds until `end_c` is reached under constant power; inf when it never is; 0 when already there.

    Source: the equation of `relax`, solved for time.
    """
    start, end = np.asarray(start_c, dtype=float), np.asarray(end_c, dtype=float)
    settles = np.asarray(ambient_c) + np.asarray(power_w) / conductance
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = (end - settles) / (start - settles)
        seconds = -np.asarray(capacity) / conductance * np.log(ratio)
    reachable = (ratio > 0) & (ratio <= 1)
    return np.where(start == end, 0.0, np.where(reachable, seconds, np.inf))


def heated_by(power_w: Number, conductance: Number, capacity: Number, seconds: Number) -> Array:
    """Kelvins that constant power adds to what the temperature would have been without it, after `seconds`.

    The equation is linear, so this holds whatever the air does meanwhile.
    Source: the equation of `relax`, by superposition.
    """
    added: Array = np.asarray(power_w) / conductance * -np.expm1(-np.asarray(seconds) * conductance / capacity)
    return added


def lead_to(kelvins: Number, power_w: Number, conductance: Number, capacity: Number) -> Array:
    """Seconds of constant power (above 0) that add so many kelvins; inf when they never do, 0 for none or fewer.

    Source: `heated_by`, solved for time.
    """
    share = np.asarray(kelvins) * np.asarray(conductance) / power_w
    with np.errstate(divide="ignore", invalid="ignore"):
        seconds = -np.asarray(capacity) / conductance * np.log1p(-np.minimum(share, 1.0))
    return np.asarray(np.maximum(seconds, 0.0))


def missing_ks(held: Held, wanted_c: Number) -> tuple[Array, Array]:
    """How long (s), and by how many kelvin-seconds (K·s), a step was colder than `wanted_c`, in closed form.

    Source: the equation of `relax`, integrated by hand.
    """
    seconds, kelvins = np.zeros(1), np.zeros(1)
    for start, ambient, power, conductance, capacity, span in held.phases:
        settles = np.asarray(ambient) + np.asarray(power) / conductance
        crosses = np.minimum(time_to(start, wanted_c, ambient, power_w=power, conductance=conductance, capacity=capacity), span)
        colder = np.asarray(start) < wanted_c
        begin, end = np.where(colder, 0.0, crosses), np.where(colder, crosses, span)
        tau = np.asarray(capacity) / conductance
        mean = (np.asarray(start) - settles) * tau * (np.exp(-begin / tau) - np.exp(-end / tau))
        seconds = seconds + (end - begin)
        kelvins = kelvins + np.maximum((wanted_c - settles) * (end - begin) - mean, 0.0)
    return seconds, kelvins


def warm_and_hold(
    start_c: Number,
    ambient_c: Number,
    target_c: Number,
    *,
    heater_w: Number,
    other_w: Number,
    conductance: Number,
    capacity: Number,
    seconds: Number,
) -> Held:
    """Heat at full power up to a target, then give just what holds it; above the target the heater waits.

    `heater_w` ≥ 0 is the most the heater gives, `other_w` heat that comes anyway (losses, waste heat).
    Source: the equation of `relax`, in two phases; what holds a temperature is its loss (Newton's law of cooling).
    """
    start, target, ambient = np.asarray(start_c), np.asarray(target_c), np.asarray(ambient_c)
    other, heater, span = np.asarray(other_w), np.asarray(heater_w), np.asarray(seconds)
    gives = heater * (start < target)
    first_w, tau = other + gives, np.asarray(capacity) / conductance
    settles = ambient + first_w / conductance
    # The target is reached where it lies between start and end. Where it never is, what it takes to hold it is what the first phase
    # gives, or the temperature has settled long before the longest time that comes out here: either end of the ratio will do.
    left = (settles - target) / (settles - start + TINY)
    first_s = np.minimum(-tau * np.log(np.minimum(np.maximum(left, TINY), 1.0)), span)
    middle = settles + (start - settles) * np.exp(-first_s / tau)
    rest_s = span - first_s
    hold = np.minimum(np.maximum(conductance * (target - ambient) - other, 0.0), heater)
    rest_w = other + hold
    settles = ambient + rest_w / conductance
    end = settles + (middle - settles) * np.exp(-rest_s / tau)
    first: _Phase = (start, ambient, first_w, conductance, capacity, first_s)
    return Held(end, gives * first_s + hold * rest_s, (first, (middle, ambient, rest_w, conductance, capacity, rest_s)))


def _leak_j(start_c: Array, ambient_c: Number, power_w: Array, *, conductance: Number, capacity: Number, seconds: Array) -> Array:
    """Heat lost to the air outside during one phase: K ∫ (T − T_amb) dt, integrated by hand."""
    ambient, k = np.asarray(ambient_c, dtype=float), np.asarray(conductance, dtype=float)
    settles = ambient + power_w / k
    tau = np.asarray(capacity) / k
    return np.asarray(k * ((settles - ambient) * seconds + (start_c - settles) * tau * -np.expm1(-seconds / tau)))
