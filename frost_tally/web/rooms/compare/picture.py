"""Tariffs of a year drawn: what each costs in all, split into cars, house and standing charge, and who wins which month."""

from ....core.charge.compare import TariffYear
from ....core.charge.tariff import MONTHS
from ....services.compare import Comparison
from ...drawing.svg import box, ground, hatches, line, path, picture, text
from ...units import Units

WIDE, ROW, NARROW, NARROW_ROW = 1120.0, 96.0, 356.0, 150.0


def describe(made: Comparison, units: Units) -> str:
    """The comparison in words."""
    totals = "; ".join(
        f"{year.tariff.name} {units.money(year.total, 0)} of it cars {units.money(year.car_cost, 0)}" for year in made.years
    )
    wins = "; ".join(
        f"{year.tariff.name}: {', '.join(MONTHS[m] for m in range(12) if made.winners[m] == i) or 'none'}"
        for i, year in enumerate(made.years)
    )
    return f"A year under each tariff: {totals}. Cheapest in: {wins}."


def wide(made: Comparison, units: Units) -> str:
    """Bars of the year on the left, months on the right, a row for each tariff."""
    parts = [hatches("months"), *_months_head(660, 37)]
    for i in range(len(made.years)):
        top = 26 + i * ROW
        parts += _bar(made, i, units, x=0, top=top, width=610, prefix="months")
        parts += _months(made, i, units, x=660, top=top + 6, step=37, deep=54, prefix="months")
        parts.append(line(0, top + ROW - 8, WIDE, top + ROW - 8, "faint"))
    return picture(WIDE, 26 + ROW * len(made.years), describe(made, units), "".join(parts), "ribbon ribbon-wide")


def upright(made: Comparison, units: Units) -> str:
    """The same for a phone: months under each bar."""
    parts = [hatches("slimmonths")]
    for i in range(len(made.years)):
        top = 4 + i * NARROW_ROW
        parts += _bar(made, i, units, x=0, top=top, width=NARROW, prefix="slimmonths")
        parts += _months(made, i, units, x=0, top=top + 84, step=29, deep=36, prefix="slimmonths")
        parts.append(line(0, top + NARROW_ROW - 6, NARROW, top + NARROW_ROW - 6, "faint"))
    height = 22 + NARROW_ROW * len(made.years)
    parts += [text(29 * m + 12, height - 4, MONTHS[m][0], "mid dim") for m in range(12)]
    return picture(NARROW, height, describe(made, units), "".join(parts), "ribbon ribbon-upright")


def _bar(made: Comparison, i: int, units: Units, *, x: float, top: float, width: float, prefix: str) -> list[str]:
    """One year's money to scale from zero: cars solid, house dotted, standing charge open."""
    year: TariffYear = made.years[i]
    most = max(each.total for each in made.years) or 1.0
    per = width / most
    marks = [word for word, is_it in (("now", i == made.now), ("least", i == made.best)) if is_it]
    parts = [
        text(x, top + 16, year.tariff.name, "b"),
        text(x + width, top + 16, f"{units.money(year.total, 0)}{'  ' + ', '.join(marks) if marks else ''}", "end b"),
    ]
    at = x
    for cost, words, fill in (
        (year.car_cost, "cars", "charge"),
        (year.house_cost, "house", "terrain edge"),
        (year.standing, "standing", "open"),
    ):
        wide = max(cost, 0.0) * per
        dotted = fill.startswith("terrain")
        parts.append(
            ground(at, top + 26, wide, height=28, prefix=prefix, class_=fill) if dotted else box(at, top + 26, wide, 28, fill)
        )
        label = f"{words} {units.money(cost, 0)}"
        if wide > 8.2 * len(label):
            parts.append(text(at + 6, top + 45, label, "inv b" if fill == "charge" else "b"))
        at += wide
    return parts


def _months_head(x: float, step: float) -> list[str]:
    return [text(x + step * m + step / 2 - 3, 16, MONTHS[m][:3], "mid dim") for m in range(12)]


def _months(made: Comparison, i: int, units: Units, *, x: float, top: float, step: float, deep: float, prefix: str) -> list[str]:
    """Twelve columns: a tally mark where it costs least, else how much more it takes than the least of that month."""
    least = [min(float(year.months[m]) for year in made.years) for m in range(12)]
    most = max(max(float(year.months[m]) - least[m] for m in range(12)) for year in made.years) or 1.0
    foot = top + deep
    parts = [line(x, foot, x + 12 * step - 6, foot, "rule")]
    for m in range(12):
        left, more = x + step * m, float(made.years[i].months[m]) - least[m]
        if made.winners[m] == i:
            parts.append(path([(left + step / 2 - 3, foot - 2), (left + step / 2 - 3, foot - deep * 0.62)], "tally-stroke"))
            continue
        high = max(1.5, more / most * (deep - 16))
        parts.append(box(left + 4, foot - high, step - 14, high, "rime-line", f"{prefix}-cold"))
        if step > 30 and more * units.exchange_rate >= 0.5:
            parts.append(text(left + step / 2 - 3, foot - high - 4, f"+{more * units.exchange_rate:.0f}", "mid rime"))
    return parts
