"""A year on each car: what its electricity costs as a bar with what is charged on the way hatched, and a stroke for every day missed."""

from ....services.another_car import AnotherCar
from ...drawing.plot import NARROW, WIDE, Scale, kind
from ...drawing.svg import box, element, hatches, line, picture, text
from ...units import Units
from .words import named

ROW, TOP, MOST_STROKES = 46.0, 26.0, 80


def years(room: AnotherCar, units: Units, phone: bool = False) -> str:
    """A row for each car, one's own first; fuel as a post."""
    wide, left = (NARROW, 0.0) if phone else (WIDE, 190.0)
    right, row = wide - 70.0, ROW + (20.0 if phone else 0.0)
    most = max(room.fuel_cost, *(each.cost for each in room.years))
    x, foot = Scale(0.0, most, left, right), TOP + row * len(room.years)
    name = "another-upright" if phone else "another"
    parts = [hatches(name)]
    for i, each in enumerate(room.years):
        y = TOP + row * i + (22 if phone else 4)
        own = each is room.own
        home = x(each.home_cost)
        parts += [
            text(0, y - 6 if phone else y + 15, named(room, each), "b" if own else ""),
            box(left, y, max(home - left, 1.0), 18, "charge" if own else "terrain"),
            element(
                "rect", x=home, y=y, width=max(x(each.cost) - home, 0.0), height=18, class_="step cold", fill=f"url(#{name}-cold)"
            ),
            text(x(each.cost) + 8, y + 14, units.money(each.cost, 0), "b" if own else ""),
        ]
        strokes = min(each.short_days, MOST_STROKES // 2 if phone else MOST_STROKES)
        parts += [
            line(left + 2 + 5 * j, y + 22, left + 2 + 5 * j, y + 31, "heat-stroke" if own else "rule") for j in range(strokes)
        ]
        if each.short_days:
            parts.append(text(left + 10 + 5 * strokes, y + 32, f"{each.short_days} missed", "dim"))
    fuel, where = x(room.fuel_cost), "mid b" if x(room.fuel_cost) < right - 60 else "end b"
    parts += [line(fuel, TOP - 10, fuel, foot, "limit"), text(fuel, TOP - 14, f"fuel {units.money(room.fuel_cost, 0)}", where)]
    said = "; ".join(f"{named(room, each)} {units.money(each.cost, 0)}, {each.short_days} days missed" for each in room.years)
    return picture(
        wide, foot + 8, f"A year on each car: {said}. In fuel {units.money(room.fuel_cost, 0)}.", "".join(parts), kind(phone)
    )
