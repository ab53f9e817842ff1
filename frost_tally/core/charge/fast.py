"""Fast charging on the way: power by level, temperature and post; the pack warming while it charges; minutes, energy and what it wears off.

The pack takes the least of the post and of the car's own curve, times what its temperature and its past allow. Its resistance warms it,
and the heater of a car that has one does, from the post's power. Steps are of time, each in closed form for the temperature.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import CHARGE_FROM_C, Chemistry, resistance_factor
from ..car import HEATER_TO_PACK, PACK_VOLTAGE_V, PARKED_W_PER_K, Car, Preheats
from ..errors import require
from ..heat.lumped import heated_by, relax
from ..units import S_PER_H, Array, Number

C_RATE = {
    Chemistry.NMC: figure("fast.c_rate_nmc", 1.8, "1/h", Basis.FROM_MEMORY, "peak power of a usual NMC car over its capacity"),
    Chemistry.LFP: figure("fast.c_rate_lfp", 1.3, "1/h", Basis.FROM_MEMORY, "peak power of a usual LFP car over its capacity"),
}
SHAPE = ((0.0, 0.8), (0.05, 1.0), (0.45, 1.0), (0.60, 0.60), (0.80, 0.35), (0.95, 0.10), (1.0, 0.03))
"""Share of the peak by level. Basis: common practice; full from 5 to 45 %, 60 % at 60, 35 % at 80, 10 % at 95; the ends from memory."""
COLD = {
    Chemistry.NMC: ((-20.0, 0.0), (-10.0, 0.12), (0.0, 0.30), (10.0, 0.60), (25.0, 1.0)),
    Chemistry.LFP: ((-10.0, 0.0), (0.0, 0.12), (10.0, 0.30), (25.0, 1.0)),
}
"""Share of the curve's power by pack temperature (°C). Basis: from memory; LFP one step worse below 25 °C."""
WARM_TO_C = figure(
    "fast.warm_to", 25.0, "°C", Basis.COMMON_PRACTICE, "the heater warms the pack up to here while it charges fast"
)
FADE_PER_1000 = figure("fast.fade", 0.05, "", Basis.FROM_MEMORY, "share of the peak lost over a thousand fast charges")
STEPS_S = np.array([60.0] * 30 + [180.0] * 20 + [600.0] * 15)
"""Time steps of a stop: the first half hour by minutes, then coarser."""
AT_S = np.concatenate([[0.0], np.cumsum(STEPS_S)])
FULL_SOC = 0.995
"""From this level on the heater rests."""


def peak_kw(car: Car) -> float:
    """The most a car takes, kW: of its own curve, else the usual one of its chemistry."""
    return max((kw for _, kw in car.fast_points), default=float(C_RATE[car.pack.chemistry]) * car.pack.usable_kwh_new)


def curve_points(car: Car) -> tuple[tuple[float, float], ...]:
    """Levels (0 to 1) and kW with a warm pack and a post that gives all: the owner's points, else the usual shape."""
    return car.fast_points or tuple((level, share * peak_kw(car)) for level, share in SHAPE)


def curve_kw(car: Car, soc: Number) -> Array:
    """Power by level (0 to 1) with a warm pack and a post that gives all, kW; linear between the points.

    Source: the figures `fast…` of the chemistry, or the owner's own points.
    """
    at, kw = np.array(curve_points(car)).T
    return np.asarray(np.interp(soc, at, kw))


def cold_share(chemistry: Chemistry, pack_c: Number) -> Array:
    """Share of its power that a pack takes at a temperature, 0 to 1. Source: `COLD`."""
    at, shares = np.array(COLD[chemistry]).T
    return np.asarray(np.interp(pack_c, at, shares))


def faded(car: Car, before: int) -> Car:
    """The car with its curve after so many fast charges, at most 4,000."""
    return replace(car, fast_points=scaled_points(car, 1.0 - FADE_PER_1000 * min(before, 4000) / 1000.0))


def heated_to_c(car: Car) -> float:
    """Up to which temperature the heater warms the pack while it charges, °C: fully in a car that warms its pack when asked, else only to
    where it accepts charge.
    """
    return WARM_TO_C if car.pack.preheats is Preheats.YES else CHARGE_FROM_C[car.pack.chemistry]


@dataclass(frozen=True, eq=False)
class Stops:
    """Stops from many states at one post: level and temperature (°C) after each time of `AT_S`, and energy from the post (kWh).

    Shape (times, states), the same order of states as they were asked for.
    """

    soc: Array
    pack_c: Array
    post_kwh: Array

    def minutes_to(self, level: Number) -> Array:
        """Minutes until a level is reached, one for each state; inf for never."""
        reached = self.soc >= np.asarray(level) - 1e-9
        first = np.argmax(reached, axis=0)
        columns = np.arange(self.soc.shape[1])
        before = np.maximum(first - 1, 0)
        low, high = self.soc[before, columns], self.soc[first, columns]
        part = np.where(high > low, (np.asarray(level) - low) / np.where(high > low, high - low, 1.0), 0.0)
        at_s = AT_S[before] + np.clip(part, 0.0, 1.0) * (AT_S[first] - AT_S[before])
        return np.where(reached.any(axis=0), np.where(first == 0, 0.0, at_s), np.inf) / 60.0

    def at(self, minutes: Array, of: Array) -> Array:
        """Values of one of the arrays after some minutes, one time for each state."""
        place = np.clip(np.searchsorted(AT_S, 60.0 * minutes, side="right") - 1, 0, len(AT_S) - 2)
        columns = np.arange(of.shape[1])
        part = np.clip((60.0 * minutes - AT_S[place]) / (AT_S[place + 1] - AT_S[place]), 0.0, 1.0)
        return np.asarray(of[place, columns] + part * (of[place + 1, columns] - of[place, columns]))

    def after(self, levels: Array) -> tuple[Array, Array, Array]:
        """Of a single stop, for each of some levels: minutes until it is reached (inf for never), pack (°C) and energy (kWh) then."""
        soc, reached = self.soc[:, 0], levels <= self.soc[-1, 0] + 1e-9
        filling = int(np.searchsorted(soc, soc[-1])) + 1  # from there on it is full, or takes nothing
        at_s = np.interp(levels, soc[:filling], AT_S[:filling])
        pack_c, kwh = (np.interp(at_s, AT_S, each[:, 0]) for each in (self.pack_c, self.post_kwh))
        return np.where(reached, at_s, np.inf) / 60.0, pack_c, kwh

    @cached_property
    def longest_min(self) -> float:
        """How long the stops are looked at, min."""
        return float(AT_S[-1] / 60.0)


def stops(car: Car, soc: Array, pack_c: Array, post_kw: float, ambient_c: float, *, before: int = 0) -> Stops:
    """Charge from many states at once, for as long as `AT_S` goes. Levels 0 to 1, °C, kW."""
    level, warm = np.asarray(soc, dtype=float).copy(), np.asarray(pack_c, dtype=float).copy()
    usable, capacity, ohm = car.pack.usable_kwh, car.pack.capacity_j_per_k, car.pack.resistance_ohm
    (at_soc, at_kw), (at_c, shares) = (np.array(each).T for each in (curve_points(faded(car, before)), COLD[car.pack.chemistry]))
    until_c, heater_kw, drawn = heated_to_c(car), min(car.pack.heater_kw, post_kw), np.zeros_like(level)
    levels, temperatures, energy = [level], [warm], [drawn]
    for step_s in STEPS_S:
        own_kw = np.interp(level, at_soc, at_kw) * np.interp(warm, at_c, shares)
        most_kw = np.minimum(own_kw, np.maximum(0.0, 1.0 - level) * (usable * S_PER_H / step_s))
        heat_w = ohm * resistance_factor(warm) * (1000.0 / PACK_VOLTAGE_V) ** 2
        kw, heater = np.minimum(post_kw, most_kw), np.zeros_like(level)
        if heater_kw > 0:  # for as much of the step as the pack is colder than it should be, and takes less than the post gives
            alone = relax(warm, ambient_c, heat_w * kw**2, conductance=PARKED_W_PER_K, capacity=capacity, seconds=step_s)
            gain = heated_by(1000.0 * HEATER_TO_PACK, PARKED_W_PER_K, capacity, step_s)
            wanted = np.clip((until_c - alone) / gain, 0.0, heater_kw)
            heater = wanted * ((warm < until_c) & (level < FULL_SOC) & (own_kw < post_kw))
            kw = np.minimum(post_kw - heater, most_kw)
        warm = relax(
            warm,
            ambient_c,
            heat_w * kw**2 + 1000.0 * HEATER_TO_PACK * heater,
            conductance=PARKED_W_PER_K,
            capacity=capacity,
            seconds=step_s,
        )
        kwh = kw * (step_s / S_PER_H)
        level, drawn = level + kwh / usable, drawn + kwh + heater * (step_s / S_PER_H)
        levels.append(level)
        temperatures.append(warm)
        energy.append(drawn)
    return Stops(np.array(levels), np.array(temperatures), np.array(energy))


@lru_cache(maxsize=256)
def energy_in(car: Car, soc: float, pack_c: float, post_kw: float, minutes: float, ambient_c: float, before: int = 0) -> float:
    """Energy into the pack within some minutes at a post, kWh.

    Args: `soc` 0 to 1; °C; `post_kw` what the post gives this car (a shared one: its share); `before` fast charges before this one.
    Raises: OutOfRange for levels, powers or times that cannot be.
    Source: the handbook's curve and temperature table; warming by I²R and the heater as in `charge.session`.
    """
    require(100 * soc, 0, 100, "The level", "%", "soc")
    require(post_kw, 0, 1000, "The post", "kW", "post_kw")
    require(minutes, 0, AT_S[-1] / 60.0, "The stop", "min", "minutes")
    done = stops(car, np.array([soc]), np.array([pack_c]), post_kw, ambient_c, before=before)
    return float((done.at(np.array([minutes]), done.soc)[0] - soc) * car.pack.usable_kwh)


def own_points(points: Sequence[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """A curve as its owner enters it: levels (0 to 1) and kW, in order. Raises: OutOfRange for fewer than two, or what cannot be."""
    require(len(points), 2, 20, "The curve", "points", "fast_points")
    for level, kw in points:
        require(100 * level, 0, 100, "A level of the curve", "%", "fast_points")
        require(kw, 0, 500, "A power of the curve", "kW", "fast_points")
    return tuple(sorted(points))


LOW_SOC, HALF_SOC, ADDED_SOC = (
    figure(f"fast.{name}", value, "", Basis.COMMON_PRACTICE, said)
    for name, value, said in (
        ("low", 0.12, "arriving low"), ("half", 0.50, "arriving half full"), ("added", 0.30, "of the pack, put in at that stop"),
    )
)  # fmt: skip
COLD_C = figure("fast.cold_pack", 5.0, "°C", Basis.COMMON_PRACTICE, "a pack that short trips in frost have not warmed")


@dataclass(frozen=True, kw_only=True)
class LowAndWarm:
    """The same energy (kWh) at one post (kW), in minutes: from a low, warm pack, and from a half full one at `cold_c` (°C)."""

    kwh: float
    post_kw: float
    low_min: float
    half_min: float
    cold_c: float


def low_and_warm(car: Car, post_kw: float, ambient_c: float, before: int = 0) -> LowAndWarm:
    """The trade's advice in this car's minutes: arrive low and warm, not half full and cold."""
    begin, cold_c = np.array([LOW_SOC, HALF_SOC]), min(COLD_C, max(ambient_c, -10.0))
    done = stops(car, begin, np.array([float(WARM_TO_C), cold_c]), post_kw, ambient_c, before=before)
    low, half = done.minutes_to(begin + ADDED_SOC).tolist()
    return LowAndWarm(kwh=ADDED_SOC * car.pack.usable_kwh, post_kw=post_kw, low_min=low, half_min=half, cold_c=cold_c)


DRIVEN_WARMER_K = figure("fast.driven_warmer", 15.0, "K", Basis.COMMON_PRACTICE, "a pack driven to a post above the air, about")
LEAST_CHARGES = figure("fast.least_charges", 3.0, "", Basis.COMMON_PRACTICE, "so many noted fast charges teach the curve")
OWN_SHARE = (0.5, 1.4)


def learnt_share(car: Car, soc_from: Array, soc_to: Array, *, minutes: Array, post_kw: Array, air_c: Array) -> float | None:
    """How much more, or less, a car takes than its curve says, from noted fast charges: the median of the shares of the curve at which
    each would have taken as long as it did. None for fewer than `LEAST_CHARGES` that tell anything.

    Arrays of shape (charges,): levels 0 to 1, min, kW, °C; the pack counts as driven warm, `DRIVEN_WARMER_K` above the air.
    Source: the median, which one wrong note in two does not carry away (common practice).
    """
    found = []
    for row in zip(soc_from, soc_to, minutes, post_kw, air_c, strict=True):
        begin, end, took, kw, air = (float(each) for each in row)
        if end - begin < 0.1 or took < 3:
            continue

        def reached(share: float, begin: float = begin, took: float = took, kw: float = kw, air: float = air) -> float:
            scaled = replace(car, fast_points=scaled_points(car, share))
            done = stops(scaled, np.array([begin]), np.array([min(WARM_TO_C, air + DRIVEN_WARMER_K)]), kw, air)
            return float(done.at(np.array([took]), done.soc)[0])

        low, high = OWN_SHARE
        if not reached(low) < end < reached(high):
            continue
        for _ in range(7):
            middle = (low + high) / 2
            low, high = (middle, high) if reached(middle) < end else (low, middle)
        found.append((low + high) / 2)
    return float(np.median(found)) if len(found) >= LEAST_CHARGES else None


def scaled_points(car: Car, share: float) -> tuple[tuple[float, float], ...]:
    """The car's curve times a share, as points."""
    return tuple((level, share * kw) for level, kw in curve_points(car))
