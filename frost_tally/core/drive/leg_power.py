"""What a leg asks of the pack: pushing and braking powers over its speeds and slopes, for many cases at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..basis import Basis, figure
from ..car import Car
from ..units import KMH_PER_MPS, Array
from .cycles import condensed, motorway
from .day import Cases, Drive, Road
from .road import RoadLoad

TYPICAL_SLOPE = {
    road: figure(f"hills.slope_{road.value}", value, "", Basis.COMMON_PRACTICE, "typical slope on which a gain is climbed")
    for road, value in ((Road.TOWN, 0.04), (Road.COUNTRY, 0.06), (Road.MOTORWAY, 0.04))
}
MOST_UPHILL = figure("hills.most_uphill", 1 / 3, "", Basis.COMMON_PRACTICE, "of the way up, as much down")
CAPS = np.linspace(0.0, 1.0, 11)
_SCHEDULE = {Road.TOWN: "udds", Road.COUNTRY: "hwfet"}


@dataclass(frozen=True, kw_only=True)
class LegPower:
    """Means over a leg, per case: pushing power at the pack (W), its square (W²) and the time (s).

    `brake_w` and `brake_sq` hold the mean braking power and its square for every cap in CAPS: shape (cases, caps). `moving` is the
    share of the time that a leg slower than its schedule is driven, 1 for all others.
    """

    push_w: Array
    push_sq: Array
    brake_w: Array
    brake_sq: Array
    seconds: Array
    moving: float

    def braking(self, accepted: Array) -> tuple[Array, Array]:
        """Mean braking power (W) and its square (W²) when only a share of the full power is accepted, linear in CAPS."""
        place = np.clip(accepted, 0.0, 1.0) * (len(CAPS) - 1)
        low = np.minimum(place.astype(np.intp), len(CAPS) - 2)
        part, row = place - low, np.arange(len(low))
        mean, square = (table[row, low] * (1 - part) + table[row, low + 1] * part for table in (self.brake_w, self.brake_sq))
        return mean, square


def leg_power(car: Car, leg: Drive, inputs: Cases, climb_per_m: float) -> LegPower:
    """Wheel powers over the leg's speeds, computed once for each distinct set of road coefficients.

    A town or country leg faster than its schedule scales the speeds up; a slower one keeps them and stands the rest
    of the time, as traffic does.
    """
    columns = [
        inputs.mass_kg,
        inputs.rolling,
        inputs.density,
        inputs.drag_area_m2,
        inputs.headwind_mps,
        inputs.wind_mps,
        inputs.style,
        inputs.climb,
        inputs.efficiency,
        inputs.motorway,
    ]
    first, back = _distinct([np.asarray(c) for c in columns])
    mass, rolling, air, area, head, wind, style, climb, efficiency, faster = (np.asarray(c)[first, None] for c in columns)
    moving = 1.0
    if leg.road is Road.MOTORWAY:
        (speed, accel, share), set_mps = motorway(), (leg.speed_kmh or 100.0) / KMH_PER_MPS * faster
        style = np.ones_like(style)
    else:
        speed, accel, share = condensed(_SCHEDULE[leg.road])
        wanted = leg.speed_kmh / KMH_PER_MPS / float(speed @ share) if leg.speed_kmh else 1.0
        set_mps, moving = np.full((len(first), 1), max(1.0, wanted)), min(1.0, wanted)
    load = RoadLoad(mass_kg=mass, rolling=rolling, density=air, drag_area_m2=area, headwind_mps=head, wind_mps=wind, style=style)
    stretches = _stretches(leg.road, climb_per_m)
    wheel = np.concatenate(
        [load.wheel_power_w(speed * set_mps, accel * set_mps, slope * climb) for slope, _ in stretches], axis=1
    )
    time = moving * np.concatenate([share * part for _, part in stretches])
    drive = car.drivetrain
    push = np.maximum(wheel, 0.0) / (drive.efficiency * efficiency)
    capped = _capped(wheel * drive.regen_efficiency, time, drive.regen_kw)
    seconds = leg.distance_km * 1000.0 / ((speed @ share) * set_mps[:, 0] * moving)
    return LegPower(
        push_w=(push @ time)[back],
        push_sq=(push**2 @ time)[back],
        brake_w=capped[0][back],
        brake_sq=capped[1][back],
        seconds=seconds[back],
        moving=moving,
    )


def _capped(power: Array, time: Array, regen_kw: float) -> tuple[Array, Array]:
    """Mean braking power and its square for each cap of CAPS, from powers (cases, points) and shares of time."""
    brakes = (power < 0).any(axis=0)
    brake, time = np.maximum(-power[:, brakes], 0.0), time[brakes]
    capped = [np.minimum(brake, cap * 1000 * regen_kw) for cap in CAPS]
    return np.column_stack([each @ time for each in capped]), np.column_stack([each**2 @ time for each in capped])


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
