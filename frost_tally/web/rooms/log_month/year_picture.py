"""The year drawn: twelve columns of energy from the wall, those of the year before as outlines beside them, the money above."""

from ....core.charge.tariff import MONTHS
from ....services.log_month.room import Year
from ...drawing.plot import kind
from ...drawing.svg import box, line, picture, text
from ...units import Units

WIDE, NARROW, HIGH = 1120.0, 356.0, 268.0


def columns(found: Year, units: Units, phone: bool = False) -> str:
    """Twelve pairs of columns from zero; the one that is drawn solid is this year's."""
    width = NARROW if phone else WIDE
    step, top, foot = width / 12, 60.0, HIGH - 24
    most = max([each.wall_kwh for each in (*found.months, *found.before)] + [1.0])

    def high(kwh: float) -> float:
        return kwh / most * (foot - top)

    parts = [line(0, foot, width, foot, "base")]
    for i, (now, before) in enumerate(zip(found.months, found.before, strict=True)):
        left, wide = i * step, step * 0.36
        if before.wall_kwh:
            parts.append(box(left + step * 0.06, foot - high(before.wall_kwh), wide, high(before.wall_kwh), "open"))
        if now.wall_kwh:
            parts.append(box(left + step * 0.46, foot - high(now.wall_kwh), wide, high(now.wall_kwh), "charge"))
        parts.append(text(left + step / 2 - 3, foot + 17, MONTHS[i][:1] if phone else MONTHS[i][:3], "mid dim"))
        if now.wall_kwh and not phone:
            parts.append(text(left + step * 0.64, foot - high(now.wall_kwh) - 22, units.money(now.cost, 0), "mid b"))
            parts.append(text(left + step * 0.64, foot - high(now.wall_kwh) - 6, f"{now.wall_kwh:.0f}", "mid dim"))
    parts.append(text(0, 14, f"kWh from the wall: {found.year} solid, {found.year - 1} outlined", "dim"))
    totals = [
        (each, sum(m.wall_kwh for m in months)) for each, months in ((found.year, found.months), (found.year - 1, found.before))
    ]
    label = "; ".join(f"{number}: {total:.0f} kWh from the wall" for number, total in totals)
    return picture(width, HIGH, label, "".join(parts), kind(phone))
