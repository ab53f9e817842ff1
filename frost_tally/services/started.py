"""The start of a charge as its owner saw it, beside what the outlet and the car were to give."""

from dataclasses import dataclass

from ..core.car import Car
from ..core.charge.start_check import Current
from ..core.charge.supply import ChargeRate, charge_rate
from ..household.parts import supply_of
from ..household.plans import NotedStart
from .evening import NotSetUp, Setting


@dataclass(frozen=True, kw_only=True)
class Started:
    """What was seen when the cable went in (None: nothing was noted), what the outlet gives by plan and may carry for hours (A), and what
    the owner noted of its lights.
    """

    noted: NotedStart | None
    planned: ChargeRate
    circuit_a: float
    outlet_id: int
    lights: str

    @property
    def current(self) -> Current:
        """The amperes seen beside the plan's."""
        return self.noted.check.current(self.planned, self.circuit_a) if self.noted else Current.AS_PLANNED

    @property
    def stands(self) -> bool:
        """Whether nothing can be charged until what is wrong is put right."""
        return self.noted is not None and self.noted.check.rate(self.planned, self.circuit_a) is None


def started_of(setting: Setting, car: Car) -> Started:
    """What was seen when the cable went in, beside what the outlet and the car were to give."""
    row = setting.row.habit.outlet
    if row is None:
        raise NotSetUp
    supply = supply_of(row)
    return Started(
        noted=setting.started,
        planned=charge_rate(supply, car),
        circuit_a=supply.continuous_a,
        outlet_id=row.id,
        lights=row.lights,
    )
