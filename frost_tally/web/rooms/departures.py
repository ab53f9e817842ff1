"""Room 3, its departures: those that repeat or happen once, what became of them, and the calendar."""

from collections.abc import Mapping
from datetime import date, datetime, time, timedelta

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ...core.errors import Refusal
from ...core.heat.warm import HOLD_S, WarmUpChoice
from ...formats import values
from ...formats.writers import table_file, write_file
from ...services import clock as clocks
from ...services import departures as service
from ...services import garage as garage_service
from ...services.day import kept_days
from ...services.departure_feed import departure_feed
from ...services.home import Home
from ...services.warmup import note_by_owner
from ..drawing.fortnight import fortnight
from ..forms import choice, clock, day, number, parse, shown, text, views
from ..guard import Posted
from ..once import Router
from ..page import home_of, render, save, seen, units_of, whole_number
from ..units import Units
from ..words.feed import calendar_name, entries
from ..words.warm import CHOICES

router = Router(prefix="/warm-up")
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
WARMS = {service.ADVISED: "as advised that day", **{each.value: CHOICES[each] for each in WarmUpChoice}}


class DepartureForm(BaseModel):
    """One departure; weekdays are boxes beside it."""

    name: str = text("Name", 40, "Such as work, or market.")
    at: time = clock("Leaves at", "On the clock of its place.")
    km: float = number("One way", "distance", 0.5, 500, "Driven out and home; a kept day has its own.", 20.0)
    day_id: int = choice("Driven as", {"0": "out and home"}, "A day that you kept in Day.", 0)
    warm_up: str = choice("Warm up", WARMS)
    on_date: date | None = day("Or once, on", "Instead of weekdays.", None)
    region: str | None = text("Not on public holidays of", 12, "Two letters such as NO, DE-BY for a part; empty for none.", None)


@router.get("/departures")
def room(request: Request) -> Response:
    """The list of a car, and the form; `edit` fills it with a departure."""
    if not garage_service.garage(home_of(request)).cars:
        return RedirectResponse("/setup", 303)
    number_asked = whole_number(request.query_params.get("edit"))
    return _page(request, whole_number(request.query_params.get("car")), None, {}, 200, number_asked)


def _page(
    request: Request,
    car: int | None,
    typed: Mapping[str, str] | None,
    errors: Mapping[str, str],
    status: int,
    number_asked: int | None,
) -> Response:
    home = home_of(request)
    units, now = units_of(home, request), clocks.now(home)
    listed = service.departures(home, now, car)
    named = [(each.name, service.schedule_of(each, listed.zone.key)) for each, _ in listed.rows]
    row = next((each for each, _ in listed.rows if each.id == number_asked), None)
    ticked = (
        {i for i in range(7) if typed.get(f"day_{i}") == "yes"}
        if typed is not None
        else {int(d) for d in row.days}
        if row
        else set()
    )
    fields = views(_form(home, listed.car.id), typed if typed is not None else _known(row, units), errors, units)
    return render(
        request,
        "warmup/departures.html",
        status,
        room="warm-up",
        listed=listed,
        cars=[(each.row.id, each.row.name) for each in garage_service.garage(home).cars],
        said=_said(listed, now, units),
        units=units,
        fields=fields,
        pictures=[fortnight(now.astimezone(listed.zone), named, units, phone) for phone in (False, True)],
        rules={each.id: rule(each, dict(kept_days(home, listed.car.id)), units) for each, _ in listed.rows},
        days=DAYS,
        ticked=ticked,
        number=row.id if row else None,
        off_after_min=round(HOLD_S / 60),
        off=listed.open.at + timedelta(seconds=HOLD_S) if listed.open else None,
        errors={"days": "", **errors},
    )


def _form(home: Home, car: int) -> type[DepartureForm]:
    """The form with the days that are kept for a car."""
    kept = {str(number): name for number, name in kept_days(home, car)}
    options = choice("Driven as", {"0": "out and home", **kept}, "A day that you kept in Day.", 0)
    return create_model("DepartureForm", __base__=DepartureForm, day_id=(int, options))


def _known(row: service.Listing | None, units: Units) -> dict[str, str]:
    """The form of a departure, or an empty one."""
    if row is None:
        return {"warm_up": service.ADVISED, "day_id": "0"}
    known = {name: getattr(row, name) for name in DepartureForm.model_fields} | {"day_id": row.day_id or 0}
    return shown(known, DepartureForm, units)


def rule(row: service.Listing, kept: Mapping[int, str], units: Units) -> str:
    """When a departure comes, how far it goes and how it is warmed, in a line."""
    own = kept.get(row.day_id or 0)
    far = f"driven as “{own}”" if own else f"{units.text(row.km, 'distance')} one way"
    if row.on_date:
        when = f"once, {row.on_date:%A %d %B %Y}"
    else:
        numbers = [int(each) for each in row.days]
        short = ", ".join(DAYS[i][:3] for i in numbers)
        when = {"01234": "Monday to Friday", "0123456": "every day"}.get(row.days, short)
    free = f", not on holidays of {row.region}" if row.region else ""
    return f"{units.clock(row.at)}, {when}{free}; {far}; warm-up {WARMS[row.warm_up]}."


def _said(listed: service.DepartureList, now: datetime, units: Units) -> tuple[str, str]:
    """What comes next, and how the last weeks went."""
    coming = sorted((at, row.name) for row, at in listed.rows if at is not None)
    lead = "No departure is listed."
    if coming:
        at, name = coming[0]
        day = f"{at:%A}" if at - now < timedelta(days=6) else f"{at:%A} {at.day} {at:%B}"
        lead = f"Next, {name}: {day} at {units.clock(at)}."
    missed = [each for each in listed.leavings if each.outcome == "missed"]
    kwh = sum(each.kwh for each in missed)
    then = "Tonight plans for the next one; holidays are skipped where a region is given."
    if missed:
        then = f"Of the last {len(listed.leavings)}, {len(missed)} stayed; {units.text(kwh, 'energy')} were spent for nothing. {then}"
    return lead, then


@router.post("/departures")
def keep(request: Request, fields: Posted) -> Response:
    """Enter, change or put away a departure."""
    home = home_of(request)
    car, now = whole_number(fields.get("car"), 0), clocks.now(home)
    back = f"/warm-up/departures?car={car}"
    if fields.get("away"):
        return RedirectResponse(f"{back}&undo={service.drop_departure(home, whole_number(fields['away'], 0), seen(fields))}", 303)
    asked = whole_number(fields.get("number"))
    form, errors = parse(_form(home, car), fields, units_of(home, request))
    days = frozenset(i for i in range(7) if fields.get(f"day_{i}") == "yes")
    if errors and not days and not fields.get("on_date", "").strip():
        errors["days"] = "Choose the weekdays it repeats on, or one date."
    if form is not None:
        typed = service.TypedDeparture(
            name=form.name,
            at=form.at,
            days=days,
            on_date=form.on_date,
            region=form.region or "",
            warm_up=form.warm_up,
            km=form.km,
            day_id=form.day_id or None,
        )
        try:
            return RedirectResponse(f"{back}&undo={service.keep_departure(home, now, car, typed, asked, seen(fields))}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "name": units_of(home, request).refusal(refusal)}
    return _page(request, car, fields, errors, 422, asked)


@router.post("/departures/left")
def left(request: Request, fields: Posted) -> Response:
    """Note whether the car left, in one tap."""
    home = home_of(request)
    car, outcome = whole_number(fields.get("car"), 0), fields.get("outcome", "")
    try:
        due = values.aware(fields.get("due", ""))
    except ValueError:
        raise Refusal("The departure could not be read; open the page again.") from None
    number = note_by_owner(home, clocks.now(home), car, due, outcome)
    return RedirectResponse(f"/warm-up/departures?car={car}&undo={number}", 303)


@router.get("/departures.ics")
def calendar(request: Request) -> Response:
    """The calendar of a car, as file and feed."""
    home = home_of(request)
    now = clocks.minute(home)
    feed = departure_feed(home, now, whole_number(request.query_params.get("car")))
    return save(write_file("departures", "departures.ics", (calendar_name(feed), entries(feed)), now))


@router.get("/departures/left.csv")
def left_csv(request: Request) -> Response:
    """What became of the departures, as CSV."""
    home = home_of(request)
    rows = service.leavings(home, whole_number(request.query_params.get("car")))
    table = [[each.due_at.isoformat(), each.name, each.outcome, round(each.kwh, 3), each.source] for each in rows]
    return save(table_file("departures.csv", ["due_at", "departure", "outcome", "spent_kwh", "by"], table))
