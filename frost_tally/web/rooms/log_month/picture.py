"""The month drawn: what home's energy cost against what it would have cost, to scale from zero, and the days' energy beside it."""

from ....services.log_month.room import Month
from ...drawing.plot import NARROW, WIDE, kind
from ...drawing.svg import box, ground, hatches, line, picture, text
from ...units import Units

BARS, DAYS_HIGH = 132.0, 132.0


def pictures(found: Month, units: Units) -> list[str]:
    """Lying for a desk, upright for a phone; none without energy."""
    return [_drawn(found, units, phone) for phone in (False, True)] if found.sums.wall_kwh else []


def _drawn(found: Month, units: Units, phone: bool) -> str:
    name, width = ("slimmonth", NARROW) if phone else ("widemonth", WIDE)
    bars = width if phone else 470.0
    parts = [hatches(name), *_money(found, units, bars, name)]
    left, top = (0.0, BARS + 10) if phone else (530.0, 0.0)
    parts += _days(found, left, width - left, top, name)
    height = BARS + 10 + DAYS_HIGH if phone else max(BARS, DAYS_HIGH)
    sums = found.sums
    was, mean, once = (units.money(each) for each in (sums.priced, sums.at_mean, sums.at_once))
    words = (
        f"Home’s energy cost {was}; at the mean price {mean}, at once {once}. "
        f"{len(found.days)} days with charges, {units.text(sums.wall_kwh, 'energy')} from the wall."
    )
    return picture(width, height, words, "".join(parts), kind(phone))


def _money(found: Month, units: Units, width: float, prefix: str) -> list[str]:
    """Three bars of money."""
    sums = found.sums
    if not sums.home_kwh:
        return []
    rows = (
        (sums.priced, "as it was", "charge"),
        (sums.at_mean, "at the mean price", ""),
        (sums.at_once, "at once when plugged in", ""),
    )
    most = max(*(each for each, _, _ in rows), 0.01)
    parts = []
    for i, (amount, label, solid) in enumerate(rows):
        top, wide = 2 + i * 44.0, max(amount, 0.0) / most * (width - 90)
        parts.append(text(0, top + 12, label, "b" if solid else "dim"))
        parts.append(
            box(0, top + 18, wide, 18, solid)
            if solid
            else ground(0, top + 18, wide, height=18, prefix=prefix, class_="terrain edge")
        )
        parts.append(text(wide + 8, top + 33, units.money(amount), "b"))
    return parts


def _days(found: Month, left: float, width: float, top: float, prefix: str) -> list[str]:
    """The days' kWh from the wall: cheap hours at home solid, dear ones hatched, elsewhere open."""
    step, foot = width / found.length, top + DAYS_HIGH - 24
    most = max([cheap + dear + away for cheap, dear, away in found.days.values()] + [1.0])
    parts = [line(left, foot, left + width, foot, "base")]
    parts.append(text(left, top + 12, "kWh by day: cheap hours solid, dear hatched, away open", "dim"))
    for day, each in found.days.items():
        x, y = left + (day - 1) * step, foot
        for kwh, fill in zip(each, ("charge", "heat", "open"), strict=True):
            high = kwh / most * (DAYS_HIGH - 52)
            y -= high
            if kwh > 0:
                parts.append(
                    box(x + 1, y, step - 3, high, "" if fill == "heat" else fill, f"{prefix}-heat" if fill == "heat" else "")
                )
    return [*parts, *(text(left + (day - 0.5) * step, foot + 17, str(day), "mid dim") for day in range(1, found.length + 1, 5))]
