"""The limit schools in one picture: up, what each keeps of the pack; down, a stroke for every night of a year on which it is raised."""

from ....core.battery.limit_policies import LimitPolicy
from ....services.limit_policies import PoliciesRoom
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, element, line, picture, polygon, text
from ...units import Units
from ...words.battery import points

MOST_STROKES, GATE = 40, 5


def gains_and_gaps(room: PoliciesRoom, units: Units, phone: bool = False) -> str:
    """Every school, the owner's own under a post, the one worth most named."""
    parts = _upright(room, units) if phone else _wide(room, units)
    said = "; ".join(
        f"{units.text(each.limit, 'percent')} keeps {points(each.kept[0], units)} points more "
        f"({points(each.kept[1], units)} to {points(each.kept[2], units)}), is raised on {each.raised:.0f} nights and misses "
        f"{each.short_days:.0f} days a year"
        for each in room.policies
    )
    words = f"Limits side by side over {room.inputs.years} years: {said}. Yours is {units.text(room.own.limit, 'percent')}."
    width, high = (NARROW, 78.0 * len(room.policies) + 4) if phone else (WIDE, 366.0)
    return picture(width, high, words, "".join(parts), kind(phone))


def _most(room: PoliciesRoom) -> float:
    return max(0.002, *(each.kept[2] for each in room.policies))


def _wide(room: PoliciesRoom, units: Units) -> list[str]:
    left, base, top = 132.0, 214.0, 44.0
    step = (WIDE - left) / len(room.policies)
    parts = [
        text(0, top + 14, "kept of the pack,", "dim"),
        text(0, top + 32, "points more than", "dim"),
        text(0, top + 50, f"at {units.text(room.fullest.limit, 'percent')}", "dim"),
        text(0, base + 62, "nights of a year", "dim"),
        text(0, base + 80, "on which it", "dim"),
        text(0, base + 98, "is raised", "dim"),
        text(0, base + 144, "100 % falls short", "dim"),
        line(0, base, WIDE, base, "base"),
        line(0, base + 34, WIDE, base + 34, "faint"),
    ]
    for i, each in enumerate(room.policies):
        x = left + (i + 0.5) * step
        tall = [max(0.0, value) / _most(room) * (base - top - 34) for value in each.kept]
        parts.append(box(x - 30, base - tall[0], 60, max(tall[0], 1.0), "charge"))
        parts.append(line(x + 38, base - tall[2], x + 38, base - tall[1], "rule"))
        parts += [line(x + 34, base - tall[j], x + 42, base - tall[j], "rule") for j in (1, 2)]
        parts.append(text(x, base - tall[0] - 8, f"+{points(each.kept[0], units)}", "mid b"))
        parts.append(text(x, base + 24, units.text(each.limit, "percent"), "mid b"))
        parts += _strokes(each, x - 29, base + 52, 104)
        parts.append(text(x, base + 126, _often(each.raised, "night", units), "mid dim"))
        parts.append(
            text(x, base + 144, _often(each.short_days, "day", units), "mid dim" if each.short_days < 0.05 else "mid ember")
        )
        if each is room.own:
            flag = [(x - 48, top - 26), (x + 14, top - 26), (x + 4, top - 15), (x + 14, top - 4), (x - 48, top - 4)]
            parts += [
                line(x - 48, top - 26, x - 48, base + 34, "post"),
                polygon(flag, "flag"),
                text(x - 41, top - 10, "yours", "inv b"),
            ]
        if each is room.best:
            parts.append(text(x + 22 if each is room.own else x - 36, top - 10, "worth most", "ember b"))
    return parts


def _upright(room: PoliciesRoom, units: Units) -> list[str]:
    parts, left, right = [], 62.0, NARROW - 54
    for i, each in enumerate(room.policies):
        y = 78.0 * i
        long = [max(0.0, value) / _most(room) * (right - left) for value in each.kept]
        parts += [
            line(0, y + 2, NARROW, y + 2, "faint"),
            text(0, y + 26, units.text(each.limit, "percent"), "b"),
            box(left, y + 10, max(long[0], 1.0), 18, "charge"),
            line(left + long[1], y + 33, left + long[2], y + 33, "rule"),
            *(line(left + long[j], y + 30, left + long[j], y + 36, "rule") for j in (1, 2)),
            text(left + max(long[0], 1.0) + 8, y + 24, f"+{points(each.kept[0], units)}", "b"),
            *_strokes(each, left, y + 44, 170, rows=1),
            text(NARROW, y + 48, f"raised {_often(each.raised, 'night', units)}", "end dim"),
            text(NARROW, y + 66, f"short {_often(each.short_days, 'day', units)}", "end dim"),
        ]
        if each is room.own:
            parts += [line(56, y + 6, 56, y + 72, "post"), text(0, y + 46, "yours", "b")]
        if each is room.best:
            parts.append(text(0, y + 66, "most", "ember b"))
    return parts


def _often(a_year: float, what: str, units: Units) -> str:
    if a_year < 0.05:
        return f"no {what}"
    return f"{units.plain(a_year, 1 if a_year < 9.5 else 0)} {what}s"


def _strokes(each: LimitPolicy, x: float, y: float, width: float, rows: int = 2) -> list[str]:
    """Days counted as on a door: four upright, the fifth across; too many to count end in a row of dots."""
    days = round(each.raised) if each.raised >= 0.5 else 0
    gate, tall = 26.0, 20.0
    gates = int(width // gate)
    shown = min(days, gates * GATE * rows, MOST_STROKES)
    parts = []
    for day in range(shown):
        place, inside = divmod(day, GATE)
        at_x, at_y = x + (place % gates) * gate, y + (place // gates) * (tall + 7)
        if inside < GATE - 1:
            parts.append(line(at_x + 2 + 5 * inside, at_y, at_x + 2 + 5 * inside, at_y + tall, "day-stroke"))
        else:
            parts.append(line(at_x - 2, at_y + tall - 4, at_x + 21, at_y + 4, "day-stroke"))
    if shown < days:
        at_x, at_y = x + gates * gate, y + (rows - 1) * (tall + 7)
        parts += [element("circle", cx=at_x + 4 + 6 * i, cy=at_y + tall / 2, r=1.6, class_="ember-fill") for i in range(3)]
    return parts
