"""What a verdict rests on, drawn: a bar for each number, as long as what it changes at the end of the day."""

from ....services.basis import RestsOn
from ...drawing.plot import kind
from ...drawing.svg import box, hatches, line, picture, text
from ...units import Units

WIDE, NARROW, ROW, MOST = 1120.0, 356.0, 30.0, 10
NAMES = {
    "usable_kwh_new": "usable capacity", "soh": "health", "mass_kg": "mass", "drag_area_m2": "drag area",
    "rolling_coefficient": "rolling coefficient", "km": "distance", "motorway_kmh": "motorway speed", "tyre_kpa": "tyre pressure",
    "load_kg": "load", "ambient_c": "outside temperature", "cabin_c": "cabin temperature", "leave_soc": "level when leaving",
}  # fmt: skip


def moves(made: RestsOn, units: Units, phone: bool = False) -> str:
    """The numbers that change the end of the day most, the most on top: less to the left of the line, more to the right."""
    shown = made.moves[:MOST]
    width, name = (NARROW, "slimmoves") if phone else (WIDE, "moves")
    left = 132.0 if phone else 330.0
    middle, half = (left + width) / 2, (width - left) / 2 - 50
    most = max((abs(change) for _, change in shown), default=0.01)
    parts, said = [hatches(name)], list[str]()
    for i, (key, change) in enumerate(shown):
        top, long = i * ROW, max(2.0, abs(change) / most * half)
        more = f"{units.text(3, 'warmer')} warmer" if key.endswith("_c") else "a tenth more"
        number = f"{'+' if change > 0 else '−'}{units.plain(100 * abs(change), 1)} %"
        label = NAMES[key] if phone else f"{NAMES[key]}, {more}"
        parts += [
            text(0, top + 20, label, "b"),
            box(
                middle if change > 0 else middle - long,
                top + 8,
                long,
                16,
                "charge" if change > 0 else "rime-line",
                "" if change > 0 else f"{name}-cold",
            ),
            text(middle + (long + 8 if change > 0 else -long - 8), top + 21, number, "b" if change > 0 else "b end"),
        ]
        said.append(f"{NAMES[key]}, {more}: {number}")
    parts.append(line(middle, 0, middle, ROW * len(shown), "base"))
    return picture(
        width,
        ROW * len(shown) + 4,
        f"What changes the level at the end of the day: {'; '.join(said)}",
        "".join(parts),
        kind(phone),
    )
