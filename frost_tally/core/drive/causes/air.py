"""What the air takes: its density, the speed through it, the wind, and what stands in it. Why: docs/decisions/0009."""

from dataclasses import replace

import numpy as np

from ...basis import Basis, figure
from ...units import Array
from ..air import density, pressure_at
from ..day import Scenarios
from ..road import road_load
from .base import MILD_C, SAME, Cause, Kind, TalliedDay

MILD_MOTORWAY_KMH = figure("tally.mild_motorway", 90.0, "km/h", Basis.COMMON_PRACTICE, "motorway speed of the mild day")


class ColdAir(Cause):
    """Cold air is denser."""

    key, kind, figures = "cold_air", Kind.COLD, ("air.gas_constant",)

    def ratio(self, day: TalliedDay) -> float:
        """The day's density to the mild day's."""
        at = day.conditions
        now = float(np.asarray(road_load(day.car, at).density))
        return now / density(MILD_C, pressure_at(at.altitude_m), at.relative_humidity)

    def differs(self, day: TalliedDay) -> bool:
        return self.ratio(day) != 1

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, density=np.asarray(cases.density) * np.where(on, self.ratio(day), 1.0))

    def turned(self, day: TalliedDay) -> bool:
        return day.conditions.ambient_c > MILD_C


class Speed(Cause):
    """The motorway faster or slower than on the mild day; its amount is km/h."""

    key, figures = "speed", ("tally.mild_motorway",)

    def slower(self, day: TalliedDay) -> float:
        """The mild day's speed to this day's."""
        speeds = day.trip.motorway_kmh
        return MILD_MOTORWAY_KMH / speeds[0] if speeds else 1.0

    def differs(self, day: TalliedDay) -> bool:
        return abs(self.slower(day) - 1) > SAME

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, motorway=np.where(on, 1.0, self.slower(day)))

    def amount(self, day: TalliedDay) -> float | None:
        return max(day.trip.motorway_kmh, default=0.0)


class Wind(Cause):
    """Wind from any side."""

    key = "wind"

    def differs(self, day: TalliedDay) -> bool:
        return day.conditions.wind_mps > 0 or day.conditions.headwind_mps != 0

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, wind_mps=cases.wind_mps * on, headwind_mps=cases.headwind_mps * on)


class OnTheCar(Cause):
    """Boxes, carriers, open wheels and snow in the air."""

    key, figures = "extras", ("extras.roof_box", "extras.rear_carrier", "extras.covers_off", "extras.snow", "extras.window")

    def differs(self, day: TalliedDay) -> bool:
        return day.conditions.drag_factor != 1

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, drag_area_m2=cases.drag_area_m2 / np.where(on, 1.0, day.conditions.drag_factor))
