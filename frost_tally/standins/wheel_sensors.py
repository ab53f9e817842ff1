"""Wheel sensors: a seeded stand-in for what a car reports of its tyres."""

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Protocol

import numpy as np

from ..core.drive.tyre_log import STANDARD_C, WHEELS
from ..core.drive.tyres import gauge_at

SCATTER_KPA = 1.5
PUMPED_EVERY_DAYS = 120


class WheelSensors(Protocol):
    """A car that knows its tyres."""

    def read(self, now: datetime, tyre_c: float) -> dict[str, float]:
        """Gauge pressure of each wheel, kPa."""


@dataclass(frozen=True)
class SeededSensors:
    """Four tyres that lose a little, are pumped every four months, and one that loses more (kPa a day)."""

    placard_kpa: float
    leaking: str = ""
    seed: int = 4
    leak_per_day: float = 0.25
    sound_per_day: float = 0.05

    def read(self, now: datetime, tyre_c: float) -> dict[str, float]:
        """Pressures at a time and tyre temperature, the same for a seed."""
        day = now.astimezone(UTC).toordinal()
        since = day % PUMPED_EVERY_DAYS
        draw = np.random.default_rng((self.seed, day))
        found = {}
        for wheel in WHEELS:
            lost = since * (self.leak_per_day if wheel == self.leaking else self.sound_per_day)
            standard = self.placard_kpa + 4.0 - lost + float(draw.normal(0, SCATTER_KPA))
            found[wheel] = round(gauge_at(max(standard, 0.0), STANDARD_C, tyre_c), 0)
        return found
