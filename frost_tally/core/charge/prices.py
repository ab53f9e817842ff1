"""Prices as they come out of a tariff or a feed: dated series, slots of time, and cells of a quarter hour."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal
from ..units import S_PER_H, Array, Ints

CELL_MINUTES = 15
CELL_S = 60 * CELL_MINUTES
CELLS_PER_DAY = 24 * 60 // CELL_MINUTES
DAY_S = 86_400
SERIES_BAND = "dated price"
CHEAP_SHARE = figure("tariff.cheap_share", 0.25, "", Basis.COMMON_PRACTICE, "of the way from the cheapest to the dearest hour")


@dataclass(frozen=True, eq=False)
class Series:
    """Dated prices: start and end of each interval (s since 1970, UTC, on quarter hours, sorted, disjoint) and its price."""

    start_s: Ints
    end_s: Ints
    price_per_kwh: Array

    def checked(self) -> "Series":
        """The same series. Raises: Refusal for intervals off the quarter hour, out of order or overlapping."""
        if len(self.start_s) and (
            (self.start_s % CELL_S).any() or (self.end_s <= self.start_s).any() or (self.start_s[1:] < self.end_s[:-1]).any()
        ):
            raise Refusal("Dated prices must begin on quarter hours, in order, without overlaps.", "series")
        return self


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


@dataclass(frozen=True, eq=False, kw_only=True)
class PriceCells:
    """Prices on a grid of quarter hours: cell i lasts from `start_s` + 900·i (s since 1970, UTC).

    `price_per_kwh` and `band` have shape (cells,); `band` indexes `bands` (name, price). `local_day` is the local date as
    days since 1970, `local_cell` the quarter hour of the local clock, 0 to 95, in the IANA `zone`.
    """

    start_s: int
    price_per_kwh: Array
    band: Ints
    bands: tuple[str, ...]
    local_day: Ints
    local_cell: Ints
    zone: str

    @cached_property
    def _paid(self) -> Array:
        """What a kW drawn until each edge of the cells costs."""
        return np.concatenate([[0.0], np.cumsum(self.price_per_kwh)]) * CELL_S / S_PER_H

    def paid(self, at_s: Array) -> Array:
        """What a kW drawn from the first cell until some times (s since 1970) costs, money; the ends hold beyond them."""
        place = np.clip((at_s - self.start_s) / CELL_S, 0.0, len(self.price_per_kwh))
        whole = np.minimum(place.astype(np.int64), len(self.price_per_kwh) - 1)
        return np.asarray(self._paid[whole] + (place - whole) * CELL_S / S_PER_H * self.price_per_kwh[whole])

    def between(self, begin_s: float, end_s: float) -> Array:
        """Prices of the cells that lie whole in a span (s since 1970)."""
        return self.price_per_kwh[self._span(begin_s, end_s)]

    def _span(self, begin_s: float, end_s: float) -> slice:
        first, last = -int(-(begin_s - self.start_s) // CELL_S), int((end_s - self.start_s) // CELL_S)
        return slice(max(0, first), max(0, last))

    def head(self, count: int) -> "PriceCells":
        """The first cells of the grid."""
        price, band = self.price_per_kwh[:count], self.band[:count]
        return PriceCells(
            start_s=self.start_s,
            price_per_kwh=price,
            band=band,
            bands=self.bands,
            local_day=self.local_day[:count],
            local_cell=self.local_cell[:count],
            zone=self.zone,
        )


def night_hours(slots: Sequence[PriceSlot]) -> tuple[float, float]:
    """Hours of some slots, and how many of them are cheap: in the lowest quarter between cheapest and dearest."""
    prices = [slot.price_per_kwh for slot in slots]
    lowest = min(prices, default=0.0)
    cheap_until = lowest + (max(prices, default=0.0) - lowest) * CHEAP_SHARE
    return sum(slot.hours for slot in slots), sum(slot.hours for slot in slots if slot.price_per_kwh <= cheap_until)
