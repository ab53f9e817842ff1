"""The 12 V battery: how full it is at rest, how old, how long it may stand; and what to do about it.

The voltages are those of a lead battery unless it is a lithium one, which rests higher. Over what a full lead battery shows at rest it is
being charged, and tells nothing.

[1] Lead-acid at rest, 25 °C: 12.65 V full, 12.45 three quarters, 12.24 half, 12.06 a quarter (common tables, from memory).
[2] Its acid freezes at about −60 °C full, −25 half, −10 at a quarter (common tables, from memory).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure

_VOLTS = (11.80, 12.06, 12.24, 12.45, 12.65)
_LEVELS = (0.0, 0.25, 0.5, 0.75, 1.0)
_LITHIUM_VOLTS = (12.0, 12.8, 13.1, 13.2, 13.3, 13.4)
_LITHIUM_LEVELS = (0.0, 0.15, 0.4, 0.7, 0.9, 1.0)
for _volt, _level in zip(_LITHIUM_VOLTS, _LITHIUM_LEVELS, strict=True):
    figure(f"twelve_volt.lithium_at_{100 * _level:.0f}", _volt, "V", Basis.FROM_MEMORY, "lithium at rest; its course is flat")
LITHIUM_CHARGING_V = figure(
    "twelve_volt.lithium_charging", 13.5, "V", Basis.FROM_MEMORY, "over it a lithium one is being charged"
)
CHARGING_V = figure("twelve_volt.charging", 13.2, "V", Basis.COMMON_PRACTICE, "over it a lead battery is being charged")
EMPTY_V = figure("twelve_volt.empty", 11.8, "V", Basis.COMMON_PRACTICE, "under it: charge, then test, however young")
for _volt, _level in zip(_VOLTS, _LEVELS, strict=True):
    figure(f"twelve_volt.at_{100 * _level:.0f}", _volt, "V", Basis.FROM_MEMORY, "lead-acid at rest, {25 °C}; linear between")
PER_K = figure("twelve_volt.per_kelvin", 0.0012, "V/K", Basis.FROM_MEMORY, "a colder battery shows less at the same charge")
_FREEZES_C = (-5.0, -10.0, -25.0, -40.0, -60.0)
TEST_YEARS = figure("twelve_volt.test_from", 3.0, "a", Basis.COMMON_PRACTICE, "lead-acid lasts three to four years")
OLD_YEARS = figure(
    "twelve_volt.old_from", 4.0, "a", Basis.COMMON_PRACTICE, "lead-acid lasts three to four years; hot and cold shorten it"
)
TIRED_V = figure("twelve_volt.tired", 12.45, "V", Basis.COMMON_PRACTICE, "below it at rest it wants a test")
LOW_V = figure("twelve_volt.low", 12.24, "V", Basis.COMMON_PRACTICE, "half: it wants charging now")
DRAIN_PER_DAY = figure(
    "twelve_volt.drain", 0.02, "1/d", Basis.COMMON_PRACTICE, "of its charge, by locks, alarm and itself, where no pack tops it up"
)
LEFT_SOC = figure("twelve_volt.leave", 0.5, "", Basis.COMMON_PRACTICE, "lower it should not stand: it sulphates, and may freeze")
LITHIUM_LOW_SOC = figure(
    "twelve_volt.lithium_leave", 0.3, "", Basis.FROM_MEMORY, "lower a lithium one switches itself off before long"
)
CHECK_DAYS, OLD_CHECK_DAYS = 90, 30
_AGES, _HOLDS = (0.0, 2.0, 3.0, 4.0, 5.0), (1.0, 1.0, 0.6, 0.2, 0.08)
for _age, _share in zip(_AGES, _HOLDS, strict=True):
    figure(
        f"twelve_volt.holds_at_{_age:.0f}", _share, "", Basis.FROM_MEMORY, "of what it held when new; at its end two days’ worth"
    )
UNKNOWN_YEARS = 3.0
"""As old it is taken to be while nobody knows."""


class BatteryKind(StrEnum):
    """What it is made of."""

    LEAD = "lead"
    LITHIUM = "lithium"
    UNKNOWN = "unknown"


class Care(StrEnum):
    """What to do, from nothing to at once."""

    FINE = "fine"
    TEST = "test"
    CHARGE = "charge"
    REPLACE = "replace"


@dataclass(frozen=True)
class Rested:
    """A resting voltage with the battery's temperature (°C; None: not known), and how many days ago."""

    volt: float
    temp_c: float | None
    days_ago: float


@dataclass(frozen=True, kw_only=True)
class Judged:
    """What to do and why (codes), the charge by the last reading (0 to 1; None: none), the temperature at which that freezes (°C), how many
    days it may stand (None: the pack tops it up), and in how many days to look again.
    """

    care: Care
    reasons: tuple[str, ...]
    soc: float | None
    freezes_c: float | None
    stands_days: float | None
    again_days: int


def charge_of(volt: float, temp_c: float | None = None, kind: BatteryKind = BatteryKind.LEAD) -> float:
    """Charge (0 to 1) by the resting voltage, of a lead battery corrected to 25 °C. Source [1]; lithium from memory.

    >>> charge_of(12.24)
    0.5
    """
    if kind is BatteryKind.LITHIUM:
        return float(np.interp(volt, _LITHIUM_VOLTS, _LITHIUM_LEVELS))
    at_25 = volt + (PER_K * (25.0 - temp_c) if temp_c is not None else 0.0)
    return float(np.interp(at_25, _VOLTS, _LEVELS))


def freezes_at(soc: float) -> float:
    """Temperature (°C) at which its acid freezes, by its charge (0 to 1). Source [2]."""
    return float(np.interp(soc, _LEVELS, _FREEZES_C))


def holds(age_years: float | None) -> float:
    """What it holds of its charge when new, by age (None: nobody knows), 0 to 1.

    Source: the figures `twelve_volt.holds…`, with their bases.
    """
    return float(np.interp(UNKNOWN_YEARS if age_years is None else age_years, _AGES, _HOLDS))


def judge(
    age_years: float | None,
    readings: Sequence[Rested],
    tops_up: bool | None,
    lowest_c: float,
    kind: BatteryKind = BatteryKind.LEAD,
) -> Judged:
    """Judge by age (None: not known), the readings of its life (the latest last), whether the pack tops it up while the car sleeps
    (None: not known), and the lowest temperature ahead (°C). Age alone asks for a test, never for another battery.
    """
    last, lead = readings[-1] if readings else None, kind is not BatteryKind.LITHIUM
    charging = last is not None and last.volt > (CHARGING_V if lead else LITHIUM_CHARGING_V)
    soc = None if last is None or charging else charge_of(last.volt, last.temp_c, kind)
    found = [
        *_by_reading(last, charging, kind, age_years),
        *_by_charge(last, soc, lowest_c, lead),
        *(_by_age(age_years, soc) if lead else []),
    ]
    if last is not None and last.days_ago > LONG_AGO_DAYS:
        found.append((Care.TEST, "long_ago"))
    care = max((each for each, _ in found), key=list(Care).index, default=Care.FINE)
    fine = care is Care.FINE and (age_years or 0.0) < TEST_YEARS
    return Judged(
        care=care,
        reasons=tuple(reason for _, reason in found),
        soc=soc,
        freezes_c=freezes_at(soc) if soc is not None and lead else None,
        stands_days=None if tops_up else _stands_days(soc, age_years, lead),
        again_days=CHECK_DAYS if fine else OLD_CHECK_DAYS,
    )


_Found = tuple[Care, str]
LONG_AGO_DAYS = 180


def _by_reading(last: Rested | None, charging: bool, kind: BatteryKind, age_years: float | None) -> list[_Found]:
    """What is said of having no reading, or one that was taken while it charged."""
    if last is None:
        return [(Care.TEST, "unknown")] if age_years is None else []
    if charging:
        return [(Care.TEST, "charging_or_lithium" if kind is BatteryKind.UNKNOWN else "charging")]
    return []


def _by_charge(last: Rested | None, soc: float | None, lowest_c: float, lead: bool) -> list[_Found]:
    """What its charge (0 to 1; None: not known) at rest says, and the frost ahead."""
    if last is None or soc is None:
        return []
    found = _at_rest(last.volt, soc, lead)
    return [*found, (Care.CHARGE, "would_freeze")] if lead and freezes_at(soc) > lowest_c else found


def _at_rest(volt: float, soc: float, lead: bool) -> list[_Found]:
    """What a resting voltage and its charge say."""
    if volt < EMPTY_V:
        return [(Care.CHARGE, "empty")]
    if soc <= (charge_of(LOW_V) if lead else LITHIUM_LOW_SOC) + 1e-9:
        return [(Care.CHARGE, "half_empty" if lead else "low")]
    return [(Care.TEST, "tired")] if lead and _tired(soc) else []


def _tired(soc: float) -> bool:
    return soc < charge_of(TIRED_V) - 1e-9


def _by_age(age_years: float | None, soc: float | None) -> list[_Found]:
    """What the age of a lead battery says (None: not known), and its charge beside it."""
    if age_years is None:
        return []
    old = age_years >= OLD_YEARS and (age_years >= OLD_YEARS + 1 or (soc is not None and _tired(soc)))
    if soc is not None and old:
        return [(Care.REPLACE, "old")]
    return [(Care.TEST, "ageing")] if age_years >= TEST_YEARS else []


def _stands_days(soc: float | None, age_years: float | None, lead: bool) -> float:
    """How long it lasts where nothing tops it up, d."""
    left, share = (LEFT_SOC, holds(age_years)) if lead else (LITHIUM_LOW_SOC, 1.0)
    return share * max(0.0, ((1.0 if soc is None else soc) - left) / DRAIN_PER_DAY)
