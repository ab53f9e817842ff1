"""Room 2, Week: departures, which nights the cable goes in, for which car, and what becomes of them."""

from collections.abc import Mapping
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.errors import Refusal
from ....services.departures import room as departures_service
from ....services.shared.home import NotSetUp
from ....services.week import Week, WeekNight, week
from ...drawing.both import Both
from ...forms import parse
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.hours import hour, hour_up
from ...words.sentence import Verdict, percent
from ..departures import page as departures
from .picture import seven
from .words import evening_line, state_words, week_verdict

router = Router()
TABS = (
    Tab(
        of="",
        key="week",
        path="/week",
        words="Week",
        at=2,
        sign="M2.5 6v9M5 9v6M7.5 6v9M10 6v9M12.5 11v4M15 6v9M17.5 9v6",
        figures={"week": "Which nights", "rota": "Who has the cable"},
    ),
)
NOTHING: Mapping[str, str] = {}


@dataclass(frozen=True, kw_only=True)
class WeekView:
    """The nights for the template."""

    made: Week
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[WeekNight, tuple[str, ...]], ...]


@router.get("/week")
def room(request: Request) -> Response:
    """The coming week of a car and of those on its cable; `edit` fills the form with a departure, `on` with a day, `at` with a time."""
    if not snapshot_of(request).home.cars:
        return RedirectResponse("/setup", 303)
    asked, filled = whole_number(request.query_params.get("edit")), request.query_params
    more = {name: filled[key] for key, name in (("on", "on_date"), ("at", "at")) if filled.get(key)}
    return _page(request, whole_number(filled.get("car")), None, errors={}, status=200, asked=asked, filled=more)


def _page(
    request: Request,
    car: int | None,
    typed: Mapping[str, str] | None,
    *,
    errors: Mapping[str, str],
    status: int,
    asked: int | None,
    filled: Mapping[str, str] = NOTHING,
) -> Response:
    units = units_of(request)
    listed = departures.context(request, car, typed, errors, asked, filled=filled)
    cars = list(snapshot_of(request).home.names)
    return render(
        request, "week/room.html", status, room="week", view=_view(request, car, units), cars=cars, units=units, **listed
    )


def _view(request: Request, car: int | None, units: Units) -> WeekView | None:
    """The nights; None for a car that lacks an outlet or a tariff."""
    try:
        made = week(snapshot_of(request), car)
    except NotSetUp:
        return None
    return WeekView(
        made=made,
        verdict=week_verdict(made, units),
        picture=Both(lambda phone: seven(made, units, phone)),
        rows=tuple((each, _row(each, made, units)) for nights in zip(*made.rows, strict=True) for each in nights),
    )


@router.post("/week/departures")
def keep(request: Request, fields: Posted) -> Response:
    """Enter, change or put away a departure."""
    car, now = whole_number(fields.get("car"), 0), snapshot_of(request).now
    back = f"/week?car={car}"
    if fields.get("away"):
        return RedirectResponse(
            f"{back}&undo={departures_service.drop_departure(household_of(request), whole_number(fields['away'], 0), seen(fields))}",
            303,
        )
    asked = whole_number(fields.get("number"))
    form, errors = parse(departures.form_for(request, car), fields, units_of(request))
    days = frozenset(i for i in range(7) if fields.get(f"day_{i}") == "yes")
    if errors and not days and not fields.get("on_date", "").strip():
        errors["days"] = "Choose the weekdays it repeats on, or one date."
    if form is not None:
        typed = departures_service.TypedDeparture(
            name=form.name,
            at=form.at,
            days=days,
            on_date=form.on_date,
            region=form.region or "",
            warm_up=form.warm_up,
            km=form.km,
            day_id=form.day_id or None,
            nights=form.nights,
            place_id=form.place_id or None,
        )
        try:
            undo = departures_service.keep_departure(
                household_of(request), now, car, typed=typed, number=asked, seen_revision=seen(fields)
            )
            return RedirectResponse(f"{back}&undo={undo}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "name": units_of(request).refusal(refusal)}
    return _page(request, car, fields, errors=errors, status=422, asked=asked)


for _path in ("/tonight/week", "/tonight/rota", "/warm-up/departures"):

    @router.get(_path, include_in_schema=False)
    def moved(request: Request) -> Response:
        """Where the week's parts were before."""
        query = request.url.query
        return RedirectResponse(f"/week?{query}" if query else "/week", 308)


def _row(night: WeekNight, made: Week, units: Units) -> tuple[str, ...]:
    """A night in numbers."""
    it, zone = night.night, made.owned.zone
    blocks = it.plan.blocks if it.plugged else ()
    return (
        evening_line(night, units),
        state_words(night, units),
        ", ".join(f"{hour(each.start, zone, units)}–{hour_up(each.end, zone, units)}" for each in blocks[:3]) or "–",
        percent(it.soc),
        percent(it.leaves_soc),
        percent(night.needs_soc) if night.km > 0 else "–",
        percent(it.home_soc),
        units.money(it.plan.cost) if it.plugged else "–",
    )
