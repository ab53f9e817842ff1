"""The tyre log drawn: each wheel's pressure at 20 °C over time, as read behind it, the placard as a rule."""

from collections.abc import Sequence
from datetime import UTC, datetime

from ....core.drive.tyre_log import Reading, WheelTrend
from ...drawing.plot import Plot, Scale, kind
from ...drawing.svg import line, picture, text
from ...units import Units
from ...words.day import WHEELS

WIDE, NARROW, HIGH = 1120.0, 356.0, 132.0


def wheels(
    found: Sequence[WheelTrend], readings: Sequence[Reading], placard_kpa: float, units: Units, phone: bool = False
) -> str:
    """Four small plots on one scale: dots at 20 °C, raw readings as a thin line, names with the fall a month."""
    columns = 1 if phone else 2
    width = NARROW if phone else WIDE
    each = width / columns
    every = [r.kpa for r in readings] + [v for w in found for v in w.standard_kpa] + [placard_kpa]
    low, high = min(every) - 4, max(every) + 4
    times = [r.at_s for r in readings]
    first, last = (min(times), max(times)) if times else (0.0, 1.0)
    parts: list[str] = []
    for i, wheel in enumerate(found):
        left, top = (i % columns) * each, (i // columns) * HIGH
        x0, x1, y0, y1 = left + 44, left + each - 24, top + 34, top + HIGH - 22

        plot = Plot(Scale(first, max(last, first + 1.0), x0, x1), Scale(low, high, y1, y0))
        raw = sorted((r.at_s, r.kpa) for r in readings if r.wheel == wheel.wheel)
        parts += [
            text(left, top + 18, WHEELS[wheel.wheel], "b"),
            text(left + 96, top + 18, trend_words(wheel, units), "b ember" if wheel.suspect else "dim"),
            plot.rule(placard_kpa),
            text(left, plot.up(placard_kpa) + 5, units.text(placard_kpa, "pressure", unit=False), "dim"),
            line(x0, y1 + 2, x1, y1 + 2, "base"),
        ]
        if len(raw) > 1:
            parts.append(plot.curve([at_s for at_s, _ in raw], [kpa for _, kpa in raw], "outside thin"))
        parts += [plot.dot(second, kpa, 3, "ink") for second, kpa in zip(wheel.at_s, wheel.standard_kpa, strict=True)]
        if times:
            for second, end in ((first, ""), (last, "end")):
                parts.append(
                    text(x0 if not end else x1, y1 + 19, datetime.fromtimestamp(second, UTC).strftime("%b %Y"), f"dim {end}")
                )
    words = "; ".join(f"{WHEELS[w.wheel]} {trend_words(w, units)}" for w in found)
    label = f"Pressure of each wheel at {units.text(20, 'temperature', 0)}: {words}"
    return picture(width, HIGH * (4 / columns), label, "".join(parts), kind(phone))


def trend_words(wheel: WheelTrend, units: Units) -> str:
    """A wheel's fall against the others in words."""
    if wheel.per_month is None:
        return "too few readings to tell"
    if abs(wheel.per_month) < 0.5:
        return "holds like the others"
    way = "loses" if wheel.per_month < 0 else "gains"
    return (
        f"{way} {units.text(abs(wheel.per_month), 'pressure', None if units.pressure == 'kPa' else 2)} a month against the others"
    )
