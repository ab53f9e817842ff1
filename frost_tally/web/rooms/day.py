"""Room 2, Day: the range of a real day, the tally, what would help, and what the log taught."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel, create_model

from ...core.basis import Figure, figures
from ...core.drive.road import Surface
from ...core.errors import Refusal
from ...formats.gpx import read_track
from ...household.home import Home
from ...services import clock as clocks
from ...services import day as service
from ...services import garage as garage_service
from ...services.learning import learn_from_log
from ..drawing import fan, stair
from ..forms import choice, number, parse, shown, views
from ..guard import Posted, Upload
from ..page import render, units_of, whole_number
from ..units import Units
from ..words_day import learnt_words, lever_rows, rated_words, tyre_words, verdict
from ..words_garage import Said
from .tonight import SURFACES, Ledger, ledger

router = APIRouter()
YES_NO = {"no": "no", "yes": "yes"}
STYLES = {"0.85": "gentle", "1.0": "as usual", "1.2": "brisk"}
SEATS = {"0.0": "off", "1.0": "driver’s seat", "1.5": "driver’s seat and wheel", "2.0": "two seats", "2.5": "two seats and wheel"}
ROADS = (("town", "Town"), ("country", "Country"), ("motorway", "Motorway"))
SWITCHES = ("climate", "roof_box", "rear_carrier", "covers_off", "snow")


def _legs() -> dict[str, Any]:
    found: dict[str, Any] = {}
    for i in range(1, service.TRIPS + 1):
        for road, words in ROADS:
            found[f"{road}_{i}"] = (float | None, number(words, "distance", 0, 1000, "", None))
        if i < service.TRIPS:
            found[f"parked_{i}"] = (float | None, number("Then parked", "hours", 0, 72, "", None))
    return found


DayForm: type[BaseModel] = create_model(
    "DayForm",
    leave_soc=(float | None, number("Leaving with", "percent", 0.02, 1.0, "", None)),
    motorway_kmh=(float | None, number("Motorway", "speed", 50, 160, "", None)),
    out_c=(float | None, number("Outside", "temperature", -45, 45, "", None, 0.5)),
    tyre_kpa=(float | None, number("Tyres", "pressure", 100, 550, "Cold reading.", None)),
    cabin_c=(float | None, number("Cabin", "temperature", 10, 28, "", None, 0.5)),
    **_legs(),
    town_kmh=(float | None, number("Town traffic", "speed", 0, 60, "Average; 0 as the schedule has it.", None)),
    climb_m=(float | None, number("Climb", "height", 0, 6000, "All ascents of the day.", None)),
    wind_mps=(float | None, number("Wind", "speed_mps", 0, 30, "From any side.", None)),
    people=(int | None, number("People", "count", 1, 9, "With the driver.", None)),
    luggage_kg=(float | None, number("Luggage", "mass", 0, 1500, "", None)),
    surface=(Surface | None, choice("Road", SURFACES, "", None)),
    style=(str | None, choice("Driving", STYLES, "In stop-and-go.", None)),
    seats=(str | None, choice("Seats and wheel", SEATS, "", None)),
    climate=(str | None, choice("Heating and cooling", YES_NO, "", None)),
    roof_box=(str | None, choice("Roof box", YES_NO, "", None)),
    rear_carrier=(str | None, choice("Carrier behind", YES_NO, "", None)),
    covers_off=(str | None, choice("Wheel covers off", YES_NO, "", None)),
    snow=(str | None, choice("Snow on the car", YES_NO, "", None)),
)
MAIN = ("leave_soc", "motorway_kmh", "out_c", "tyre_kpa", "cabin_c")
REST = tuple(n for n in DayForm.model_fields if n not in MAIN and n.rsplit("_", 1)[-1] not in ("1", "2", "3"))


@dataclass(frozen=True)
class DayView:
    """Everything the template needs."""

    day: service.Day
    units: Units
    said: Said
    fans: tuple[str, str]
    stairs: tuple[str, str]
    gains: tuple[str, str]
    speeds: tuple[str, str]
    ledger: tuple[Ledger, ...]
    rated: str
    learnt: str
    tyres: str
    figures: tuple[Figure, ...]


def view(made: service.Day, units: Units) -> DayView:
    """The room as text and pictures."""
    tally, rows = made.tally, lever_rows(made, units)
    band = stair.range_band(made.start.soc, made.arrival, made.trip.distance_km, tally) if tally else (0.0, 0.0)
    kinds = ("rating.", "extras.", "lever.", "learn.", "certainty.")
    return DayView(
        made,
        units,
        verdict(made, units),
        (fan.fan(made, units), fan.fan(made, units, phone=True)),
        (stair.wide(tally, band, units), stair.upright(tally, band, units)) if tally else ("", ""),
        (fan.gains(rows), fan.gains(rows, phone=True)) if rows else ("", ""),
        (fan.speeds(made.speeds, made, units), fan.speeds(made.speeds, made, units, phone=True)) if made.speeds else ("", ""),
        ledger(tally, units),
        rated_words(made, units),
        learnt_words(made),
        tyre_words(made, units),
        tuple(each for each in figures() if each.key.startswith(kinds)),
    )


def _pull(typed: Mapping[str, str], units: Units) -> tuple[Callable[[service.DayLevers], service.DayLevers], dict[str, str]]:
    """A pull from what was typed; fields that will not do are left as usual and named."""
    form, errors = parse(DayForm, typed, units)
    if form is None:
        form, _ = parse(DayForm, {name: value for name, value in typed.items() if name not in errors}, units)
    values = {name: value for name, value in (form.model_dump() if form else {}).items() if value is not None}
    for name in SWITCHES:
        if name in values:
            values[name] = values[name] == "yes"
    for name, kind in (("style", float), ("seats", float)):
        if name in values:
            values[name] = kind(values[name])
    return (lambda usual: replace(usual, **values)), errors


def _made(request: Request) -> tuple[service.Day, dict[str, str], Units]:
    home: Home = request.app.state.home
    units, now, query = units_of(home, request), clocks.now(home), dict(request.query_params)
    pull, errors = _pull(query, units)
    car, preset = whole_number(query.get("car")), query.get("day", "usual")
    try:
        return service.day(home, now, car, preset, pull), errors, units
    except Refusal as refusal:
        errors = {**errors, refusal.field if refusal.field in DayForm.model_fields else "town_1": refusal.message}
        return service.day(home, now, car, preset), errors, units


@router.get("/day")
def room(request: Request) -> Response:
    """The room, with any levers in the address pulled."""
    made, errors, units = _made(request)
    known: dict[str, Any] = {name: getattr(made.levers, name) for name in DayForm.model_fields}
    known |= {name: "yes" if known[name] else "no" for name in SWITCHES} | {
        "style": str(made.levers.style),
        "seats": str(float(made.levers.seats)),
    }
    values = {**shown(known, DayForm, units), **{n: request.query_params[n] for n in errors if n in request.query_params}}
    return render(
        request,
        "day/room.html",
        422 if errors else 200,
        room="day",
        view=view(made, units),
        fields=views(DayForm, values, errors, units),
        main=MAIN,
        rest=REST,
        roads=[road for road, _ in ROADS],
        trips=range(1, service.TRIPS + 1),
        presets={
            **{key: label for key, (label, _) in service.PRESETS.items()},
            **{f"own-{number}": name for number, name in service.kept_days(request.app.state.home, made.night.car_id)},
        },
        kept=request.query_params.get("kept", ""),
        track=request.query_params.get("track", ""),
        chosen=request.query_params.get("day", "usual"),
        undo=request.query_params.get("undo", ""),
        errors=errors,
    )


@router.get("/day/live")
def live(request: Request) -> Response:
    """Verdict, pictures and ledger for pulled levers, or the messages for those that will not do."""
    made, errors, units = _made(request)
    if errors:
        return JSONResponse({"errors": errors}, 422)
    return render(request, "day/preview.html", view=view(made, units))


@router.post("/day/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the day as it is pulled under a name, put one away, or take that back."""
    home: Home = request.app.state.home
    car, chosen = whole_number(fields.get("car"), 0), fields.get("day", "usual")
    if fields.get("undo"):
        garage_service.undo(home, whole_number(fields["undo"], 0))
        return RedirectResponse(f"/day?car={car}", 303)
    if fields.get("how") == "away":
        undo = service.drop_day(home, whole_number(chosen.removeprefix("own-"), 0))
        return RedirectResponse(f"/day?car={car}&kept={undo}", 303)
    units = units_of(home, request)
    pull, errors = _pull(fields, units)
    if errors:
        raise Refusal(f"Nothing was kept: {next(iter(errors.values()))}")
    made = service.day(home, clocks.now(home), car, chosen, pull)
    number, undo = service.keep_day(home, car, fields.get("day_name", ""), made.levers)
    return RedirectResponse(f"/day?car={car}&day=own-{number}&kept={undo}", 303)


@router.post("/day/track")
def track(request: Request, sent: Upload) -> Response:
    """Put a GPX track into the first trip; nothing is kept."""
    home: Home = request.app.state.home
    if not sent.content:
        raise Refusal("Choose a GPX file first.")
    found, units = read_track(sent.content), units_of(home, request)
    values = {f"{road}_{i}": 0.0 for road, _ in ROADS for i in range(1, service.TRIPS + 1)}
    values |= {"town_1": found.town_km, "country_1": found.country_km, "motorway_1": found.motorway_km, "climb_m": found.climb_m}
    if 50 <= found.motorway_kmh <= 160:
        values["motorway_kmh"] = found.motorway_kmh
    if found.town_km > 0.5:
        values["town_kmh"] = min(found.town_kmh, 60.0)
    typed = {name: units.field(value, _quantity(name)) for name, value in values.items()}
    said = "; ".join(found.notes) or f"{found.hours * 60:.0f} minutes of driving"
    query = urlencode({"car": whole_number(sent.fields.get("car"), 0), **typed, "track": f"{sent.name}: {said}"[:160]})
    return RedirectResponse(f"/day?{query}", 303)


def _quantity(name: str) -> str:
    extra = DayForm.model_fields[name].json_schema_extra
    return str(extra["quantity"]) if isinstance(extra, dict) else "count"


@router.post("/day/learn")
def learn(request: Request, fields: Posted) -> Response:
    """Fit the car's own factors to its log, or take that back."""
    home: Home = request.app.state.home
    car = whole_number(fields.get("car"), 0)
    if fields.get("undo"):
        garage_service.undo(home, whole_number(fields["undo"], 0))
        return RedirectResponse(f"/day?car={car}", 303)
    _, undo = learn_from_log(home, car)
    return RedirectResponse(f"/day?car={car}&undo={undo}", 303)
