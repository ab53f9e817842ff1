"""What the house itself uses over a year: monthly meter figures with a day's shape, or interval readings."""

from collections.abc import Mapping, Sequence
from datetime import date, timedelta

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal, require
from ..units import Array, Ints
from .prices import CELL_S, CELLS_PER_DAY, PriceCells

MOVED_KW = figure("house.moved_power", 2.0, "kW", Basis.COMMON_PRACTICE, "a dishwasher or washing machine that heats water")
_EPOCH = date(1970, 1, 1)


def _shape(*hours: float) -> tuple[float, ...]:
    return tuple(hour / sum(hours) for hour in hours)


DAY_SHAPES: Mapping[str, tuple[float, ...]] = {
    "evening": _shape(2, 2, 2, 2, 2, 3, 5, 6, 4, 3, 3, 3, 3, 3, 3, 4, 6, 8, 9, 9, 8, 7, 5, 3),
    "home": _shape(2, 2, 2, 2, 2, 3, 4, 5, 5, 5, 5, 6, 6, 5, 5, 5, 6, 7, 7, 7, 6, 5, 4, 3),
    "heating": _shape(5, 5, 5, 5, 5, 5, 6, 6, 5, 4, 4, 4, 4, 4, 4, 4, 5, 5, 6, 6, 6, 5, 5, 5),
}
"""Shares of a day's use by hour, made-up typical shapes: key → 24 shares that sum to 1. Basis: common practice."""


def monthly_load(month_kwh: Sequence[float], shape: str, grid: PriceCells) -> Array:
    """House load on a grid of quarter hours, kWh per cell, from twelve monthly figures and a day's shape.

    Each calendar month of the grid's own length gets its kWh, less or more where the grid holds only part of it.
    Raises: Refusal for other than twelve figures from 0 to 20 000 kWh, or an unknown shape.
    """
    if len(month_kwh) != 12:
        raise Refusal("Twelve monthly figures are needed, January first.", "house_kwh")
    for kwh in month_kwh:
        require(kwh, 0, 20_000, "A month's use", "kWh", "house_kwh")
    if shape not in DAY_SHAPES:
        raise Refusal("There is no such shape of a day.", "house_shape")
    hours = np.array(DAY_SHAPES[shape])
    months, days = _months(grid)
    weight = hours[grid.local_cell // 4] / 4.0
    return np.asarray(np.array(month_kwh)[months] / days * weight)


def _months(grid: PriceCells) -> tuple[Ints, Array]:
    """Month (0 to 11) of each cell, and the length of that month in days."""
    distinct, back = np.unique(grid.local_day, return_inverse=True)
    dates = [_EPOCH + timedelta(days=int(day)) for day in distinct]
    lengths = [((each.replace(day=28) + timedelta(days=4)).replace(day=1) - each.replace(day=1)).days for each in dates]
    return np.array([each.month - 1 for each in dates], dtype=np.int64)[back], np.array(lengths, dtype=float)[back]


def months_of(grid: PriceCells) -> Ints:
    """Month of each cell, 0 to 11."""
    return _months(grid)[0]


def metered_load(start_s: Ints, minutes: Ints, kwh: Array, grid: PriceCells, otherwise: Array) -> tuple[Array, float]:
    """House load on a grid from interval readings; returns kWh per cell and the share of cells that had a reading.

    A reading is spread evenly over its cells; readings shorter than a cell are added up. Cells without one take
    `otherwise`. Arrays of shape (readings,): start (s since 1970, UTC), length (min), energy (kWh).
    """
    count = len(grid.price_per_kwh)
    cells = np.maximum(1, minutes * 60 // CELL_S)
    owner = np.repeat(np.arange(len(start_s)), cells)
    offset = np.arange(len(owner)) - np.repeat(np.cumsum(cells) - cells, cells)
    at = (start_s[owner] - grid.start_s) // CELL_S + offset
    inside = (at >= 0) & (at < count)
    part = (kwh / cells)[owner][inside]
    load = np.bincount(at[inside], part, count)
    known = np.bincount(at[inside], minlength=count) > 0
    return np.where(known, load, otherwise), float(known.mean()) if count else 0.0


def shifted(load: Array, grid: PriceCells, share: float) -> Array:
    """The same load with a share of each local day moved into that day's cheapest quarter hours, at most 2 kW more in each.

    What does not fit stays where it was. Raises: OutOfRange for a share outside 0 to 0.5.
    Source: least cost by taking the cheapest first, as `allocate`.
    """
    require(share, 0.0, 0.5, "The moved share", "", "shift")
    if share == 0 or not len(load):
        return load
    moved = load.copy()
    day = grid.local_day - grid.local_day[0]
    starts = np.searchsorted(day, np.arange(int(day[-1]) + 2))
    most = MOVED_KW * CELL_S / 3600.0
    for a, b in zip(starts, starts[1:], strict=False):
        price = grid.price_per_kwh[a:b]
        if b - a < CELLS_PER_DAY // 2 or np.ptp(price) < 1e-9:
            continue
        order = np.argsort(price, kind="stable")
        amount = min(share * load[a:b].sum(), most * (b - a) / 2)
        room = np.full(b - a, most)
        given = np.clip(amount - (np.cumsum(room) - room), 0.0, most)
        added = np.zeros(b - a)
        added[order] = given
        moved[a:b] = load[a:b] * (1 - amount / max(load[a:b].sum(), 1e-12)) + added
    return moved
