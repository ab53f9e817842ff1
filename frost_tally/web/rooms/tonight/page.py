"""Room 1, Tonight: the verdict, the ribbon, the tally, the levers, and plan beside fact."""

from collections.abc import Callable, Mapping
from datetime import datetime, time

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.advice.limit import Charges
from ....core.advice.night_inputs import NightInputs
from ....core.charge.control import How
from ....core.charge.start_check import Trouble
from ....core.drive.road import Surface
from ....core.errors import Refusal
from ....core.heat.warm import WarmUpChoice
from ....formats import values
from ....formats.writers import write_file
from ....services.departures.left import settle
from ....services.shared import clock as clocks
from ....services.shared.home import Household, Stale
from ....services.tariffs import fetch_all
from ....services.tonight import keeping as nights
from ....services.tonight import room as service
from ...forms import choice, clock, number, parse, views
from ...guard import Posted, PostedNow
from ...levers import Asked, LeverRoom, Made
from ...navigation import Tab
from ...once import Router
from ...page import save, seen, whole_number
from ...reading import household_of, snapshot_of
from ...winter_lines import winter_lines
from ...words.level import HAPPENED
from ...words.lists import CHARGES, CONTROLS, DAYS
from ...words.night import day_names
from ...words.warm import WARM_UPS
from ..point.page import acts_of, of_tonight
from .demo_nights import DEMO_NIGHTS
from .start import LOOK, TROUBLES
from .view import view

router = Router()
TABS = (Tab(of="", key="tonight", path="/tonight", words="Tonight", at=1, sign="M2 16h16M8 16v-5h5v5M2 7h6l5-4h5",
    figures={
        "start": "When the cable goes in", "night": "Night plan", "session": "Charging session", "supply": "Supply", "wear": "Wear",
        "level": "The level, carried on", "weather": "Weather that was typed", "live": "The night as it happens",
    }),)  # fmt: skip
ASKED = (
    ("A trip on Saturday?", "/week#entry"),
    ("Which nights at all, and whose is the cable?", "/week"),
    ("How full on ordinary days?", "/battery/schools"),
    ("When to warm it, and is it worth it?", "/warm-up"),
    ("What did this month cost?", "/log/month"),
    ("Was last night as cheap as it could be?", "/log/hindsight"),
    ("Is the battery as it should be?", "/battery"),
    ("At the airport for two weeks?", "/parked?days=14"),
    ("What if something fails in the night?", "/tonight/replay"),
    ("Is this outlet too weak?", "/garage/outlets"),
    ("What would another car, or fuel, cost me?", "/garage/another"),
    ("Where does a number come from?", "/basis"),
)
"""What owners ask most, beside what the room itself answers: each two taps from here."""
SURFACES = {"dry": "dry", "wet": "wet", "slush": "slush or snow"}
MAIN = ("limit", "depart", "km", "motorway_kmh", "tyre_kpa")


class LeverForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    limit: float | None = number("Limit", "percent", 0.3, 1.0, "Where charging stops.", default=None)
    depart: time | None = clock("Departs", "When you leave tomorrow.", None)
    km: float | None = number("Tomorrow", "distance", 1, 1500, "All driving of the day that follows.", default=None)
    motorway_kmh: float | None = number("Motorway", "speed", 50, 160, "Your steady speed there.", default=None)
    tyre_kpa: float | None = number("Tyres", "pressure", 100, 550, "Cold reading.", default=None)
    soc_now: float | None = number("Level now", "percent", 0.0, 1.0, "What the car shows.", default=None)
    plug_in: time | None = clock("Plugged in from", "When the cable is in.", None)
    out_now_c: float | None = number("Outside now", "temperature", -45, 45, "Type it if you know better.", default=None, step=0.5)
    out_low_c: float | None = number(
        "Low by morning", "temperature", -45, 45, "Type it if you know better.", default=None, step=0.5
    )
    cabin_c: float | None = number("Cabin", "temperature", 10, 28, "Set temperature.", default=None, step=0.5)
    people: int | None = number("People", "count", 1, 9, "With the driver.", default=None)
    warm_up: WarmUpChoice | None = choice("Warm up", WARM_UPS, "Before departure.", None)
    surface: Surface | None = choice("Road", SURFACES, "What lies on it.", None)
    control: How | None = choice("What starts it", CONTROLS, "As tonight’s cable can.", None)
    charges: Charges | None = choice("It is charged", CHARGES, "By habit, or for tonight.", None)
    held_from: time | None = clock("Not charging from", "The house needs its power then; twice the same time: never.", None)
    held_until: time | None = clock("Until", "Charging may go on from here.", None)


class NoteForm(BaseModel):
    """What happened: two levels."""

    actual_departure: float = number("Level when you left", "percent", 0.01, 1.0, "What the car showed.")
    actual_arrival: float = number("Level when you came home", "percent", 0.0, 1.0, "What it shows now.")


class LevelForm(BaseModel):
    """The level as the car shows it."""

    level: float = number("Level now", "percent", 0.0, 1.0, "What the car shows.")


class StartForm(BaseModel):
    """What was seen when the cable went in; the troubles are ticked."""

    amps: float | None = number("The car shows", "current", 0, 125, "Its amperes; empty if you did not look.", default=None)


def _compute(asked: Asked, override: Callable[[NightInputs], NightInputs]) -> service.Tonight:
    texts = asked.texts
    night = service.tonight(asked.snapshot, asked.car, override, texts.get("day", ""), whole_number(texts.get("tariff")))
    _ = night.tally  # the day is driven now, not while it is drawn
    return night


def _context(made: Made[service.Tonight], request: Request) -> Mapping[str, object]:
    return {
        "main": MAIN,
        "asked": ASKED,
        "presets": day_names(made.result, {"usual": DAYS["usual"]}),
        "tariff": made.asked.texts.get("tariff", "") if made.result.other_tariff else "",
        "demo_nights": DEMO_NIGHTS,
        "can_move": clocks.can_move(made.asked.household),
        "note_fields": views(NoteForm, {}, {}, made.asked.units),
        "level_fields": views(LevelForm, {}, {}, made.asked.units),
        "doubt": "",
        "start_fields": views(StartForm, {}, {}, made.asked.units),
        "ticked": (),
        "look": LOOK,
        "troubles": [(code.value, words) for code, (words, _) in TROUBLES.items()],
        "message": "",
        "winter": winter_lines(made.asked, made.result.car_id),
        "stand_in": acts_of(made.asked.household, made.result.owned.name),
        "point": of_tonight(request, made.result.car_id, made.result),
        "facts_open": "facts" in request.query_params,
    }


ROOM = LeverRoom(
    name="tonight",
    path="/tonight",
    templates="tonight",
    form=LeverForm,
    compute=_compute,
    view=view,
    context=_context,
    parts=("lead", "live", "tally", "why"),
    fields={"tyre_gauge_kpa": "tyre_kpa", "load_kg": "people"},
)
ROOM.mount(router)


@router.get("/tonight/plan/{name}")
def plan_file(request: Request, name: str) -> Response:
    """The plan as a charging profile or as CSV, with any levers in the address pulled."""
    made = ROOM.made(request, request.query_params)
    return save(write_file("plan", name, nights.profile(made.result), snapshot_of(request).now))


Decides = Callable[[Household, service.Tonight, int, datetime], int]


def _decided(request: Request, fields: Mapping[str, str], act: Decides) -> Response:
    """The night that was shown, decided about: of another night, or of another state of the home, the page is shown anew."""
    made = ROOM.made(request, fields)
    if made.overrides.errors:
        return ROOM.page(request, made)
    try:
        number = act(household_of(request), made.result, seen(fields), values.aware(fields.get("departure", "")))
    except Stale as problem:
        words = f"{problem} Nothing was saved; this is the plan for your levers as things are now. Look at it, then keep it."
        return ROOM.page(request, made, 409, message=words)
    except ValueError as problem:
        made.overrides.refused["depart"] = (
            problem.message if isinstance(problem, Refusal) else "The departure could not be read; open the page again."
        )
        return ROOM.page(request, made)
    return RedirectResponse(f"/tonight?car={made.result.car_id}&undo={number}", 303)


@router.post("/tonight/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the plan for tonight: it is tonight from then on."""
    return _decided(request, fields, nights.keep)


@router.post("/tonight/keep-evenings")
def keep_evenings(request: Request, fields: Posted) -> Response:
    """Keep the plan for tonight, and each evening's from now on."""
    return _decided(request, fields, nights.keep_evenings)


@router.post("/tonight/keep-for-good")
def keep_for_good(request: Request, fields: Posted) -> Response:
    """Make the levers the car's usual ones."""
    return _decided(request, fields, nights.keep_for_good)


@router.post("/tonight/put-back")
def put_back(request: Request, fields: Posted) -> Response:
    """Leave the plan that is kept: tonight is as usual again."""
    return _decided(request, fields, nights.leave)


@router.post("/tonight/note")
def note(request: Request, fields: PostedNow) -> Response:
    """Enter what happened beside the plan."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    units, now = made.asked.units, made.asked.snapshot.now
    form, errors = parse(NoteForm, fields, units)
    if form is not None:
        night, sure = whole_number(fields.get("night"), 0), fields.get("sure") == "yes"
        try:
            number = nights.note(
                household_of(request),
                night,
                form.actual_departure,
                form.actual_arrival,
                now,
                sure=sure,
                seen_revision=seen(fields),
            )
            return RedirectResponse(f"/tonight?car={made.result.car_id}&facts=open&undo={number}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "actual_arrival": refusal.message}
    return ROOM.page(request, made, 422, note_fields=views(NoteForm, fields, errors, units), doubt=errors.get("sure", ""))


@router.post("/tonight/level")
def level(request: Request, fields: PostedNow) -> Response:
    """Note the level that the car shows."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    form, errors = parse(LevelForm, fields, made.asked.units)
    if form is None:
        return ROOM.page(request, made, 422, level_fields=views(LevelForm, fields, errors, made.asked.units))
    number = nights.note_level_now(household_of(request), made.result.car_id, made.asked.snapshot.now, form.level, seen(fields))
    return RedirectResponse(f"/tonight?car={made.result.car_id}&undo={number}", 303)


@router.post("/tonight/charged")
def charged(request: Request, fields: PostedNow) -> Response:
    """Tell what became of the night that a level contradicts."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    car, happened = made.result.car_id, fields.get("happened", "")
    if happened not in HAPPENED:
        return ROOM.page(request, made, 422, message="That answer is not known; open the page again.")
    try:
        number = nights.tell_night(
            household_of(request),
            car,
            made.asked.snapshot.now,
            happened=nights.Happened(happened),
            words=HAPPENED[happened],
            seen_revision=seen(fields),
        )
    except Refusal as refusal:
        return ROOM.page(request, made, 422, message=refusal.message)
    return RedirectResponse(f"/tonight?car={car}&undo={number}", 303)


@router.post("/tonight/start")
def start(request: Request, fields: PostedNow) -> Response:
    """Note what was seen when the cable went in."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    car, now = made.result.car_id, made.asked.snapshot.now
    form, errors = parse(StartForm, fields, made.asked.units)
    ticked = tuple(each for each in fields.get("trouble", "").split(",") if each)
    if form is None or not set(ticked) <= set(Trouble):
        errors = errors or {"amps": "One of the ticked troubles is not known; open the page again."}
        shown = views(StartForm, fields, errors, made.asked.units)
        return ROOM.page(request, made, 422, start_fields=shown, ticked=ticked)
    number = nights.note_start(household_of(request), car, now, troubles=ticked, amps=form.amps, seen_revision=seen(fields))
    return RedirectResponse(f"/tonight?car={car}&undo={number}", 303)


@router.post("/tonight/clock")
def move_clock(request: Request, fields: Posted) -> Response:
    """Move a clock that stands still on to the next evening or morning."""
    now = clocks.move_on(household_of(request))
    fetch_all(household_of(request), now)
    settle(household_of(request), now)
    return RedirectResponse(f"/tonight?car={whole_number(fields.get('car'), 0)}", 303)
