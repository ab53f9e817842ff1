"""A car's own capacity tests as they were noted, what each measured, and how the trend takes it."""

from dataclasses import dataclass
from datetime import datetime

from ..car import Car
from .capacity import COUNTED, EFFICIENCY, OWN_FIGURE, TYPED, Capacity, from_car, from_charge, from_discharge
from .everyday import Everyday
from .trend import DISPLAY, LEAST_SIGMA, Tested, own_sigma

WALL, COUNTER, FIGURE = "wall", "counter", "figure"
GROUPS = {"wall": WALL, "car": FIGURE}
"""Of the ways in which a test is made: with which others it shares an error."""
SHARED = {WALL: EFFICIENCY, COUNTER: COUNTED, FIGURE: OWN_FIGURE}
"""What the estimates of one group have in common: charging efficiency, the car's own counting, its own health test."""
PLAUSIBLE = (0.2, 1.3)
"""Healths that a pack can be measured to have; what lies beyond is a slip."""


@dataclass(frozen=True, kw_only=True)
class CapacityTest:
    """A capacity test: kWh between two levels (0 to 1), by `how` "discharge", "charge" (counted by the car), "wall" or "car" (its own
    figure as energy between full and empty); the pack's °C (None: nobody read it); `stopped`: the car ended it early.
    """

    id: int
    at: datetime
    how: str
    soc_from: float
    soc_to: float
    kwh: float
    pack_c: float | None
    stopped: bool
    note: str

    @property
    def group(self) -> str:
        """With which other estimates it shares an error; "" with none."""
        return GROUPS.get(self.how, "")

    def measured(self, car: Car, air_c: float | None = None) -> Capacity:
        """What it measured, in some air (°C). Raises: OutOfRange for levels that measure nothing."""
        cell, new_kwh = car.pack.chemistry, car.pack.usable_kwh_new
        if self.how == "car":
            return from_car(min(1.05, max(0.4, self.kwh / (self.soc_from - self.soc_to) / new_kwh)), new_kwh)
        if self.how == "discharge":
            return from_discharge(self.kwh, self.soc_from, self.soc_to, chemistry=cell, pack_c=self.pack_c, air_c=air_c)
        at_wall = {"efficiency": car.charger.efficiency, "efficiency_sigma": EFFICIENCY} if self.how == "wall" else {}
        return from_charge(self.kwh, self.soc_from, self.soc_to, chemistry=cell, pack_c=self.pack_c, air_c=air_c, **at_wall)


def tested(days: float, found: Capacity, group: str, new_kwh: float) -> Tested | None:
    """A test at an age (days) as the fit takes it: its own error without what its group shares; None for what no pack has."""
    health = found.kwh / new_kwh
    if not PLAUSIBLE[0] <= health <= PLAUSIBLE[1]:
        return None
    sigma = own_sigma(found.sigma_kwh / new_kwh, SHARED.get(group, 0.0))
    shares = ((DISPLAY, health * found.parts["calibration"]),) if "calibration" in found.parts else ()
    return Tested(days=max(0.0, days), health=health, sigma=sigma, group=group, shares=shares)


def typed(days: float, soh: float) -> Tested:
    """A health (0 to 1) that somebody typed at an age (days), as the fit takes it."""
    return Tested(days=max(0.0, days), health=soh, sigma=TYPED, shares=())


def month_tested(days: float, month: Everyday, kind: str, new_kwh: float) -> Tested | None:
    """A month of ordinary sessions as the fit takes it: its own error, and what the display has wrong."""
    health = month.kwh / new_kwh
    if not PLAUSIBLE[0] <= health <= PLAUSIBLE[1]:
        return None
    sigma = max(month.sigma_kwh / new_kwh, LEAST_SIGMA)
    return Tested(
        days=max(0.0, days), health=health, sigma=sigma, group=kind, shares=((f"months {kind}", month.display_kwh / new_kwh),)
    )
