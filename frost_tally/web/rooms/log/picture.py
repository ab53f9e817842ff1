"""The log drawn: each car's level over the days that are listed, charges solid, drives falling, what does not go together marked."""

from collections.abc import Callable, Mapping, Sequence
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from ....core.log.facts import Fact
from ...drawing.plot import Scale, kind
from ...drawing.svg import element, line, path, picture, polygon, text

WIDE, NARROW, HIGH, FOOT = 1120.0, 356.0, 92.0, 22.0
LEFT = 70.0


def levels(
    cars: Sequence[tuple[int, str]],
    facts: Mapping[int, Sequence[Fact]],
    odd: frozenset[tuple[str, int]],
    zone: ZoneInfo,
    phone: bool = False,
) -> str:
    """One strip for each car that has facts: 0 to 100 % upwards, the days along the foot; nothing without any."""
    shown = [(name, facts[key]) for key, name in cars if facts.get(key)]
    if not shown:
        return ""
    width, left = (NARROW, 0.0) if phone else (WIDE, LEFT)
    times = [at for _, each in shown for fact in each for at in (fact.begun_s, fact.ended_s)]
    first, last = min(times), max(times)
    step = HIGH + (20 if phone else 0)

    x = Scale(first, max(last, first + 1.0), left, width - 6)
    parts = []
    for i, (name, each) in enumerate(shown):
        top = i * step + (20 if phone else 6)
        parts += _strip(each, x, top, odd)
        parts += [line(left, top + HIGH - 16, width, top + HIGH - 16, "base"), line(left, top, width, top, "faint")]
        parts.append(text(0, top + (-6 if phone else 20), name, "b"))
        parts.append(
            text(width if phone else left - 8, top + (-6 if phone else HIGH - 18), "0 to 100 %" if phone else "0 %", "dim end")
        )
        if not phone:
            parts.append(text(left - 8, top + 38, "100 %", "dim end"))
    foot = len(shown) * step + (14 if phone else 4)
    parts += _days(first, last, x, foot=foot, zone=zone, phone=phone)
    words = "; ".join(f"{name}: {_said(each)}" for name, each in shown)
    return picture(width, foot + FOOT, f"Levels over the days listed. {words}.", "".join(parts), kind(phone))


def _strip(facts: Sequence[Fact], x: Callable[[float], float], top: float, odd: frozenset[tuple[str, int]]) -> list[str]:
    """A car's level: standing thin, driving as a line, charging as a solid block under it."""
    bottom = top + HIGH - 16
    y = Scale(0.0, 1.0, bottom, top)
    parts, known = [], list[tuple[float, float]]()
    for fact in facts:
        start, end = fact.levels
        if fact.kind == "odometer" or (start is None and end is None):
            continue
        a, b = start if start is not None else end or 0.0, end if end is not None else start or 0.0
        begun, ended = (x(fact.begun_s), y(a)), (max(x(fact.ended_s), x(fact.begun_s) + 1.5), y(b))
        if known:
            parts.append(path([known[-1], begun], "faint"))
        if fact.kind == "charge":
            parts.append(polygon([(begun[0], bottom), begun, ended, (ended[0], bottom)], "charge"))
        elif fact.kind == "drive":
            parts.append(path([begun, ended], "level"))
        known.append(ended)
        if (fact.kind, fact.number) in odd:
            parts.append(element("circle", cx=begun[0], cy=begun[1], r=6, class_="gap"))
    return parts


def _days(first: float, last: float, x: Callable[[float], float], *, foot: float, zone: ZoneInfo, phone: bool) -> list[str]:
    """The days along the foot: as many names as there is room for."""
    day = datetime.fromtimestamp(first, zone).replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=1)
    days = []
    while day.timestamp() <= last:
        days.append(day)
        day += timedelta(days=1)
    every = max(1, -(-len(days) // (5 if phone else 14)))
    parts = []
    for i, each in enumerate(days):
        at = x(each.timestamp())
        if i % every == 0:
            parts += [line(at, foot - 6, at, foot, "tick"), text(max(at, 20.0), foot + 15, f"{each.day} {each:%b}", "mid dim")]
    return parts


def _said(facts: Sequence[Fact]) -> str:
    drives, charges = (sum(each.kind == kind for each in facts) for kind in ("drive", "charge"))
    return f"{drives} drive{'s' if drives != 1 else ''}, {charges} charge{'s' if charges != 1 else ''}"
