"""A stranger's health drawn: what is usual, what each test says and all together, as bands over one scale."""

from ....core.battery.trend import Z90
from ....services.used_car import UsedRoom
from ...drawing.plot import NARROW, WIDE, Scale, kind
from ...drawing.svg import box, element, line, picture, text
from ...units import Units
from ...words.battery import band
from .words import ROWS

ROW, TOP = 44.0, 20.0


def health_scale(room: UsedRoom, units: Units, phone: bool = False) -> str:
    """A row for the usual, for each test, and for all of it; the warranty's promise as a post."""
    judged = room.judged
    rows = [("usual for its age", judged.usual.health, judged.usual.sigma)]
    rows += [(ROWS[name], value, sigma) for name, value, sigma in judged.tests]
    if judged.tests:
        rows.append(("all together", judged.trend.health, judged.trend.sigma))
    left, right = (118.0, NARROW - 14) if phone else (190.0, WIDE - 60)
    foot = TOP + ROW * len(rows)
    ends = [end for _, value, sigma in rows for end in (value - Z90 * sigma, value + Z90 * sigma)]
    least, most = min(0.75, room.inputs.warranty_soh - 0.02, *ends), max(1.02, *ends)

    x = Scale(least, most, left, right)
    parts = []
    step = 10 if phone or most - least > 0.5 else 5
    for level in range(0, 131, step):
        if least <= level / 100 <= most:
            parts += [
                line(x(level / 100), TOP - 6, x(level / 100), foot, "faint"),
                text(x(level / 100), foot + 20, f"{level}", "mid dim"),
            ]
    promised = room.inputs.warranty_soh
    parts += [line(x(promised), TOP - 14, x(promised), foot, "post"), text(x(promised) + 6, TOP - 4, "warranty", "dim")]
    for i, (name, value, sigma) in enumerate(rows):
        middle, low, high = TOP + ROW * (i + 0.5), value - Z90 * sigma, value + Z90 * sigma
        whole = name == "all together"
        parts += [
            text(0, middle + 5, name, "b" if whole else "dim"),
            box(x(low), middle - 8, x(high) - x(low), 16, "charge" if whole else "fan"),
            element("circle", cx=x(value), cy=middle, r=5, class_="now"),
            text(
                x(value), middle - 13, f"{100 * value:.0f}{'' if phone else f' ({band(low, high)})'}", "mid b" if whole else "mid"
            ),
        ]
    parts.append(line(left, foot, right, foot, "base"))
    words = "; ".join(f"{name} {100 * value:.0f} per cent ({band(value - Z90 * s, value + Z90 * s)})" for name, value, s in rows)
    return picture(NARROW if phone else WIDE, foot + 28, f"Health in per cent of new: {words}.", "".join(parts), kind(phone))
