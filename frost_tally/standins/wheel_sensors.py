"""Wheel sensors: a seeded stand-in for what a car reports of its tyres."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np

from ..core.drive.tyre_log import STANDARD_C, WHEELS
from ..core.drive.tyres import gauge_at

SCATTER_KPA = 1.5
PUMPED_EVERY_DAYS = 120


@dataclass(frozen=True)
class SeededSensors:
    """Four tyres that lose a little and are pumped every four months; the wheel that `leaking` names for a car loses more (kPa a day)."""

    leaking: Mapping[str, str] = field(default_factory=dict)
    leak_per_day: float = 0.25
    sound_per_day: float = 0.05

    def read(self, car: str, placard_kpa: float, now: datetime, tyre_c: float) -> dict[str, float]:
        """Pressures at a time and tyre temperature, the same for a car."""
        day = now.astimezone(UTC).toordinal()
        since = day % PUMPED_EVERY_DAYS
        draw = np.random.default_rng((len(car), day))
        found = {}
        for wheel in WHEELS:
            lost = since * (self.leak_per_day if wheel == self.leaking.get(car) else self.sound_per_day)
            standard = placard_kpa + 4.0 - lost + float(draw.normal(0, SCATTER_KPA))
            found[wheel] = round(gauge_at(max(standard, 0.0), STANDARD_C, tyre_c), 0)
        return found
