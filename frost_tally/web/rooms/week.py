"""Room 1, its week: on which of the coming seven nights the cable goes in."""

from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response

from ...services.week import Week, WeekNight, week
from ..drawing.both import Both
from ..drawing.nights import seven
from ..once import Router
from ..page import render, units_of, whole_number
from ..reading import snapshot_of
from ..units import Units
from ..words.hours import hour, hour_up
from ..words.sentence import Verdict, percent
from ..words.week import evening_line, week_verdict

router = Router(prefix="/tonight")


@dataclass(frozen=True, kw_only=True)
class WeekView:
    """Everything the template needs."""

    made: Week
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[str, ...], ...]


@router.get("/week")
def room(request: Request) -> Response:
    """The coming seven nights of a car."""
    units = units_of(request)
    car = whole_number(request.query_params.get("car")) or None
    made = week(snapshot_of(request), car)
    shown = WeekView(
        made=made,
        verdict=week_verdict(made, units),
        picture=Both(lambda phone: seven(made, units, phone)),
        rows=tuple(_row(each, made, units) for each in made.nights),
    )
    return render(request, "tonight/week.html", room="tonight", view=shown, units=units)


def _row(night: WeekNight, made: Week, units: Units) -> tuple[str, ...]:
    """A night in numbers."""
    blocks = night.plan.blocks if night.plan else ()
    return (
        evening_line(night, units),
        ", ".join(
            f"{hour(each.start, made.owned.zone, units)}–{hour_up(each.end, made.owned.zone, units)}" for each in blocks[:3]
        )
        or "–",
        percent(night.soc),
        percent(night.leaves_soc),
        percent(night.needs_soc) if night.km > 0 else "–",
        percent(night.returns_soc),
        units.money(night.plan.cost) if night.plan else "–",
    )
