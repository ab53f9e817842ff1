"""A car that reports when it left, made up for the demo: on time on most days, left standing on a few."""

from datetime import datetime, timedelta

import numpy as np

STAYS = 0.12


class SeededCar:
    """Drives off within minutes of the time it was warmed for, and on some days not at all; the same on every run."""

    def left_at(self, car: str, due: datetime) -> datetime | None:
        draw = np.random.default_rng([2, sum(map(ord, car)), due.toordinal(), due.hour * 60 + due.minute])
        if draw.random() < STAYS:
            return None
        return due + timedelta(minutes=float(np.clip(draw.normal(3, 4), -8, 18)))
