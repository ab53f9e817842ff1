"""What the air takes: its density, the speed through it, the wind, and what stands in it."""

from dataclasses import replace

import numpy as np

from ...basis import Basis, figure
from ...units import Array
from ..air import density, pressure_at
from ..day import Lanes
from ..road import road_load
from .base import MILD_C, SAME, Case, Cause, Kind

MILD_MOTORWAY_KMH = figure("tally.mild_motorway", 90.0, "km/h", Basis.COMMON_PRACTICE, "motorway speed of the mild day")


class ColdAir(Cause):
    """Cold air is denser."""

    key, kind, figures = "cold_air", Kind.COLD, ("air.gas_constant",)

    def ratio(self, case: Case) -> float:
        """The day's density to the mild day's."""
        at = case.conditions
        now = float(np.asarray(road_load(case.car, at).density))
        return now / density(MILD_C, pressure_at(at.altitude_m), at.relative_humidity)

    def differs(self, case: Case) -> bool:
        return self.ratio(case) != 1

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, density=np.asarray(lanes.density) * np.where(on, self.ratio(case), 1.0))

    def turned(self, case: Case) -> bool:
        return case.conditions.ambient_c > MILD_C


class Speed(Cause):
    """The motorway faster or slower than on the mild day; its amount is km/h."""

    key, figures = "speed", ("tally.mild_motorway",)

    def slower(self, case: Case) -> float:
        """The mild day's speed to this day's."""
        speeds = case.trip.motorway_kmh
        return MILD_MOTORWAY_KMH / speeds[0] if speeds else 1.0

    def differs(self, case: Case) -> bool:
        return abs(self.slower(case) - 1) > SAME

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, motorway=np.where(on, 1.0, self.slower(case)))

    def amount(self, case: Case) -> float | None:
        return max(case.trip.motorway_kmh, default=0.0)


class Wind(Cause):
    """Wind from any side."""

    key = "wind"

    def differs(self, case: Case) -> bool:
        return case.conditions.wind_mps > 0 or case.conditions.headwind_mps != 0

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, wind_mps=lanes.wind_mps * on, headwind_mps=lanes.headwind_mps * on)


class OnTheCar(Cause):
    """Boxes, carriers, open wheels and snow in the air."""

    key, figures = "extras", ("extras.roof_box", "extras.rear_carrier", "extras.covers_off", "extras.snow")

    def differs(self, case: Case) -> bool:
        return case.conditions.drag_factor != 1

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, drag_area_m2=lanes.drag_area_m2 / np.where(on, 1.0, case.conditions.drag_factor))
