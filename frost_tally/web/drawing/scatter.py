"""Measured points drawn: dots over a scale of ticks, a line or a band behind them."""

from collections.abc import Sequence

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

    def at(point: tuple[float, float]) -> tuple[float, float]:
        x, y = (
            (min(max(value, low), high) - low) / (high - low) for value, low, high in ((point[0], x0, x1), (point[1], y0, y1))
        )
        return left + x * (right - left), foot - y * (foot - top)

    parts = [polygon([at(each) for each in band], "cold-ground")] if band else []
    for value, name in y_ticks:
        y = at((x0, value))[1]
        parts += [line(left, y, right, y, "faint"), text(left - 8, y + 5, name, "dim end")]
    every = 2 if phone and len(x_ticks) > 6 else 1
    for value, name in x_ticks[::every]:
        x = at((value, y0))[0]
        parts += [line(x, foot, x, foot + 6, "tick"), text(min(max(x, left), right - 14), foot + 21, name, "mid dim")]
    parts.append(line(left, foot, right, foot, "base"))
    for each in points:
        x, y = at(each)
        parts.append(element("circle", cx=x, cy=y, r=2.4 if not phone else 1.8, class_="held"))
    if model:
        parts.append(path([at(each) for each in model], "level"))
    return picture(width, HIGH, words, "".join(parts), "ribbon ribbon-upright" if phone else "ribbon ribbon-wide")


def ticks(low: float, high: float, step: float) -> list[float]:
    """Round numbers that reach from below `low` to above `high`."""
    first, last = int(low // step), int(-(-high // step))
    return [step * i for i in range(first, max(last, first + 1) + 1)]
