"""The coming days with their departures as flags on the clock, and the days that are skipped."""

from collections.abc import Sequence
from datetime import date, datetime, timedelta

from ....core.heat.schedule import Departure
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, element, hatches, line, picture, polygon, text
from ...units import Units

DAYS, PHONE_DAYS = 14, 7


def fortnight(now: datetime, named: Sequence[tuple[str, Departure]], units: Units, phone: bool = False) -> str:
    """A column for each day from today, hours running down, a flag for each departure; skipped days hatched."""
    width, count, name = (NARROW, PHONE_DAYS, "slimdays") if phone else (WIDE, DAYS, "days")
    left, top, foot = 40.0, 40.0, 196.0
    per = (width - left) / count
    first = now.date()
    parts, said = [hatches(name)], list[str]()
    for hour in (0, 6, 12, 18, 24):
        y = top + hour / 24 * (foot - top)
        parts += [line(left, y, width, y, "faint"), text(0, y + 5, units.full_hour(hour, ":00"), "dim")]
    for i in range(count):
        day, x = first + timedelta(days=i), left + i * per
        parts.append(text(x + per / 2, 14, f"{day:%a}", "mid b" if i == 0 else "mid"))
        parts.append(text(x + per / 2, 31, f"{day.day}", "mid dim"))
        for words, each in named:
            y = top + (each.at.hour + each.at.minute / 60) / 24 * (foot - top)
            if each.falls_on(day):
                parts += _flag(x + 6, y, per, units.clock(each.at), phone)
                said.append(f"{day:%A} {units.clock(each.at)} {words}")
            elif _skipped(each, day):
                parts.append(box(x + 5, y - 9, per - 10, 18, "edge", f"{name}-cold"))
                said.append(f"{day:%A} {words} skipped, a public holiday")
    now_y = top + (now.hour + now.minute / 60) / 24 * (foot - top)
    parts.append(element("circle", cx=left + 10, cy=now_y, r=5, class_="now"))
    parts.append(text(left + 19, now_y + 5, "now", "dim"))
    label = f"Departures of the coming {count} days: {'; '.join(said) or 'none'}."
    return picture(width, foot + 10, label, "".join(parts), kind(phone))


def _flag(x: float, y: float, per: float, words: str, phone: bool) -> list[str]:
    """A post's flag pointing at the hour."""
    if phone:
        return [polygon([(x - 2, y - 7), (x + per - 12, y - 7), (x + per - 6, y), (x + per - 12, y + 7), (x - 2, y + 7)], "flag")]
    long = min(58.0 if len(words) < 6 else 70.0, per - 12)
    edge = [(x, y - 11), (x + long, y - 11), (x + long - 7, y), (x + long, y + 11), (x, y + 11)]
    return [polygon(edge, "flag"), text(x + 5, y + 5, words, "inv b")]


def _skipped(each: Departure, day: date) -> bool:
    return each.on_date is None and day.weekday() in each.days and day in each.holidays
