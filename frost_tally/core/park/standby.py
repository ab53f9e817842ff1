"""What a parked car uses, and the level it comes back to: idle, watch cameras, polling, climate and keep-warm, day by day."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import hypot

import numpy as np

from ..basis import Basis, figure
from ..car import CABIN_PARKED, HEATER_TO_PACK, PARKED_W_PER_K, STANDBY_PER_DAY, Car
from ..errors import require
from ..heat.climate import COOLING_COP, coefficient_of_performance, cooling_w
from ..probability import t_quantile
from ..units import Array

IDLE_SIGMA = figure(
    "parked.idle_doubt", 0.004, "1/day", Basis.COMMON_PRACTICE, "spread of 0.3–1.5 % a day among cars, one standard deviation"
)
DAILY_SIGMA = figure(
    "parked.idle_daily",
    0.003,
    "1/day",
    Basis.FROM_MEMORY,
    "how much one day's drain of a car differs from its next, one standard deviation",
)
COLD_PER_K = figure("parked.idle_cold", 0.0002, "1/(day·K)", Basis.FROM_MEMORY, "more idle drain for each kelvin below freezing")
CAMERAS_KW = figure(
    "parked.cameras_power", 0.21, "kW", Basis.COMMON_PRACTICE, "watch cameras: 0.3–0.4 % of a usual 60 kWh an hour"
)
AWAKE_KW = figure("parked.awake", 0.2, "kW", Basis.FROM_MEMORY, "a car that was woken, until it sleeps again")
AWAKE_H = figure("parked.awake_time", 0.25, "h", Basis.FROM_MEMORY, "how long it stays awake when an app looks")
KEEP_WARM_C = figure("parked.keep_warm", 0.0, "°C", Basis.FROM_MEMORY, "what cars hold their pack at, where they do")
CAMERAS_H = {"off": 0.0, "away": 24.0, "not_home": 24.0, "day": 12.0}
"""Hours a day that watch cameras run, by how they are set ("not_home": not where the car stands at home)."""
POLLS_A_DAY = {"never": 0.0, "few": 4.0, "often": 48.0}
"""How often a day an app looks, by how it is used."""
SIGMAS = {"cameras": 0.15, "polling": 0.3, "climate": 0.25, "keep_warm": 0.25}
CAUSES = ("idle", "cameras", "polling", "climate", "keep_warm")
READ_SIGMA = 0.01 / np.sqrt(12)
"""What a level read in whole per cents is off by, one standard deviation."""
STORAGE_SOC = figure("parked.storage", 0.5, "", Basis.COMMON_PRACTICE, "for weeks away: plugged in at about half")
Z90, ENOUGH_DAYS, LEAST_DAYS = 1.6449, 20.0, 0.25
DAILY_WEIGHS = 10.0
"""So many days of a car's own weigh as much as the usual scatter of a day."""
LEAST_SIGMA = 0.0004
"""What a car's own mean drain is known to at best, a day."""


@dataclass(frozen=True, kw_only=True)
class Idle:
    """Idle drain: level a day, what is not known of that (one standard deviation), how much one day differs from the next, what each kelvin
    below 0 °C adds; from how many days of the log, and of frost in it (0: common practice).
    """

    per_day: float = STANDBY_PER_DAY
    sigma: float = IDLE_SIGMA
    daily: float = DAILY_SIGMA
    cold_per_k: float = COLD_PER_K
    days: float = 0.0
    cold_days: float = 0.0

    def at(self, air_c: Array) -> Array:
        """Level a day at temperatures (°C)."""
        return np.asarray(self.per_day + self.cold_per_k * np.maximum(0.0, -np.asarray(air_c, dtype=float)))


def own_idle(days: Array, lost_soc: Array, air_c: Array) -> Idle | None:
    """Idle drain by temperature from standings of the log; arrays of shape (standings,); None for fewer than twenty days in all.

    All that was lost over all the time, mild and cold apart; the cold never takes less. Levels in whole per cents leave ± 0.4 % a standing.
    """
    good = np.isfinite(days) & np.isfinite(lost_soc) & np.isfinite(air_c) & (days >= LEAST_DAYS)
    days, lost, cold = days[good], lost_soc[good], air_c[good] < 0
    total = float(days.sum())
    if total < ENOUGH_DAYS:
        return None
    mild_days, cold_days = float(days[~cold].sum()), float(days[cold].sum())
    whole = max(0.0, float(lost.sum()) / total)
    mild = max(0.0, float(lost[~cold].sum()) / mild_days) if mild_days >= LEAST_DAYS * 10 else whole
    below = float((np.maximum(0.0, -air_c[good]) * days).sum()) / cold_days if cold_days > 0 else 0.0
    slope = max(0.0, float(lost[cold].sum()) / cold_days - mild) / below if cold_days >= ENOUGH_DAYS / 2 and below > 0.5 else 0.0
    off = lost - (mild + slope * np.maximum(0.0, -air_c[good])) * days
    read = 2 * READ_SIGMA**2 * len(days)
    # a day's own share of what the standings are off by: whole per cents are no drain, and few standings tell it with the usual one's help
    squares = max(0.0, float(np.square(off).sum()) * len(days) / max(1, len(days) - 1) - read) + DAILY_WEIGHS * DAILY_SIGMA**2
    daily = float(np.sqrt(squares / (total + DAILY_WEIGHS)) * t_quantile(max(2, len(days) - 1), 0.95) / Z90)
    sigma = max(LEAST_SIGMA, hypot(daily * np.sqrt(total), np.sqrt(read)) / total)
    return Idle(per_day=mild, sigma=sigma, daily=daily, cold_per_k=slope, days=total, cold_days=cold_days)


@dataclass(frozen=True, kw_only=True)
class Away:
    """A stand: level it is left at (0 to 1), mean temperature of each day (°C, shape (days,)), what is switched on.

    `soc_sigma` is what is not known of the level it is left at; `cameras_h`, `climate_h` hours a day, `polls` times a day an app wakes
    it; `keep_warm` where the car holds its pack from freezing; `plugged` with a `limit` (0 to 1).
    """

    soc: float
    air_c: Array
    soc_sigma: float = READ_SIGMA
    cameras_h: float = 0.0
    polls: float = 0.0
    climate_h: float = 0.0
    cabin_c: float = 20.0
    keep_warm: bool = False
    plugged: bool = False
    limit: float = STORAGE_SOC


@dataclass(frozen=True, eq=False, kw_only=True)
class Stood:
    """The level at the end of each day, likely and as a 90 % band, with the start first: shape (days + 1,).

    What each cause took in all (level), all of them likely and at the cautious end (may be more than there was); energy from the wall where
    it was plugged in (kWh).
    """

    likely: Array
    low: Array
    high: Array
    parts: Mapping[str, float]
    drain: tuple[float, float]
    wall_kwh: float

    @property
    def end(self) -> tuple[float, float, float]:
        """The level on return: likely, low, high."""
        return float(self.likely[-1]), float(self.low[-1]), float(self.high[-1])


def project(car: Car, away: Away, idle: Idle | None = None) -> Stood:
    """Level of a parked car through its days. Never below 0; what a cause takes counts in full in `parts` all the same.

    Raises: OutOfRange for a level outside 0 to 1, no day or more than 400, hours outside 0 to 24.
    """
    idle = idle or Idle()
    require(100 * away.soc, 0, 100, "The level it is left at", "%", "soc")
    require(len(away.air_c), 1, 400, "Days away", "", "days")
    require(away.cameras_h, 0, 24, "Hours of cameras", "h", "cameras_h")
    require(away.climate_h, 0, 24, "Hours of climate", "h", "climate_h")
    a_day = _a_day(car, away, idle)
    sigma = _sigma(a_day, idle)
    drain = np.concatenate([[0.0], np.cumsum(sum(a_day.values()))])
    # what is not known of the mean is off alike on all days, a day's own drain evens out
    always = np.concatenate([[0.0], np.cumsum(sigma)])
    doubt = np.sqrt(away.soc_sigma**2 + READ_SIGMA**2 + always**2 + idle.daily**2 * np.arange(len(drain)))
    at = [away.soc - drain - z * doubt for z in (0.0, Z90, -Z90)]
    wall_kwh = 0.0
    if away.plugged:
        at = [np.maximum(each, away.limit) for each in at]
        wall_kwh = max(0.0, away.limit - away.soc + float(drain[-1])) * car.pack.usable_kwh / car.charger.efficiency
    likely, low, high = (np.clip(each, 0.0, max(away.soc, away.limit if away.plugged else 0.0)) for each in at)
    total = float(drain[-1])
    return Stood(
        likely=likely,
        low=low,
        high=high,
        parts={name: float(each.sum()) for name, each in a_day.items()},
        drain=(total, total + Z90 * float(doubt[-1])),
        wall_kwh=wall_kwh,
    )


def _a_day(car: Car, away: Away, idle: Idle) -> dict[str, Array]:
    """Level that each cause takes on each day."""
    air, usable = np.asarray(away.air_c, dtype=float), car.pack.usable_kwh
    ones = np.ones(len(air))
    heat_kw = CABIN_PARKED * np.maximum(0.0, away.cabin_c - air) / 1000.0
    heat_kw = np.minimum(heat_kw, car.cabin.heater_kw)
    cool_kw = cooling_w(air, away.cabin_c, CABIN_PARKED) / COOLING_COP / 1000.0
    climate_kw = heat_kw / coefficient_of_performance(air, car.cabin.heat_pump) + cool_kw
    warm_kw = PARKED_W_PER_K * np.maximum(0.0, KEEP_WARM_C - air) / 1000.0 / HEATER_TO_PACK if away.keep_warm else 0.0 * air
    awake_h = min(24.0, away.polls * AWAKE_H)
    return {
        "idle": idle.at(air),
        "cameras": ones * CAMERAS_KW * away.cameras_h / usable,
        "polling": ones * AWAKE_KW * awake_h / usable,
        "climate": climate_kw * away.climate_h / usable,
        "keep_warm": warm_kw * 24.0 / usable,
    }


def _sigma(a_day: Mapping[str, Array], idle: Idle) -> Array:
    """Standard deviation of a day's drain: each cause is off by the same on all days."""
    squares = [np.square(SIGMAS[name] * each) for name, each in a_day.items() if name in SIGMAS]
    return np.asarray(np.sqrt(idle.sigma**2 + sum(squares)))


SWITCHES: Mapping[str, Mapping[str, object]] = {
    "cameras": {"cameras_h": 0.0},
    "polling": {"polls": 0.0},
    "climate": {"climate_h": 0.0},
    "keep_warm": {"keep_warm": False},
}
"""What can be switched off, and what the stand is then."""


def without(away: Away, *switches: str) -> Away:
    """The same stand with some things switched off."""
    changes: dict[str, object] = {}
    for each in switches:
        changes |= SWITCHES[each]
    return replace(away, **changes)  # type: ignore[arg-type]


@dataclass(frozen=True, kw_only=True)
class Advice:
    """What to do so that enough is left: things to switch off (the biggest first), the level to leave at with them off (1 at most) and with
    nothing changed, and whether that is enough.
    """

    off: tuple[str, ...]
    leave_soc: float
    leave_as_is: float
    enough: bool


def advise(car: Car, away: Away, need_soc: float, idle: Idle | None = None) -> Advice:
    """Switch off as little as is needed, the biggest drain first, that the cautious end comes back with `need_soc`; then say the level."""
    stood = project(car, away, idle)
    as_is = need_soc + stood.drain[1]
    off: list[str] = []
    on = sorted((name for name in SWITCHES if stood.parts[name] > 1e-9), key=lambda name: -stood.parts[name])
    for name in on:
        if need_soc + project(car, without(away, *off), idle).drain[1] <= away.soc + 1e-9:
            break
        off.append(name)
    least = need_soc + project(car, without(away, *off), idle).drain[1]
    return Advice(off=tuple(off), leave_soc=min(1.0, least), leave_as_is=as_is, enough=least <= 1.0)
