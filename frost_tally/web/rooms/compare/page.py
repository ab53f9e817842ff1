"""Garage, tariffs compared over a year."""

from collections.abc import Callable
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response
from pydantic import BaseModel

from ....core.basis import Figure, figures
from ....core.charge.tariff import MONTHS
from ....formats.writers import table_file
from ....services.compare import CompareInputs, Comparison, comparison
from ...drawing.both import Both
from ...forms import choice, number, picks
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...page import save
from ...units import Units
from ...words.garage import climate_words, compare_rows, compare_verdict, house_words
from ...words.sentence import Verdict
from . import picture as drawing

WAIT = "Planning every night of the last year for each car under each tariff …"
router = Router()
TABS = (Tab(of="garage", key="compare", path="/garage/compare", words="Compare", at=3),)


class AskForm(BaseModel):
    """The levers of the comparison."""

    shift: float | None = number("Moved into cheap hours", "percent", 0.0, 0.5, "A share of the house’s day.", default=None)
    trips: str | None = choice("Trips", {"log": "from the log", "usual": "the usual day"}, "Where the driving comes from.", None)
    tariff: tuple[int, ...] | None = picks("Compared", None)


@dataclass(frozen=True, kw_only=True)
class CompareView:
    """Everything the template needs."""

    made: Comparison
    verdict: Verdict
    pictures: Both
    rows: tuple[tuple[str, ...], ...]
    house: str
    climate: str
    figures: tuple[Figure, ...]
    units: Units


def view(made: Comparison, units: Units) -> CompareView:
    """The comparison as text and pictures."""
    wanted = ("house.", "bench.elsewhere", "night.", "supply.efficiency", "supply.overhead_")
    known = tuple(each for each in figures() if each.key.startswith(wanted))
    return CompareView(
        made=made,
        verdict=compare_verdict(made, units),
        pictures=Both(lambda phone: (drawing.upright if phone else drawing.wide)(made, units)),
        rows=compare_rows(made, units),
        house=house_words(made.house_source),
        climate=climate_words(made.cars[0], units),
        figures=known,
        units=units,
    )


def _compute(asked: Asked, override: Callable[[CompareInputs], CompareInputs]) -> Comparison:
    return comparison(asked.snapshot, override, asked.wait_s)


ROOM = LeverRoom(
    name="garage",
    path="/garage/compare",
    templates="compare",
    form=AskForm,
    compute=_compute,
    view=view,
    context=lambda made, request: {"tab": "compare"},
    fields={"tariffs": "tariff"},
    wait=("A year under each tariff", WAIT),
)
ROOM.mount(router)


@router.get("/garage/compare/months.csv")
def months_csv(request: Request) -> Response:
    """Each tariff's months as CSV, in the contracts' money."""
    made = ROOM.made(request, request.query_params).result
    header = ["tariff", "month", "total", "cars"]
    rows = [
        [year.tariff.name, name, f"{year.months[m]:.2f}", f"{year.car_months[m]:.2f}"]
        for year in made.years
        for m, name in enumerate(MONTHS)
    ]
    return save(table_file("tariffs-by-month.csv", header, rows))
