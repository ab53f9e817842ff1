"""Room 1, Tonight: the verdict, the ribbon, the tally, the levers, and plan beside fact."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, time
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel

from ...core.basis import Figure, figures
from ...core.drive.certainty import LEAST_ERRORS
from ...core.drive.road import Surface
from ...core.drive.tally import Tally
from ...core.errors import Refusal
from ...core.heat.warm import WarmUpChoice
from ...household.home import Home, Stale
from ...services import clock as clocks
from ...services import nights
from ...services import tonight as service
from ...services.evening import Levers
from ...services.tariffs import fetch_all
from ...services.warmup import settle
from ..drawing import ribbon, stair
from ..forms import FieldView, choice, clock, number, parse, shown, views
from ..guard import Posted
from ..page import render, units_of, whole_number
from ..units import Units
from ..wording import NBSP, Verdict, cause_words, hour, hour_up, night_title, verdict
from ..words_warm import CHOICES

router = APIRouter()
WARM_UPS = {each.value: words for each, words in CHOICES.items()}
SURFACES = {"dry": "dry", "wet": "wet", "slush": "slush or snow"}
MAIN = ("limit", "depart", "km", "motorway_kmh", "tyre_kpa")


class LeverForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    limit: float | None = number("Limit", "percent", 0.3, 1.0, "Where charging stops.", None)
    depart: time | None = clock("Departs", "When you leave tomorrow.", None)
    km: float | None = number("Tomorrow", "distance", 1, 1500, "All of tomorrow’s driving.", None)
    motorway_kmh: float | None = number("Motorway", "speed", 50, 160, "Your steady speed there.", None)
    tyre_kpa: float | None = number("Tyres", "pressure", 100, 550, "Cold reading.", None)
    soc_now: float | None = number("Level now", "percent", 0.0, 1.0, "What the car shows.", None)
    plug_in: time | None = clock("Plugged in from", "When the cable is in.", None)
    out_now_c: float | None = number("Outside now", "temperature", -45, 45, "Type it if you know better.", None, 0.5)
    out_low_c: float | None = number("Low by morning", "temperature", -45, 45, "Type it if you know better.", None, 0.5)
    cabin_c: float | None = number("Cabin", "temperature", 10, 28, "Set temperature.", None, 0.5)
    people: int | None = number("People", "count", 1, 9, "With the driver.", None)
    warm_up: WarmUpChoice | None = choice("Warm up", WARM_UPS, "Before departure.", None)
    surface: Surface | None = choice("Road", SURFACES, "What lies on it.", None)


class NoteForm(BaseModel):
    """What happened: two levels."""

    actual_departure: float = number("Level when you left", "percent", 0.01, 1.0, "What the car showed.")
    actual_arrival: float = number("Level when you came home", "percent", 0.0, 1.0, "What it shows now.")


@dataclass(frozen=True)
class Ledger:
    """One line of the why: cause, kilometres, share, energy, money, reason and the figures it rests on."""

    label: str
    km: str
    share: str
    kwh: str
    cost: str
    why: str
    figures: tuple[Figure, ...]


@dataclass(frozen=True)
class TonightView:
    """Everything the template needs."""

    night: service.Tonight
    units: Units
    title: str
    verdict: Verdict
    ribbon_wide: str
    ribbon_upright: str
    stair_wide: str
    stair_upright: str
    ledger: tuple[Ledger, ...]
    chips: tuple[tuple[str, str, str], ...]


def view(night: service.Tonight, units: Units) -> TonightView:
    """The room as text and pictures."""
    tally = night.tally
    band = stair.range_band(night.plan.soc_departure, night.arrival, night.levers.km, tally) if tally else (0.0, 0.0)
    return TonightView(
        night,
        units,
        night_title(night),
        verdict(night, units),
        ribbon.wide(night, units),
        ribbon.upright(night, units),
        stair.wide(tally, band, units) if tally else "",
        stair.upright(tally, band, units) if tally else "",
        ledger(tally, units),
        _chips(night, units),
    )


def ledger(tally: Tally | None, units: Units) -> tuple[Ledger, ...]:
    """The tally's steps as lines with their reasons and figures."""
    known = {each.key: each for each in figures()}
    return tuple(
        Ledger(
            cause_words(step.cause, units),
            units.text(-step.lost_km, "distance", 1, unit=False),
            units.text(-step.share, "percent", 1, unit=False),
            units.text(step.extra_kwh, "energy", 2, unit=False),
            units.text(step.extra_cost, "money", unit=False),
            step.cause.why,
            tuple(known[key] for key in step.cause.figures if key in known),
        )
        for step in (tally.steps if tally else ())
    )


def _chips(night: service.Tonight, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Facts of the plan with where each comes from: name, value, origin."""
    plan, rate = night.plan, night.rate
    found = [
        ("At the wall", units.text(rate.wall_kw, "power"), f"{rate.amps:.0f} A, held by the {rate.limited_by}"),
        (
            "From the wall",
            units.text(plan.session.wall_kwh + plan.warm.wall_kwh, "energy"),
            "charging and warm-up, simulated in five-minute steps",
        ),
        (
            "Lost on the way",
            units.text(plan.session.lost_kwh, "energy"),
            f"{100 * rate.efficiency:.0f} % conversion and {rate.overhead_kw:.2f} kW overhead",
        ),
        (
            "A kWh in the pack",
            units.money(plan.price_in_pack),
            "the charging’s bill over what reached the pack; tally, day and warm-up count with it",
        ),
        ("Latest plug-in", hour(plan.latest_plug_in, night), "still reaches the limit, at a dearer price perhaps"),
        ("In the dearest hours", units.money(plan.cost_dearest), "simulated to the same level, with its own heat and warm-up"),
        ("Standing above 80 %", units.text(plan.hours_above_80, "hours"), "before departure"),
        (
            "Pack at departure",
            units.text(plan.warm.pack_c, "temperature", 0),
            "garage, charging heat and warm-up, in closed form",
        ),
        (
            "Tyres tomorrow",
            units.text(night.tyre_cold_kpa, "pressure"),
            f"your reading at {units.text(night.tyre_read_c, 'temperature', 0)}, by the gas law; "
            f"placard {units.text(night.car.tyres.placard_kpa, 'pressure')}",
        ),
        *_own_days(night),
        ("Energy for the day", units.text(night.day_kwh, "energy"), "road load on public drive schedules, cabin and pack heat"),
    ]
    if plan.warm.lead_s > 0:
        warm = plan.warm
        leads = f"cabin {warm.cabin_lead_s / 60:.0f} min" + (
            f", pack {warm.pack_lead_s / 60:.0f} min" if warm.pack_lead_s > 0 else ""
        )
        found.append(
            (
                "Warm-up",
                units.text(warm.wall_kwh + warm.pack_kwh, "energy"),
                f"{leads} before departure, so that heat does not leak",
            )
        )
    if plan.blocks:
        drawn_h = sum((block.end - block.start).total_seconds() for block in plan.blocks) / 3600
        found.append(
            (
                "Drawn",
                units.text(drawn_h, "hours"),
                "the cheapest of the hours by price and of a start on every quarter hour, for waiting cools the pack"
                if plan.late
                else "the cheapest hours that reach the limit; fewest starts, then as late as possible",
            )
        )
        middle = plan.blocks[-1].start + (plan.blocks[-1].end - plan.blocks[-1].start) / 2
        level = units.text(plan.soc_at(middle), "percent")
        found.append(("If unplugged early", level, f"what the car has at {hour_up(middle, night)}"))
    return tuple(found)


def _own_days(night: service.Tonight) -> list[tuple[str, str, str]]:
    """How the owner's latest days went against the model."""
    known = night.known
    if known.count < LEAST_ERRORS:
        return []
    text = f"{abs(100 * known.bias):.0f}{NBSP}% {'more' if known.bias >= 0 else 'less'}"
    return [
        (
            "Your own days",
            text,
            f"than the model, by the median of the last {known.count} noted; counted in everything here, and their scatter in the band",
        )
    ]


def _typed(night: service.Tonight, units: Units) -> dict[str, str]:
    """The levers as the fields show them."""
    return shown({name: getattr(night.levers, name) for name in LeverForm.model_fields}, LeverForm, units)


def _pull(typed: Mapping[str, str], units: Units) -> tuple[Callable[[Levers], Levers], dict[str, str]]:
    """A pull from what was typed; fields that will not do are left as usual and named."""
    form, errors = parse(LeverForm, typed, units)
    if form is None:
        good = {name: value for name, value in typed.items() if name not in errors}
        form, _ = parse(LeverForm, good, units)
    values = {name: value for name, value in (form.model_dump() if form else {}).items() if value is not None}
    return (lambda usual: replace(usual, **values)), errors


def compute(
    home: Home, now: datetime, car: int | None, typed: Mapping[str, str], units: Units
) -> tuple[service.Tonight, dict[str, str]]:
    """Tonight with the levers as typed, and the messages for those that will not do."""
    pull, errors = _pull(typed, units)
    try:
        return service.tonight(home, now, car, pull), errors
    except Refusal as refusal:
        errors[refusal.field or "limit"] = refusal.message
        return service.tonight(home, now, car), errors


@router.get("/tonight")
def room(request: Request) -> Response:
    """The room, with any levers in the address pulled."""
    home: Home = request.app.state.home
    units, now = units_of(home, request), clocks.now(home)
    night, errors = compute(home, now, whole_number(request.query_params.get("car")), dict(request.query_params), units)
    return _page(request, night, units, dict(request.query_params), errors, {}, 422 if errors else 200)


def _page(
    request: Request,
    night: service.Tonight,
    units: Units,
    typed: Mapping[str, str],
    errors: Mapping[str, str],
    note_errors: Mapping[str, str],
    status: int,
    note: Mapping[str, str] | None = None,
    message: str = "",
) -> Response:
    home: Home = request.app.state.home
    values = {**_typed(night, units), **{name: typed[name] for name in errors if name in typed}}
    fields: dict[str, FieldView] = views(LeverForm, values, errors, units)
    usual = shown({name: getattr(night.usual, name) for name in LeverForm.model_fields}, LeverForm, units)
    return render(
        request,
        "tonight/room.html",
        status,
        room="tonight",
        view=view(night, units),
        fields=fields,
        main=MAIN,
        usual=usual,
        demo=clocks.is_demo(home),
        note_fields=views(NoteForm, note or {}, note_errors, units),
        doubt=note_errors.get("sure", ""),
        message=message,
        undo=request.query_params.get("undo", ""),
    )


@router.get("/tonight/preview")
def preview(request: Request) -> Response:
    """The verdict, pictures and ledger for pulled levers, or the messages for those that will not do."""
    home: Home = request.app.state.home
    units, now = units_of(home, request), clocks.now(home)
    night, errors = compute(home, now, whole_number(request.query_params.get("car")), dict(request.query_params), units)
    if errors:
        return JSONResponse({"errors": errors}, 422)
    return render(request, "tonight/preview.html", view=view(night, units))


@router.post("/tonight/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the plan for tonight, or the levers for good."""
    home: Home = request.app.state.home
    units, now = units_of(home, request), clocks.now(home)
    car = whole_number(fields.get("car"))
    night, errors = compute(home, now, car, fields, units)
    if errors:
        return _page(request, night, units, fields, errors, {}, 422)
    revision = whole_number(fields.get("revision"), -1)
    try:
        if fields.get("how") == "good":
            change = nights.keep_for_good(home, night, revision)
            return RedirectResponse(f"/tonight?car={night.car_id}&undo=good-{change}", 303)
        departure = datetime.fromisoformat(fields.get("departure", ""))
        if departure.tzinfo is None:
            raise ValueError("a time without a zone")
        number_kept = nights.keep(home, night, verdict(night, units).plain, revision, departure)
    except Stale as problem:
        message = f"{problem} Nothing was saved; this is the plan for your levers as things are now. Look at it, then keep it."
        return _page(request, night, units, fields, {}, {}, 409, message=message)
    except ValueError as problem:
        message = problem.message if isinstance(problem, Refusal) else "The departure could not be read; open the page again."
        return _page(request, night, units, fields, {"depart": message}, {}, 422)
    return RedirectResponse(f"/tonight?car={night.car_id}&undo=keep-{number_kept}", 303)


@router.post("/tonight/note")
def note(request: Request, fields: Posted) -> Response:
    """Enter what happened beside the plan."""
    home: Home = request.app.state.home
    units, now = units_of(home, request), clocks.now(home)
    form, errors = parse(NoteForm, fields, units)
    car = whole_number(fields.get("car"))
    if form is not None:
        try:
            nights.note(
                home,
                whole_number(fields.get("night"), 0),
                form.actual_departure,
                form.actual_arrival,
                now,
                fields.get("sure") == "yes",
            )
            return RedirectResponse(f"/tonight?car={fields.get('car', '')}&undo=note-{fields.get('night', '')}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "actual_arrival": refusal.message}
    night = service.tonight(home, now, car)
    return _page(request, night, units, {}, {}, errors, 422, note=fields)


@router.post("/tonight/undo")
def undo(request: Request, fields: Posted) -> Response:
    """Take back the last keeping or noting."""
    home: Home = request.app.state.home
    what, _, which = fields.get("what", "").partition("-")
    done: dict[str, Callable[[int], Any]] = {
        "keep": lambda night: nights.withdraw(home, night),
        "good": lambda change: nights.put_back(home, change),
        "note": lambda night: nights.forget_note(home, night),
    }
    if what in done:
        done[what](whole_number(which, 0))
    return RedirectResponse(f"/tonight?car={fields.get('car', '')}", 303)


@router.post("/tonight/clock")
def move_clock(request: Request, fields: Posted) -> Response:
    """Move the demo's clock on."""
    home: Home = request.app.state.home
    now = clocks.move_on(home)
    fetch_all(home, now)
    settle(home, now)
    return RedirectResponse(f"/tonight?car={fields.get('car', '')}", 303)
