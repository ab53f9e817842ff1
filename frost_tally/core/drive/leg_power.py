"""What a leg asks of the pack: pushing and braking powers over its speeds and slopes, for many cases at once. Why: docs/decisions/0002."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..basis import Basis, figure
from ..car import Car
from ..units import KMH_PER_MPS, Array, Ints
from .cycles import condensed, motorway
from .day import Drive, Road, Scenarios
from .road import RoadLoad

TYPICAL_SLOPE = {
    road: figure(f"hills.slope_{road.value}", value, "", Basis.COMMON_PRACTICE, "typical slope on which a gain is climbed")
    for road, value in ((Road.TOWN, 0.04), (Road.COUNTRY, 0.06), (Road.MOTORWAY, 0.04))
}
MOST_UPHILL = figure("hills.most_uphill", 1 / 3, "", Basis.COMMON_PRACTICE, "of the way up, as much down")
CAPS = np.linspace(0.0, 1.0, 11)
OF_THE_LOAD = ("mass_kg", "rolling", "density", "drag_area_m2", "headwind_mps", "wind_mps")
OF_THE_ROAD = (*OF_THE_LOAD, "style", "climb", "efficiency", "motorway")
_SCHEDULE = {Road.TOWN: "udds", Road.COUNTRY: "hwfet"}


@dataclass(frozen=True, kw_only=True)
class LegPower:
    """Means over a leg, per case: pushing power at the pack (W), its square (W²) and the time (s).

    `plain_s` is how long the leg takes at its own speed, s. `braked` holds the mean braking power and its square for every cap in CAPS:
    shape (2, cases × caps), a case's caps from its place in `rows` on. `moving` is the share of the time that a leg slower than its
    schedule is driven, 1 for all others.
    """

    push_w: Array
    push_sq: Array
    braked: Array
    seconds: Array
    plain_s: float
    moving: float
    rows: Ints

    def braking(self, accepted: Array) -> Array:
        """Mean braking power (W) and its square (W²) when only a share (0 to 1) of the full power is accepted, linear in CAPS."""
        place = accepted * (len(CAPS) - 1)
        low = np.minimum(place.astype(np.intp), len(CAPS) - 2)
        under = self.braked.take(self.rows + low, axis=1)
        return np.asarray(under + (self.braked.take(self.rows + low + 1, axis=1) - under) * (place - low))


class LegPowers:
    """The powers of a day's legs, for many cases: each leg once, over each distinct set of road coefficients."""

    def __init__(self, car: Car, inputs: Scenarios, climb_per_m: float) -> None:
        self.car, self.climb_per_m = car, climb_per_m
        columns = [np.broadcast_to(np.asarray(getattr(inputs, name), dtype=float), inputs.count) for name in OF_THE_ROAD]
        first, self.back = _distinct(columns)
        self.road = {name: column[first, None] for name, column in zip(OF_THE_ROAD, columns, strict=True)}
        self.rows = len(CAPS) * np.arange(len(self.back))
        self.known: dict[tuple[Road, float, float | None], LegPower] = {}

    def of(self, leg: Drive) -> LegPower:
        """A leg's powers."""
        key = (leg.road, leg.distance_km, leg.speed_kmh)
        if key not in self.known:
            self.known[key] = self._power(leg)
        return self.known[key]

    def _power(self, leg: Drive) -> LegPower:
        """Wheel powers over the leg's speeds. A town or country leg faster than its schedule scales the speeds up; a slower one keeps
        them and stands the rest of the time, as traffic does.
        """
        road, back, style = self.road, self.back, self.road["style"]
        moving = 1.0
        if leg.road is Road.MOTORWAY:
            (speed, accel, share), set_mps = motorway(), (leg.speed_kmh or 100.0) / KMH_PER_MPS * road["motorway"]
            style = np.ones_like(style)
        else:
            speed, accel, share = condensed(_SCHEDULE[leg.road])
            wanted = leg.speed_kmh / KMH_PER_MPS / float(speed @ share) if leg.speed_kmh else 1.0
            set_mps, moving = np.full_like(style, max(1.0, wanted)), min(1.0, wanted)
        load = RoadLoad(**{name: road[name] for name in OF_THE_LOAD}, style=style)
        stretches = _stretches(leg.road, self.climb_per_m)
        wheel = np.concatenate(
            [load.wheel_power_w(speed * set_mps, accel * set_mps, slope * road["climb"]) for slope, _ in stretches], axis=1
        )
        time = moving * np.concatenate([share * part for _, part in stretches])
        drive = self.car.drivetrain
        push = np.maximum(wheel, 0.0) / (drive.efficiency * road["efficiency"])
        capped = _capped(wheel * drive.regen_efficiency, time, drive.regen_kw)
        per_speed = leg.distance_km * 1000.0 / ((speed @ share) * moving)
        plain_mps = (leg.speed_kmh or 100.0) / KMH_PER_MPS if leg.road is Road.MOTORWAY else float(set_mps[0, 0])
        return LegPower(
            push_w=(push @ time)[back],
            push_sq=(push**2 @ time)[back],
            braked=capped[:, back].reshape(2, -1),
            seconds=(per_speed / set_mps[:, 0])[back],
            plain_s=float(per_speed) / plain_mps,
            moving=moving,
            rows=self.rows,
        )


def _capped(power: Array, time: Array, regen_kw: float) -> Array:
    """Mean braking power and its square for each cap of CAPS, shape (2, cases, caps), from powers (cases, points) and shares of time."""
    brakes = (power < 0).any(axis=0)
    brake, time = np.maximum(-power[:, brakes], 0.0), time[brakes]
    capped = [np.minimum(brake, cap * 1000 * regen_kw) for cap in CAPS]
    return np.stack([np.column_stack([each @ time for each in capped]), np.column_stack([each**2 @ time for each in capped])])


def _stretches(road: Road, climb_per_m: float) -> tuple[tuple[float, float], ...]:
    """Slopes of a leg with their shares of the way: a gain is climbed at the road's typical slope, at most a third of the way
    up and a third down, steeper where that is not enough.
    """
    if climb_per_m <= 0:
        return ((0.0, 1.0),)
    part = min(MOST_UPHILL, climb_per_m / TYPICAL_SLOPE[road])
    slope = climb_per_m / part
    return (0.0, 1 - 2 * part), (slope, part), (-slope, part)


def _distinct(columns: Sequence[Array]) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """Rows that differ: the index of the first of each kind, and for every row its kind."""
    code = np.zeros(len(columns[0]), dtype=np.intp)
    for column in columns:
        if (column != column[0]).any():
            values, kind = np.unique(column, return_inverse=True)
            code = code * len(values) + kind
    _, first, back = np.unique(code, return_index=True, return_inverse=True)
    return first, back
