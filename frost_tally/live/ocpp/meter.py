"""Meter values of the protocol as one sample, both versions. Values that cannot be are not believed.

Sources: OCPP 1.6 edition 2, 7.31 and 7.43 (defaults: imported energy in Wh); OCPP 2.0.1, part 2, 2.49 and 3.62.
"""

from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from ...core.errors import Refusal
from ...core.live.heard import Sample
from ...formats import values

ENERGY, POWER, CURRENT, LEVEL = "Energy.Active.Import.Register", "Power.Active.Import", "Current.Import", "SoC"
MOST = {ENERGY: 1e7, POWER: 400.0, CURRENT: 400.0, LEVEL: 1.0}
FACTORS = {"Wh": 1e-3, "kWh": 1.0, "W": 1e-3, "kW": 1.0, "A": 1.0, "Percent": 1e-2}
USUAL_UNIT = {ENERGY: "Wh", POWER: "W", CURRENT: "A", LEVEL: "Percent"}
OFF, LONG_AGO = timedelta(minutes=1), timedelta(days=40)
"""A point's clock may be so far ahead; what it kept while nobody listened is not older."""


def moment_of(told: object, now: datetime) -> datetime:
    """A moment as a point tells it; the present where its clock cannot be right."""
    try:
        at = values.aware(str(told))
    except ValueError:
        return now
    return min(at, now) if now - LONG_AGO <= at <= now + OFF else now


def sample_of(meter_values: Iterable[Mapping[str, Any]], now: datetime) -> Sample | None:
    """The last of some meter values; None where there is nothing in them that is known."""
    known = [each for each in (_sample(value, now) for value in meter_values) if each is not None]
    return max(known, key=lambda each: each.at, default=None)


def _sample(told: Mapping[str, Any], now: datetime) -> Sample | None:
    by_kind: dict[str, list[tuple[str, float]]] = {}
    for each in told.get("sampled_value") or told.get("sampledValue") or ():
        kind = str(each.get("measurand") or ENERGY)
        value = _value(each, kind)
        if value is not None:
            by_kind.setdefault(kind, []).append((str(each.get("phase") or ""), value))
    if not by_kind:
        return None
    return Sample(
        at=moment_of(told.get("timestamp"), now),
        register_kwh=_summed(by_kind.get(ENERGY, ())),
        kw=_summed(by_kind.get(POWER, ())),
        amps=max((value for _, value in by_kind.get(CURRENT, ())), default=None),
        soc=next((value for _, value in by_kind.get(LEVEL, ())), None),
    )


def _value(told: Mapping[str, Any], kind: str) -> float | None:
    """A sampled value in kWh, kW, A or 0 to 1; None for one that is nothing of these, or cannot be."""
    if kind not in MOST or told.get("format") == "SignedData" or told.get("location") not in (None, "Outlet", "EV"):
        return None
    of_measure = told.get("unit_of_measure") or told.get("unitOfMeasure") or {}
    unit = str(told.get("unit") or of_measure.get("unit") or USUAL_UNIT[kind])
    try:
        value = values.number(str(told.get("value"))) * FACTORS[unit] * 10.0 ** int(of_measure.get("multiplier") or 0)
    except (ValueError, KeyError, OverflowError, Refusal):
        return None
    if kind == LEVEL and value == 0.0:  # what a point says whose car tells none
        return None
    return value if 0.0 <= value <= MOST[kind] else None


def _summed(found: Sequence[tuple[str, float]]) -> float | None:
    """What all phases make together: as it is told for all, else their sum."""
    whole = [value for phase, value in found if not phase]
    if whole:
        return whole[-1]
    phases = {phase: value for phase, value in found if phase in ("L1", "L2", "L3", "L1-N", "L2-N", "L3-N")}
    return sum(phases.values()) if phases else None
