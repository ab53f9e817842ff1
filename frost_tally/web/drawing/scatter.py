"""Measured points drawn: dots over a scale of ticks, a line or a band behind them."""

from collections.abc import Sequence

import numpy as np

from .plot import kind
from .svg import element, line, path, picture, polygon, text

WIDE, NARROW, HIGH = 1120.0, 356.0, 230.0
Points = Sequence[tuple[float, float]]
Ticks = Sequence[tuple[float, str]]


def scatter(
    points: Points, x_ticks: Ticks, y_ticks: Ticks, words: str, *, model: Points = (), band: Points = (), phone: bool = False
) -> str:
    """Dots between the outermost ticks; `model` as a line, `band` as a closed shape behind all. Points outside are at the edge."""
    width = NARROW if phone else WIDE
    left, right, top, foot = 56.0, width - 12, 12.0, HIGH - 28
    (x0, _), (x1, _), (y0, _), (y1, _) = x_ticks[0], x_ticks[-1], y_ticks[0], y_ticks[-1]

    def places(these: Points) -> list[tuple[float, float]]:
        table = np.asarray(these, dtype=float).reshape(-1, 2)
        x, y = (np.clip((table[:, i] - low) / (high - low), 0.0, 1.0) for i, low, high in ((0, x0, x1), (1, y0, y1)))
        return list(zip((left + x * (right - left)).tolist(), (foot - y * (foot - top)).tolist(), strict=True))

    parts = [polygon(places(band), "cold-ground")] if band else []
    for value, name in y_ticks:
        y = places([(x0, value)])[0][1]
        parts += [line(left, y, right, y, "faint"), text(left - 8, y + 5, name, "dim end")]
    every = 2 if phone and len(x_ticks) > 4 else 1
    for value, name in x_ticks[::every]:
        x = places([(value, y0)])[0][0]
        parts += [line(x, foot, x, foot + 6, "tick"), text(min(max(x, left), right - 14), foot + 21, name, "mid dim")]
    parts.append(line(left, foot, right, foot, "base"))
    dots = "".join([f"M{x:.0f},{y:.0f}h0" for x, y in places(points)])
    parts.append(element("path", d=dots, class_="dots"))
    if model:
        parts.append(path(places(model), "level"))
    return picture(width, HIGH, words, "".join(parts), kind(phone))


def ticks(low: float, high: float, step: float) -> list[float]:
    """Round numbers that reach from below `low` to above `high`."""
    first, last = int(low // step), int(-(-high // step))
    return [step * i for i in range(first, max(last, first + 1) + 1)]
