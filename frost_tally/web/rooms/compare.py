"""Garage, tariffs compared over a year."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel

from ...core.basis import Figure, figures
from ...core.charge.tariff import MONTHS
from ...core.errors import Refusal
from ...formats.table import write_table
from ...household.home import Home
from ...services import clock as clocks
from ...services.compare import Ask, Comparison, comparison
from ...services.remembered import NotYet
from ..drawing import months as drawing
from ..forms import choice, number, parse, shown, views
from ..page import render, units_of, whole_number
from ..units import Units
from ..words_garage import Said, compare_rows, compare_verdict
from .house import csv_file

WAIT = "Planning every night of the last year for each car under each tariff …"
router = APIRouter(prefix="/garage/compare")


class AskForm(BaseModel):
    """The levers of the comparison."""

    shift: float | None = number("Moved into cheap hours", "percent", 0.0, 0.5, "A share of the house’s day.", None)
    trips: str | None = choice("Trips", {"log": "from the log", "usual": "the usual day"}, "Where the driving comes from.", None)


@dataclass(frozen=True)
class CompareView:
    """Everything the template needs."""

    made: Comparison
    said: Said
    pictures: tuple[str, str]
    rows: tuple[tuple[str, ...], ...]
    figures: tuple[Figure, ...]
    units: Units


def view(made: Comparison, units: Units) -> CompareView:
    """The comparison as text and pictures."""
    wanted = ("house.", "bench.elsewhere", "night.", "supply.efficiency", "supply.overhead_")
    known = tuple(each for each in figures() if each.key.startswith(wanted))
    return CompareView(
        made,
        compare_verdict(made, units),
        (drawing.wide(made, units), drawing.upright(made, units)),
        compare_rows(made, units),
        known,
        units,
    )


def _made(request: Request, at_once: bool) -> tuple[Comparison, dict[str, str], Units]:
    home: Home = request.app.state.home
    units, now = units_of(home, request), clocks.now(home)
    pull, errors = _pull(request, units)
    try:
        return comparison(home, now, pull, at_once), errors, units
    except Refusal as refusal:
        return comparison(home, now, at_once=at_once), {**errors, refusal.field or "shift": refusal.message}, units


def _pull(request: Request, units: Units) -> tuple[Callable[[Ask], Ask], dict[str, str]]:
    query = request.query_params
    form, errors = parse(AskForm, dict(query), units)
    values = {name: value for name, value in (form.model_dump() if form else {}).items() if value is not None}
    chosen = tuple(dict.fromkeys(n for n in (whole_number(each) for each in query.getlist("tariff")) if n is not None))
    if "trips" in query:
        values["chosen"] = chosen
    return (lambda usual: replace(usual, **values)), errors


@router.get("")
def room(request: Request) -> Response:
    """The comparison; when it takes a moment to work out, the page comes first and fetches it."""
    try:
        made, errors, units = _made(request, at_once="now" not in request.query_params)
    except NotYet:
        return render(request, "garage/wait.html", room="garage", tab="compare", title="A year under each tariff",
                      words=WAIT, query="/garage/compare?now=1")  # fmt: skip
    values = shown({"shift": made.ask.shift}, AskForm, units) | {"trips": made.ask.trips}
    values |= {n: request.query_params[n] for n in errors if n in request.query_params}
    return render(request, "garage/compare.html", 422 if errors else 200, room="garage", tab="compare", view=view(made, units),
                  fields=views(AskForm, values, errors, units), errors=errors)  # fmt: skip


@router.get("/live")
def live(request: Request) -> Response:
    """The comparison for pulled levers, or the messages for those that will not do."""
    made, errors, units = _made(request, at_once=False)
    if errors:
        return JSONResponse({"errors": errors}, 422)
    return render(request, "garage/compare_preview.html", view=view(made, units))


@router.get("/months.csv")
def months_csv(request: Request) -> Response:
    """Each tariff's months as CSV, in the contracts' money."""
    made, _, _ = _made(request, at_once=False)
    header = ["tariff", "month", "total", "cars"]
    rows = [
        [year.tariff.name, name, f"{year.months[m]:.2f}", f"{year.car_months[m]:.2f}"]
        for year in made.years
        for m, name in enumerate(MONTHS)
    ]
    return csv_file(write_table(header, rows), "tariffs-by-month.csv")
