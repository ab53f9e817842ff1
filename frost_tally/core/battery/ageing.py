"""What wears a pack, the one model: standing, cycling and charging cold, as shares of capacity and in money.

The laws are those of single cells in a laboratory; a pack's own scale is usually lower, and its tests say which.

[1] J. Schmalstieg et al., J. Power Sources 257 (2014) 325–334: NMC, calendar and cycling.
[2] M. Ecker et al., J. Power Sources 248 (2014) 839–851: open-circuit voltage of that cell.
[3] M. Naumann et al., J. Energy Storage 17 (2018) 153–169, and J. Power Sources 451 (2020) 227666: LFP (from memory).
[4] T. Waldmann et al., J. Power Sources 262 (2014) 129–135: charging below 25 °C (activation energy from memory).
Why: docs/decisions/0019.
"""

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import lru_cache

import numpy as np

from ..basis import Basis, figure
from ..errors import OutOfRange
from ..units import ZERO_C_IN_K, Array, Ints, Number
from .cold import Chemistry

OCV_V = (3.331, 3.491, 3.581, 3.627, 3.655, 3.697, 3.775, 3.869, 3.965, 4.073, 4.162)
_LEVELS = np.linspace(0.0, 1.0, 1001)
_OCV = np.interp(_LEVELS, np.linspace(0.0, 1.0, 11), OCV_V)
_SQUARES = np.concatenate([[0.0], np.cumsum((_OCV[1:] ** 2 + _OCV[:-1] ** 2) / 2) * 0.001])
_CELL_AH = 2.15
_GAS_CONSTANT = 8.314
S_PER_DAY = 86400.0
_EXPONENT = {Chemistry.NMC: 0.75, Chemistry.LFP: 0.5}

for _key, _value, _unit, _basis, _source in (
    ("calendar_nmc", 7.543e6, "1/(V·d^0.75)", Basis.PUBLISHED, "Schmalstieg et al. 2014: (7.543·V − 23.75)·10⁶·exp(−6976/T)·t^0.75"),
    ("cycling_nmc", 4.081e-3, "1/√Ah", Basis.PUBLISHED, "Schmalstieg et al. 2014: (7.348e−3·(V − 3.667)² + 7.60e−4 + 4.081e−3·depth)·√Ah"),
    ("calendar_lfp", 1.2571e-5, "1/√s", Basis.FROM_MEMORY, "Naumann et al. 2018: exp(−17126/8.314·(1/T − 1/298.15)), cubic in the level"),
    ("cycling_lfp", 0.0971, "%", Basis.FROM_MEMORY, "Naumann et al. 2020: (0.0630·C + 0.0971)·(4.0253·(depth − 0.6)³ + 1.0923)·√cycles"),
):  # fmt: skip
    figure(f"wear.{_key}", _value, _unit, _basis, _source)
COLD_EV = figure(
    "wear.cold_activation",
    0.3,
    "eV",
    Basis.FROM_MEMORY,
    "Waldmann et al. 2014: charging below {25 °C}, at 1 C; in proportion below it",
)
_EV_PER_K = 8.617333e-5
_COLD_BELOW_K = 298.0
WORN_AT = figure(
    "wear.worn_at", 0.30, "", Basis.COMMON_PRACTICE, "a new pack is thought to have this share to lose, as warranties do"
)
LIFE_DAYS = figure(
    "wear.life", 2922.0, "d", Basis.COMMON_PRACTICE, "eight years, the usual warranty: loss is valued at their end"
)
LIFE_CYCLES = figure("wear.life_cycles", 480.0, "", Basis.COMMON_PRACTICE, "full cycles in that time, about {15 000 km} a year")
USUAL_DEPTH = figure("wear.usual_depth", 0.4, "", Basis.COMMON_PRACTICE, "depth of a usual day’s cycle")
USUAL_LEVEL = figure("wear.usual_level", 0.6, "", Basis.COMMON_PRACTICE, "mean level of a usual day’s cycle")
_PACK = "a new pack, per kWh; falls from year to year"
PACK_EUR_PER_KWH = {
    Chemistry.NMC: figure("wear.pack_price_nmc", 130.0, "EUR/kWh", Basis.FROM_MEMORY, _PACK),
    Chemistry.LFP: figure("wear.pack_price_lfp", 100.0, "EUR/kWh", Basis.FROM_MEMORY, _PACK),
}


def pack_price(chemistry: Chemistry, per_euro: float = 1.0) -> float:
    """What a new pack of a chemistry costs per kWh, in a money of which one euro is worth so much. From memory."""
    return PACK_EUR_PER_KWH[chemistry] * per_euro


def _calendar_rate(chemistry: Chemistry, temp_c: Number, soc: Number) -> Array:
    """Factor on days^0.75 (NMC [1]) or days^0.5 (LFP [3])."""
    kelvin, level = np.asarray(temp_c, dtype=float) + ZERO_C_IN_K, np.clip(soc, 0.0, 1.0)
    if chemistry is Chemistry.NMC:
        return np.asarray((7.543 * np.interp(level, _LEVELS, _OCV) - 23.75) * 1e6 * np.exp(-6976.0 / kelvin))
    warmth = 1.2571e-5 * np.exp(-17126.0 / _GAS_CONSTANT * (1 / kelvin - 1 / 298.15))
    return np.asarray(warmth * (2.8575 * (level - 0.5) ** 3 + 0.60225) * np.sqrt(S_PER_DAY))


def _cycling_rate(chemistry: Chemistry, dod: Number, mean_soc: Number, c_rate: Number) -> Array:
    """Factor on the square root of full cycles; a window that does not fit between 0 and 100 % is moved inside."""
    depth = np.asarray(dod, dtype=float)
    if (depth < 0).any() or (depth > 1).any():
        raise OutOfRange("A cycle's depth must lie between 0 and 100 %.", "dod")
    if chemistry is Chemistry.LFP:
        return np.asarray((0.0630 * np.asarray(c_rate) + 0.0971) * (4.0253 * (depth - 0.6) ** 3 + 1.0923) / 100.0)
    wide = np.maximum(depth, 2e-3)
    low = np.clip(np.asarray(mean_soc, dtype=float) - wide / 2, 0.0, 1.0 - wide)
    square = (np.interp(low + wide, _LEVELS, _SQUARES) - np.interp(low, _LEVELS, _SQUARES)) / wide
    return np.asarray((7.348e-3 * (np.sqrt(square) - 3.667) ** 2 + 7.60e-4 + 4.081e-3 * depth) * np.sqrt(2 * _CELL_AH))


def calendar_loss(chemistry: Chemistry, temp_c: Number, soc: Number, days: Number) -> Array:
    """Share of capacity that standing takes from a new cell: level 0 to 1, °C, days (0 or more). Sources [1], [3].

    >>> round(float(100 * calendar_loss(Chemistry.NMC, 15.0, 0.5, 2920)), 1)
    5.0
    """
    return np.asarray(_calendar_rate(chemistry, temp_c, soc) * np.asarray(days, dtype=float) ** _EXPONENT[chemistry])


def cycling_loss(chemistry: Chemistry, full_cycles: Number, dod: Number, mean_soc: Number, c_rate: Number = 0.3) -> Array:
    """Share of capacity that cycling takes from a new cell: full cycles (in and out of the whole capacity), depth 0 to 1.

    The voltage of [1] is the root mean square over the window; `c_rate` (1/h) counts for LFP. Raises: OutOfRange for a
    depth outside 0 to 1. Sources [1], [2], [3].
    """
    return np.asarray(_cycling_rate(chemistry, dod, mean_soc, c_rate) * np.sqrt(np.asarray(full_cycles, dtype=float)))


def cold_factor(temp_c: Number, c_rate: Number = 1.0) -> Array:
    """How much more a kWh wears that goes into a cold pack, 1 or more: °C, rate in 1/h. Source [4], in proportion to the rate."""
    kelvin = np.minimum(np.asarray(temp_c, dtype=float) + ZERO_C_IN_K, _COLD_BELOW_K)
    return np.asarray(1 + np.expm1(COLD_EV / _EV_PER_K * (1 / kelvin - 1 / _COLD_BELOW_K)) * np.asarray(c_rate))


@dataclass(frozen=True, kw_only=True)
class Stretch:
    """Some time of a pack's life: days at a mean temperature (°C) and level, full cycles with their depth and mean level,
    and the rate (1/h) and pack temperature (°C) at which energy went in. Floats, or arrays of shape (stretches,).
    """

    days: Number
    temp_c: Number
    soc: Number
    full_cycles: Number = 0.0
    dod: Number = USUAL_DEPTH
    mean_soc: Number = USUAL_LEVEL
    c_rate: Number = 0.3
    charge_c: Number = 25.0


@dataclass(frozen=True)
class Losses:
    """Shares of capacity lost by the end of each stretch, by cause: arrays of shape (stretches,)."""

    calendar: Array
    cycling: Array
    cold: Array

    @property
    def total(self) -> Array:
        """All causes together."""
        return self.calendar + self.cycling + self.cold


@dataclass(frozen=True)
class Exposure:
    """What stretches of a life add up to, whatever was before: arrays of shape (…, stretches).

    `calendar` is time in days at a rate of one, `cycling` full cycles at a rate of one, `cold` how much more of the cycling's wear the
    cold adds (0 or more). What was lost before counts as time already spent at the new conditions, so that exposures simply add.
    """

    calendar: Array
    cycling: Array
    cold: Array

    def grouped(self, first: Ints) -> "Exposure":
        """Stretches put together: group i goes from `first[i]` to the one before `first[i + 1]`; shape (…, groups)."""
        cycling = np.add.reduceat(self.cycling, first, axis=-1)
        weighted = np.add.reduceat(self.cold * self.cycling, first, axis=-1)
        cold = np.divide(weighted, cycling, out=np.zeros_like(weighted), where=cycling > 0)
        return Exposure(np.add.reduceat(self.calendar, first, axis=-1), cycling, cold)

    def then(self, later: "Exposure", times: int = 1) -> "Exposure":
        """Another life after it, so many times over."""
        return Exposure(
            *(
                np.concatenate([mine, np.tile(its, times)], axis=-1)
                for mine, its in zip(vars(self).values(), vars(later).values(), strict=True)
            )
        )


def standing_exposure(chemistry: Chemistry, days: Number, temp_c: Number, soc: Number) -> Array:
    """Days at a rate of one that standing at temperatures (°C) and levels (0 to 1) comes to. Sources [1], [3]."""
    return np.asarray(_calendar_rate(chemistry, temp_c, soc) ** (1 / _EXPONENT[chemistry]) * np.asarray(days))


def exposure(chemistry: Chemistry, life: Stretch) -> Exposure:
    """What the stretches of a life (arrays of one shape) expose a pack to. Sources [1], [3], [4].

    Raises: OutOfRange for a depth outside 0 to 1.
    """
    calendar = standing_exposure(chemistry, life.days, life.temp_c, life.soc)
    cycling = _cycling_rate(chemistry, life.dod, life.mean_soc, life.c_rate) ** 2 * np.asarray(life.full_cycles)
    cold = (cold_factor(life.charge_c, life.c_rate) - 1) / 2
    return Exposure(*np.broadcast_arrays(calendar, cycling, cold))


def losses(chemistry: Chemistry, lived: Exposure, scale: float = 1.0) -> Losses:
    """Loss by the end of each stretch of a life, in the order of time; `scale` is the owner's own: what tests found against the model."""
    cycling = np.sqrt(np.cumsum(lived.cycling, axis=-1))
    cold = np.cumsum(np.diff(cycling, axis=-1, prepend=0.0) * lived.cold, axis=-1)
    return Losses(scale * np.cumsum(lived.calendar, axis=-1) ** _EXPONENT[chemistry], scale * cycling, scale * cold)


def project(chemistry: Chemistry, life: Sequence[Stretch], scale: float = 1.0) -> Losses:
    """Loss through a life, stretch after stretch (floats); `scale` is the owner's own. Energy in is half of a cycle's throughput."""
    columns = {each.name: np.array([getattr(stretch, each.name) for stretch in life], dtype=float) for each in fields(Stretch)}
    return losses(chemistry, exposure(chemistry, Stretch(**columns)), scale)


@lru_cache(maxsize=64)
def kwh_cost(chemistry: Chemistry, pack_per_kwh: float, dod: float = USUAL_DEPTH, mean_soc: float = USUAL_LEVEL) -> float:
    """Money that a mild kWh through the pack wears, drawn or put in: the slope of the cycling law after eight years.

    `pack_per_kwh` is the price of a new pack; a pack is paid for by the share it has to lose (`WORN_AT`).
    Source: the derivative of `cycling_loss` by energy, after `LIFE_CYCLES`.
    """
    slope = float(_cycling_rate(chemistry, dod, mean_soc, 0.3) / (2 * np.sqrt(LIFE_CYCLES)))
    return pack_per_kwh / WORN_AT * slope / 2


def wear_cost(
    chemistry: Chemistry,
    usable_kwh: float,
    pack_per_kwh: float,
    *,
    drawn_kwh: Number = 0.0,
    charged_kwh: Number = 0.0,
    charge_c: Number = 25.0,
    c_rate: Number = 0.3,
    held_days: Number = 0.0,
    held_c: Number = 15.0,
    held_soc: Number = 0.5,
) -> Array:
    """Wear in money (that of `pack_per_kwh`): energy drawn, energy put in at a temperature and rate, a level held for days.

    Drawn energy wears by the cycling law at any temperature; what goes in also by cold. Holding counts at the slope of the
    calendar law after eight years. Arrays of one shape, or floats. Sources [1], [3], [4].
    """
    moved = np.asarray(drawn_kwh) + np.asarray(charged_kwh) * cold_factor(charge_c, c_rate)
    power = _EXPONENT[chemistry]
    slope = _calendar_rate(chemistry, held_c, held_soc) * power * LIFE_DAYS ** (power - 1)
    held = pack_per_kwh * usable_kwh / WORN_AT * slope * np.asarray(held_days)
    return np.asarray(kwh_cost(chemistry, pack_per_kwh) * moved + held)
