"""Prices over time: bands on a week of local time, weekday and weekend, whatever the clocks do."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from ..errors import Refusal

CELL_MINUTES = 15
CELLS_PER_DAY = 24 * 60 // CELL_MINUTES
WEEKDAYS = frozenset(range(5))
WEEKEND = frozenset((5, 6))
EVERY_DAY = WEEKDAYS | WEEKEND
DAY_NAMES = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True)
class Band:
    """A price per kWh (tax included) between two local times on some days (0 = Monday).

    Times lie on quarter hours; end before or at start wraps midnight. Each day of `days` is painted on its own calendar
    day: 22:30–06:00 on Monday covers Monday 00:00–06:00 and 22:30–24:00.
    """

    name: str
    price_per_kwh: float
    start: time
    end: time
    days: frozenset[int] = EVERY_DAY

    def cells(self) -> frozenset[int]:
        """The quarter-hour cells of a day that the band covers, 0 to 95."""
        first, last = _cell(self.start), _cell(self.end)
        if first < last:
            return frozenset(range(first, last))
        return frozenset(range(first, CELLS_PER_DAY)) | frozenset(range(last))


@dataclass(frozen=True)
class PriceSlot:
    """A half-open interval [start, end) in UTC with one price."""

    start: datetime
    end: datetime
    price_per_kwh: float
    band: str

    @property
    def hours(self) -> float:
        """Length in hours of real time."""
        return (self.end - self.start).total_seconds() / 3600.0


@dataclass(frozen=True)
class Tariff:
    """Bands that give every quarter hour of a local week exactly one price."""

    name: str
    zone: str
    bands: tuple[Band, ...]
    currency: str = "EUR"
    standing_per_day: float = 0.0

    def faults(self) -> tuple[str, ...]:
        """Gaps and overlaps by name, such as "Sunday 02:00–03:00 has no price"; empty when the tariff is valid."""
        return _faults(self.bands)

    def checked(self) -> "Tariff":
        """The same tariff. Raises: Refusal naming the first gaps and overlaps."""
        faults = self.faults()
        if faults:
            more = f" (and {len(faults) - 3} more)" if len(faults) > 3 else ""
            raise Refusal("; ".join(faults[:3]) + more + ".", "bands")
        return self

    def prices(self, start: datetime, end: datetime, step_minutes: int = CELL_MINUTES) -> tuple[PriceSlot, ...]:
        """Price slots from `start` to `end` (aware times), cut at every multiple of `step_minutes` of local time.

        Real time is walked in UTC, so the night the clocks change has one hour more or less and each moment one price.
        Raises: Refusal for naive times, an end before the start, a step that is not 15, 30 or 60, or a faulty tariff.
        """
        if start.tzinfo is None or end.tzinfo is None or end < start:
            raise Refusal("Prices need two times with a zone, the later one last.")
        if step_minutes not in (15, 30, 60):
            raise Refusal("Prices come in steps of 15, 30 or 60 minutes.")
        table = _painted(self.checked().bands)
        zone = ZoneInfo(self.zone)
        slots: list[PriceSlot] = []
        moment, last = start.astimezone(UTC), end.astimezone(UTC)
        while moment < last:
            local = moment.astimezone(zone)
            band = table[local.weekday()][_cell(local.time())]
            into = timedelta(minutes=local.minute % CELL_MINUTES, seconds=local.second, microseconds=local.microsecond)
            following = min(moment - into + timedelta(minutes=CELL_MINUTES), last)
            if (
                slots
                and slots[-1].band == band.name
                and slots[-1].price_per_kwh == band.price_per_kwh
                and local.minute % step_minutes
            ):
                slots[-1] = PriceSlot(slots[-1].start, following, band.price_per_kwh, band.name)
            else:
                slots.append(PriceSlot(moment, following, band.price_per_kwh, band.name))
            moment = following
        return tuple(slots)


def two_band(name: str, zone: str, cheap: float, dear: float, start: time, end: time, currency: str = "EUR") -> Tariff:
    """Two bands a day: cheap from `start` to `end`, wrapping midnight where needed, dear for the rest."""
    return Tariff(name, zone, (Band("cheap", cheap, start, end), Band("dear", dear, end, start)), currency).checked()


def _cell(moment: time) -> int:
    return (moment.hour * 60 + moment.minute) // CELL_MINUTES


@lru_cache(maxsize=64)
def _painted(bands: tuple[Band, ...]) -> tuple[tuple[Band, ...], ...]:
    """For each weekday the band of each cell; the bands have been checked."""
    week: list[list[Band]] = [[bands[0]] * CELLS_PER_DAY for _ in range(7)]
    for band in bands:
        for day in band.days:
            for cell in band.cells():
                week[day][cell] = band
    return tuple(tuple(day) for day in week)


@lru_cache(maxsize=64)
def _faults(bands: tuple[Band, ...]) -> tuple[str, ...]:
    found = [
        f"“{band.name}” must begin and end on a quarter hour"
        for band in bands
        if any(edge.minute % CELL_MINUTES or edge.second for edge in (band.start, band.end))
    ]
    covers = [(band.days, band.cells()) for band in bands]
    for day in range(7):
        counts = [sum(day in days and cell in cells for days, cells in covers) for cell in range(CELLS_PER_DAY)]
        found += [
            f"{DAY_NAMES[day]} {_clock(a)}–{_clock(b)} has {'no price' if not count else f'{count} prices'}"
            for a, b, count in _runs(counts)
            if count != 1
        ]
    return tuple(found)


def _runs(counts: Sequence[int]) -> list[tuple[int, int, int]]:
    """Runs of equal numbers as (first, after last, number)."""
    edges = [0, *(i for i in range(1, len(counts)) if counts[i] != counts[i - 1]), len(counts)]
    return [(a, b, counts[a]) for a, b in zip(edges, edges[1:], strict=False)]


def _clock(cell: int) -> str:
    return f"{cell * CELL_MINUTES // 60:02d}:{cell * CELL_MINUTES % 60:02d}"
