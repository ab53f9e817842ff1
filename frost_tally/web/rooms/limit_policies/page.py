"""Room 4, its limit schools: what each everyday limit keeps of the pack, and what it would have left short."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.basis import Figure, figures
from ....core.battery.limit_policies import LimitPolicy
from ....services import limit_policies as service
from ....services.limit_policies import STORED_C, STORED_SOC, PoliciesRoom
from ...drawing.both import Both
from ...forms import choice, number
from ...guard import Posted
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...page import seen
from ...units import Units
from ...words.battery import CAUTIONS, band, points, school_verdict
from ...words.sentence import Verdict
from .picture import gains_and_gaps

router = Router()
TABS = (
    Tab(of="battery", key="schools", path="/battery/schools", words="Limit schools", at=2, figures={"schools": "Limit schools"}),
)
WHEN = {"yes": "late: full at departure", "no": "early: at once"}
STANDS = {"own": "as it does", "outdoor": "outdoors", "unheated": "an unheated garage", "heated": "a heated garage"}
CLIMATES = {"own": "yours", "hot": "a hot one"}


class SchoolsForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    limit: float | None = number("Everyday limit", "percent", 0.5, 1.0, "", default=None)
    years: int | None = number("Years", "count", 1, 20, "", default=None)
    stop_worth: float | None = number("A stop is worth", "money", 0, 100_000, "", default=None, step=0.5)
    raise_worth: float | None = number(
        "A night’s higher limit is worth", "money", 0, 1000, "To set it, and back.", default=None, step=0.05
    )
    weeks: float | None = number("Stored for weeks", "count", 1, 104, "", default=None)
    late: bool | None = choice("Charged", WHEN, "", None)
    stands: str | None = choice("It stands in", STANDS, "", None)
    heated_c: float | None = number("Heated to", "temperature", 0, 30, "Where it is heated.", default=None, step=0.5)
    climate: str | None = choice("Climate", CLIMATES, "A hot one has {14 °C} in January, {34 °C} in July.", None)
    weekly_full: bool | None = choice(
        "Full once a week", {"no": "no", "yes": "yes"}, "LFP packs want it for their display.", None
    )
    pack_price: float | None = number(
        "A new pack per kWh", "money", 0, 1_000_000, "That of its chemistry, from memory, until you type yours.", default=None
    )


MAIN = ("limit", "years", "stop_worth", "weeks")


@dataclass(frozen=True, kw_only=True)
class SchoolsView:
    """Everything the template needs."""

    room: PoliciesRoom
    units: Units
    verdict: Verdict
    picture: Both
    rows: Mapping[str, tuple[tuple[str, tuple[str, ...]], ...]]
    stored: tuple[tuple[str, tuple[str, ...]], ...]
    airs: tuple[str, ...]
    figures: tuple[Figure, ...]


def view(made: PoliciesRoom, units: Units) -> SchoolsView:
    """The room as text and pictures."""
    return SchoolsView(
        room=made,
        units=units,
        verdict=school_verdict(made, units),
        picture=Both(lambda phone: gains_and_gaps(made, units, phone)),
        rows={
            question: tuple((words, tuple(fact(each) for each in made.policies)) for words, fact in facts.items())
            for question, facts in _facts(made, units).items()
        },
        stored=tuple(
            (units.text(level, "percent"), tuple(points(float(each), units, 2) for each in row))
            for level, row in zip(STORED_SOC, made.stored, strict=True)
        ),
        airs=tuple(units.text(each, "temperature", 0) for each in STORED_C),
        figures=tuple(
            each for each in figures() if each.key.startswith(("schools.", "wear.", "trend.scale")) and units.counts(each.key)
        ),
    )


def _facts(made: PoliciesRoom, units: Units) -> dict[str, dict[str, Callable[[LimitPolicy], str]]]:
    """A row for each fact, by the question that it answers."""
    years = made.inputs.years
    keeps: dict[str, Callable[[LimitPolicy], str]] = {
        f"left of new after {years} years": lambda s: units.text(s.left[0], "percent", 1),
        "likely": lambda s: band(s.left[1], s.left[2]),
        "kept of the pack, points": lambda s: (
            f"{points(s.kept[0], units)} ({points(s.kept[1], units)} to {points(s.kept[2], units)})"
        ),
        "kept, in money": lambda s: units.money(s.money, 0),
    }
    asks: dict[str, Callable[[LimitPolicy], str]] = {
        "nights a year with a higher limit": lambda s: units.plain(s.raised, 1),
        f"what raising it is worth in {years} years": lambda s: units.money(s.raise_money, 0),
        "days a year that 100 % does not cover": lambda s: units.plain(s.short_days, 1),
        "charged on the way a year": lambda s: units.text(s.short_kwh, "energy", 0),
        f"what the way costs in {years} years": lambda s: units.money(s.way_money, 0),
        "kept less raising and the way": lambda s: units.money(s.net, 0),
    }
    besides: dict[str, Callable[[LimitPolicy], str]] = {
        "stands at the limit a day": lambda s: units.text(s.full_h, "hours"),
        "braking lost a year": lambda s: units.text(s.regen_kwh, "energy", 0),
    }
    return {
        "Why: what does each limit keep of the pack?": keeps,
        "Why: what does it ask of your days, in nights and stops?": asks,
        "Why: what comes with it every day?": besides,
    }


def _compute(asked: Asked, override: Callable[[service.PolicyInputs], service.PolicyInputs]) -> PoliciesRoom:
    return service.policies_room(asked.snapshot, asked.car, override)


ROOM = LeverRoom(
    name="battery", path="/battery/schools", templates="limit_policies", form=SchoolsForm, compute=_compute, view=view,
    context=lambda made, request: {"main": MAIN, "cautions": CAUTIONS[1:], "tab": "schools"},
)  # fmt: skip
ROOM.mount(router)


@router.post("/battery/schools/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Make the limit the habit's."""
    made = ROOM.made(request, fields)
    if made.overrides.errors:
        return ROOM.page(request, made)
    result, units = made.result, made.asked.units
    words = f"{units.text(result.inputs.limit, 'percent')} is {result.owned.name}’s everyday limit"
    undo = service.keep_limit(made.asked.household, result.car_id, result.inputs.limit, words, seen(fields))
    return RedirectResponse(f"/battery/schools?car={result.car_id}&undo={undo}", 303)
