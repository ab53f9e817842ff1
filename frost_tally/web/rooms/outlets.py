"""Garage, the outlets bench: up to four supplies on the same need."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel

from ...core.basis import Figure, figures
from ...core.errors import Refusal
from ...household.home import Home
from ...services import clock as clocks
from ...services.outlets import BenchLevers, OutletsBench, outlets_bench
from ...services.remembered import NotYet
from ..drawing import bench as drawing
from ..forms import number, parse, shown, views
from ..page import render, units_of, whole_number
from ..units import Units
from ..words_garage import Said, bench_rows, bench_verdict

router = APIRouter(prefix="/garage/outlets")


class BenchForm(BaseModel):
    """The levers of the bench."""

    day_km: float | None = number("Day to cover", "distance", 1, 1500, "All its driving.", None)
    limit: float | None = number("Limit", "percent", 0.3, 1.0, "Where charging stops.", None)


@dataclass(frozen=True)
class BenchView:
    """Everything the template needs."""

    made: OutletsBench
    said: Said
    channels: tuple[str, str]
    climbs: tuple[str, str]
    rows: tuple[tuple[str, tuple[str, ...], str], ...]
    figures: tuple[Figure, ...]
    units: Units


def view(made: OutletsBench, units: Units) -> BenchView:
    """The bench as text and pictures."""
    args = (made.bench, made.need, units)
    wanted = ("supply.", "bench.", "session.")
    return BenchView(
        made,
        bench_verdict(made, units),
        (drawing.wide(*args), drawing.upright(*args)),
        (drawing.climb(*args), drawing.climb(*args, phone=True)),
        bench_rows(made, units),
        tuple(each for each in figures() if each.key.startswith(wanted)),
        units,
    )


def _pull(request: Request, units: Units) -> tuple[Callable[[BenchLevers], BenchLevers], dict[str, str]]:
    query = request.query_params
    form, errors = parse(BenchForm, dict(query), units)
    chosen = tuple(sorted({n for n in (whole_number(each) for each in query.getlist("outlet")) if n is not None}))
    values = {name: value for name, value in (form.model_dump() if form else {}).items() if value is not None}
    if "day_km" in query:
        values["chosen"] = chosen
    return (lambda usual: replace(usual, **values)), errors


def _made(request: Request, at_once: bool) -> tuple[OutletsBench, dict[str, str], Units]:
    """The bench with levers as typed; a lever that will not do is named and left as usual."""
    home: Home = request.app.state.home
    units, now, car = units_of(home, request), clocks.now(home), whole_number(request.query_params.get("car"))
    pull, errors = _pull(request, units)
    try:
        return outlets_bench(home, now, car, pull, at_once), errors, units
    except Refusal as refusal:
        errors = {**errors, refusal.field or "day_km": refusal.message}
        return outlets_bench(home, now, car, at_once=at_once), errors, units


@router.get("")
def room(request: Request) -> Response:
    """The bench; when it takes a moment to work out, the page comes first and fetches it."""
    try:
        made, errors, units = _made(request, at_once="now" not in request.query_params)
    except NotYet:
        return render(request, "garage/wait.html", room="garage", tab="outlets", title="Outlets on the bench",
                      words="Working out a year of nights on each outlet …", query=_again(request))  # fmt: skip
    levers = {"day_km": made.levers.day_km, "limit": made.levers.limit}
    values: Mapping[str, str] = {
        **shown(levers, BenchForm, units),
        **{n: request.query_params[n] for n in errors if n in request.query_params},
    }
    return render(request, "garage/outlets.html", 422 if errors else 200, room="garage", tab="outlets", view=view(made, units),
                  fields=views(BenchForm, values, errors, units), errors=errors, undo=request.query_params.get("undo", ""))  # fmt: skip


@router.get("/live")
def live(request: Request) -> Response:
    """The bench for pulled levers, or the messages for those that will not do."""
    made, errors, units = _made(request, at_once=False)
    if errors:
        return JSONResponse({"errors": errors}, 422)
    return render(request, "garage/outlets_preview.html", view=view(made, units))


def _again(request: Request) -> str:
    """The same page, this time worked out."""
    return f"/garage/outlets?{urlencode([*request.query_params.multi_items(), ('now', '1')])}"
