"""An entry's level on a rail from empty to full: a drive falls dark, a charge rises green, a reading is a post."""

from ....core.log.kinds import Entry
from ...drawing.svg import element, line

WIDE, FOOT, HIGH = 100.0, 13.0, 9.0


def rail(entry: Entry) -> str:
    """The rail of an entry that has levels, "" for one that has none; what it shows stands beside it in words."""
    found = [entry.values.get(name) for name in ("soc_start", "soc_end")]
    begin, end = (each if isinstance(each, float) else None for each in found)
    if entry.kind == "level" and isinstance(level := entry.values.get("value"), float):
        begin = end = level
    if begin is None or end is None:
        return '<span class="rail-of-level"></span>'
    left, right = sorted((WIDE * begin, WIDE * end))
    step = element(
        "rect", x=left, y=FOOT - HIGH, width=max(right - left, 2.0), height=HIGH, class_="charge" if end > begin else "ink"
    )
    inner = line(0, FOOT, WIDE, FOOT, "faint") + line(WIDE, FOOT - 4, WIDE, FOOT, "faint") + step
    return element("svg", inner, viewBox=f"0 0 {WIDE:g} 14", class_="rail-of-level", aria_hidden="true")
