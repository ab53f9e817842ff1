"""The rota drawn: a row for each car, a column for each night; a block where it has the cable, the level as it leaves and comes back."""

from datetime import timedelta
from itertools import pairwise

from ...core.charge.rota import NOBODY, SAME_SOC
from ...services.rota import SharedCable
from ..units import Units
from ..words.rota import rota_verdict
from .health import NARROW, WIDE, kind
from .svg import box, line, picture, text


def board(shared: SharedCable, units: Units, phone: bool = False) -> str:
    """Who has the cable, night by night; the cable's way from car to car as a line."""
    parts = _upright(shared, units) if phone else _wide(shared, units)
    high = 56.0 + 92.0 * len(shared.evenings) if phone else 40.0 + 104.0 * len(shared.cars)
    return picture(NARROW if phone else WIDE, high, rota_verdict(shared, units).plain, "".join(parts), kind(phone))


def _cell(shared: SharedCable, units: Units, number: int, night: int, x: float, y: float, wide: float) -> list[str]:
    """A car's night at a place: whether it has the cable and the level that it leaves with, the day's kilometres, and how it comes home."""
    rota, km, has = shared.rota, float(shared.km[number, night]), shared.rota.nights[night] == number
    leaves, lacks = f"{100 * rota.leaves_soc[number, night]:.0f} %", rota.short_soc[number, night]
    home = f"{100 * lacks:.0f} % short" if lacks > SAME_SOC else f"home {100 * rota.returns_soc[number, night]:.0f} %"
    return [
        box(x + 6, y + 10, wide - 12, 26, "charge" if has else "terrain"),
        text(x + 14, y + 29, f"to {leaves}" if has else leaves, "inv b" if has else "dim"),
        text(x + 6, y + 57, units.text(km, "distance") if km > 0 else "stays", "dim"),
        text(x + 6, y + 77, home, "ember b" if lacks > SAME_SOC else ""),
    ]


def _wide(shared: SharedCable, units: Units) -> list[str]:
    left, step = 92.0, (WIDE - 92.0) / len(shared.evenings)
    parts, held = [], []
    for night, day in enumerate(shared.evenings):
        x = left + night * step
        parts += [
            line(x, 24, x, 34 + 104.0 * len(shared.cars), "faint"),
            text(x + 6, 18, f"night to {day + timedelta(days=1):%a %d}", "dim"),
        ]
    for number, (_, name) in enumerate(shared.cars):
        y = 34 + 104.0 * number
        parts += [line(0, y, WIDE, y, "faint"), text(0, y + 40, name, "b")]
        for night in range(len(shared.evenings)):
            x = left + night * step
            parts += _cell(shared, units, number, night, x, y, step)
            if shared.rota.nights[night] == number:
                held.append((x, y + 23))
    for (x, y), (next_x, next_y) in pairwise(sorted(held)):
        if y != next_y:
            parts.append(line(x + step - 8, y, next_x + 8, next_y, "gap"))
    return parts


def _upright(shared: SharedCable, units: Units) -> list[str]:
    left, step = 62.0, (NARROW - 62.0) / len(shared.cars)
    parts = [text(left + number * step + 6, 18, name, "b") for number, (_, name) in enumerate(shared.cars)]
    for night, day in enumerate(shared.evenings):
        y = 30 + 92.0 * night
        parts += [line(0, y, NARROW, y, "faint"), text(0, y + 26, f"{day + timedelta(days=1):%a %d}", "dim")]
        if shared.rota.nights[night] == NOBODY:
            parts.append(text(0, y + 48, "no need", "dim"))
        for number in range(len(shared.cars)):
            parts += _cell(shared, units, number, night, left + number * step, y, step)
    return parts
