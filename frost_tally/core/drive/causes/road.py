"""What the road takes: tyres, what lies on it, hills, load, style, and what the owner's own days took more."""

from dataclasses import replace

import numpy as np

from ...units import Array
from ..day import Lanes
from ..road import SURFACE_FACTOR
from ..tyres import cold_factor, pressure_factor
from .base import MILD_C, SAME, Case, Cause, Kind


class Rolling(Cause):
    """A cause that multiplies the rolling resistance."""

    def factor(self, case: Case) -> float:
        """By how much."""
        raise NotImplementedError

    def differs(self, case: Case) -> bool:
        return abs(self.factor(case) - 1) > SAME

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, rolling=lanes.rolling * np.where(on, self.factor(case), 1.0))


class ColdTyres(Rolling):
    """Cold rubber flexes harder."""

    key, kind = "cold_tyres", Kind.COLD
    figures = ("tyres.temperature_slope", "tyres.reference_temperature", "tyres.flatten_below")

    def factor(self, case: Case) -> float:
        return float(cold_factor(case.conditions.ambient_c) / cold_factor(MILD_C))

    def turned(self, case: Case) -> bool:
        return case.conditions.ambient_c > MILD_C


class Pressure(Rolling):
    """Tyres softer or harder than the placard; its amount is kPa against it."""

    key, figures = "pressure", ("tyres.pressure_exponent",)

    def gauge(self, case: Case) -> float:
        """The day's gauge pressure, kPa."""
        gauge = case.conditions.tyre_gauge_kpa
        return case.car.tyres.placard_kpa if gauge is None else gauge

    def factor(self, case: Case) -> float:
        return float(pressure_factor(self.gauge(case), case.car.tyres.placard_kpa))

    def amount(self, case: Case) -> float | None:
        return self.gauge(case) - case.car.tyres.placard_kpa


class WetRoad(Rolling):
    """Water, slush or snow on the road."""

    key, figures = "surface", ("road.wet", "road.slush")

    def factor(self, case: Case) -> float:
        return float(SURFACE_FACTOR[case.conditions.surface])


class Load(Cause):
    """People and luggage besides the driver."""

    key = "load"

    def differs(self, case: Case) -> bool:
        return case.conditions.load_kg > 0

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, mass_kg=np.asarray(lanes.mass_kg) - (1 - on) * case.conditions.load_kg)


class Hills(Cause):
    """Climbs that come back downhill only in part."""

    key, figures = "hills", ("hills.slope_country", "hills.most_uphill")

    def differs(self, case: Case) -> bool:
        return case.trip.climb_m > 0

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, climb=on)


class Style(Cause):
    """Brisk or gentle starts in stop-and-go."""

    key, figures = "style", ("style.gentle",)

    def differs(self, case: Case) -> bool:
        return case.conditions.style != 1

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, style=np.where(on, case.conditions.style, 1.0))


class OwnDays(Cause):
    """What the owner's latest noted days took more, or less, than the model."""

    key, figures = "own", ("certainty.noise_days",)

    def differs(self, case: Case) -> bool:
        return abs(case.car.factors.own - 1) > SAME

    def counts(self, case: Case, lanes: Lanes, on: Array) -> Lanes:
        return replace(lanes, own=np.where(on, case.car.factors.own, 1.0))
