"""Day-ahead prices of half hours: a seeded stand-in for the service that publishes them."""

from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta

import numpy as np

from ..core.charge.prices import Series

STEP_S = 1800
PUBLISHED_AT = time(13)
HUMPS = ((7.5, 1.6, 0.09), (18.0, 2.2, 0.13), (13.0, 2.0, -0.05), (3.0, 2.5, -0.05))


@dataclass(frozen=True)
class SeededFeed:
    """Made-up prices: a season, two humps a day, and weather that drifts from day to day; the same for a seed."""

    seed: int = 2027
    base: float = 0.15

    def known_until(self, now: datetime) -> datetime:
        """Midnight after tomorrow once today's auction is published at 13:00 local time, else the coming midnight."""
        days = 2 if now.time() >= PUBLISHED_AT else 1
        return (now + timedelta(days=days)).replace(hour=0, minute=0, second=0, microsecond=0)

    def prices(self, start: datetime, end: datetime) -> Series:
        first = int(start.timestamp()) // STEP_S * STEP_S
        starts = np.arange(first, int(end.timestamp()), STEP_S, dtype=np.int64)
        days: dict[int, tuple[float, float]] = {}
        values = np.zeros(len(starts))
        for i, second in enumerate(starts.tolist()):
            local = datetime.fromtimestamp(second, start.tzinfo)
            day = local.toordinal()
            if day not in days:
                days[day] = self._day(day)
            level, swing = days[day]
            hour = local.hour + local.minute / 60
            shape = sum(height * np.exp(-(((hour - at + 12) % 24 - 12) ** 2) / (2 * width**2)) for at, width, height in HUMPS)
            values[i] = round(level + swing * float(shape), 4)
        return Series(starts, starts + STEP_S, values)

    def _day(self, ordinal: int) -> tuple[float, float]:
        """Level and swing of a day: winters dearer, windy spells of about five days cheaper."""
        season = float(np.cos(2 * np.pi * (datetime.fromordinal(ordinal).replace(tzinfo=UTC).timetuple().tm_yday - 20) / 365))
        drift = sum(0.55**k * float(np.random.default_rng((self.seed, ordinal - k)).standard_normal()) for k in range(8))
        return self.base + 0.05 * season + 0.035 * drift, max(0.3, 1.0 + 0.35 * season + 0.15 * drift)
