"""Room 2, its departures: those that repeat or happen once, what became of them, and the calendar."""

from collections.abc import Mapping
from datetime import date, datetime, time, timedelta
from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ....core.errors import Refusal
from ....core.heat.schedule import ADVISED, BY_HABIT, ListedDeparture
from ....core.heat.warm import HOLD_S, WarmUpChoice
from ....core.home import Home, OwnedCar, named
from ....formats import values
from ....formats.writers import table_file, write_file
from ....services.departures import room as service
from ....services.departures.feed import departure_feed
from ....services.departures.left import note_by_owner
from ...forms import choice, clock, day, number, shown, text, views
from ...guard import Posted
from ...once import Router
from ...page import save, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.warm import CHOICES
from .picture import fortnight
from .words import calendar_name, entries

router = Router()
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
WARMS = {ADVISED: "as advised that day", BY_HABIT: "as usual", **{each.value: CHOICES[each] for each in WarmUpChoice}}


NO_OUTLET, THERE = "somewhere without an outlet", "It charges there on the best outlet of that place."


class DepartureForm(BaseModel):
    """One departure; weekdays are boxes beside it."""

    name: str = text("Name", 40, "Such as work, or market.")
    at: time = clock("Leaves at", "On the clock of its place.")
    km: float = number("One way", "distance", 0.5, 500, "Driven out and home; a kept day has its own.", default=20.0)
    day_id: int = choice("Driven as", {"0": "out and home"}, "A day that you kept in Day.", 0)
    warm_up: str = choice("Warm up", WARMS)
    nights: int = number("Nights away", "count", 0, 21, "0: home again the same day.", default=0)
    place_id: int = choice("Stays at", {"0": NO_OUTLET}, THERE, 0)
    on_date: date | None = day("Or once, on", "Instead of weekdays.", None)
    region: str | None = text("Not on public holidays of", 12, "Two letters such as NO, DE-BY for a part; empty for none.", None)


def context(
    request: Request,
    car: int | None,
    typed: Mapping[str, str] | None,
    errors: Mapping[str, str],
    asked: int | None,
    *,
    filled: Mapping[str, str],
) -> dict[str, Any]:
    """The list of a car and the form: as typed, with a departure to change, or an empty one, and what is `filled` in."""
    units, now = units_of(request), snapshot_of(request).now
    listed = service.departures(snapshot_of(request), car)
    owned = listed.owned
    schedules, kept = [(each.name, each.schedule) for each in owned.departures], dict(named(owned.days))
    known = next((each for each in owned.departures if each.id == asked), None)
    ticked = (
        {i for i in range(7) if typed.get(f"day_{i}") == "yes"}
        if typed is not None
        else set(known.schedule.days)
        if known
        else set()
    )
    have = typed if typed is not None else {**_known(known, units), **filled}
    return {
        "listed": listed,
        "said": _said(listed, now, units),
        "fields": views(form_of(kept, _elsewhere(snapshot_of(request).home, owned)), have, errors, units),
        "pictures": [fortnight(now.astimezone(owned.zone), schedules, units, phone) for phone in (False, True)],
        "rules": {each.id: rule(each, kept, units) for each in owned.departures},
        "days": DAYS,
        "ticked": ticked,
        "number": known.id if known else None,
        "off_after_min": round(HOLD_S / 60),
        "off": listed.open.at + timedelta(seconds=HOLD_S) if listed.open else None,
        "errors": {"days": "", **errors},
    }


def form_of(days: Mapping[int, str], places: Mapping[int, str]) -> type[DepartureForm]:
    """The form with the days that are kept for a car, and the places where it can stay."""
    kept = {str(number): name for number, name in days.items()}
    options = choice("Driven as", {"0": "out and home", **kept}, "A day that you kept in Day.", 0)
    elsewhere = {"0": NO_OUTLET, **{str(number): name for number, name in places.items()}}
    stays = choice("Stays at", elsewhere, THERE, 0)
    return create_model("DepartureForm", __base__=DepartureForm, day_id=(int, options), place_id=(int, stays))


def form_for(request: Request, car: int) -> type[DepartureForm]:
    """The form of a car."""
    home = snapshot_of(request).home
    owned = home.car(car)
    return form_of(dict(named(owned.days)), _elsewhere(home, owned))


def _elsewhere(home: Home, owned: OwnedCar) -> dict[int, str]:
    """The places of the home where a car does not stand."""
    return {each.id: each.name for each in home.places if each.id != owned.place.id}


def _known(listed: ListedDeparture | None, units: Units) -> dict[str, str]:
    """The form of a departure, or an empty one."""
    if listed is None:
        return {"warm_up": ADVISED, "day_id": "0", "nights": "0", "place_id": "0"}
    plain = {name: getattr(listed, name) for name in ("name", "km", "warm_up", "region", "nights")}
    known = {
        **plain,
        "at": listed.schedule.at,
        "on_date": listed.schedule.on_date,
        "day_id": listed.day_id or 0,
        "place_id": listed.place_id or 0,
    }
    return shown(known, DepartureForm, units)


def rule(listed: ListedDeparture, kept: Mapping[int, str], units: Units) -> str:
    """When a departure comes, how far it goes and how it is warmed, in a line."""
    own = kept.get(listed.day_id or 0)
    far = f"driven as “{own}”" if own else f"{units.text(listed.km, 'distance')} one way"
    schedule = listed.schedule
    if schedule.on_date:
        when = f"once, {units.date(schedule.on_date, weekday='A', month='B', year=True)}"
    else:
        short = ", ".join(DAYS[i][:3] for i in sorted(schedule.days))
        when = {5: "Monday to Friday", 7: "every day"}.get(len(schedule.days) if schedule.days >= set(range(5)) else 0, short)
    free = f", not on holidays of {listed.region}" if listed.region else ""
    away = f"; {listed.nights} night{'s' if listed.nights > 1 else ''} away" if listed.nights else ""
    return f"{units.clock(schedule.at)}, {when}{free}; {far}{away}; warm-up {WARMS[listed.warm_up]}."


def _said(listed: service.DepartureList, now: datetime, units: Units) -> tuple[str, str]:
    """What comes next, and how the last weeks went."""
    coming = sorted((at, each.name) for each, at in listed.listed if at is not None)
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


@router.post("/week/departures/left")
def left(request: Request, fields: Posted) -> Response:
    """Note whether the car left, in one tap."""
    car, outcome = whole_number(fields.get("car"), 0), fields.get("outcome", "")
    try:
        due = values.aware(fields.get("due", ""))
    except ValueError:
        raise Refusal("The departure could not be read; open the page again.") from None
    number = note_by_owner(household_of(request), snapshot_of(request), car, due, outcome)
    return RedirectResponse(f"/week?car={car}&undo={number}", 303)


@router.get("/warm-up/departures.ics", include_in_schema=False)
@router.get("/week/departures.ics")
def calendar(request: Request) -> Response:
    """The calendar of a car, as file and feed."""
    now = snapshot_of(request).minute
    feed = departure_feed(snapshot_of(request), whole_number(request.query_params.get("car")))
    return save(write_file("departures", "departures.ics", (calendar_name(feed), entries(feed)), now))


@router.get("/week/departures/left.csv")
def left_csv(request: Request) -> Response:
    """What became of the departures, as CSV."""
    rows = service.leavings(snapshot_of(request), whole_number(request.query_params.get("car")))
    table = [[each.due_at.isoformat(), each.name, each.outcome, round(each.kwh, 3), each.source] for each in rows]
    return save(table_file("departures.csv", ["due_at", "departure", "outcome", "spent_kwh", "by"], table))
