"""What the road takes: tyres, what lies on it, hills, load, style, and what the owner's own days took more."""

from abc import abstractmethod
from dataclasses import replace

import numpy as np

from ...units import Array
from ..day import Scenarios
from ..road import SURFACE_FACTOR, friction_share
from ..tyres import cold_factor, pressure_factor
from .base import MILD_C, SAME, Cause, Kind, TalliedDay


class Rolling(Cause):
    """A cause that multiplies the rolling resistance."""

    @abstractmethod
    def factor(self, day: TalliedDay) -> float:
        """By how much."""

    def differs(self, day: TalliedDay) -> bool:
        return abs(self.factor(day) - 1) > SAME

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, rolling=cases.rolling * np.where(on, self.factor(day), 1.0))


class ColdTyres(Rolling):
    """Cold rubber flexes harder."""

    key, kind = "cold_tyres", Kind.COLD
    figures = ("tyres.temperature_slope", "tyres.reference_temperature", "tyres.flatten_below")

    def factor(self, day: TalliedDay) -> float:
        return float(cold_factor(day.conditions.ambient_c) / cold_factor(MILD_C))

    def turned(self, day: TalliedDay) -> bool:
        return day.conditions.ambient_c > MILD_C


class Pressure(Rolling):
    """Tyres softer or harder than the placard; its amount is kPa against it."""

    key, figures = "pressure", ("tyres.pressure_exponent",)

    def gauge(self, day: TalliedDay) -> float:
        """The day's gauge pressure, kPa."""
        gauge = day.conditions.tyre_gauge_kpa
        return day.car.tyres.placard_kpa if gauge is None else gauge

    def factor(self, day: TalliedDay) -> float:
        return float(pressure_factor(self.gauge(day), day.car.tyres.placard_kpa))

    def amount(self, day: TalliedDay) -> float | None:
        return self.gauge(day) - day.car.tyres.placard_kpa


class WetRoad(Rolling):
    """Water, slush or snow on the road."""

    key, figures = "surface", ("road.wet", "road.slush")

    def factor(self, day: TalliedDay) -> float:
        return float(SURFACE_FACTOR[day.conditions.surface])


class Load(Cause):
    """People and luggage besides the driver."""

    key = "load"

    def differs(self, day: TalliedDay) -> bool:
        return day.conditions.load_kg > 0

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, mass_kg=np.asarray(cases.mass_kg) - (1 - on) * day.conditions.load_kg)


class Friction(Cause):
    """Discs brake in place of the motor."""

    key = "friction"
    figures = ("road.regen_efficiency",)

    def differs(self, day: TalliedDay) -> bool:
        return friction_share(day.car, day.conditions) > SAME

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, friction=on * friction_share(day.car, day.conditions))


class Hills(Cause):
    """Climbs that come back downhill only in part."""

    key, figures = "hills", ("hills.slope_country", "hills.most_uphill")

    def differs(self, day: TalliedDay) -> bool:
        return day.trip.climb_m > 0

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, climb=on)


class Style(Cause):
    """Brisk or gentle starts in stop-and-go."""

    key, figures = "style", ("style.gentle",)

    def differs(self, day: TalliedDay) -> bool:
        return day.conditions.style != 1

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, style=np.where(on, day.conditions.style, 1.0))


class OwnDays(Cause):
    """What the owner's latest noted days took more, or less, than the model."""

    key, figures = "own", ("certainty.noise_days",)

    def differs(self, day: TalliedDay) -> bool:
        return abs(day.car.factors.own - 1) > SAME

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        return replace(cases, own=np.where(on, day.car.factors.own, 1.0))
