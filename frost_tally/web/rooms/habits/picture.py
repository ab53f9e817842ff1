"""What matters where, drawn: each change as two bars from one line, town to the left, motorway to the right."""

from ....services.habits import Effects
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, hatches, line, picture, text
from ...units import Units
from ...words.day import change_words


def effects(made: Effects, units: Units, phone: bool = False) -> str:
    """A row for each change, the most telling on top; bars as long as the energy that a change spares on each kilometre."""
    width, row, name = (NARROW, 48.0, "slimmatter") if phone else (WIDE, 34.0, "matter")
    left = 0.0 if phone else 300.0
    middle, half = (left + width) / 2, (width - left) / 2 - 62
    most = max([*made.town_wh.values(), *made.motorway_wh.values()], default=1.0)
    head = 24.0
    per = f"Wh/{units.of('distance').label}"
    scale = 1 / units.of("distance").show(1.0)
    parts = [
        hatches(name), text(middle - 10, 15, "in town", "b end"),
        text(middle + 10, 15, f"on the motorway, {units.text(made.motorway_kmh, 'speed')}", "b"),
    ]  # fmt: skip
    said = []
    for i, key in enumerate(made.keys):
        top = head + i * row + (16 if phone else 0)
        words, values = change_words(key, units), (made.town_wh.get(key, 0.0), made.motorway_wh.get(key, 0.0))
        parts.append(text(0, top - 2 if phone else top + 21, words, "" if phone else "b"))
        for sign, value in zip((-1, 1), values, strict=True):
            long = value / most * half
            number = units.plain(value * scale, 0) if value * scale >= 0.5 else "0"
            parts.append(box(middle if sign > 0 else middle - long, top + 6, max(long, 0.0), 18, "charge"))
            parts.append(text(middle + sign * (long + 7), top + 20, number, "b" if sign > 0 else "b end"))
        said.append(f"{words}: {values[0] * scale:.0f} in town, {values[1] * scale:.0f} on the motorway")
    high = head + row * len(made.keys)
    parts.append(line(middle, head, middle, high, "base"))
    return picture(width, high + 4, f"What each change spares, {per}: {'; '.join(said)}", "".join(parts), kind(phone))
