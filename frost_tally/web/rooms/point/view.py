"""The charge point's part of Tonight, as its template gets it."""

from dataclasses import dataclass

from ....services.tonight.point import PointNow
from ....services.tonight.room import Tonight
from ...drawing.both import Both
from ...drawing.course import Course, course
from ...units import Units
from ...words.hours import hour
from ...words.runner import line_words
from ...words.sentence import Part
from .words import stands

MOST = 12


@dataclass(frozen=True, kw_only=True)
class PointView:
    """Everything the template needs."""

    car_id: int
    outlet_id: int
    stands: tuple[Part, ...]
    alarm: str
    others: tuple[tuple[int, str], ...]
    lines: tuple[tuple[int, str, str, bool], ...]
    picture: Both | None
    open: bool


def point_view(point: PointNow, night: Tonight, units: Units) -> PointView:
    """How it stands, what the runner decided, and the night so far in a picture."""
    zone = night.zone
    words = tuple(stands(point, zone, units))
    said = "".join(each.text for each in words)
    numbered = list(enumerate(point.lines, 1))[-MOST:]
    under_way = point.own and len(point.drawn.steps) > 1
    made = Course(
        begun=point.since, departure=night.plan.request.departure, leaves=night.plan.request.departure, zone=zone,
        prices=point.prices, plan=night.plan, drawn=point.drawn, need_soc=max(0.0, min(1.0, night.need_limit)), lines=point.lines,
        now=night.now, prefix="live",
    )  # fmt: skip
    return PointView(
        car_id=night.car_id,
        outlet_id=point.outlet.id,
        stands=words,
        alarm=line_words(point.alarm, units) if point.alarm else "",
        others=tuple(each for each in night.cars if each[1] != point.car) if point.heard.plugged else (),
        lines=tuple((i, hour(each.at, zone, units), line_words(each, units), each.tells) for i, each in numbered),
        picture=Both(lambda phone: course(made, units, f"The night so far. {said}", phone)) if under_way else None,
        open=point.alarm is not None,
    )
