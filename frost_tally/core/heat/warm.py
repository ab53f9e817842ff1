"""Warming before departure: when it starts, what the wall gives and what the pack has to give."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import Chemistry
from ..car import CABIN_J_PER_K, CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, Car, Pack, Preheats
from ..units import S_PER_H, Array, Number
from ..why import NOTHING_TO_SAY, Why, why
from .climate import coefficient_of_performance
from .lumped import heated_by, lead_to

PACK_TARGET_C = {
    Chemistry.NMC: figure("preheat.pack_target_nmc", 15.0, "°C", Basis.COMMON_PRACTICE, "from here it takes full braking power"),
    Chemistry.LFP: figure("preheat.pack_target_lfp", 20.0, "°C", Basis.COMMON_PRACTICE, "{20–25 °C}; slower to warm"),
}


def pack_target_c(pack: Pack) -> float:
    """Where a warm-up heats a pack to, °C: as its owner's notes tell, else by its chemistry."""
    return PACK_TARGET_C[pack.chemistry] if pack.preheat_to_c is None else pack.preheat_to_c


LONGEST_LEAD_S = figure("preheat.longest_lead", 7200.0, "s", Basis.COMMON_PRACTICE, "beyond two hours heat leaks as it comes")


HOLD_S = figure("preheat.off_after", 1200.0, "s", Basis.COMMON_PRACTICE, "a departure missed by this long is switched off")


class WarmUpChoice(StrEnum):
    """What the owner wants warm at departure; `late` warms the cabin, and charging up to departure keeps the pack warm."""

    NOTHING = "nothing"
    SEATS = "seats"
    CABIN = "cabin"
    CABIN_AND_PACK = "cabin_and_pack"
    LATE = "late"

    @property
    def warms_cabin(self) -> bool:
        """Whether the cabin is warmed before departure."""
        return self not in (WarmUpChoice.NOTHING, WarmUpChoice.SEATS)


@dataclass(frozen=True, kw_only=True)
class WarmUp:
    """Lead times (s), temperatures at departure (°C) and energies (kWh); `wall_kwh` is at the wall, `pack_kwh` from the pack.

    `cabin` and `pack` hold the two heatings, for the course of the temperatures and their energy balance.
    """

    lead_s: float
    cabin_lead_s: float
    pack_lead_s: float
    cabin_c: float
    pack_c: float
    wall_kwh: float
    pack_kwh: float
    reason: Why
    cabin: "Heating"
    pack: "Heating"


@dataclass(frozen=True, kw_only=True)
class Heating:
    """One heater at full power until departure: lead (s), heat and electricity (kW), temperature it leads to (°C).

    What it adds follows C dθ/dt = P − K θ whatever the air does meanwhile, for the equation is linear.
    """

    lead_s: float
    end_c: float
    heat_kw: float
    electric_kw: float
    conductance: float
    capacity: float

    def added_k(self, before_s: Number) -> Array:
        """Kelvins added so far, at times before departure (s, 0 or more)."""
        return heated_by(1000 * self.heat_kw, self.conductance, self.capacity, np.maximum(0.0, self.lead_s - before_s))

    @property
    def stored_kwh(self) -> float:
        """Heat that the heating left in the body at departure, kWh."""
        return self.capacity * float(self.added_k(0.0)) / 3.6e6

    @property
    def leaked_kwh(self) -> float:
        """Heat that leaked out meanwhile because of the heating: K ∫ θ dt, integrated by hand, kWh."""
        tau, settles = self.capacity / self.conductance, 1000 * self.heat_kw / self.conductance
        return self.conductance * settles * (self.lead_s + tau * float(np.expm1(-self.lead_s / tau))) / 3.6e6


def warm_up(
    car: Car,
    choice: WarmUpChoice,
    *,
    cabin_c: float,
    pack_c: float,
    ambient_c: float,
    set_c: float,
    wall_kw: float,
    overhead_kw: float = 0.0,
    longest_s: float = LONGEST_LEAD_S,
) -> WarmUp:
    """Start so that cabin and pack reach their targets at departure, no earlier, and at most `longest_s` before it.

    `cabin_c` and `pack_c` are what they would be at departure without heating. Both heaters run at full power; the wall
    gives up to `wall_kw` less overhead and conversion, the pack the rest, so that on a weak socket the level falls while
    plugged in. `wall_kw` 0 means unplugged. A car that does not warm its pack, or where nobody knows, gets the cabin
    only, and the reason says so.
    """
    done = warm_ups(
        car, choice, cabin_c=cabin_c, pack_c=pack_c, ambient_c=ambient_c, set_c=set_c,
        wall_kw=wall_kw, overhead_kw=overhead_kw, longest_s=longest_s,
    )  # fmt: skip
    cabin, pack = (each.alone() for each in done.heaters)
    return WarmUp(
        lead_s=float(done.lead_s),
        cabin_lead_s=cabin.lead_s,
        pack_lead_s=pack.lead_s,
        cabin_c=cabin.end_c,
        pack_c=pack.end_c,
        wall_kwh=float(done.wall_kwh),
        pack_kwh=float(done.pack_kwh),
        reason=_no_pack_heat(car.pack) if choice is WarmUpChoice.CABIN_AND_PACK else NOTHING_TO_SAY,
        cabin=cabin,
        pack=pack,
    )


def _no_pack_heat(pack: Pack) -> Why:
    """Why a pack is not warmed from the wall; nothing where it is."""
    if pack.preheats is Preheats.YES and pack.preheater_kw > 0:
        return NOTHING_TO_SAY
    return why("no_pack_heat" if pack.preheats is Preheats.NO or pack.preheater_kw <= 0 else "pack_heat_unknown")


@dataclass(frozen=True, kw_only=True)
class _Heater:
    """One heater at full power (kW of heat, of electricity) until departure: how long (s), and where it leads to (°C)."""

    lead_s: Array
    end_c: Array
    heat_kw: float
    electric_kw: Number
    conductance: float
    capacity: float

    def alone(self) -> Heating:
        """That of a single warm-up; one that is not needed has no power."""
        lead_s, runs = float(self.lead_s), float(self.lead_s > 0)
        return Heating(
            lead_s=lead_s,
            end_c=float(self.end_c),
            heat_kw=runs * self.heat_kw,
            electric_kw=runs * float(self.electric_kw),
            conductance=self.conductance,
            capacity=self.capacity,
        )


@dataclass(frozen=True, kw_only=True)
class WarmUps:
    """What many warm-ups come to, arrays of one shape: lead (s), energy at the wall and from the pack (kWh)."""

    lead_s: Array
    wall_kwh: Array
    pack_kwh: Array
    heaters: tuple[_Heater, _Heater]

    @property
    def cabin_c(self) -> Array:
        """Cabins at departure, °C."""
        return self.heaters[0].end_c

    @property
    def pack_c(self) -> Array:
        """Packs at departure, °C."""
        return self.heaters[1].end_c


def warm_ups(
    car: Car,
    choice: WarmUpChoice,
    *,
    cabin_c: Number,
    pack_c: Number,
    ambient_c: Number,
    set_c: float,
    wall_kw: float,
    overhead_kw: float = 0.0,
    longest_s: Number = LONGEST_LEAD_S,
) -> WarmUps:
    """`warm_up` on many mornings at once: temperatures (°C) and `longest_s` (s) may be arrays of one shape, which what comes of them has.

    Source: `heated_by` and `lead_to`, one lumped temperature each for cabin and pack.
    """
    pack, warms_pack = car.pack, choice is WarmUpChoice.CABIN_AND_PACK and not _no_pack_heat(car.pack).code
    performance = coefficient_of_performance(ambient_c, car.cabin.heat_pump)
    heaters = (
        _heater(
            cabin_c, set_c, car.cabin.heater_kw if choice.warms_cabin else 0.0,
            performance=performance, conductance=CABIN_PARKED, capacity=CABIN_J_PER_K, longest_s=longest_s,
        ),
        _heater(
            pack_c, pack_target_c(pack), pack.preheater_kw * HEATER_TO_PACK if warms_pack else 0.0,
            performance=HEATER_TO_PACK, conductance=PARKED_W_PER_K, capacity=pack.capacity_j_per_k, longest_s=longest_s,
        ),
    )  # fmt: skip
    wall_kwh, pack_kwh = _sources(heaters, car.charger.efficiency, wall_kw, overhead_kw)
    lead_s = np.maximum(heaters[0].lead_s, heaters[1].lead_s)
    return WarmUps(lead_s=lead_s, wall_kwh=wall_kwh, pack_kwh=pack_kwh, heaters=heaters)


def _heater(
    unheated_c: Number,
    target_c: float,
    heat_kw: float,
    *,
    performance: Number,
    conductance: float,
    capacity: float,
    longest_s: Number,
) -> _Heater:
    unheated = np.asarray(unheated_c, dtype=float)
    lead_s, end_c = np.zeros_like(unheated), unheated
    if heat_kw > 0:
        needed_s = lead_to(target_c - unheated, 1000 * heat_kw, conductance, capacity)
        lead_s = np.minimum(needed_s, np.clip(longest_s, 0.0, LONGEST_LEAD_S))
        end_c = unheated + heated_by(1000 * heat_kw, conductance, capacity, lead_s)
    return _Heater(
        lead_s=lead_s, end_c=end_c, heat_kw=heat_kw, electric_kw=heat_kw / performance, conductance=conductance, capacity=capacity
    )


def _sources(heaters: Sequence[_Heater], efficiency: float, wall_kw: float, overhead_kw: float) -> tuple[Array, Array]:
    """Split the demand of two heaters that end together into wall energy (at the wall) and pack energy, kWh: the one that needs longer
    runs alone at first, then both.
    """
    available_kw = max(0.0, efficiency * (wall_kw - overhead_kw))
    first, second = heaters
    both_s = np.minimum(first.lead_s, second.lead_s)
    longer_kw = np.where(first.lead_s > second.lead_s, first.electric_kw, second.electric_kw)
    wall_kwh, from_pack_kwh = np.zeros_like(both_s), np.zeros_like(both_s)
    for demand_kw, seconds in (
        (longer_kw, np.maximum(first.lead_s, second.lead_s) - both_s),
        (np.asarray(first.electric_kw + second.electric_kw), both_s),
    ):
        given_kw = np.minimum(demand_kw, available_kw)
        wall_kwh = wall_kwh + (given_kw / efficiency + (overhead_kw if available_kw > 0 else 0.0)) * seconds / S_PER_H
        from_pack_kwh = from_pack_kwh + (demand_kw - given_kw) * seconds / S_PER_H
    return wall_kwh, from_pack_kwh


def held_kwh(car: Car, warm: WarmUp, ambient_c: float, seconds: float = HOLD_S) -> float:
    """Electricity (kWh) that keeps what was warmed warm for a while after departure, until it is switched off.

    Source: Newton's law of cooling: what is held is what is lost.
    """
    performance = float(coefficient_of_performance(ambient_c, car.cabin.heat_pump))
    cabin_w = CABIN_PARKED * max(0.0, warm.cabin_c - ambient_c) / performance if warm.cabin_lead_s > 0 else 0.0
    pack_w = PARKED_W_PER_K * max(0.0, warm.pack_c - ambient_c) / HEATER_TO_PACK if warm.pack_lead_s > 0 else 0.0
    return (cabin_w + pack_w) * seconds / 3.6e6
