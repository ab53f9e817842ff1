"""Room 3, Warm-up: what to warm before the next departure, when, and why."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import time
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from pydantic import BaseModel

from ...core.advice.worth import Option
from ...core.basis import Figure, figures
from ...core.battery.ageing import PER_EURO
from ...core.errors import Refusal
from ...core.heat.warm import WarmUpChoice
from ...household.home import Home
from ...services import clock as clocks
from ...services import garage as garage_service
from ...services import warmup as service
from ..drawing import warmth
from ..drawing.by_distance import strip
from ..forms import choice, clock, number, parse, shown, views
from ..guard import Posted
from ..page import render, units_of, whole_number
from ..units import Units
from ..words_garage import Said
from ..words_warm import CAUTIONS, CHOICES, PARTS, home_words, missed_words, target_words, verdict
from .day import YES_NO

router = APIRouter()
MAIN = ("km", "out_c", "depart", "trips", "cabin_c")
SWITCHES = ("plugged", "warm_home")
SHOWN = {"": "the advised one", **{each.value: CHOICES[each] for each in WarmUpChoice}}


class WarmForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    km: float | None = number("One way", "distance", 0.5, 500, "", None)
    out_c: float | None = number("Outside", "temperature", -45, 35, "At departure.", None, 0.5)
    depart: time | None = clock("Departs", "", None)
    trips: int | None = number("Trips of the day", "count", 1, 8, "Out and home are two.", None)
    cabin_c: float | None = number("Cabin", "temperature", 10, 28, "", None, 0.5)
    parked_h: float | None = number("Parked between", "hours", 0.1, 72, "", None)
    plugged: str | None = choice("Plugged in at departure", YES_NO, "", None)
    warm_home: str | None = choice("Warm it for later trips too", YES_NO, "Unplugged, from the pack.", None)
    pack_price: float | None = number(
        "A new pack per kWh",
        "money",
        0,
        1_000_000,
        "For the wear; that of its chemistry, from memory, until you type yours.",
        None,
    )
    show: str | None = choice("Draw bold", SHOWN, "", None)


@dataclass(frozen=True)
class WarmView:
    """Everything the template needs."""

    room: service.WarmUpRoom
    units: Units
    said: Said
    courses: tuple[str, str]
    choices: tuple[str, str]
    strips: tuple[str, str]
    targets: str
    home: str
    missed: str
    ledger: tuple[tuple[str, tuple[str, ...]], ...]
    figures: tuple[Figure, ...]


def view(made: service.WarmUpRoom, units: Units) -> WarmView:
    """The room as text and pictures."""
    kinds = ("preheat.", "comfort.", "wear.", "warm_up.")
    other_money = {f"wear.euro_in_{code.lower()}" for code in PER_EURO} - {f"wear.euro_in_{units.currency.lower()}"}
    return WarmView(
        made,
        units,
        verdict(made, units),
        (warmth.course(made, units), warmth.course(made, units, phone=True)),
        (warmth.choices(made, units), warmth.choices(made, units, phone=True)),
        (strip(made, units), strip(made, units, phone=True)),
        target_words(made, units),
        home_words(made, units),
        missed_words(made, units),
        tuple(_ledger(made, units)),
        tuple(each for each in figures() if each.key.startswith(kinds) and each.key not in other_money),
    )


def _ledger(made: service.WarmUpRoom, units: Units) -> list[tuple[str, tuple[str, ...]]]:
    """A row for each fact, a column for each choice: level, kilometres, energy, minutes, money and its parts."""
    money = {words: (lambda o, key=key: units.money(o.parts[key])) for key, (words, _) in PARTS.items()}
    facts: dict[str, Callable[[Option], str]] = {
        "comes home with": lambda o: units.text(o.arrival_soc, "percent", 1),
        "range kept": lambda o: units.text(o.gained_km, "distance", 1),
        "from the wall": lambda o: units.text(o.plan.warm.wall_kwh, "energy", 2),
        "from the pack": lambda o: units.text(o.plan.warm.pack_kwh, "energy", 2),
        "lead": lambda o: f"{o.plan.warm.lead_s / 60:.0f} min",
        "cold minutes": lambda o: f"{o.cold_min:.0f} of {o.driven_min:.0f}",
        "regen at first": lambda o: units.text(o.regen, "percent"),
        "wears like mild": lambda o: units.text(o.worn_kwh, "energy"),
        "bill, net": lambda o: units.money(o.money),
        **money,
        "in all": lambda o: "ruled out" if o.reason else units.money(o.total),
    }
    return [(words, tuple(fact(option) for option in made.advice.options)) for words, fact in facts.items()]


def _pull(
    typed: Mapping[str, str], units: Units
) -> tuple[Callable[[service.WarmLevers], service.WarmLevers], WarmUpChoice | None, dict[str, str]]:
    """A pull from what was typed, the choice to draw, and the messages for fields that will not do."""
    form, errors = parse(WarmForm, typed, units)
    if form is None:
        form, _ = parse(WarmForm, {name: value for name, value in typed.items() if name not in errors}, units)
    values: dict[str, Any] = {n: v for n, v in (form.model_dump() if form else {}).items() if v is not None}
    show = values.pop("show", "")
    for name in SWITCHES:
        if name in values:
            values[name] = values[name] == "yes"
    return (lambda usual: replace(usual, **values)), WarmUpChoice(show) if show else None, errors


def _made(request: Request, typed: Mapping[str, str]) -> tuple[service.WarmUpRoom, dict[str, str], Units]:
    home: Home = request.app.state.home
    units, now, car = units_of(home, request), clocks.now(home), whole_number(typed.get("car"))
    pull, show, errors = _pull(typed, units)
    try:
        return service.warm_up_room(home, now, car, pull, show), errors, units
    except Refusal as refusal:
        errors = {**errors, refusal.field if refusal.field in WarmForm.model_fields else "out_c": refusal.message}
        return service.warm_up_room(home, now, car), errors, units


@router.get("/warm-up")
def room(request: Request) -> Response:
    """The room, with any levers in the address pulled."""
    query = dict(request.query_params)
    made, errors, units = _made(request, query)
    known: dict[str, Any] = {n: getattr(made.levers, n) for n in WarmForm.model_fields if n != "show"}
    known |= {name: "yes" if known[name] else "no" for name in SWITCHES} | {"show": query.get("show", "")}
    values = {**shown(known, WarmForm, units), **{n: query[n] for n in errors if n in query}}
    return render(
        request,
        "warmup/room.html",
        422 if errors else 200,
        room="warm-up",
        view=view(made, units),
        fields=views(WarmForm, values, errors, units),
        main=MAIN,
        parts=PARTS,
        names=CHOICES,
        cautions=CAUTIONS,
        errors=errors,
        undo=query.get("undo", ""),
    )


@router.get("/warm-up/live")
def live(request: Request) -> Response:
    """Verdict, pictures and ledger for pulled levers, or the messages for those that will not do."""
    made, errors, units = _made(request, dict(request.query_params))
    if errors:
        return JSONResponse({"errors": errors}, 422)
    return render(request, "warmup/preview.html", view=view(made, units), parts=PARTS, names=CHOICES)


@router.post("/warm-up/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Make a choice the car's habit, or take that back."""
    home: Home = request.app.state.home
    car = whole_number(fields.get("car"), 0)
    if fields.get("undo"):
        garage_service.undo(home, whole_number(fields["undo"], 0))
        return RedirectResponse(f"/warm-up?car={car}", 303)
    made, errors, _ = _made(request, fields)
    if errors:
        raise Refusal(f"Nothing was kept: {next(iter(errors.values()))}")
    if made.shown.reason:
        raise Refusal(f"Nothing was kept: {made.shown.reason}.")
    undo = service.keep_choice(home, made.car_id, made.shown.choice, made.levers.cabin_c)
    return RedirectResponse(f"/warm-up?car={made.car_id}&undo={undo}", 303)
