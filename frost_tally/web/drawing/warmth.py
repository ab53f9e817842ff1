"""Warming up drawn: both temperatures to departure and through the first trip, and the five choices weighed."""

from datetime import timedelta
from textwrap import wrap

from ...core.advice.choices import Course
from ...core.advice.worth import COMFORT_C, Option
from ...services.warmup.room import BEFORE_S, WarmUpRoom
from ..units import Units
from ..words.reasons import why_words
from ..words.warm import CHOICES, PARTS, clock_words
from .plot import NARROW, WIDE, kind
from .svg import box, element, ground, hatches, line, path, picture, polygon, text

FOOT, PRICE = 74.0, 58.0
PART_FILLS = {
    "night": ("", "heat"),
    "scarce": ("ember-fill", ""),
    "level": ("charge", ""),
    "wear": ("held", ""),
    "comfort": ("", "cold"),
}


class _Frame:
    """Time across, before and after departure on scales of their own; temperature up."""

    def __init__(self, room: WarmUpRoom, phone: bool) -> None:
        self.width = NARROW if phone else WIDE
        self.high = 344.0
        self.left, self.right = (34.0, 34.0) if phone else (48.0, 74.0)
        self.post_x = self.left + (0.56 if phone else 0.54) * (self.width - self.left - self.right)
        self.end_s = max(float(course.seconds[-1]) for course in room.courses.values())
        self.top, self.foot = 64.0, self.high - FOOT - 26
        values = [float(v) for c in room.courses.values() for v in (*c.pack_c, *c.cabin_c)]
        self.low, self.most = min(*values, room.inputs.out_c), max(*values, COMFORT_C)
        self.early, self.late = (self.post_x - self.left) / BEFORE_S, (self.width - self.right - self.post_x) / self.end_s
        self.per_k = (self.foot - self.top) / max(self.most - self.low, 5.0)

    def x(self, seconds: float) -> float:
        return self.post_x + seconds * (self.early if seconds <= 0 else self.late)

    def y(self, temp_c: float) -> float:
        return self.top + (self.most - temp_c) * self.per_k

    def line(self, course: Course, cabin: bool) -> list[tuple[float, float]]:
        temps = course.cabin_c if cabin else course.pack_c
        return [(self.x(s), self.y(c)) for s, c in zip(course.seconds.tolist(), temps.tolist(), strict=True)]


def describe(room: WarmUpRoom, units: Units) -> str:
    """The course in words."""
    shown, course = room.shown, room.courses[room.shown.choice]
    begin, leave, end = (
        f"pack {units.text(float(course.pack_c[i]), 'temperature', 0)}, cabin {units.text(float(course.cabin_c[i]), 'temperature', 0)}"
        for i in (0, _at_departure(course), -1)
    )
    return f"Temperatures with {CHOICES[shown.choice]}: at first {begin}; at departure {leave}; after the first trip {end}."


def _at_departure(course: Course) -> int:
    return int((course.seconds <= 0).sum()) - 1


def course(room: WarmUpRoom, units: Units, phone: bool = False) -> str:
    """Pack and cabin from an hour and a half before departure to the end of the first trip; the other choices thin."""
    at, name = _Frame(room, phone), "slimwarm" if phone else "warmth"
    shown = room.courses[room.shown.choice]
    parts = [hatches(name), *_scale(at, units), *_foot(room, at, units, name, phone)]
    for choice, other in room.courses.items():
        if choice is not room.shown.choice:
            parts += [path(at.line(other, False), "outline"), path(at.line(other, True), "outline heat-line")]
    parts += [path(at.line(shown, False), "level"), path(at.line(shown, True), "level heat-line"), *_post(room, units, at)]
    leave = _at_departure(shown)
    pack, cabin = float(shown.pack_c[leave]), float(shown.cabin_c[leave])
    pack_y, cabin_y = _apart(at.y(pack) + 20, at.y(cabin) - 9)
    parts += [
        element("circle", cx=at.post_x, cy=at.y(pack), r=5, class_="now"),
        element("circle", cx=at.post_x, cy=at.y(cabin), r=5, class_="now"),
        text(at.post_x + 9, pack_y, f"pack {_deg(pack, units)}", "b"),
        text(at.post_x + 9, cabin_y, f"cabin {_deg(cabin, units)}", "b ember"),
    ]
    pack, cabin = float(shown.pack_c[-1]), float(shown.cabin_c[-1])
    pack_y, cabin_y = _apart(at.y(pack) + 5, at.y(cabin) + 5)
    parts += [
        text(at.x(at.end_s) + 5, pack_y, _deg(pack, units), "b"),
        text(at.x(at.end_s) + 5, cabin_y, _deg(cabin, units), "b ember"),
    ]
    return picture(at.width, at.high, describe(room, units), "".join(parts), kind(phone))


def _apart(lower: float, upper: float) -> tuple[float, float]:
    """Two labels' heights, at least a line apart."""
    if abs(lower - upper) >= 16:
        return lower, upper
    middle = (lower + upper) / 2
    return (middle + 9, middle - 9) if lower >= upper else (middle - 9, middle + 9)


def _deg(temp_c: float, units: Units) -> str:
    return units.text(temp_c, "temperature", 0, unit=False) + "°"


def _scale(at: _Frame, units: Units) -> list[str]:
    parts = []
    step = 10
    first = int(at.low // step) * step
    for temp_c in range(first, int(at.most) + 1, step):
        if temp_c >= at.low:
            parts.append(line(at.left, at.y(temp_c), at.width - at.right, at.y(temp_c), "faint"))
            parts.append(text(0, at.y(temp_c) + 5, _deg(temp_c, units), "dim"))
    return parts


def _foot(room: WarmUpRoom, at: _Frame, units: Units, name: str, phone: bool) -> list[str]:
    """The price as terrain, the warm-up's power on it, split into wall and pack, and the clock below."""
    base, parts, prices = at.high - 26, list[str](), list[str]()
    departs, night = room.request.departure, room.shown.plan
    most = max([s.price_per_kwh for s in room.prices], default=0.0) or 1.0
    last = None
    for slot in room.prices:
        a, b = ((moment - departs).total_seconds() for moment in (slot.start, slot.end))
        x, top = at.x(max(a, -BEFORE_S)), base - max(slot.price_per_kwh, 0.0) / most * PRICE
        parts.append(ground(x, top, at.x(min(b, 0.0)) - x, height=base - top, prefix=name))
        if slot.price_per_kwh != last:
            prices.append(text(x + 4, min(top, base - 24) - 5, units.money(slot.price_per_kwh), "dim"))
        last = slot.price_per_kwh
    for block in night.blocks:
        a, b = ((moment - departs).total_seconds() for moment in (block.start, block.end))
        if b > -BEFORE_S:
            x = at.x(max(a, -BEFORE_S))
            parts.append(box(x, base - 22, at.x(min(b, 0.0)) - x, 22, "charge"))
    warm = night.warm
    if warm.lead_s > 0:
        share = warm.wall_kwh / max(warm.wall_kwh + warm.pack_kwh, 1e-9)
        x, high = at.x(-min(warm.lead_s, BEFORE_S)), 34.0
        parts.append(box(x, base - high * share, at.post_x - x, high * share, "warm", f"{name}-heat"))
        if warm.pack_kwh > 0.02:
            parts.append(box(x, base - high, at.post_x - x, high * (1 - share), "", f"{name}-cold"))
        sources = ((warm.wall_kwh, "wall"), (warm.pack_kwh, "pack"))
        given = [f"{units.text(kwh, 'energy')} {source}" for kwh, source in sources if kwh > 0.02]
        parts.append(text(at.post_x - 6, base - high - 6, clock_words(room, units, warm.lead_s), "end b ember"))
        parts += [text(at.post_x + 8, base - 12 - 18 * k, words, "ember b") for k, words in enumerate(given)]
    parts += prices
    parts.append(line(at.left, base, at.width - at.right, base, "base"))
    for minutes in (90, 60, 30):
        x = at.x(-60.0 * minutes)
        parts += [
            line(x, base, x, base + 5, "tick"),
            text(max(x, 20.0), base + 19, clock_words(room, units, 60.0 * minutes), "mid dim"),
        ]
    end = units.clock((departs + timedelta(seconds=at.end_s)).astimezone(room.zone))
    parts += [line(at.x(at.end_s), base, at.x(at.end_s), base + 5, "tick"), text(at.x(at.end_s), base + 19, end, "mid dim")]
    words = "first trip" if phone else f"the first trip, {units.text(room.outing.km, 'distance')}"
    parts.append(text((at.post_x + at.x(at.end_s)) / 2, base + 19, words, "mid dim"))
    return parts


def _post(room: WarmUpRoom, units: Units, at: _Frame) -> list[str]:
    x = at.post_x
    flag = polygon([(x, 10), (x + 60, 10), (x + 51, 21), (x + 60, 32), (x, 32)], "flag")
    return [line(x, 10, x, at.high - 20, "post"), flag, text(x + 7, 26, clock_words(room, units), "inv b")]


def choices(room: WarmUpRoom, units: Units, phone: bool = False) -> str:
    """Each choice as a balance: what it saves to the left of the line, what it costs to the right, the sum as a mark."""
    width, row = (NARROW, 86.0) if phone else (WIDE, 52.0)
    name = "slimweigh" if phone else "weigh"
    options = room.advice.options
    left, right = (8.0, width - 8) if phone else (420.0, width - 112)
    known = [o for o in options if not o.reason] or list(options)
    saved = max([sum(-v for v in o.parts.values() if v < 0) for o in known])
    spent = max([sum(v for v in o.parts.values() if v > 0) for o in known])
    span = max(saved + spent, 0.05)
    zero = left + (right - left) * max(saved, 0.02 * span) / (span + 0.02 * span)
    per = (right - left) / (span * 1.04)
    parts = [hatches(name)]
    for i, option in enumerate(options):
        top, best = i * row + 26, option is room.advice.best
        said = CHOICES[option.choice]
        if best:
            parts.append(polygon([(0, top + 6), (12, top + 13), (0, top + 20)], "ink"))
        parts.append(text(18, top + 18, said, "b" if best else ""))
        if not phone:
            parts += [
                text(222, top + 18, _left(option), "end b"),
                text(296, top + 18, f"{option.cold_min:.0f} min", "end"),
                text(384, top + 18, f"{100 * option.regen:.0f} %", "end"),
            ]
        else:
            facts = f"{_left(option)}, {option.cold_min:.0f} min cold"
            parts.append(text(width, top + 18, facts, "end"))
        bar_y = top + (30 if phone else 2)
        if option.reason:
            lines = wrap(why_words(option.reason, units), 44 if phone else 90)[:2]
            parts += [text(18 if phone else left, bar_y + 14 + 18 * k, words, "dim") for k, words in enumerate(lines)]
            continue
        parts.append(line(zero, bar_y - 8, zero, bar_y + 30, "rule"))
        parts += _balance(option, zero, per, bar_y, name)
        total = f"{'+' if option.total > 0.004 else ''}{units.money(option.total)}"
        parts.append(text(width, bar_y + 17, total, "end b") if not phone else text(width, bar_y + 40, total, "end b"))
    parts += _legend(row * len(options) + 34, left if not phone else 0.0, name, phone)
    if not phone:
        heads = ((222, "comes home"), (296, "cold"), (384, "regen first"))
        parts += [text(x, 14, words, "end dim") for x, words in heads]
        parts += [
            text(zero - 6, 14, "saves", "end dim"),
            text(zero + 6, 14, "costs", "dim"),
            text(width, 14, "in all", "end dim"),
        ]
    else:
        parts += [text(zero - 6, 14, "saves", "end dim"), text(zero + 6, 14, "costs", "dim")]
    return picture(width, row * len(options) + (84 if phone else 58), _choices_words(room, units), "".join(parts), kind(phone))


def _left(option: Option) -> str:
    return f"{100 * option.arrival_soc:.0f} %" if option.arrival_soc > 0.005 else "empty"


def _legend(y: float, x: float, name: str, phone: bool) -> list[str]:
    """What each fill stands for."""
    parts, begin = [], x
    for i, (key, (words, _)) in enumerate(PARTS.items()):
        class_, fill = PART_FILLS[key]
        if phone and i == 3:
            x, y = begin, y + 26
        parts.append(box(x, y, 16, 14, class_ or "edge-only", f"{name}-{fill}" if fill else ""))
        parts.append(text(x + 22, y + 12, words, "dim"))
        x += 48 + 7.6 * len(words)
    return parts


def _balance(option: Option, zero: float, per: float, y: float, name: str) -> list[str]:
    """The parts stacked outwards from the line, and the sum as a short stroke."""
    parts, ends = [], {True: zero, False: zero}
    for key in PARTS:
        value = option.parts[key]
        long = abs(value) * per
        if long < 0.6:
            continue
        costs = value > 0
        x = ends[costs] if costs else ends[costs] - long
        class_, fill = PART_FILLS[key]
        parts.append(box(x, y, long, 22, class_ or "edge-only", f"{name}-{fill}" if fill else ""))
        ends[costs] += long if costs else -long
    mark = zero + option.total * per
    return [*parts, line(mark, y - 4, mark, y + 26, "tally-stroke")]


def _choices_words(room: WarmUpRoom, units: Units) -> str:
    rows = "; ".join(
        f"{CHOICES[o.choice]}: "
        + (
            why_words(o.reason, units)
            or f"home with {100 * o.arrival_soc:.0f} per cent, {o.cold_min:.0f} cold minutes, {units.money(o.total)} in all"
        )
        for o in room.advice.options
    )
    return f"The five choices against doing nothing. {rows}. Advised: {CHOICES[room.advice.best.choice]}."
