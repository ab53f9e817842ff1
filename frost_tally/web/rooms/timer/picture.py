"""What each start of the local day promises to cost over the nights ahead, as a terrain; the one that is set as a post."""

import numpy as np

from ....services.timer import TimerRoom
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, ground, hatches, line, picture, polygon, text
from ...units import Units

LEFT, TOP, HEIGHT, NOON, WIDEST_MIN = 8, 48, 120, 144, 30


def starts(room: TimerRoom, units: Units, phone: bool = False) -> str:
    """Noon to noon: a column for each start that fits into all nights, as high as its money; none where it does not fit."""
    width, name = (NARROW, "slimstarts") if phone else (WIDE, "starts")
    money = np.roll(room.made.promised, -NOON)
    fits = np.flatnonzero(np.isfinite(money))
    base, across = TOP + HEIGHT, (width - 2 * LEFT) / len(money)
    begin = (12 * room.made.start.hour + room.made.start.minute // 5 - NOON) % len(money)
    wide = 12 * min(WIDEST_MIN, room.inputs.step_min) / 60 * across
    parts = [hatches(name)]
    high = float(money[fits].max()) if fits.size else 1.0
    for i in fits.tolist():
        tall = HEIGHT * max(0.02, float(money[i]) / high if high > 0 else 1.0)
        x = LEFT + i * across
        parts.append(
            box(x, base - tall, wide, tall, "charge") if i == begin else ground(x, base - tall, wide, height=tall, prefix=name)
        )
    parts.append(line(LEFT, base, width - LEFT, base, "base"))
    for hour in range(0, 25, 6 if phone else 3):
        x = LEFT + 12 * hour * across
        place = "" if not hour else ("end" if hour == 24 else "mid")
        parts += [line(x, base, x, base + 6, "tick"), text(x, base + 22, f"{(12 + hour) % 24:02d}:00", f"{place} dim".strip())]
    if fits.size:  # what the dearest start costs, and this one's
        x = LEFT + int(fits[money[fits].argmax()]) * across
        parts.append(text(min(x, width - 70), base - HEIGHT - 6, units.money(high, 0), "dim"))
    post = LEFT + (begin + 0.5 * wide / across) * across
    said = f"{room.made.start:%H:%M}"
    here = f"{said}, {units.money(float(money[begin]), 0)}" if np.isfinite(money[begin]) else said
    parts += [
        line(post, 18, post, base, "post"),
        polygon([(post, 26), (post - 7, 15), (post + 7, 15)], "ink"),
        text(min(max(post, 50.0), width - 50), 11, here, "mid b"),
    ]
    low = units.money(float(money[fits].min())) if fits.size else "–"
    label = (
        f"Starts over the day and what all nights from them on cost: {low} at least, {units.money(high)} at most; set to {said}."
    )
    return picture(width, base + 30, label, "".join(parts), kind(phone))
