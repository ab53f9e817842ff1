"""Washer fluid drawn: the freezing point by the share of concentrate, where the tank is and where it should be."""

import numpy as np

from ....core.park.washer import Freezes
from ...drawing.health import NARROW, WIDE, kind
from ...drawing.svg import element, line, path, picture, text
from ...units import Units


def curve(freezes: Freezes, target_c: float, share: float | None, now_c: float, units: Units, phone: bool = False) -> str:
    """Freezing point over the share of concentrate; the target as a rule, the tank now as a ring, the mix wanted as a dot."""
    width, high = (NARROW, 240.0) if phone else (WIDE, 230.0)
    left, right, top, foot = 52.0, width - 16, 14.0, high - 34
    shares = np.linspace(0.0, 1.0, 41)
    points = [freezes(float(each)) for each in shares]
    low = min(*points, target_c, now_c) - 3

    def x(value: float) -> float:
        return left + value * (right - left)

    def y(temp_c: float) -> float:
        return top + temp_c / low * (foot - top)

    parts = []
    for temp_c in np.arange(0.0, low, -10.0).tolist():
        parts += [
            line(left, y(temp_c), right, y(temp_c), "faint"),
            text(left - 8, y(temp_c) + 5, units.text(temp_c, "temperature", 0, unit=False), "dim end"),
        ]
    for tenth in range(0, 11, 5 if phone else 2):
        parts += [
            line(x(tenth / 10), foot, x(tenth / 10), foot + 5, "tick"),
            text(x(tenth / 10), foot + 20, f"{10 * tenth} %", "mid dim"),
        ]
    parts += [
        path([(x(float(s)), y(p)) for s, p in zip(shares, points, strict=True)], "level"),
        line(left, foot, right, foot, "base"),
    ]
    target = f"to stand {units.text(target_c, 'temperature', 0)}"
    parts += [line(left, y(target_c), right, y(target_c), "limit"), text(right, y(target_c) - 6, target, "end rime b")]
    inside = float(np.interp(-now_c, [-each for each in points], shares))
    parts.append(element("circle", cx=x(inside), cy=y(now_c), r=6, class_="now"))
    parts.append(text(x(inside) + 8, y(now_c) - 10, "in the tank", "dim"))
    if share is not None:
        parts += [
            element("circle", cx=x(share), cy=y(target_c), r=6, class_="ink"),
            text(x(share), y(target_c) + 22, f"{100 * share:.0f} %", "mid b"),
        ]
    wanted = f"{100 * share:.0f} per cent of concentrate" if share is not None else "not even the concentrate"
    words = f"Freezing point by the share of concentrate: {units.text(target_c, 'temperature', 0)} needs {wanted}."
    return picture(width, high, words, "".join(parts), kind(phone))
