"""The nights that are over as columns: the cheapest hours filled, what only a link spares in outline, what other hours spare hatched."""

from ....services.hindsight import HindsightRoom
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import box, hatches, picture
from ...units import Units

HEIGHT, TOP, FOOT, LEFT = 190.0, 16.0, 150.0, 64.0


def columns(room: HindsightRoom, units: Units, words: str, phone: bool = False) -> str:
    """The picture, for a desk or a phone; the earliest night at the left."""
    nights, width, prefix = tuple(reversed(room.nights)), NARROW if phone else WIDE, "past-phone" if phone else "past"
    high = max([each.was for each in nights], default=1.0) * 1.08 or 1.0
    across = Scale(0.0, max(1.0, float(len(nights))), LEFT, width - 8.0)
    plot = Plot(across, Scale(0.0, high, FOOT, TOP))
    parts = [hatches(prefix), *plot.rows((high / 2.16, high / 1.08), units.money)]
    wide = max(1.0, 0.7 * (across(1.0) - across(0.0)))
    for i, each in enumerate(nights):
        x, foot = across(i + 0.15), 0.0
        for value, class_, fill in (
            (each.best, "charge", ""),
            (each.control, "as-planned", ""),
            (each.hours, "", f"{prefix}-heat"),
        ):
            if value > 0.002 * high:
                top = plot.up(foot + value)
                parts.append(box(x, top, wide, plot.up(foot) - top, class_, fill))
            foot += max(0.0, value)
    parts.append(plot.base())
    step = max(1, len(nights) // (4 if phone else 10))
    days = [units.date(each.departure.astimezone(room.owned.zone)) for each in nights]
    parts += plot.ticks([i + 0.5 for i in range(0, len(nights), step)], lambda at: days[int(at)])
    return picture(width, HEIGHT, words, "".join(parts), kind(phone))
