"""Room 1, Tonight: the verdict, the ribbon, the tally, the levers, and plan beside fact."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import time

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ...core.basis import Figure, figures
from ...core.drive.certainty import LEAST_ERRORS
from ...core.drive.road import Surface
from ...core.drive.tally import Tally
from ...core.errors import Refusal
from ...core.heat.warm import WarmUpChoice
from ...formats import values
from ...services import clock as clocks
from ...services import nights
from ...services import tonight as service
from ...services.evening import Levers
from ...services.home import Stale
from ...services.tariffs import fetch_all
from ...services.warmup import settle
from ..drawing import ribbon, stair
from ..drawing.both import Both
from ..forms import choice, clock, number, parse, views
from ..guard import Posted
from ..levers import Asked, LeverRoom, Made
from ..once import Router
from ..page import home_of, seen, whole_number
from ..units import Units
from ..words.causes import cause_why, cause_words
from ..words.lists import DAYS
from ..words.night import LOWER_SOC, day_names, hour, hour_up, kept_words, night_title, verdict
from ..words.reasons import LIMITS
from ..words.sentence import NBSP, Verdict
from ..words.warm import WARM_UPS

router = Router()
SURFACES = {"dry": "dry", "wet": "wet", "slush": "slush or snow"}
MAIN = ("limit", "depart", "km", "motorway_kmh", "tyre_kpa")


class LeverForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    limit: float | None = number("Limit", "percent", 0.3, 1.0, "Where charging stops.", None)
    depart: time | None = clock("Departs", "When you leave tomorrow.", None)
    km: float | None = number("Tomorrow", "distance", 1, 1500, "All driving of the day that follows.", None)
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


@dataclass(frozen=True, kw_only=True)
class Ledger:
    """One line of the why: cause, kilometres, share, energy, money, reason and the figures it rests on."""

    label: str
    km: str
    share: str
    kwh: str
    cost: str
    why: str
    figures: tuple[Figure, ...]


@dataclass(frozen=True, kw_only=True)
class TonightView:
    """Everything the template needs."""

    night: service.Tonight
    units: Units
    title: str
    verdict: Verdict
    kept: str
    ribbon: Both
    stair: Both | None
    ledger: tuple[Ledger, ...]
    chips: tuple[tuple[str, str, str], ...]
    chip_figures: Mapping[str, str]


def view(night: service.Tonight, units: Units) -> TonightView:
    """The room as text and pictures."""
    tally = night.tally
    band = stair.range_band(night.plan.soc_departure, night.arrival, night.levers.km, tally) if tally else (0.0, 0.0)
    said = verdict(night, units)
    words = ribbon.describe(night, units, said)
    return TonightView(
        night=night,
        units=units,
        title=night_title(night),
        verdict=said,
        kept=kept_words(night, units),
        ribbon=Both(lambda upright: (ribbon.upright if upright else ribbon.wide)(night, units, words)),
        stair=stair.both(tally, band, units) if tally else None,
        ledger=ledger(tally, units),
        chips=_chips(night, units),
        chip_figures=CHIP_FIGURES,
    )


def ledger(tally: Tally | None, units: Units) -> tuple[Ledger, ...]:
    """The tally's steps as lines with their reasons and figures."""
    known = {each.key: each for each in figures()}
    return tuple(
        Ledger(
            label=cause_words(step.cause, units),
            km=units.text(-step.lost_km, "distance", 1, unit=False),
            share=units.text(-step.share, "percent", 1, unit=False),
            kwh=units.text(step.extra_kwh, "energy", 2, unit=False),
            cost=units.text(step.extra_cost, "money", unit=False),
            why=cause_why(step.cause, units),
            figures=tuple(known[key] for key in step.cause.figures if key in known),
        )
        for step in (tally.steps if tally else ())
    )


CHIP_FIGURES: Mapping[str, str] = {
    "At the wall": "supply.minimum_current",
    "From the wall": "session.taper_from",
    "Lost on the way": "supply.efficiency",
    "A kWh in the pack": "supply.efficiency",
    "Latest plug-in": "night.margin",
    "In the dearest hours": "night.margin",
    "Standing above 80 %": "night.full_from",
    "Pack at departure": "pack.conductance_parked",
    "Tyres tomorrow": "tyres.reference_temperature",
    "Energy for the day": "road.drive_efficiency",
    "Warm-up": "pack.heater_efficiency",
    "Drawn": "night.bill_slack",
    "If unplugged early": "parked.idle",
    "Your own days": "certainty.forecast",
}
"""The figure that a fact of the plan rests on most, by its name."""


def _chips(night: service.Tonight, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Facts of the plan with where each comes from: name, value, origin."""
    plan, rate = night.plan, night.rate
    found = [
        ("At the wall", units.text(rate.wall_kw, "power"), f"{rate.amps:.0f} A, held by the {LIMITS[rate.limited_by]}"),
        (
            "From the wall",
            units.text(plan.session.wall_kwh + plan.warm.wall_kwh, "energy"),
            "charging and warm-up, simulated in five-minute steps",
        ),
        (
            "Lost on the way",
            units.text(plan.session.lost_kwh, "energy"),
            f"{100 * rate.efficiency:.0f} % conversion and {units.plain(rate.overhead_kw, 2)} kW overhead",
        ),
        (
            "A kWh in the pack",
            units.money(plan.price_in_pack),
            "the charging’s bill over what reached the pack; tally, day and warm-up count with it",
        ),
        *(
            [("Latest plug-in", hour(plan.latest_plug_in, night, units), "still reaches the limit, at a dearer price perhaps")]
            if plan.short_soc <= LOWER_SOC and plan.blocks
            else []
        ),
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
        found.append(("If unplugged early", level, f"what the car has at {hour_up(middle, night, units)}"))
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


def _compute(asked: Asked, pull: Callable[[Levers], Levers]) -> service.Tonight:
    night = service.tonight(asked.home, asked.now, asked.car, pull, asked.texts.get("day", ""))
    _ = night.tally  # the day is driven now, not while it is drawn
    return night


def _context(made: Made[service.Tonight], request: Request) -> Mapping[str, object]:
    return {
        "main": MAIN,
        "presets": day_names(made.result, {"usual": DAYS["usual"]}),
        "can_move": clocks.can_move(made.asked.home),
        "note_fields": views(NoteForm, {}, {}, made.asked.units),
        "doubt": "",
        "message": "",
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
    fields={"tyre_gauge_kpa": "tyre_kpa", "load_kg": "people"},
)
ROOM.mount(router)


@router.post("/tonight/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the plan for tonight: it is tonight from then on."""
    made = ROOM.made(request, fields)
    if made.pull.errors:
        return ROOM.page(request, made)
    home, night = made.asked.home, made.result
    try:
        departure = values.aware(fields.get("departure", ""))
        number = nights.keep(home, night, seen(fields), departure)
    except Stale as problem:
        return _stale(request, made, problem)
    except ValueError as problem:
        made.pull.refused["depart"] = (
            problem.message if isinstance(problem, Refusal) else "The departure could not be read; open the page again."
        )
        return ROOM.page(request, made)
    return RedirectResponse(f"/tonight?car={night.car_id}&undo={number}", 303)


@router.post("/tonight/keep-for-good")
def keep_for_good(request: Request, fields: Posted) -> Response:
    """Make the levers the car's usual ones."""
    made = ROOM.made(request, fields)
    if made.pull.errors:
        return ROOM.page(request, made)
    try:
        number = nights.keep_for_good(made.asked.home, made.result, seen(fields))
    except Stale as problem:
        return _stale(request, made, problem)
    return RedirectResponse(f"/tonight?car={made.result.car_id}&undo={number}", 303)


def _stale(request: Request, made: Made[service.Tonight], problem: Stale) -> Response:
    message = f"{problem} Nothing was saved; this is the plan for your levers as things are now. Look at it, then keep it."
    return ROOM.page(request, made, 409, message=message)


@router.post("/tonight/put-back")
def put_back(request: Request, fields: Posted) -> Response:
    """Leave the plan that is kept: tonight is as usual again."""
    home = home_of(request)
    car = whole_number(fields.get("car"), 0)
    number = nights.leave(home, car, clocks.now(home))
    return RedirectResponse(f"/tonight?car={car}&undo={number}", 303)


@router.post("/tonight/note")
def note(request: Request, fields: Posted) -> Response:
    """Enter what happened beside the plan."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    home, units, now = made.asked.home, made.asked.units, made.asked.now
    form, errors = parse(NoteForm, fields, units)
    if form is not None:
        night, sure = whole_number(fields.get("night"), 0), fields.get("sure") == "yes"
        try:
            number = nights.note(
                home, night, form.actual_departure, form.actual_arrival, now, sure=sure, seen_revision=seen(fields)
            )
            return RedirectResponse(f"/tonight?car={made.result.car_id}&facts=open&undo={number}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "actual_arrival": refusal.message}
    return ROOM.page(request, made, 422, note_fields=views(NoteForm, fields, errors, units), doubt=errors.get("sure", ""))


@router.post("/tonight/clock")
def move_clock(request: Request, fields: Posted) -> Response:
    """Move a clock that stands still on to the next evening or morning."""
    home = home_of(request)
    now = clocks.move_on(home)
    fetch_all(home, now)
    settle(home, now)
    return RedirectResponse(f"/tonight?car={whole_number(fields.get('car'), 0)}", 303)
