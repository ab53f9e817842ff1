"""How long an owner's own car takes to warm its pack: from minutes that they timed, the heater's power and where it heats to.

A pack of heat capacity C that loses K to the air warms by P / K · (1 − exp(−t K / C)) in t seconds (the pack of `heat.lumped`), so that a
soaked pack of T °C reaches T + P a(t). One note of minutes fixes the power for a target that is given; two at temperatures far enough
apart, or a note with its kWh, fix both (least squares over all of them).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..car import HEATER_TO_PACK, PARKED_W_PER_K, Pack
from ..errors import Refusal
from ..units import S_PER_H, Array
from .lumped import heated_by, lead_to
from .warm import pack_target_c

APART_K = figure("warm_up.notes_apart", 8.0, "K", Basis.COMMON_PRACTICE, "two notes so far apart tell power and target apart")
LEAST_KW, MOST_KW = 0.5, 15.0
HOTTEST_C = 45.0


@dataclass(frozen=True, kw_only=True)
class WarmNote:
    """What somebody saw: the minutes (3 to 240) that the pack took, its temperature before (°C), and the kWh, if they know."""

    minutes: float
    soak_c: float
    kwh: float | None = None


@dataclass(frozen=True, kw_only=True)
class OwnWarmUp:
    """The heater's power (kW of electricity) and where it heats to (°C); `told` when the notes tell both. `low_kwh` to `high_kwh` is what
    the last note may have taken: from the heat alone that the target wants, to the class's heater all the time, heating further.
    """

    power_kw: float
    target_c: float
    told: bool
    low_kwh: float
    high_kwh: float


def own_warm_up(pack: Pack, notes: Sequence[WarmNote]) -> OwnWarmUp | None:
    """What the notes say of a pack; None without any. Raises: Refusal ("minutes") for notes that no heater of 0.5 to 15 kW can be."""
    if not notes:
        return None
    last, soak_c = notes[-1], np.array([each.soak_c for each in notes])
    power_kw, target_c, told = _told(pack, notes, soak_c)
    if told and not (LEAST_KW <= power_kw <= MOST_KW and float(soak_c.min()) < target_c <= HOTTEST_C):
        raise Refusal(
            "These do not go together: look again how long it took, how cold the pack was, and what it used.", "minutes"
        )
    if not LEAST_KW <= power_kw <= MOST_KW:
        raise Refusal(
            f"That would take a heater of {power_kw:.1f} kW, and cars have 0.5 to 15: look again how long it took, and how cold it was.",
            "minutes",
        )
    took, further = power_kw * last.minutes * 60.0 / S_PER_H, pack.heater_kw * last.minutes * 60.0 / S_PER_H
    low, high = (took, took) if told else (HEATER_TO_PACK * took, max(took, further))
    return OwnWarmUp(power_kw=power_kw, target_c=target_c, told=told, low_kwh=low, high_kwh=high)


def _told(pack: Pack, notes: Sequence[WarmNote], soak_c: Array) -> tuple[float, float, bool]:
    """Power (kW) and target (°C) that fit the notes best, and whether they tell both: by what was used, by two notes that lie apart, or
    else the power alone, to the target of the class.
    """
    per_w = np.array([float(heated_by(1.0, PARKED_W_PER_K, pack.capacity_j_per_k, 60.0 * each.minutes)) for each in notes])
    known = [(60.0 * each.kwh / each.minutes, i) for i, each in enumerate(notes) if each.kwh is not None]
    if known:
        target_c = np.median([soak_c[i] + 1000 * HEATER_TO_PACK * kw * per_w[i] for kw, i in known])
        return float(np.median([kw for kw, _ in known])), float(target_c), True
    if float(np.ptp(soak_c)) >= APART_K:
        (power_w, fitted_c), *_ = np.linalg.lstsq(np.column_stack([per_w, -np.ones(len(notes))]), -soak_c, rcond=None)
        return float(power_w) / 1000.0 / HEATER_TO_PACK, float(fitted_c), True
    class_c = pack_target_c(pack)
    return float(np.median((class_c - soak_c) / per_w)) / 1000.0 / HEATER_TO_PACK, class_c, False


def pack_minutes(pack: Pack, soak_c: float) -> float:
    """How long a soaked pack of some °C takes to where a warm-up heats it, min; 0 where nothing heats it. Source: `heat.lumped.lead_to`."""
    if pack.preheater_kw <= 0:
        return 0.0
    heat_w = 1000.0 * HEATER_TO_PACK * pack.preheater_kw
    return float(lead_to(pack_target_c(pack) - soak_c, heat_w, PARKED_W_PER_K, pack.capacity_j_per_k)) / 60.0
