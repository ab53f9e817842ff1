"""Tyre readings over time: the temperature taken out, and which wheel falls against the others."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from ..basis import Basis, figure
from ..probability import t_quantile
from ..units import Array, Ints
from .tyres import gauge_at

WHEELS = ("FL", "FR", "RL", "RR")
STANDARD_C = 20.0
WARM_KPA = figure("tyres.warm_after_drive", 25.0, "kPa", Basis.COMMON_PRACTICE, "a tyre warm from driving shows {20–30 kPa} more")
SUSPECT_PER_MONTH = figure("tyres.suspect", 3.0, "kPa/month", Basis.COMMON_PRACTICE, "a sound tyre loses {1–3 kPa} a month")
FAR_UNDER_OTHERS = figure(
    "tyres.far_under_others", 0.10, "", Basis.COMMON_PRACTICE, "a tyre that has a tenth less than its neighbours is losing air"
)
FAR_UNDER_PLACARD = figure(
    "tyres.far_under_placard", 0.20, "", Basis.FROM_MEMORY, "UN R141: cars warn at 20 % under; FMVSS 138: at 25 %"
)
LEAST_READINGS = 4
PUMPED_KPA = 7.0
MONTH_S = 30.4 * 86_400.0


@dataclass(frozen=True)
class TyreReading:
    """A cold reading of the softest wheel: gauge pressure (kPa) and the temperature it was read at (°C)."""

    kpa: float
    read_c: float


@dataclass(frozen=True)
class Reading:
    """One wheel's gauge pressure (kPa) at a time (s since 1970) and tyre temperature (°C); warm: straight after a drive."""

    wheel: str
    at_s: float
    kpa: float
    tyre_c: float
    warm: bool = False


@dataclass(frozen=True, kw_only=True)
class WheelTrend:
    """A wheel's readings with the temperature removed (s, kPa at 20 °C cold), and its fall against the other wheels.

    `per_month` is kPa a month with its 90 % band; None without enough readings. `suspect`: falls surely and clearly.
    """

    wheel: str
    at_s: tuple[float, ...]
    standard_kpa: tuple[float, ...]
    per_month: float | None
    low: float
    high: float
    suspect: bool


@dataclass(frozen=True, kw_only=True)
class TyreAlarm:
    """A wheel far under the others, or the placard: kPa as if cold at 20 °C; `others_kpa` is None without others; "" is all wheels."""

    wheel: str
    kpa: float
    others_kpa: float | None
    placard_kpa: float


def alarms(latest: Sequence[Reading], placard_kpa: float, ambient_kpa: float = 101.325) -> tuple[TyreAlarm, ...]:
    """Wheels that must not wait for a trend, from the latest reading of each ("" stands for the softest of all four).

    Source: `FAR_UNDER_OTHERS`, `FAR_UNDER_PLACARD`; pressures compared as if cold at 20 °C.
    """
    cold = {each.wheel: standard_kpa(each, ambient_kpa) for each in latest}
    found = []
    for wheel, kpa in cold.items():
        rest = [each for name, each in cold.items() if name != wheel]
        others = float(median(rest)) if rest else None
        if kpa < (1 - FAR_UNDER_PLACARD) * placard_kpa or (others is not None and kpa < (1 - FAR_UNDER_OTHERS) * others):
            found.append(TyreAlarm(wheel=wheel, kpa=kpa, others_kpa=others, placard_kpa=placard_kpa))
    return tuple(found)


def standard_kpa(reading: Reading, ambient_kpa: float = 101.325) -> float:
    """The reading at 20 °C and cold. Source: Gay-Lussac's law; common practice for a warm tyre."""
    cold = reading.kpa - (WARM_KPA if reading.warm else 0.0)
    return gauge_at(max(cold, 0.0), reading.tyre_c, STANDARD_C, ambient_kpa)


def trends(readings: Sequence[Reading], ambient_kpa: float = 101.325) -> tuple[WheelTrend, ...]:
    """Each wheel's trend against the median of the others read at the same times.

    Pumping begins a new stretch with a level of its own, so it neither hides a leak nor looks like one; nor does the season.
    Source: least squares with a level for each stretch (within estimator), Student's t for the band.
    """
    table = {(r.wheel, r.at_s): standard_kpa(r, ambient_kpa) for r in readings}
    return tuple(_trend(wheel, table) for wheel in WHEELS)


def _trend(wheel: str, table: Mapping[tuple[str, float], float]) -> WheelTrend:
    """A wheel's trend; `table` is of standard readings by wheel and time."""
    times = sorted(at for name, at in table if name == wheel)
    against = _against_others(wheel, times, table)
    pumped = _between_pumpings([table[wheel, at] for at, _ in against])
    months, gaps = (np.array([each[i] for each in against]) for i in (0, 1))
    per_month, spread = _slope(months / MONTH_S, gaps, pumped)
    low, high = (0.0, 0.0) if per_month is None else (per_month - spread, per_month + spread)
    return WheelTrend(
        wheel=wheel,
        at_s=tuple(times),
        standard_kpa=tuple(table[wheel, at] for at in times),
        per_month=per_month,
        low=low,
        high=high,
        suspect=per_month is not None and per_month < -SUSPECT_PER_MONTH and high < 0,
    )


def _against_others(wheel: str, times: Sequence[float], table: Mapping[tuple[str, float], float]) -> list[tuple[float, float]]:
    """How a wheel stood above the median of the others, at each time that they were read too."""
    others = {at: [table[name, at] for name in WHEELS if name != wheel and (name, at) in table] for at in times}
    return [(at, table[wheel, at] - median(found)) for at, found in others.items() if found]


def _between_pumpings(standard: Sequence[float]) -> Ints:
    """Number of the stretch of each reading: a new one begins where the wheel gained more than a reading's scatter."""
    gained = np.diff(np.asarray(standard, dtype=float), prepend=standard[:1]) > PUMPED_KPA
    return np.cumsum(gained).astype(np.int64)


def _slope(months: Array, gap: Array, stretch: Ints) -> tuple[float | None, float]:
    """Fall per month common to all stretches, each with its own level, and half its 90 % band."""
    counts = np.bincount(stretch) if len(stretch) else np.zeros(0, dtype=np.int64)
    free = len(gap) - np.count_nonzero(counts) - 1
    if len(gap) < LEAST_READINGS or free < 1:
        return None, 0.0
    inner_t, inner_y = (each - (np.bincount(stretch, each) / np.maximum(counts, 1))[stretch] for each in (months, gap))
    weight = float(inner_t @ inner_t)
    if weight < 1e-9:
        return None, 0.0
    slope = float(inner_t @ inner_y) / weight
    rest = inner_y - slope * inner_t
    sigma = float(np.sqrt(rest @ rest / free / weight))
    return slope, sigma * t_quantile(free, 0.95)
