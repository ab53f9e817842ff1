"""A car that reports when it left, made up for the demo: on time on most days, left standing on a few."""

from datetime import datetime, timedelta
from typing import Protocol

import numpy as np

STAYS = 0.12


class CarLink(Protocol):
    """What a car tells of a departure."""

    def left_at(self, car: str, due: datetime) -> datetime | None:
        """When it drove off, within hours of a departure that was due; None when it stayed."""
        ...


class SeededCar:
    """Drives off within minutes of the time it was warmed for, and on some days not at all; the same on every run."""

    def left_at(self, car: str, due: datetime) -> datetime | None:
        draw = np.random.default_rng([2, sum(map(ord, car)), due.toordinal(), due.hour * 60 + due.minute])
        if draw.random() < STAYS:
            return None
        return due + timedelta(minutes=float(np.clip(draw.normal(3, 4), -8, 18)))
