"""Measured points drawn: dots over a scale of ticks, a line or a band behind them."""

from collections.abc import Sequence

from .plot import NARROW, WIDE, Plot, Scale, kind
from .svg import element, line, path, picture, polygon, text

HIGH = 230.0
Points = Sequence[tuple[float, float]]
Ticks = Sequence[tuple[float, str]]


def scatter(
    points: Points, x_ticks: Ticks, y_ticks: Ticks, words: str, *, model: Points = (), band: Points = (), phone: bool = False
) -> str:
    """Dots between the outermost ticks; `model` as a line, `band` as a closed shape behind all. Points outside are at the edge."""
    width = NARROW if phone else WIDE
    left, right = 56.0, width - 12
    (x0, _), (x1, _), (y0, _), (y1, _) = x_ticks[0], x_ticks[-1], y_ticks[0], y_ticks[-1]
    plot = Plot(Scale(x0, x1, left, right, held=True), Scale(y0, y1, HIGH - 28, 12.0, held=True))

    def places(these: Points) -> list[tuple[float, float]]:
        return [(plot.across(x), plot.up(y)) for x, y in these]

    parts = [polygon(places(band), "cold-ground")] if band else []
    parts += plot.rows([value for value, _ in y_ticks], dict(y_ticks).__getitem__)
    for value, name in x_ticks[:: 2 if phone and len(x_ticks) > 4 else 1]:
        x = plot.across(value)
        parts += [line(x, HIGH - 28, x, HIGH - 22, "tick"), text(min(max(x, left), right - 14), HIGH - 7, name, "mid dim")]
    parts.append(plot.base())
    dots = "".join([f"M{x:.0f},{y:.0f}h0" for x, y in places(points)])
    parts.append(element("path", d=dots, class_="dots"))
    if model:
        parts.append(path(places(model), "level"))
    return picture(width, HIGH, words, "".join(parts), kind(phone))


def ticks(low: float, high: float, step: float) -> list[float]:
    """Round numbers that reach from below `low` to above `high`."""
    first, last = int(low // step), int(-(-high // step))
    return [step * i for i in range(first, max(last, first + 1) + 1)]
