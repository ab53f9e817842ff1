"""Washer fluid drawn: the freezing point by the share of concentrate, where the tank is and where it should be."""

import numpy as np

from ....core.park.washer import Freezes
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import picture, text
from ...units import Units


def curve(freezes: Freezes, target_c: float, share: float | None, now_c: float, units: Units, *, phone: bool = False) -> str:
    """Freezing point over the share of concentrate; the target as a rule, the tank now as a ring, the mix wanted as a dot."""
    width, high = (NARROW, 240.0) if phone else (WIDE, 230.0)
    left, right, top, foot = 52.0, width - 16, 14.0, high - 34
    shares = np.linspace(0.0, 1.0, 41)
    points = [freezes(float(each)) for each in shares]
    low = min(*points, target_c, now_c) - 3

    plot = Plot(x := Scale(0.0, 1.0, left, right), y := Scale(low, 0.0, foot, top))
    target = f"to stand {units.text(target_c, 'temperature', 0)}"
    inside = float(np.interp(-now_c, [-each for each in points], shares))
    parts = [
        *plot.rows(np.arange(0.0, low, -10.0).tolist(), lambda temp_c: units.text(temp_c, "temperature", 0, unit=False)),
        *plot.ticks([each / 10 for each in range(0, 11, 5 if phone else 2)], lambda share: f"{100 * share:.0f} %"),
        plot.curve(shares, points),
        plot.base(),
        plot.rule(target_c),
        text(right, y(target_c) - 6, target, "end rime b"),
        plot.dot(inside, now_c),
        text(x(inside) + 8, y(now_c) - 10, "in the tank", "dim"),
    ]
    if share is not None:
        parts += [plot.dot(share, target_c, class_="ink"), text(x(share), y(target_c) + 22, f"{100 * share:.0f} %", "mid b")]
    wanted = f"{100 * share:.0f} per cent of concentrate" if share is not None else "not even the concentrate"
    words = f"Freezing point by the share of concentrate: {units.text(target_c, 'temperature', 0)} needs {wanted}."
    return picture(width, high, words, "".join(parts), kind(phone))
