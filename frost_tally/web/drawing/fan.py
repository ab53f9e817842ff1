"""The day drawn: the level as a fan along the hours, what changes would give, and the day at other speeds."""

from collections.abc import Sequence
from datetime import timedelta

from ...core.drive.levers import Lever
from ...core.drive.speeds import SpeedView
from ...services.day import Day
from ..units import Units
from ..wording import hour
from .svg import box, element, hatches, line, path, picture, polygon, text

WIDE, NARROW = 1120.0, 356.0


def describe(day: Day, units: Units) -> str:
    """The fan in words."""
    stops = "; ".join(
        f"after {units.text(p.km, 'distance')} {100 * p.level.likely:.0f} per cent ({100 * p.level.low:.0f} to {100 * p.level.high:.0f})"
        for p in day.points[1:]
        if not p.parked
    )
    return f"The level along the day, from {100 * day.start.soc:.0f} per cent: {stops}. Reserve {100 * day.reserve:.0f} per cent."


def fan(day: Day, units: Units, phone: bool = False) -> str:
    """Level over the hours: the likely line, the fan from cautious to hopeful, parked time flat, the reserve as a rule."""
    width, high = (NARROW, 250.0) if phone else (WIDE, 230.0)
    left, right, top, foot = 34.0, (34.0 if phone else 92.0), 16.0, high - 40
    points = day.points
    whole = max(points[-1].hours, 0.05)
    best = max(p.level.high for p in points)
    least = min(0.0, *(p.level.low for p in points))

    def x(hours: float) -> float:
        return left + hours / whole * (width - left - right)

    def y(soc: float) -> float:
        return top + (best - soc) / max(best - least, 0.05) * (foot - top)

    edge = [(x(p.hours), y(p.level.high)) for p in points] + [(x(p.hours), y(p.level.low)) for p in reversed(points)]
    parts = [hatches("fan" if not phone else "slimfan"), polygon(edge, "fan")]
    for a, b in zip(points, points[1:], strict=False):
        if b.parked and x(b.hours) - x(a.hours) > 20:
            parts.append(box(x(a.hours), foot + 2, x(b.hours) - x(a.hours), 8, "terrain edge"))
            if x(b.hours) - x(a.hours) > 60:
                parts.append(text((x(a.hours) + x(b.hours)) / 2, foot + 32, "parked", "mid dim"))
    parts += [
        line(left, y(day.reserve), width - right, y(day.reserve), "limit"),
        text(0, y(day.reserve) + 5, f"{100 * day.reserve:.0f} %"),
        text(0, y(day.start.soc) + 5, f"{100 * day.start.soc:.0f} %", "b"),
        path([(x(p.hours), y(p.level.likely)) for p in points], "level"),
        line(left, foot, width - right, foot, "base"),
    ]
    departs, last = day.night.plan.request.departure, -99.0
    for p in points:
        at = x(p.hours)
        parts.append(line(at, foot, at, foot + 5, "tick"))
        if at - last > 52:
            parts.append(
                text(min(max(at, 18), width - 30), foot + 18, hour(departs + timedelta(hours=p.hours), day.night), "mid dim")
            )
            last = at
    end = points[-1]
    parts += [
        element("circle", cx=x(end.hours), cy=y(end.level.likely), r=5, class_="now"),
        text(x(end.hours) + (9 if not phone else 4), y(end.level.likely) + 5, f"{100 * end.level.likely:.0f} %", "b"),
    ]
    if not phone:
        parts += [
            text(x(end.hours) + 9, y(end.level.high) - 2, f"{100 * end.level.high:.0f}", "dim"),
            text(x(end.hours) + 9, y(end.level.low) + 12, f"{100 * end.level.low:.0f}", "dim"),
        ]
    return picture(width, high, describe(day, units), "".join(parts), "ribbon ribbon-upright" if phone else "ribbon ribbon-wide")


def gains(changes: Sequence[tuple[Lever, str, str]], phone: bool = False) -> str:
    """Levers as bars of what they give at arrival, the best per effort on top; words and price beside."""
    width, row, bar_x = (NARROW, 52.0, 0.0) if phone else (WIDE, 34.0, 330.0)
    most = max((lever.gain_soc for lever, _, _ in changes), default=0.01)
    parts = [hatches("gain" if not phone else "slimgain")]
    for i, (lever, words, price) in enumerate(changes):
        top = i * row
        room = (width - 150) if phone else 420.0
        long = max(3.0, lever.gain_soc / most * room)
        gain = f"+{100 * lever.gain_soc:.1f} %"
        parts.append(text(0, top + (16 if phone else 21), words, "b"))
        parts.append(box(bar_x, top + (24 if phone else 6), long, 18, "charge"))
        parts.append(text(bar_x + long + 8, top + (38 if phone else 20), gain, "b"))
        parts.append(text(width, top + (38 if phone else 20), price, "end dim"))
    words_all = "; ".join(f"{words} {100 * lever.gain_soc:.1f} per cent, {price}" for lever, words, price in changes)
    kind = "ribbon ribbon-upright" if phone else "ribbon ribbon-wide"
    return picture(width, row * len(changes), f"What would help: {words_all}", "".join(parts), kind)


def speeds(view: SpeedView, day: Day, units: Units, phone: bool = False) -> str:
    """Arrival level and consumption against motorway speed; minutes lost or won below."""
    width, high = (NARROW, 250.0) if phone else (WIDE, 220.0)
    left, right, top, foot = 40.0, 40.0, 22.0, high - 46
    best, least = float(view.arrival_soc.max()), min(float(view.arrival_soc.min()), day.reserve)
    slow, fast = float(view.speed_kmh[0]), float(view.speed_kmh[-1])

    def x(kmh: float) -> float:
        return left + (kmh - slow) / (fast - slow) * (width - left - right)

    def y(soc: float) -> float:
        return top + (best - soc) / max(best - least, 0.02) * (foot - top)

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
                text(x(kmh), y(float(view.arrival_soc[i])) - 9, f"{100 * float(view.arrival_soc[i]):.0f} %", "mid"),
            ]
            if not phone:
                use = units.text(float(view.wh_per_km[i]) / 1000 * 100 / units.of("distance").show(1.0), "energy", unit=False)
                parts.append(text(x(kmh), y(float(view.arrival_soc[i])) + 20, use, "mid rime"))
    parts += [
        line(left, y(day.reserve), width - right, y(day.reserve), "limit"),
        text(0, y(day.reserve) + 5, f"{100 * day.reserve:.0f} %"),
        path(list(zip((x(v) for v in view.speed_kmh.tolist()), (y(s) for s in view.arrival_soc.tolist()), strict=True)), "level"),
    ]
    if slow <= view.now_kmh <= fast:
        parts.append(element("circle", cx=x(view.now_kmh), cy=y(day.arrival.likely), r=5, class_="now"))
    per = f"kWh per 100 {units.of('distance').label}"
    pairs = zip(view.speed_kmh.tolist(), view.arrival_soc.tolist(), strict=True)
    said = ", ".join(f"{units.text(kmh, 'speed')} {100 * soc:.0f} per cent" for kmh, soc in pairs)
    label = f"Arrival level by motorway speed: {said}"
    if not phone:
        parts.append(text(width, 14, f"level at arrival; {per} below the line", "end dim"))
    return picture(width, high, label, "".join(parts), "ribbon ribbon-upright" if phone else "ribbon ribbon-wide")
