"""The driver's part: the foot, the button, braking and rolling; and what does not matter."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..basis import Basis, figure
from ..car import Car
from ..units import J_PER_KWH
from .cycles import samples, schedule
from .day import Start, Trip
from .extras import WINDOW
from .road import Conditions, Surface, road_load
from .trip import cases, run, side_by_side

GENTLE = figure("style.gentle", 0.85, "", Basis.COMMON_PRACTICE, "gentle driving, on accelerations in stop-and-go")
BRISK = figure("style.brisk", 1.2, "", Basis.COMMON_PRACTICE, "brisk driving, on accelerations in stop-and-go")
DAMP, DRY = 1.0, 0.3
SMALL_W: Mapping[str, float] = {
    key: figure(f"small.{key}", watts, "W", Basis.FROM_MEMORY, source)
    for key, watts, source in (
        ("phone", 10.0, "a phone being charged; 17 Wh fill one"),
        ("radio", 50.0, "radio, amplifier and screen"),
        ("lights", 80.0, "low beams, tail lights and dashboard, light-emitting diodes"),
        ("wipers", 50.0, "wipers, mean of their strokes"),
        ("assist", 150.0, "cameras, radar and the computer of assisted driving, 100–300 W"),
        ("rear_window", 150.0, "the heated rear window while it is on"),
        ("cooling", 1000.0, "air conditioning in steady sun, once the cabin is cool"),
    )
}


@dataclass(frozen=True)
class Small:
    """Something small on a day: its power (W; 0 for drag) and the km of range that it takes on this day."""

    key: str
    watts: float
    km: float


@dataclass(frozen=True, kw_only=True)
class Habits:
    """A day's driver: km of range won by a gentle foot and lost by a brisk one; what braking returns of what it took (0 to 1).

    `put_in_wh_per_km` is what the town's stops take from the pack, and what comes back of it is `returned_wh_per_km`; `small` are
    things whose power can be named, and windows and damp air, which are no power but drag.
    """

    gentle_km: float
    brisk_km: float
    put_in_wh_per_km: float
    returned_wh_per_km: float
    small: tuple[Small, ...]


@lru_cache(maxsize=8)
def habits(car: Car, trip: Trip, conditions: Conditions, start: Start) -> Habits:
    """What the driver's ways change on a day, each against the day as it is driven."""
    dry = replace(conditions, surface=Surface.DRY)
    ways = [
        conditions,
        replace(conditions, style=GENTLE),
        replace(conditions, style=BRISK),
        replace(conditions, drag_factor=conditions.drag_factor * WINDOW),
        replace(dry, relative_humidity=DAMP),
        replace(dry, relative_humidity=DRY),
    ]
    done = run(car, trip, conditions, side_by_side([cases(car, each, start) for each in ways]))
    used, hours = done.soc_used, float(done.hours[0])
    km_per_soc = trip.distance_km / max(float(used[0]), 1e-9)
    kwh = float(done.energy_kwh[0])
    small = [Small(key, watts, trip.distance_km * watts / 1000 * hours / max(kwh, 1e-9)) for key, watts in SMALL_W.items()]
    small.append(Small("window", 0.0, float(used[3] - used[0]) * km_per_soc))
    small.append(Small("damp", 0.0, float(used[4] - used[5]) * km_per_soc))
    put_in, returned = stops(car, conditions)
    return Habits(
        gentle_km=float(used[0] - used[1]) * km_per_soc,
        brisk_km=float(used[2] - used[0]) * km_per_soc,
        put_in_wh_per_km=put_in,
        returned_wh_per_km=returned,
        small=tuple(sorted(small, key=lambda each: -abs(each.km))),
    )


def stops(car: Car, conditions: Conditions) -> tuple[float, float]:
    """What the stops of the town's schedule take from the pack, and what braking gives back (Wh/km), with a warm pack.

    What is braked away at the wheels had to be put in through the drive, and comes back through it: the rest is lost each time,
    whichever pedal brakes. Rolling on in good time needs neither. Source: work and energy; 40 CFR 86, Appendix I (UDDS).
    """
    speeds = schedule("udds")
    power_w = road_load(car, conditions).wheel_power_w(*samples(speeds, 1.0))
    braked_kwh, km = float(np.maximum(-power_w, 0.0).sum()) / J_PER_KWH, float(speeds.sum()) / 1000.0
    drive = car.drivetrain
    back = float(np.minimum(np.maximum(-power_w * drive.regen_efficiency, 0.0), 1000 * drive.regen_kw).sum()) / J_PER_KWH
    return 1000 * braked_kwh / drive.efficiency / km, 1000 * back / km
