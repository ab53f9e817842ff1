"""The day drawn: the level as a fan along the hours, what changes would give, and the day at other speeds."""

from collections.abc import Iterator, Sequence
from datetime import timedelta

from ....core.advice.remedies import Remedy
from ....core.battery.cold import LESS_POWER, RESERVE_LIGHT
from ....core.drive.certainty import Point
from ....core.drive.speeds import SpeedView
from ....services.day.room import Day
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import box, element, hatches, line, path, picture, polygon, text
from ...units import Units
from ...words.hours import hour


def describe(day: Day, units: Units) -> str:
    """The fan in words."""
    stops = "; ".join(
        f"after {units.text(p.km, 'distance')} {100 * p.level.likely:.0f} per cent ({100 * p.level.low:.0f} to {100 * p.level.high:.0f})"
        for p in day.points[1:]
        if not p.parked
    )
    return f"The level along the day, from {100 * day.start.soc:.0f} per cent: {stops}. Reserve {100 * day.night.reserve:.0f} per cent."


def fan(day: Day, units: Units, phone: bool = False) -> str:
    """Level over the hours: the likely line, the fan from cautious to hopeful, parked time flat, the reserve as a rule."""
    width, high = (NARROW, 250.0) if phone else (WIDE, 230.0)
    left, right, top, foot = 34.0, (42.0 if phone else 92.0), 16.0, high - 40
    points = day.points
    at_x = _across(day, left, width - right)
    best = max(p.level.high for p in points)

    y = Scale(best - max(best, 0.05), best, foot, top, held=True)
    dense_x, dense = _dense(at_x, points)
    low, likely, high_end = ([(x, y(each[i])) for x, each in zip(dense_x, dense, strict=True)] for i in range(3))
    edge = [*high_end, *reversed(low)]
    parts = [hatches("fan" if not phone else "slimfan"), polygon(edge, "fan"), *_stood(at_x, points, foot, units)]
    if day.arrival.low < RESERVE_LIGHT:
        for soc, words in ((RESERVE_LIGHT, "reserve lamp"), (LESS_POWER, "less power")):
            parts += [
                line(left, y(soc), width - right, y(soc), "rule"),
                text(left + 6, y(soc) - 4, f"{words}, {100 * soc:.0f} %", "dim"),
            ]
    parts += [
        line(left, y(day.night.reserve), width - right, y(day.night.reserve), "limit"),
        text(0, y(day.night.reserve) + 5, f"{100 * day.night.reserve:.0f} %"),
        text(0, y(day.start.soc) - 4, f"{100 * day.start.soc:.0f} %", "b"),
        path(likely, "level"),
        line(left, foot, width - right, foot, "base"),
        *_hours(day, at_x, foot, width, units),
    ]
    end = points[-1].level
    left_over = f"{100 * end.likely:.0f} %" if end.likely > 0 else "empty"
    parts += [
        element("circle", cx=at_x[-1], cy=y(end.likely), r=5, class_="now"),
        text(at_x[-1] + (9 if not phone else 4), y(end.likely) + 5, left_over, "b"),
    ]
    if not phone and end.high > 0:
        parts += [
            text(at_x[-1] + 9, y(end.high) - 2, f"{100 * max(end.high, 0):.0f}", "dim"),
            text(at_x[-1] + 9, y(end.low) + 12, f"{100 * max(end.low, 0):.0f}", "dim"),
        ]
    return picture(width, high, describe(day, units), "".join(parts), kind(phone))


def _stood(at_x: Sequence[float], points: Sequence[Point], foot: float, units: Units) -> Iterator[str]:
    """Parked times under the foot, with their hours."""
    for i, p in enumerate(points):
        if p.parked:
            yield box(at_x[i - 1], foot + 2, at_x[i] - at_x[i - 1], 8, "terrain edge")
            hours = units.field(p.hours - points[i - 1].hours, "hours")
            yield text((at_x[i - 1] + at_x[i]) / 2, foot + 34, f"parked {hours} h", "mid dim")


def _hours(day: Day, at_x: Sequence[float], foot: float, width: float, units: Units) -> Iterator[str]:
    """A tick at each stop; its clock where there is room for it."""
    departs, last = day.night.plan.request.departure, -99.0
    for at, p in zip(at_x, day.points, strict=True):
        yield line(at, foot, at, foot + 5, "tick")
        if at - last > 52:
            clock = hour(departs + timedelta(hours=p.hours), day.night.zone, units)
            yield text(min(max(at, 18), width - 30), foot + 18, clock, "mid dim")
            last = at


def _dense(at_x: Sequence[float], points: Sequence[Point]) -> tuple[list[float], list[tuple[float, float, float]]]:
    """Ten places between the points, so that a level meets the empty line where it does and not at the next stop."""
    found_x, found = [at_x[0]], [(points[0].level.low, points[0].level.likely, points[0].level.high)]
    for i, (a, b) in enumerate(zip(points, points[1:], strict=False)):
        ends = [(getattr(a.level, name), getattr(b.level, name)) for name in ("low", "likely", "high")]
        for part in (k / 10 for k in range(1, 11)):
            found_x.append(at_x[i] + part * (at_x[i + 1] - at_x[i]))
            low, likely, high = (start + part * (end - start) for start, end in ends)
            found.append((low, likely, high))
    return found_x, found


def _across(day: Day, left: float, right: float) -> list[float]:
    """Places of the points: driving to scale of its hours, each parked time a fixed eighth of the width."""
    spans = [b.hours - a.hours for a, b in zip(day.points, day.points[1:], strict=False)]
    parked = [p.parked for p in day.points[1:]]
    driven = max(sum(span for span, stood in zip(spans, parked, strict=True) if not stood), 1e-6)
    room = 1.0 - sum(parked) / 8.0
    steps = [1 / 8.0 if stood else room * span / driven for span, stood in zip(spans, parked, strict=True)]
    places = [left]
    for step in steps:
        places.append(places[-1] + step * (right - left))
    return places


def gains(changes: Sequence[tuple[Remedy, str, str]], units: Units, phone: bool = False) -> str:
    """Remedies as bars of what they give at arrival, the best per effort on top; words and price beside."""
    width, row, bar_x = (NARROW, 52.0, 0.0) if phone else (WIDE, 34.0, 330.0)
    most = max((remedy.gain_soc for remedy, _, _ in changes), default=0.01)
    parts = [hatches("gain" if not phone else "slimgain")]
    for i, (remedy, words, price) in enumerate(changes):
        top = i * row
        room = (width - 150) if phone else 420.0
        long = max(3.0, remedy.gain_soc / most * room)
        gain = f"+{units.plain(100 * remedy.gain_soc, 1)} %"
        parts.append(text(0, top + (16 if phone else 21), words, "b"))
        parts.append(box(bar_x, top + (24 if phone else 6), long, 18, "charge"))
        parts.append(text(bar_x + long + 8, top + (38 if phone else 20), gain, "b"))
        parts.append(text(width, top + (16 if phone else 20), price, "end dim"))
    words_all = "; ".join(
        f"{words} {units.plain(100 * remedy.gain_soc, 1)} per cent, {price}" for remedy, words, price in changes
    )
    return picture(width, row * len(changes), f"What would help: {words_all}", "".join(parts), kind(phone))


def speeds(view: SpeedView, day: Day, units: Units, phone: bool = False) -> str:
    """Arrival level and consumption against motorway speed; minutes lost or won below."""
    width, high = (NARROW, 250.0) if phone else (WIDE, 220.0)
    left, right, top, foot = 40.0, 40.0, 22.0, high - 46
    best, least = max(float(view.arrival_soc.max()), day.night.reserve), min(float(view.arrival_soc.min()), day.night.reserve)
    slow, fast = float(view.speed_kmh[0]), float(view.speed_kmh[-1])

    x, lowest = Scale(slow, fast, left, width - right), min(least, best - 0.02)
    plot = Plot(x, y := Scale(lowest, best, foot - (8 if phone else 26), top))
    parts = [line(left, foot, width - right, foot, "base")]
    step = 4 if phone else 2
    for i, kmh in enumerate(view.speed_kmh.tolist()):
        parts.append(line(x(kmh), foot, x(kmh), foot + 5, "tick"))
        if i % step == 0:
            minutes = float(view.minutes[i])
            shown = f"{minutes:+.0f} min".replace("-", "−") if abs(minutes) >= 0.5 else "now"
            parts += [
                text(x(kmh), foot + 19, units.text(kmh, "speed", unit=False), "mid b"),
                text(x(kmh), foot + 36, shown, "mid dim"),
                text(
                    min(x(kmh), width - 44),
                    y(float(view.arrival_soc[i])) - 9,
                    _left_over(float(view.arrival_soc[i]), phone),
                    "mid",
                ),
            ]
            if not phone:
                use = units.text(float(view.wh_per_km[i]) / 1000 * 100 / units.of("distance").show(1.0), "energy", unit=False)
                parts.append(text(x(kmh), y(float(view.arrival_soc[i])) + 20, use, "mid rime"))
    parts += [
        plot.rule(day.night.reserve),
        text(0, y(day.night.reserve) + 5, f"{100 * day.night.reserve:.0f} %"),
        plot.curve(view.speed_kmh, view.arrival_soc),
    ]
    if slow <= view.now_kmh <= fast:
        parts.append(plot.dot(view.now_kmh, day.arrival.likely, 5))
    per = f"kWh per 100 {units.of('distance').label}"
    pairs = zip(view.speed_kmh.tolist(), view.arrival_soc.tolist(), strict=True)
    said = ", ".join(f"{units.text(kmh, 'speed')} {_left_over(soc)}" for kmh, soc in pairs)
    label = f"Arrival level by motorway speed: {said}"
    if not phone:
        parts.append(text(width, 14, f"level at arrival; {per} below the line", "end dim"))
    return picture(width, high, label, "".join(parts), kind(phone))


def _left_over(soc: float, short: bool = False) -> str:
    """A level at arrival, or what is missing to arrive."""
    if soc >= 0:
        return f"{100 * soc:.0f} %"
    return f"{-100 * soc:.0f} short" if short else f"{-100 * soc:.0f} % missing"
