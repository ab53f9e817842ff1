"""Room 2, Day: the range of a real day, the tally, what would help, and what the log taught."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ....core.basis import Figure, figures
from ....core.drive.day_inputs import MOST_TRIPS, DayInputs
from ....core.drive.road import Surface
from ....core.errors import Refusal
from ....formats.gpx import Track
from ....formats.readers import Here, read_file
from ....services.day import room as service
from ....services.day.learning import learn_from_log
from ....services.shared.home import holidays_of
from ...drawing import stair
from ...drawing.both import Both
from ...forms import choice, number
from ...guard import Posted, Upload
from ...levers import Asked, LeverRoom, Made
from ...navigation import Tab
from ...once import Router
from ...page import seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...tally_table import TallyRow, tally_table
from ...units import Units
from ...winter_lines import winter_lines
from ...words.day import help_rows, learnt_words, rated_words, remedy_rows, tyre_words, verdict
from ...words.lists import DAYS
from ...words.night import day_names, day_word
from ...words.sentence import Verdict
from ..tonight.page import SURFACES
from . import picture as fan

router = Router()
TABS = (Tab(of="", key="day", path="/day", words="Day", at=3, sign="M2 4h5v4h5v4h6v4",
    figures={
        "air": "Air", "road": "Road", "cycles": "Drive schedules", "trip": "Trip", "tally": "Tally", "style": "Driving style",
        "hills": "Hills", "extras": "What stands in the air", "tyres": "Tyres", "small": "Small things",
        "remedy": "Effort of what would help", "rating": "Ratings", "certainty": "Certainty", "learn": "Learning", "fast": "Fast charging",
        "long_day": "The long day", "roads": "Speeds that are a choice", "weekly": "Once a week at a fast post",
    }),)  # fmt: skip
YES_NO = {"no": "no", "yes": "yes"}
STYLES = {"0.85": "gentle", "1.0": "as usual", "1.2": "brisk"}
SEATS = {"0.0": "off", "1.0": "driver’s seat", "1.5": "driver’s seat and wheel", "2.0": "two seats", "2.5": "two seats and wheel"}
ROADS = (("town", "Town"), ("country", "Country"), ("motorway", "Motorway"))


def _legs() -> dict[str, Any]:
    found: dict[str, Any] = {}
    for i in range(1, MOST_TRIPS + 1):
        for road, words in ROADS:
            found[f"{road}_{i}"] = (float | None, number(words, "distance", 0, 1000, "", default=None))
        if i < MOST_TRIPS:
            found[f"parked_{i}"] = (float | None, number("Then parked", "hours", 0, 72, "", default=None))
    return found


DayForm: type[BaseModel] = create_model(
    "DayForm",
    leave_soc=(float | None, number("Leaving with", "percent", 0.02, 1.0, "", default=None)),
    motorway_kmh=(float | None, number("Motorway", "speed", 50, 160, "", default=None)),
    out_c=(float | None, number("Outside", "temperature", -45, 45, "", default=None, step=0.5)),
    tyre_kpa=(float | None, number("Tyres", "pressure", 100, 550, "Cold reading.", default=None)),
    cabin_c=(float | None, number("Cabin", "temperature", 10, 28, "", default=None, step=0.5)),
    **_legs(),
    town_kmh=(float | None, number("Town traffic", "speed", 0, 60, "Average; 0 as the schedule has it.", default=None)),
    climb_m=(float | None, number("Climb", "height", 0, 6000, "All ascents of the day.", default=None)),
    wind_mps=(float | None, number("Wind", "speed_mps", 0, 30, "From any side.", default=None)),
    people=(int | None, number("People", "count", 1, 9, "With the driver.", default=None)),
    luggage_kg=(float | None, number("Luggage", "mass", 0, 1500, "", default=None)),
    surface=(Surface | None, choice("Road", SURFACES, "", None)),
    style=(float | None, choice("Driving", STYLES, "In stop-and-go.", None)),
    seats=(float | None, choice("Seats and wheel", SEATS, "", None)),
    climate=(bool | None, choice("Heating and cooling", YES_NO, "", None)),
    roof_box=(bool | None, choice("Roof box", YES_NO, "", None)),
    rear_carrier=(bool | None, choice("Carrier behind", YES_NO, "", None)),
    covers_off=(bool | None, choice("Wheel covers off", YES_NO, "", None)),
    snow=(bool | None, choice("Snow on the car", YES_NO, "", None)),
    windows=(bool | None, choice("Windows a hand open", YES_NO, "", None)),
    pack_heat=(bool | None, choice("Pack heating on the way", YES_NO, "", None)),
    friction_share=(float | None, number("Braking in the discs", "percent", 0.0, 1.0, "0 with one pedal.", default=None)),
    humidity=(float | None, number("Damp air", "percent", 0.1, 1.0, "Hardly matters.", default=None)),
    jam_min=(float | None, number("A jam of", "minutes", 0, 600, "0 for none.", default=None)),
    jam_km=(float | None, number("over", "distance", 0.1, 100, "", default=None)),
    jam_at_km=(float | None, number("after", "distance", 0, 2000, "Of the day’s driving.", default=None)),
)
MAIN = ("leave_soc", "motorway_kmh", "out_c", "tyre_kpa", "cabin_c")
OFFERED_TRIPS = 4
REST = tuple(n for n in DayForm.model_fields if n not in MAIN and not n[-1].isdigit())


@dataclass(frozen=True, kw_only=True)
class DayView:
    """Everything the template needs."""

    day: service.Day
    units: Units
    verdict: Verdict
    fans: Both
    stairs: Both | None
    gains: Both | None
    helps: tuple[tuple[str, str, str], ...]
    speeds: Both | None
    tally_rows: tuple[TallyRow, ...]
    rated: str
    learnt: str
    tyres: str
    figures: tuple[Figure, ...]


def view(made: service.Day, units: Units) -> DayView:
    """The room as text and pictures."""
    tally, rows = made.tally, remedy_rows(made, units)
    band = stair.range_band(made.start.soc, made.arrival, made.trip.distance_km, tally) if tally else (0.0, 0.0)
    kinds = ("rating.", "extras.", "remedy.", "learn.", "certainty.")
    speeds = made.speeds
    return DayView(
        day=made,
        units=units,
        verdict=verdict(made, units),
        fans=Both(lambda phone: fan.fan(made, units, phone)),
        stairs=stair.both(tally, band, made.trip.distance_km, units) if tally else None,
        gains=Both(lambda phone: fan.gains(rows, units, phone)) if rows else None,
        helps=help_rows(made, units),
        speeds=Both(lambda phone: fan.speeds(speeds, made, units, phone)) if speeds else None,
        tally_rows=tally_table(tally, units),
        rated=rated_words(made, units),
        learnt=learnt_words(made, units),
        tyres=tyre_words(made, units),
        figures=tuple(each for each in figures() if each.key.startswith(kinds)),
    )


def _compute(asked: Asked, override: Callable[[DayInputs], DayInputs]) -> service.Day:
    return service.day(asked.snapshot, asked.car, asked.texts.get("day", ""), override)


def _context(made: Made[service.Day], request: Request) -> Mapping[str, object]:
    kept = {each.key: each.name for each in made.result.night.owned.days}
    chosen = made.asked.texts.get("day", "")
    chosen = chosen if chosen in (*DAYS, *kept) else made.result.night.inputs.day
    used = max((i for i, one in enumerate(made.result.inputs.trips, 1) if one.km > 0), default=1)
    offered = MOST_TRIPS if made.asked.texts.get("fields") == "all" else min(MOST_TRIPS, max(OFFERED_TRIPS, used + 1))
    return {
        "main": MAIN,
        "rest": [each for each in REST if each != "pack_heat" or made.result.night.car.pack.drive_heat_off],
        "trips": {i: [name for name in DayForm.model_fields if name.endswith(f"_{i}")] for i in range(1, offered + 1)},
        "used": used,
        "most_trips": MOST_TRIPS,
        "day_word": day_word(made.result.night),
        "presets": day_names(made.result.night, DAYS),
        "track": made.asked.texts.get("track", ""),
        "chosen": chosen,
        "day_name": kept.get(chosen, ""),
        "day_name_error": "",
        "winter": winter_lines(made.asked, made.result.night.car_id),
    }


ROOM = LeverRoom(
    name="day", path="/day", templates="day", form=DayForm, compute=_compute, view=view, context=_context,
    fields={"tyre_gauge_kpa": "tyre_kpa", "load_kg": "luggage_kg", "out_low_c": "out_c", "limit": "leave_soc"},
    flat=DayInputs.flat, overridden=DayInputs.overridden,
)  # fmt: skip
ROOM.mount(router)


@router.post("/day/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the day as it is pulled under a name."""
    made, name = ROOM.made(request, fields), fields.get("day_name", "")
    if made.overrides.errors:
        return ROOM.page(request, made, day_name=name)
    car = made.result.night.car_id
    try:
        number, undo = service.keep_day(made.asked.household, car, name, made.result.inputs, seen(fields))
    except Refusal as refusal:
        return ROOM.page(request, made, 422, day_name=name, day_name_error=refusal.message)
    return RedirectResponse(f"/day?car={car}&day=own-{number}&undo={undo}", 303)


@router.post("/day/put-away")
def put_away(request: Request, fields: Posted) -> Response:
    """Put a kept day away."""
    undo = service.drop_day(household_of(request), whole_number(fields.get("day", "").removeprefix("own-"), 0), seen(fields))
    return RedirectResponse(f"/day?car={whole_number(fields.get('car'), 0)}&undo={undo}", 303)


@router.post("/day/track")
def track(request: Request, sent: Upload) -> Response:
    """Put a GPX track into the first trip; nothing is kept."""
    if not sent.content:
        raise Refusal("Choose a GPX file first.")
    found: Track = read_file("track", sent.content, Here(snapshot_of(request).home.place.zone, holidays_of))
    units = units_of(request)
    values = {f"{road}_{i}": 0.0 for road, _ in ROADS for i in range(1, MOST_TRIPS + 1)}
    values |= {"town_1": found.town_km, "country_1": found.country_km, "motorway_1": found.motorway_km, "climb_m": found.climb_m}
    if 50 <= found.motorway_kmh <= 160:
        values["motorway_kmh"] = found.motorway_kmh
    if found.town_km > 0.5:
        values["town_kmh"] = min(found.town_kmh, 60.0)
    typed = {name: units.field(value, _quantity(name)) for name, value in values.items()}
    said = "; ".join(found.notes) or f"{found.hours * 60:.0f} minutes of driving"
    shown_in = units_of(request).code
    query = urlencode(
        {"car": whole_number(sent.fields.get("car"), 0), **typed, "shown_in": shown_in, "track": f"{sent.name}: {said}"[:160]}
    )
    return RedirectResponse(f"/day?{query}", 303)


def _quantity(name: str) -> str:
    extra = DayForm.model_fields[name].json_schema_extra
    return str(extra["quantity"]) if isinstance(extra, dict) else "count"


@router.post("/day/learn")
def learn(request: Request, fields: Posted) -> Response:
    """Fit the car's own factors to its log."""
    car = whole_number(fields.get("car"), 0)
    _, undo = learn_from_log(household_of(request), snapshot_of(request), car)
    return RedirectResponse(f"/day?car={car}&undo={undo}", 303)
