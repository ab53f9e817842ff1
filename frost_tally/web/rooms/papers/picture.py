"""A bay from above, to scale: the wall, the post, the car both ways round, and the lead's path."""

from typing import Protocol

from ....core.charge.reach import GAP_M, Bay, Way
from ...drawing.plot import kind
from ...drawing.svg import box, element, line, path, picture, text
from ...units import Units
from .words import Leads

WIDE, NARROW, PER_M, FOOT_M = 1120.0, 356.0, 46.0, 0.3


class Bays(Leads, Protocol):
    """The bay beside the lead and its ways."""

    @property
    def bay(self) -> Bay:
        """The bay."""


def reach(made: Bays, units: Units, phone: bool = False) -> str:
    """Nose in beside tail in (one under the other on a phone); the lead solid where it reaches, hatched where it does not."""
    bay, cars = made.bay, 2 if made.second else 1
    before_m = max(bay.width_m / 2, 0.4 - bay.post_m)
    after_m = max((cars - 0.5) * bay.width_m, bay.post_m + 0.4)
    per = min(PER_M, ((NARROW if phone else WIDE / 2) - 10) / (before_m + after_m))
    width, height = (before_m + after_m) * per, (bay.car_length_m + GAP_M + FOOT_M) * per + 34
    parts, said = list[str](), list[str]()
    for i, way in enumerate(made.first):
        left, top = (0.0, i * height) if phone else (i * WIDE / 2, 0.0)
        zero = left + before_m * per
        parts.append(_bay(made, way, zero, top=top + 26, per=per, left=left, right=left + width))
        if made.second:
            parts.append(
                _bay(made, made.second[i], zero, top=top + 26, per=per, left=left, right=left + width, aside_m=bay.width_m)
            )
        reaches = "reaches" if way.needed_m <= made.lead_m else "too short"
        words = f"{'nose in' if way.nose_in else 'tail in'}: needs {units.text(way.needed_m, 'length', 1)}, {reaches}"
        parts.append(text(left, top + 14, words, "b"))
        said.append(words)
    high, wide = (2 * height, NARROW) if phone else (height, WIDE)
    return picture(wide, high, f"The bay from above. {'; '.join(said)}.", "".join(parts), kind(phone))


def _bay(made: Bays, way: Way, zero: float, *, top: float, per: float, left: float, right: float, aside_m: float = 0.0) -> str:
    bay = made.bay
    x0, y0 = zero + (aside_m - bay.car_width_m / 2) * per, top + GAP_M * per
    wide, long = bay.car_width_m * per, bay.car_length_m * per
    glass = y0 + (0.24 if way.nose_in else 0.66) * long
    points = [(zero + x * per, top + y * per) for x, y in way.path]
    fits = way.needed_m <= made.lead_m
    end = points[-1]
    return "".join(
        (
            line(left, top, right, top, "base"),
            box(x0, y0, wide, long, "terrain edge"),
            line(x0 + 6, glass, x0 + wide - 6, glass, "rule"),
            path(points, "level" if fits else "outside"),
            element("circle", cx=points[0][0], cy=points[0][1], r=6, class_="ink"),
            element("circle", cx=end[0], cy=end[1], r=5, class_="now"),
        )
    )
