"""What the changes of a day give at other temperatures of the air, all driven in one pass."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from ..advice.remedies import REMEDIES, Change, Situation, changing
from ..drive.air import pressure_at
from ..drive.batch import Driving, Pass, in_one_batch
from ..drive.trip import cases
from ..drive.tyres import gauge_at
from ..heat.warm import WarmUpChoice
from ..units import Array

AIRS_C = (-28.0, -20.0, -13.0, -7.0, -2.0, 3.0, 8.0, 14.0, 20.0, 26.0, 34.0)
LOAD_KG = 50.0


def _loaded(now: Situation) -> tuple[Situation, float] | None:
    """Something heavy left in the boot."""
    return replace(now, conditions=replace(now.conditions, load_kg=now.conditions.load_kg + LOAD_KG)), 0.0


def _other_tread(now: Situation) -> tuple[Situation, float] | None:
    """Summer tyres for winter ones, or the other way round."""
    tyres = now.car.tyres
    return replace(now, car=replace(now.car, tyres=replace(tyres, winter=not tyres.winter))), 0.0


CHANGES: Mapping[str, Change] = {key: change for key, (_, change) in REMEDIES.items()} | {
    "loaded": _loaded,
    "other_tread": _other_tread,
}


@dataclass(frozen=True, eq=False, kw_only=True)
class OverAir:
    """By temperature of the air (°C, shape (airs,)): what the day takes and what each change gives, kWh."""

    airs_c: Array
    used_kwh: Array
    gains_kwh: Mapping[str, Array]


def at_air(now: Situation, air_c: float) -> Situation:
    """The same day in other air: what had cooled to it, or was not warmed, is as much warmer or colder; so are the tyres."""
    warmer, start, at = air_c - now.conditions.ambient_c, now.start, now.conditions
    if now.warmed is not WarmUpChoice.CABIN_AND_PACK:
        start = replace(start, pack_c=start.pack_c + warmer)
    if now.warmed not in (WarmUpChoice.CABIN_AND_PACK, WarmUpChoice.CABIN):
        start = replace(start, cabin_c=start.cabin_c + warmer)
    gauge, ambient_kpa = at.tyre_gauge_kpa, pressure_at(at.altitude_m) / 1000.0
    if gauge is not None:
        gauge = gauge_at(gauge, at.ambient_c, air_c, ambient_kpa)
    return replace(now, start=start, later_c=now.later_c + warmer, conditions=replace(at, ambient_c=air_c, tyre_gauge_kpa=gauge))


def over_air(now: Situation) -> OverAir:
    """A day's changes over `AIRS_C` and its own air, which is as the Day room has it."""
    airs = sorted({*AIRS_C, now.conditions.ambient_c})
    works = [_at(now if each == now.conditions.ambient_c else at_air(now, each)) for each in airs]
    used, gains = zip(*in_one_batch(*works), strict=True)
    capacity = now.car.pack.usable_kwh
    return OverAir(
        airs_c=np.array(airs),
        used_kwh=capacity * np.array(used),
        gains_kwh={key: capacity * np.array([each.get(key, 0.0) for each in gains]) for key in (*CHANGES, "heat_off")},
    )


def _at(day: Situation) -> Driving[tuple[float, dict[str, float]]]:
    used, found = yield from changing(day, CHANGES)
    gains = {each.key: each.gain_soc for each in found}
    if day.conditions.cabin_set_c is not None:  # another cabin is another pass, as in the Day room with its climate off
        off = replace(day.conditions, cabin_set_c=None)
        outcome = yield Pass(day.car, day.trip, off, cases(day.car, off, day.start))
        gains["heat_off"] = used - float(outcome.soc_used[0])
    return used, gains
