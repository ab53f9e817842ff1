"""A plan that was kept for a night: what it says of a moment, and what its drive came to."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime

from ..drive.certainty import LevelBand

CHARGE, WARM_UP = "charge", "warm_up"
BEHIND_SOC, HALF_PER_CENT = 0.02, 0.005
"""A level that is lower by more than the first is behind its plan; a level that was read is off by up to the second. 0 to 1."""


@dataclass(frozen=True)
class SavedBlock:
    """A stretch of drawing: CHARGE or WARM_UP, power at the wall (kW), its mean price per kWh."""

    kind: str
    begin: datetime
    end: datetime
    kw: float
    price_per_kwh: float


@dataclass(frozen=True, kw_only=True)
class SavedPlan:
    """A plan as it was kept: levels 0 to 1, kWh at the wall, money, pack and cabin at departure (°C).

    `inputs` are all that could be set, as plain values by name, `overrides` the names of those that were not as usual.
    """

    id: int = 0
    car_id: int
    kept_at: datetime
    plug_in: datetime | None
    departure: datetime
    km: float
    limit: float
    soc_start: float
    soc_departure: float
    arrival_low: float
    arrival_likely: float
    arrival_high: float
    wall_kwh: float
    cost: float
    start_pack_c: float | None
    start_cabin_c: float | None
    inputs: Mapping[str, object] = field(compare=False)
    overrides: tuple[str, ...]
    blocks: tuple[SavedBlock, ...] = ()

    @property
    def arrival(self) -> LevelBand:
        """The level's band at the end of the day."""
        return LevelBand(self.arrival_low, self.arrival_likely, self.arrival_high)

    @property
    def charging(self) -> tuple[SavedBlock, ...]:
        """Its stretches of charging."""
        return tuple(each for each in self.blocks if each.kind == CHARGE)

    @property
    def starts(self) -> datetime | None:
        """When its charging begins; None where nothing is charged."""
        return min((each.begin for each in self.charging), default=None)

    def soc_at(self, now: datetime) -> float | None:
        """The level (0 to 1) that it has by a moment; None while its charging has not begun."""
        if self.starts is None or self.starts >= now:
            return None
        whole = sum(each.kw * (each.end - each.begin).total_seconds() for each in self.charging)
        done = sum(each.kw * max(0.0, (min(each.end, now) - each.begin).total_seconds()) for each in self.charging)
        return self.soc_start + (self.limit - self.soc_start) * done / max(whole, 1e-9)

    def is_behind(self, soc: float, now: datetime) -> bool:
        """Whether a level (0 to 1) is clearly under what it has by a moment."""
        should = self.soc_at(now)
        return should is not None and soc < should - BEHIND_SOC


@dataclass(frozen=True)
class DrivenPlan:
    """A plan, and the levels (0 to 1) that its day really began and ended with."""

    plan: SavedPlan
    soc_start: float
    soc_end: float

    @property
    def beside_band(self) -> int:
        """Where it ended: 0 within the plan's band, 1 above, −1 below; levels are read in whole per cents."""
        low, high = self.plan.arrival_low - HALF_PER_CENT, self.plan.arrival_high + HALF_PER_CENT
        return int(self.soc_end > high) - int(self.soc_end < low)
