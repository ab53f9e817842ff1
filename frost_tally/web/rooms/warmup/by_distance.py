"""The best warm-up for trips of other lengths, on a scale of ratios."""

from collections.abc import Sequence
from math import log

from ....core.heat.warm import WarmUpChoice
from ....services.warmup.room import WarmUpRoom
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, hatches, line, picture, polygon, text
from ...units import Units
from ...words.warm import CHOICES

FILLS = {
    WarmUpChoice.NOTHING: ("open", ""),
    WarmUpChoice.SEATS: ("terrain", ""),
    WarmUpChoice.CABIN: ("", "heat"),
    WarmUpChoice.CABIN_AND_PACK: ("ember-fill", ""),
    WarmUpChoice.LATE: ("charge", ""),
}
SHORT = {
    WarmUpChoice.NOTHING: "none",
    WarmUpChoice.SEATS: "seats",
    WarmUpChoice.CABIN: "cabin",
    WarmUpChoice.CABIN_AND_PACK: "and pack",
    WarmUpChoice.LATE: "late",
}


def strip(room: WarmUpRoom, units: Units, phone: bool = False) -> str:
    """Which choice is best over trips of other lengths, on a scale of ratios, with this trip marked."""
    width, name = (NARROW, "slimstrip") if phone else (WIDE, "strip")
    places = room.advice.by_km
    low, high = places[0][0], places[-1][0]

    def x(km: float) -> float:
        return 4 + log(min(max(km, low), high) / low) / log(high / low) * (width - 8)

    parts = [hatches(name)]
    runs = _runs(places)
    for begin, end, choice in runs:
        class_, fill = FILLS[choice]
        a, b = x(begin), x(end)
        parts.append(box(a, 26, b - a, 30, f"{class_} edge".strip(), f"{name}-{fill}" if fill else ""))
        words = CHOICES[choice] if b - a > 7.6 * len(CHOICES[choice]) else SHORT[choice]
        if b - a > 7.2 * len(words):
            parts.append(text((a + b) / 2, 74, words, "mid b" if choice is room.advice.best.choice else "mid"))
    for km in (1, 2, 5, 10, 20, 50, 100, 200):
        shown = units.of("distance").read(float(km))
        if low <= shown <= high:
            parts += [line(x(shown), 78, x(shown), 84, "tick"), text(x(shown), 99, str(km), "mid dim")]
    here = x(room.inputs.km)
    parts += [
        line(here, 14, here, 60, "post"),
        polygon([(here, 24), (here - 7, 12), (here + 7, 12)], "ink"),
        text(min(max(here, 60.0), width - 60), 10, f"this trip, {units.text(room.inputs.km, 'distance')}", "mid b"),
    ]
    said = "; ".join(f"{CHOICES[c]} from {units.text(a, 'distance')} to {units.text(b, 'distance')}" for a, b, c in runs)
    return picture(width, 104, f"Best choice by distance one way: {said}.", "".join(parts), kind(phone))


def _runs(places: Sequence[tuple[float, WarmUpChoice]]) -> list[tuple[float, float, WarmUpChoice]]:
    """Neighbours of one choice as one run; runs meet halfway between their places."""
    runs: list[tuple[float, float, WarmUpChoice]] = []
    for i, (km, choice) in enumerate(places):
        begin = (km * places[i - 1][0]) ** 0.5 if i else km
        end = (km * places[i + 1][0]) ** 0.5 if i + 1 < len(places) else km
        if runs and runs[-1][2] is choice:
            runs[-1] = (runs[-1][0], end, choice)
        else:
            runs.append((begin, end, choice))
    return runs
