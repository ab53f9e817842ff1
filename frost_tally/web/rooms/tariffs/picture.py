"""A painted week drawn: a row for each day, price as the height of its terrain, gaps as torn outlines; and the year's seasons."""

from collections.abc import Sequence
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from ....core.charge.prices import CELLS_PER_DAY
from ....core.charge.tariff import DAY_NAMES, HOLIDAY, Season, Tariff, day_words, runs, year_days
from ....core.charge.week import NONE, Colour, Week
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, ground, hatches, line, picture, text
from ...units import Units

ROW, FOOT = 48.0, 34.0
SHORT = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun", "Holiday")


def cell_words(cell: int, units: Units) -> str:
    """The clock at the start of a cell; the end of the day is 24:00, or midnight."""
    if cell < CELLS_PER_DAY:
        return units.clock(time(cell // 4, cell % 4 * 15))
    return "24:00" if units.hours == "24" else "midnight"


def describe(week: Week, palette: Sequence[Colour], units: Units, holidays: bool) -> str:
    """The week in words, days that are the same together."""
    said: dict[str, list[str]] = {}
    for row in range(8 if holidays else 7):
        prices = [f"{each.name} {units.text(each.price_per_kwh, 'price')}" for each in palette]
        words = ", ".join(
            f"{cell_words(a, units)} to {cell_words(b, units)} {prices[c] if c != NONE else 'no price'}"
            for a, b, c in runs(week.rows[row])
        )
        said.setdefault(words, []).append(DAY_NAMES[row])
    return "Painted week. " + ". ".join(f"{', '.join(days)}: {words}" for words, days in said.items())


def drawn(week: Week, palette: Sequence[Colour], units: Units, holidays: bool, phone: bool = False) -> str:
    """The week as SVG; the grid's place is in data attributes, so that a pointer can be turned into a cell."""
    rows = 8 if holidays else 7
    width, left = (NARROW, 40.0) if phone else (WIDE, 78.0)
    top, across = 4.0, width - left - (2 if phone else 14)
    per, prefix = across / CELLS_PER_DAY, "slimweek" if phone else "week"
    highest = max([each.price_per_kwh for each in palette], default=1.0) or 1.0
    parts, order = [hatches(prefix)], (*units.weekdays(), HOLIDAY)[:rows]
    for row, day in enumerate(order):
        base = top + (row + 1) * ROW
        name = SHORT[day] if not phone else SHORT[day][:3]
        parts += [text(0, base - 14, name, "b" if day >= 5 else ""), line(left, base, left + across, base, "rule")]
        for first, after, colour in runs(week.rows[day]):
            x, wide = left + first * per, (after - first) * per
            if colour == NONE:
                parts += [box(x, base - 32, wide, 32, "gap")]
                if wide > 70:
                    parts.append(text(x + wide / 2, base - 11, "no price", "mid ember b"))
                continue
            high = max(3.0, max(palette[colour].price_per_kwh, 0.0) / highest * (ROW - 22))
            parts.append(ground(x, base - high, wide, height=high, prefix=prefix, class_="terrain edge"))
            price = units.text(palette[colour].price_per_kwh, "price", 2, unit=False)
            label = f"{palette[colour].name} {price}" if wide > 9 * (len(palette[colour].name) + 5) else price
            if wide > (34 if phone else 38):
                parts.append(text(x + 5, base - high - 3, label, "dim"))
    base = top + rows * ROW
    for hour in range(0, 25, 6 if phone else 3):
        x = left + hour * 4 * per
        parts += [line(x, base, x, base + 5, "tick"), line(x, top + 8, x, base, "faint")]
        parts.append(text(min(x, width - 16), base + 20, units.full_hour(hour), "mid dim"))
    parts += [box(0, 0, 0, 0, "stroke-mark"), box(0, 0, 0, 0, "cursor-mark")]
    class_ = "ribbon ribbon-upright week" if phone else "ribbon ribbon-wide week"
    made = picture(width, base + FOOT, describe(week, palette, units, holidays), "".join(parts), class_)
    grid = f'data-week="{left:.1f} {top:.1f} {per:.4f} {ROW:.1f} {rows}" data-days="{",".join(str(each) for each in order)}"'
    return made.replace("<svg ", f"<svg {grid} ", 1)


def day_strip(tariff: Tariff, start: datetime, zone: str, units: Units) -> str:
    """Prices of the coming day as a small terrain, for the list."""
    slots = tariff.prices(start, start + timedelta(days=1), 30)
    width, high = 320.0, 34.0
    highest = max((slot.price_per_kwh for slot in slots), default=1.0) or 1.0
    foot, first = 40.0, slots[0].start
    parts = [hatches("day")]
    for slot in slots:
        x, wide = ((each - first) / timedelta(days=1) * width for each in (slot.start, slot.end))
        tall = max(1.0, max(slot.price_per_kwh, 0.0) / highest * high)
        parts.append(ground(x, foot - tall, wide - x, height=tall, prefix="day"))
    parts.append(line(0, foot, width, foot, "base"))
    for hour in range(0, 24, 6):
        at = start + timedelta(hours=hour)
        x = hour / 24 * width
        parts += [line(x, foot, x, foot + 4, "tick"), text(x, foot + 17, units.clock(at.astimezone(ZoneInfo(zone))), "dim")]
    low = min(slot.price_per_kwh for slot in slots)
    return picture(
        width,
        foot + 20,
        f"The coming day, {units.text(low, 'price', 2)} to {units.text(highest, 'price', 2)}",
        "".join(parts),
        "strip",
    )


def year_strip(tariff: Tariff, shown: int, phone: bool = False) -> str:
    """The year with its seasons; days that two seasons claim are hatched."""
    width = NARROW if phone else WIDE
    left, days = (0.0, year_days()) if phone else (78.0, year_days())
    per = (width - left - 2) / len(days)
    parts = [hatches("slimyear" if phone else "year")]
    prefix = "slimyear" if phone else "year"
    parts.append(box(left, 6, per * len(days), 22, "terrain edge"))
    claims = [frozenset(season.days()) for season in tariff.seasons]
    for i, season in enumerate(tariff.seasons):
        for first, after, on in runs([day in claims[i] for day in days]):
            if on:
                x, wide = left + first * per, (after - first) * per
                parts.append(box(x, 6, wide, 22, "charge" if i + 1 == shown else "held"))
                if wide > 9 * len(season.name):
                    parts.append(text(x + wide / 2, 22, season.name, "mid inv b"))
    twice = [sum(day in claim for claim in claims) > 1 for day in days]
    for first, after, on in runs(twice):
        if on:
            parts.append(box(left + first * per, 2, max((after - first) * per, 3), 30, "warm", f"{prefix}-heat"))
    for month, name in enumerate("JFMAMJJASOND", 1):
        x = left + days.index((month, 1)) * per
        parts += [line(x, 28, x, 34, "tick"), text(x + 4, 44, name, "dim")]
    label = "The year: " + ("; ".join(_span(season) for season in tariff.seasons) or "one week for all of it")
    return picture(width, 50, label, "".join(parts), kind(phone))


def _span(season: Season) -> str:
    return f"{season.name} from {day_words(season.first)} to {day_words(season.last)}"
