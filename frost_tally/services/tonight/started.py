"""The start of a charge as its owner saw it, beside what the outlet and the car were to give."""

from dataclasses import dataclass

from ...core.car import Car
from ...core.charge.start_check import Current, NotedStart
from ...core.charge.supply import ChargeRate, charge_rate
from ...core.parts import Outlet


@dataclass(frozen=True, kw_only=True)
class Started:
    """What was seen when the cable went in (None: nothing was noted), what the outlet gives by plan, and the outlet."""

    noted: NotedStart | None
    planned: ChargeRate
    outlet: Outlet

    @property
    def circuit_a(self) -> float:
        """What it may carry for hours, A."""
        return self.outlet.supply.continuous_a

    @property
    def current(self) -> Current:
        """The amperes seen beside the plan's."""
        return self.noted.check.current(self.planned, self.circuit_a) if self.noted else Current.AS_PLANNED

    @property
    def blocked(self) -> bool:
        """Whether nothing can be charged until what is wrong is put right."""
        return self.noted is not None and self.noted.check.rate(self.planned, self.circuit_a) is None


def started_of(noted: NotedStart | None, outlet: Outlet, car: Car) -> Started:
    """What was seen when the cable went in, beside what the outlet and the car were to give."""
    return Started(noted=noted, planned=charge_rate(outlet.supply, car), outlet=outlet)
