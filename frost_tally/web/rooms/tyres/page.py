"""Room 2, its tyres: a log by wheel without the temperature, and which wheel falls."""

from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.drive.tyre_log import WHEELS
from ....core.errors import Refusal
from ....formats.writers import table_file
from ....services import tyres as service
from ...forms import choice, number, parse, views
from ...guard import PostedNow
from ...once import Router
from ...page import render, save, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.day import WHEELS as WHEEL_NAMES
from ...words.day import alarm_words
from ..day.page import YES_NO
from . import picture as drawing

router = Router(prefix="/day/tyres")


class ReadingForm(BaseModel):
    """One look at the tyres; wheels not looked at stay empty."""

    FL: float | None = number("Front left", "pressure", 50, 600, "", default=None)
    FR: float | None = number("Front right", "pressure", 50, 600, "", default=None)
    RL: float | None = number("Rear left", "pressure", 50, 600, "", default=None)
    RR: float | None = number("Rear right", "pressure", 50, 600, "", default=None)
    tyre_c: float = number("The tyres are at", "temperature", -45, 70, "Of the air where it stood for three hours.")
    warm: str = choice("Straight after a drive", YES_NO, "Then it counts as warm.", "no")


@router.get("")
def room(request: Request) -> Response:
    """The log of a car's tyres."""
    return _page(request, {}, {}, 200)


def _page(request: Request, typed: dict[str, str], errors: dict[str, str], status: int, car: int | None = None) -> Response:
    units = units_of(request)
    log = service.tyre_log(snapshot_of(request), car or whole_number(request.query_params.get("car")))
    values = {"tyre_c": units.field(log.outside_c, "temperature"), "warm": "no", **typed}
    args = (log.wheels, log.readings, log.placard_kpa, units)
    return render(
        request,
        "tyres/room.html",
        status,
        room="day",
        log=log,
        units=units,
        said=_said(log, units),
        pictures=[drawing.wheels(*args), drawing.wheels(*args, phone=True)] if log.readings else [],
        fields=views(ReadingForm, values, errors, units),
        wheels=WHEELS,
        names=WHEEL_NAMES,
    )


def _said(log: service.TyreLog, units: Units) -> tuple[str, str]:
    """The decision, and what follows."""
    if log.alarms:
        low = [WHEEL_NAMES[each.wheel] for each in log.alarms if each.wheel]
        which = f"the {' and the '.join(low)} tyre {'has' if len(low) == 1 else 'have'}" if low else "the tyres have"
        return f"{log.owned.name}: {which} too little air. Do not drive far.", " ".join(
            alarm_words(each, units) for each in log.alarms
        )
    bad = [WHEEL_NAMES[wheel.wheel] for wheel in log.wheels if wheel.suspect]
    if bad:
        said = f"{log.owned.name}: look at the {' and the '.join(bad)} tyre."
        return said, "It falls against the others, with the temperature taken out: a slow leak, a valve, or a nail."
    if any(wheel.per_month is not None for wheel in log.wheels):
        return f"{log.owned.name}: no wheel falls against the others.", "All of them follow the cold together, as they should."
    return f"{log.owned.name}: no verdict yet.", "Note all four wheels now and then, cold; from four looks on a slow leak shows."


@router.post("")
def note(request: Request, fields: PostedNow) -> Response:
    """Keep a look, or read the wheel sensors."""
    car, now = whole_number(fields.get("car"), 0), snapshot_of(request).now
    if fields.get("how") == "sensors":
        return RedirectResponse(
            f"/day/tyres?car={car}&undo={service.read_sensors(household_of(request), snapshot_of(request), car)}", 303
        )
    form, errors = parse(ReadingForm, fields, units_of(request))
    if form is not None:
        read: dict[str, Any] = {wheel: getattr(form, wheel) for wheel in WHEELS if getattr(form, wheel) is not None}
        try:
            undo = service.note(
                household_of(request),
                car,
                now,
                read,
                tyre_c=form.tyre_c,
                warm=form.warm == "yes",
                source="gauge",
                seen_revision=seen(fields),
            )
            return RedirectResponse(f"/day/tyres?car={car}&undo={undo}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "FL": units_of(request).refusal(refusal)}
    return _page(request, fields, errors, 422, car)


@router.get("/readings.csv")
def readings_csv(request: Request) -> Response:
    """All readings as CSV, in kPa and °C."""
    log = service.tyre_log(snapshot_of(request), whole_number(request.query_params.get("car")), years=200)
    rows = [
        [at.isoformat(), wheel, kpa, c, "yes" if warm else "no", source]
        for at, c, warm, source, kpas in log.all_looks
        for wheel, kpa in kpas.items()
    ]
    return save(table_file("tyres.csv", ["read_at", "wheel", "gauge_kpa", "tyre_c", "warm", "source"], rows))
