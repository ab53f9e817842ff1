"""Prices over time: weeks painted in quarter hours, seasons, public holidays, a dated series, whatever the clocks do.

Why: docs/decisions/0011.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from itertools import chain
from zoneinfo import ZoneInfo

import numpy as np

from ..errors import Refusal
from ..units import Array, Ints
from .prices import CELL_MINUTES, CELL_S, CELLS_PER_DAY, DAY_S, SERIES_BAND, PriceCells, PriceSlot, Series

WEEKDAYS = frozenset(range(5))
WEEKEND = frozenset((5, 6))
EVERY_DAY = WEEKDAYS | WEEKEND
HOLIDAY = 7
ALL_ROWS = EVERY_DAY | {HOLIDAY}
DAY_NAMES = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Public holiday")
MONTH_DAYS = (31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


MonthDay = tuple[int, int]


@dataclass(frozen=True)
class Band:
    """A price per kWh (tax included) between two local times on some days (0 = Monday, 7 = public holiday).

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
class Season:
    """A week of its own from one day of the year to another (month, day), both included; may wrap the new year."""

    name: str
    first: MonthDay
    last: MonthDay
    bands: tuple[Band, ...]

    def days(self) -> frozenset[MonthDay]:
        """All days of the year on which the season holds."""
        year = year_days()
        a, b = year.index(self.first), year.index(self.last)
        return frozenset(year[a : b + 1] if a <= b else year[a:] + year[: b + 1])


@dataclass(frozen=True)
class Hole:
    """Where a week gives a moment no price, or several: season (−1: the usual week), day row, cells [first, after)."""

    season: int
    row: int
    first: int
    after: int
    count: int


@dataclass(frozen=True, kw_only=True)
class Tariff:
    """Weeks that give every quarter hour of the local clock exactly one price.

    `bands` paint the usual week; a season's bands hold on its days instead. `holidays` are the dates that take the row of
    public holidays (None: the tariff knows none). A `series` of dated prices goes first where it has a price.
    `valid_from`, `valid_to` (both included) bound it; `following` takes over on the day after `valid_to`. Outside its dates
    a tariff without follower goes on with its own prices.
    """

    name: str
    zone: str
    bands: tuple[Band, ...]
    currency: str = "EUR"
    standing_per_day: float = 0.0
    seasons: tuple[Season, ...] = ()
    holidays: frozenset[date] | None = None
    series: Series | None = None
    valid_from: date | None = None
    valid_to: date | None = None
    following: "Tariff | None" = None

    def holes(self) -> tuple[Hole, ...]:
        """Gaps and overlaps of every week that ever holds."""
        rows = 8 if self.holidays is not None else 7
        free = len(year_days()) - len(frozenset[MonthDay]().union(*(season.days() for season in self.seasons)))
        weeks = [(-1, self.bands)] if free else []
        weeks += [(i, season.bands) for i, season in enumerate(self.seasons)]
        return tuple(Hole(i, *found) for i, bands in weeks for found in _holes(bands, rows))

    def faults(self) -> tuple[str, ...]:
        """Gaps and overlaps by name, such as "Sunday 02:00–03:00 has no price"; empty when the tariff is valid."""
        named = [*(("", self.bands),), *((season.name, season.bands) for season in self.seasons)]
        found = [
            f"“{band.name}” must begin and end on a quarter hour"
            for _, bands in named
            for band in bands
            if any(edge.minute % CELL_MINUTES or edge.second for edge in (band.start, band.end))
        ]
        for hole in self.holes():
            prefix = f"{self.seasons[hole.season].name}, " if hole.season >= 0 else ""
            when = f"{DAY_NAMES[hole.row]} {clock(hole.first)}–{clock(hole.after)}"
            found.append(f"{prefix}{when} has {'no price' if not hole.count else f'{hole.count} prices'}")
        return (*found, *self._season_faults())

    def _season_faults(self) -> list[str]:
        """Seasons that hold on the same days."""
        found = []
        for i, one in enumerate(self.seasons):
            for other in self.seasons[i + 1 :]:
                both = [day for day in year_days() if day in one.days() & other.days()]
                if both:
                    found.append(f"“{one.name}” and “{other.name}” both hold from {day_words(both[0])} to {day_words(both[-1])}")
        return found

    def checked(self) -> "Tariff":
        """The same tariff. Raises: Refusal naming the first gaps and overlaps."""
        faults = self.faults()
        if faults:
            more = f" (and {len(faults) - 3} more)" if len(faults) > 3 else ""
            raise Refusal("; ".join(faults[:3]) + more + ".", "bands")
        if self.valid_from and self.valid_to and self.valid_to < self.valid_from:
            raise Refusal("The last day lies before the first.", "valid_to")
        return self

    def cells(self, start: datetime, end: datetime) -> PriceCells:
        """Prices of all quarter hours that touch [start, end) (aware times). Raises: Refusal for a faulty tariff.

        Clocks that differ from UTC by other than whole quarter hours (none since 1972) are rounded down to one.
        """
        first = int(start.timestamp() // CELL_S)
        count = max(0, -int(-end.timestamp() // CELL_S) - first)
        utc_s = (first + np.arange(count, dtype=np.int64)) * CELL_S
        local_s = utc_s + _offsets(self.zone, utc_s)
        day, cell = local_s // DAY_S, local_s % DAY_S // CELL_S
        price, band, names = self._over(utc_s, day, cell)
        return PriceCells(
            start_s=first * CELL_S, price_per_kwh=price, band=band, bands=names, local_day=day, local_cell=cell, zone=self.zone
        )

    def _over(self, utc_s: Ints, day: Ints, cell: Ints) -> tuple[Array, Ints, tuple[str, ...]]:
        """Price and band of local days and cells, with whatever follows after the last valid day."""
        self.checked()
        bands = [self.bands, *(season.bands for season in self.seasons)]
        every = list(chain.from_iterable(bands))
        band = self._painted(bands, day, cell)
        price = np.array([each.price_per_kwh for each in every])[band] if len(band) else np.zeros(0)
        names = tuple(each.name for each in every)
        if self.series is not None and len(self.series.start_s):
            price, band, names = _dated(self.series, utc_s, price, band, names)
        if self.following is not None and self.valid_to is not None:
            names = self._followed(self.following, self.valid_to, (utc_s, day, cell), price=price, band=band, names=names)
        return price, band, names

    def _painted(self, bands: Sequence[tuple[Band, ...]], day: Ints, cell: Ints) -> Ints:
        """The band of local days and cells, counted over all weeks, by what is painted."""
        weeks, sizes = [_table(each) for each in bands], np.cumsum([0, *map(len, bands)])
        distinct, back = np.unique(day, return_inverse=True)
        rows = [self._row(date(1970, 1, 1) + timedelta(days=int(each))) for each in distinct]
        week, row = np.array(rows, dtype=np.int64).reshape(-1, 2)[back].T
        table = np.stack([found + size for found, size in zip(weeks, sizes, strict=False)])
        return np.asarray(table[week, row, cell])

    @staticmethod
    def _followed(
        after: "Tariff", last: date, cells: tuple[Ints, Ints, Ints], *, price: Array, band: Ints, names: tuple[str, ...]
    ) -> tuple[str, ...]:
        """Write what holds after a last day over prices and bands; returns the names of all bands."""
        later = cells[1] > (last - date(1970, 1, 1)).days
        if not later.any():
            return names
        its_price, its_band, its_names = after._over(*(each[later] for each in cells))
        price[later], band[later] = its_price, its_band + len(names)
        return names + its_names

    def _row(self, day: date) -> tuple[int, int]:
        """Week (0: the usual, 1…: seasons) and row of a date."""
        key = (day.month, day.day)
        week = next((i + 1 for i, season in enumerate(self.seasons) if key in _season_days(season)), 0)
        return week, HOLIDAY if self.holidays is not None and day in self.holidays else day.weekday()

    def prices(self, start: datetime, end: datetime, step_minutes: int = CELL_MINUTES) -> tuple[PriceSlot, ...]:
        """Price slots from `start` to `end` (aware times), cut at every multiple of `step_minutes` of local time.

        On the nights the clocks change there are 23 or 25 hours of slots. Slots never cross a band's edge.
        Raises: Refusal for naive times, an end before the start, a step that is not 15, 30 or 60, or a faulty tariff.
        """
        if start.tzinfo is None or end.tzinfo is None or end < start:
            raise Refusal("Prices need two times with a zone, the later one last.")
        if step_minutes not in (15, 30, 60):
            raise Refusal("Prices come in steps of 15, 30 or 60 minutes.")
        return _slots(self, start.astimezone(UTC), end.astimezone(UTC), step_minutes)


@lru_cache(maxsize=128)
def _slots(tariff: Tariff, moment: datetime, last: datetime, step_minutes: int) -> tuple[PriceSlot, ...]:
    """See `Tariff.prices`; kept, for the nights of a week have the same a minute later."""
    grid = tariff.cells(moment, last)
    slots: list[PriceSlot] = []
    edge = datetime.fromtimestamp(grid.start_s, UTC)
    for price, band, cell in zip(grid.price_per_kwh.tolist(), grid.band.tolist(), grid.local_cell.tolist(), strict=True):
        edge += timedelta(minutes=CELL_MINUTES)
        following, name = min(edge, last), grid.bands[band]
        whole = cell * CELL_MINUTES % step_minutes == 0
        if slots and not whole and slots[-1].band == name and slots[-1].price_per_kwh == price:
            slots[-1] = replace(slots[-1], end=following)
        else:
            slots.append(PriceSlot(moment, following, price, name))
        moment = following
    return tuple(slots)


def two_band(name: str, zone: str, cheap: float, *, dear: float, start: time, end: time, currency: str = "EUR") -> Tariff:
    """Two bands a day: cheap from `start` to `end`, wrapping midnight where needed, dear for the rest."""
    bands = (Band("cheap", cheap, start, end, ALL_ROWS), Band("dear", dear, end, start, ALL_ROWS))
    return Tariff(name=name, zone=zone, bands=bands, currency=currency).checked()


@lru_cache(maxsize=1)
def year_days() -> tuple[MonthDay, ...]:
    """All days of a leap year as (month, day)."""
    return tuple((month, day) for month, count in enumerate(MONTH_DAYS, 1) for day in range(1, count + 1))


def day_words(day: MonthDay) -> str:
    """A day of the year in words: "1 January"."""
    return f"{day[1]} {MONTHS[day[0] - 1]}"


def clock(cell: int) -> str:
    """The clock time at which a cell begins: "22:30"; 96 is "24:00"."""
    return f"{cell * CELL_MINUTES // 60:02d}:{cell * CELL_MINUTES % 60:02d}"


def _cell(moment: time) -> int:
    return (moment.hour * 60 + moment.minute) // CELL_MINUTES


@lru_cache(maxsize=256)
def _season_days(season: Season) -> frozenset[MonthDay]:
    return season.days()


@lru_cache(maxsize=256)
def _table(bands: tuple[Band, ...]) -> Ints:
    """Index of the band of each day row and cell, shape (8, 96); rows that nothing paints keep 0."""
    week = np.zeros((8, CELLS_PER_DAY), dtype=np.int64)
    for i, band in enumerate(bands):
        for day in band.days:
            week[day, sorted(band.cells())] = i
    return week


@lru_cache(maxsize=256)
def _holes(bands: tuple[Band, ...], rows: int) -> tuple[tuple[int, int, int, int], ...]:
    counts = np.zeros((8, CELLS_PER_DAY), dtype=int)
    for band in bands:
        for day in band.days:
            counts[day, sorted(band.cells())] += 1
    return tuple((row, a, b, n) for row in range(rows) for a, b, n in runs(counts[row].tolist()) if n != 1)


def runs(values: Sequence[int]) -> list[tuple[int, int, int]]:
    """Runs of equal numbers as (first, after last, number)."""
    edges = [0, *(i for i in range(1, len(values)) if values[i] != values[i - 1]), len(values)]
    return [(a, b, values[a]) for a, b in zip(edges, edges[1:], strict=False)]


def _dated(series: Series, utc_s: Ints, price: Array, band: Ints, names: tuple[str, ...]) -> tuple[Array, Ints, tuple[str, ...]]:
    """Put the series' prices over those of the weeks wherever it has one."""
    at = np.searchsorted(series.start_s, utc_s, side="right") - 1
    has = (at >= 0) & (utc_s < series.end_s[np.maximum(at, 0)])
    return (np.where(has, series.price_per_kwh[np.maximum(at, 0)], price), np.where(has, len(names), band), (*names, SERIES_BAND))


def _offsets(zone: str, utc_s: Ints) -> Ints:
    """Offset of the local clock from UTC at each time, s, rounded down to quarter hours; times in steps of a cell."""
    if not len(utc_s):
        return np.zeros(0, dtype=np.int64)
    here = ZoneInfo(zone)

    def offset(second: int) -> int:
        shift = datetime.fromtimestamp(second, here).utcoffset() or timedelta()
        return int(shift.total_seconds() // CELL_S * CELL_S)

    found = np.empty(len(utc_s), dtype=np.int64)
    for first in range(0, len(utc_s), CELLS_PER_DAY):
        last = min(first + CELLS_PER_DAY, len(utc_s)) - 1
        a, b = offset(int(utc_s[first])), offset(int(utc_s[last]))
        found[first : last + 1] = a
        if a != b:
            low, high = first, last
            while high - low > 1:
                middle = (low + high) // 2
                low, high = (middle, high) if offset(int(utc_s[middle])) == a else (low, middle)
            found[high : last + 1] = b
    return found
