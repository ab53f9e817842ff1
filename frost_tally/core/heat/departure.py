"""Warming before departure: when it starts, what the wall gives and what the pack has to give."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure
from ..battery.cold import Chemistry
from ..car import CABIN_J_PER_K, CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, Car, Preheats
from ..units import S_PER_H
from .climate import coefficient_of_performance
from .lumped import relax, time_to

PACK_TARGET_C = {
    Chemistry.NMC: figure("preheat.pack_target_nmc", 15.0, "°C", Basis.COMMON_PRACTICE, "from here it takes full braking power"),
    Chemistry.LFP: figure("preheat.pack_target_lfp", 20.0, "°C", Basis.COMMON_PRACTICE, "20–25 °C; slower to warm"),
}
LONGEST_LEAD_S = figure("preheat.longest_lead", 7200.0, "s", Basis.COMMON_PRACTICE, "beyond two hours heat leaks as it comes")


class WarmUpChoice(StrEnum):
    """What the owner wants warm at departure."""

    NOTHING = "nothing"
    CABIN = "cabin"
    CABIN_AND_PACK = "cabin_and_pack"


@dataclass(frozen=True)
class WarmUp:
    """Lead times (s), temperatures at departure (°C) and energies (kWh); `wall_kwh` is at the wall, `pack_kwh` from the pack."""

    lead_s: float
    cabin_lead_s: float
    pack_lead_s: float
    cabin_c: float
    pack_c: float
    wall_kwh: float
    pack_kwh: float
    reason: str


@dataclass(frozen=True)
class _Heating:
    lead_s: float
    end_c: float
    electric_kw: float


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
) -> WarmUp:
    """Start so that cabin and pack reach their targets at departure, no earlier.

    Both heaters run at full power; the wall gives up to `wall_kw` less overhead and conversion, the pack the rest, so
    that on a weak socket the level falls while plugged in. `wall_kw` 0 means unplugged. A car that does not warm its
    pack, or where nobody knows, gets the cabin only, and the reason says so.
    """
    pack, reason = car.pack, ""
    warms_pack = choice is WarmUpChoice.CABIN_AND_PACK
    if warms_pack and (pack.preheats is not Preheats.YES or pack.heater_kw <= 0):
        warms_pack = False
        reason = (
            "this car does not warm its pack before departure"
            if pack.preheats is Preheats.NO or pack.heater_kw <= 0
            else "nobody knows yet whether this car warms its pack: watch the regen bars in the first ten minutes"
        )
    cabin = _Heating(0.0, cabin_c, 0.0)
    if choice is not WarmUpChoice.NOTHING:
        performance = float(coefficient_of_performance(ambient_c, car.cabin.heat_pump))
        cabin = _heat(cabin_c, set_c, ambient_c, car.cabin.heater_kw, CABIN_PARKED, CABIN_J_PER_K, performance)
    target_c = PACK_TARGET_C[pack.chemistry] if warms_pack else pack_c
    warming = _heat(
        pack_c,
        target_c,
        ambient_c,
        pack.heater_kw * HEATER_TO_PACK if warms_pack else 0.0,
        PARKED_W_PER_K,
        pack.capacity_j_per_k,
        HEATER_TO_PACK,
    )
    available_kw = max(0.0, car.charger.efficiency * (wall_kw - overhead_kw))
    wall_kwh, from_pack_kwh = _sources(cabin, warming, available_kw, car.charger.efficiency, overhead_kw)
    return WarmUp(
        max(cabin.lead_s, warming.lead_s),
        cabin.lead_s,
        warming.lead_s,
        cabin.end_c,
        warming.end_c,
        wall_kwh,
        from_pack_kwh,
        reason,
    )


def _heat(
    start_c: float, target_c: float, ambient_c: float, heater_kw: float, conductance: float, capacity: float, performance: float
) -> _Heating:
    if start_c >= target_c or heater_kw <= 0:
        return _Heating(0.0, start_c, 0.0)
    reached_s = float(time_to(start_c, target_c, ambient_c, 1000 * heater_kw, conductance, capacity))
    lead_s = min(reached_s, LONGEST_LEAD_S)
    end_c = float(relax(start_c, ambient_c, 1000 * heater_kw, conductance, capacity, lead_s))
    return _Heating(lead_s, end_c, heater_kw / performance)


def _sources(
    first: _Heating, second: _Heating, available_kw: float, efficiency: float, overhead_kw: float
) -> tuple[float, float]:
    """Split the demand of two heaters that end together into wall energy (at the wall) and pack energy, kWh."""
    wall_kwh = from_pack_kwh = 0.0
    edges = sorted({0.0, first.lead_s, second.lead_s})
    for near, far in zip(edges, edges[1:], strict=False):
        demand_kw = sum(each.electric_kw for each in (first, second) if each.lead_s >= far)
        hours = (far - near) / S_PER_H
        given_kw = min(demand_kw, available_kw)
        wall_kwh += (given_kw / efficiency + (overhead_kw if available_kw > 0 else 0.0)) * hours
        from_pack_kwh += (demand_kw - given_kw) * hours
    return wall_kwh, from_pack_kwh


def soak_c(air_c: float, mean_24h_c: float, garage: str, heated_to_c: float = 10.0) -> float:
    """Air around a parked car, °C: `outdoor` is the air, `unheated` halfway to the day's mean, `heated` at least its setting.

    Basis: common practice; an unheated barn follows the air slowly and a little milder.
    """
    if garage == "heated":
        return max(heated_to_c, air_c)
    return float(np.mean((air_c, mean_24h_c))) if garage == "unheated" else air_c
