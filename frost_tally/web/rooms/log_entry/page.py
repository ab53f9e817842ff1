"""Log, one entry: the quick one of two numbers, and the full form of every kind."""

from contextlib import suppress
from datetime import datetime, timedelta
from functools import partial
from typing import Any

from fastapi import Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel

from ....core.errors import Refusal
from ....core.log.kinds import KINDS, MOMENT, Entry
from ....formats import values
from ....services import log as log_service
from ....services.log_entry import quick as log_quick
from ....services.log_entry import room as service
from ....services.shared.home import NotSetUp, Stale
from ...forms import Filled, not_kept, number, parse, views
from ...guard import Posted, PostedNow
from ...navigation import Tab
from ...once import Router
from ...page import render, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.log import CAUTIONS, KIND_WORDS, SOURCES, noted_words
from .forms import CAR, EntryForm, unlimited

router = Router(prefix="/log")
TABS = (Tab(of="log", key="new", path="/log/new", words="New entry", at=1),)


class QuickForm(BaseModel):
    """What somebody in a garage types."""

    soc: float = number("Level now", "percent", 0.0, 1.0, "As the car shows it.")
    odometer: float | None = number(
        "Odometer", "distance", 0, 3_000_000, "All that the car has ever driven; may stay empty.", default=None
    )


@router.get("/new")
def quick(request: Request) -> Response:
    """Two numbers and a button."""
    return _quick(request, Filled())


def _quick(request: Request, filled: Filled) -> Response:
    units = units_of(request)
    asked = whole_number(filled.typed.get("car") or request.query_params.get("car"))
    known = log_quick.before(snapshot_of(request), asked)
    return render(
        request, "log_entry/quick.html", filled.status, room="log", tab="new", known=known,
        them=snapshot_of(request).home.names, said=_known_words(known, units),
        fields=unlimited(views(QuickForm, filled.typed, filled.errors, units)), errors=filled.errors, message=filled.message,
        kinds=KIND_WORDS,
    )  # fmt: skip


def _known_words(known: log_quick.Before, units: Units) -> str:
    """What was known last."""
    parts = []
    if known.soc is not None and known.soc_at is not None:
        parts.append(
            f"Last known: {units.text(known.soc, 'percent')} on {_when(known.soc_at.astimezone(known.owned.zone), units)}."
        )
    if known.odometer_km is not None:
        parts.append(f"The odometer showed {units.text(known.odometer_km, 'distance')}.")
    return " ".join(parts) or "Nothing is known of it yet."


def _when(at: datetime, units: Units) -> str:
    return f"{at:%A} {at.day} {at:%B}, {units.clock(at)}"


@router.post("/new")
def note(request: Request, fields: PostedNow) -> Response:
    """Note them, with what follows from them."""
    units = units_of(request)
    form, errors = parse(QuickForm, fields, units)
    if form is None:
        return _quick(request, Filled(fields, errors, status=422))
    try:
        car = whole_number(fields.get("car"), 0)
        say = partial(noted_words, units=units)
        undo = log_quick.quick(
            household_of(request), snapshot_of(request).now, car, form.soc, form.odometer, say=say, seen_revision=seen(fields)
        )
    except (Stale, Refusal) as problem:
        return _quick(request, not_kept(fields, QuickForm, problem, units))
    return RedirectResponse(f"/log?undo={undo}", 303)


@router.post("/new/late", include_in_schema=False)
def note_late(request: Request, fields: Posted) -> Response:
    """Note what a phone kept while it had no network, at the moment it was read; once, however often it is sent."""
    form, errors = parse(QuickForm, fields, units_of(request))
    try:
        if form is None:
            raise Refusal(" ".join(errors.values()))
        now = snapshot_of(request).now
        at = now - timedelta(seconds=whole_number(fields.get("ago_s"), 999_999_999))
        car = whole_number(fields.get("car"), 0)
        say = partial(noted_words, units=units_of(request))
        log_quick.late(household_of(request), now, car, at, form.soc, form.odometer, say=say)
    except log_quick.Already:
        return Response(status_code=204)
    except ValueError as problem:
        return JSONResponse({"detail": f"What was noted without a network could not be: {problem}"}, 422)
    return Response(status_code=204)


@router.get("/new/{kind}")
def blank(request: Request, kind: str) -> Response:
    """The form of a kind, filled with what is usual."""
    if kind not in KINDS:
        return RedirectResponse("/log/new", 303)
    return _page(request, kind, None, Filled())


@router.get("/{kind}/{which}")
def entry(request: Request, kind: str, which: str) -> Response:
    """An entry, to look at and correct."""
    return _page(request, kind, service.entry(snapshot_of(request), kind, whole_number(which, 0)), Filled())


def _form(request: Request, kind: str, known: Entry | None, how: str) -> tuple[EntryForm, log_service.Names]:
    """The form of a kind; what a known entry refers to can be chosen in it, also when it was put away since. A battery test that is the
    car's own figure (`how`) has a form of its own.
    """
    here = log_service.names(snapshot_of(request))
    if not here.cars:
        raise NotSetUp
    cars, outlets = dict(here.cars), dict(here.outlets)
    if known is not None:
        cars |= {known.car_id: here.every_car[known.car_id]}
        outlets |= {number: name for number, name in here.every_outlet.items() if number == known.values.get("outlet")}
    whole_kwh = {each.id: each.car.pack.usable_kwh_new for each in snapshot_of(request).home.cars}
    figure = kind == "capacity_test" and (how if known is None else known.values["how"]) == CAR
    return EntryForm(
        kind, tuple(cars.items()), outlets, here.zone, units_of(request), whole_kwh=whole_kwh if figure else None
    ), here


def _page(request: Request, kind: str, known: Entry | None, filled: Filled) -> Response:
    typed, errors = filled.typed, filled.errors
    form, here = _form(request, kind, known, (typed or request.query_params).get("how", ""))
    start = _start(request, kind, here) if known is None else known.values
    car = known.car_id if known else whole_number(request.query_params.get("car"), here.cars[0][0])
    return render(
        request, "log_entry/room.html", filled.status, room="log", tab="" if known else "new", kind=kind, known=known,
        title=f"{KIND_WORDS[kind][0].upper()}{KIND_WORDS[kind][1:]}: {'correct it' if known else 'what happened'}",
        fields=form.views(typed or form.texts(start, car), errors, known.assumed if known else frozenset()),
        figure=form.whole_kwh is not None, errors=errors,
        message=filled.message, cautions=CAUTIONS.get(kind, ()), by=_by(known) if known else "",
    )  # fmt: skip


def _by(entry: Entry) -> str:
    """Who read the values of an entry, and who wrote them down."""
    read = SOURCES.get(entry.source, entry.source)
    if not entry.noted_by:
        return read
    return entry.noted_by if entry.source == "owner" else f"{read}, sent by {entry.noted_by}"


def _start(request: Request, kind: str, here: log_service.Names) -> dict[str, Any]:
    """What a new entry starts from: now, and at home."""
    now = snapshot_of(request).now.replace(second=0, microsecond=0)
    first = next(iter(here.outlets), None)
    start: dict[str, Any] = {KINDS[kind].at: now} | ({"site": "home", "outlet": first} if kind == "charge" else {})
    for column in KINDS[kind].columns:
        with suppress(ValueError):
            told = request.query_params.get(column.name, "")
            if column.quantity == MOMENT:
                start[column.name] = values.aware(told)
            elif column.is_number:
                start[column.name] = min(max(values.number(told), column.low), column.high)
    return start


@router.post("/{kind}/{which}")
def keep(request: Request, kind: str, which: str, fields: Posted) -> Response:
    """Note a new entry, or correct one."""
    units = units_of(request)
    if kind not in KINDS:
        raise Refusal("There is no such kind of entry.")
    known = None if which == "new" else service.entry(snapshot_of(request), kind, whole_number(which, 0))
    form, _ = _form(request, kind, known, fields.get("how", ""))
    made, errors = form.read(fields, known)
    if made is None:
        return _page(request, kind, known, Filled(fields, errors, status=422))
    words = f"{KIND_WORDS[kind].capitalize()} {'corrected' if known else 'noted'}"
    try:
        _, undo = service.keep(household_of(request), made, snapshot_of(request).now, words, seen(fields))
    except (Stale, Refusal) as problem:
        return _page(request, kind, known, not_kept(fields, form.model, problem, units))
    return RedirectResponse(f"/log?undo={undo}", 303)


@router.post("/{kind}/{which}/remove")
def remove(request: Request, kind: str, which: str, fields: Posted) -> Response:
    """Take an entry away."""
    words = f"{KIND_WORDS.get(kind, 'Entry').capitalize()} taken away"
    return RedirectResponse(
        f"/log?undo={service.remove(household_of(request), kind, whole_number(which, 0), words, seen(fields))}", 303
    )


@router.post("/{kind}/{which}/confirm")
def confirm(request: Request, kind: str, which: str, fields: Posted) -> Response:
    """Everything that was assumed of an entry is right."""
    undo = service.confirm(household_of(request), kind, whole_number(which, 0), "Confirmed")
    return RedirectResponse(f"/log?undo={undo}", 303)
