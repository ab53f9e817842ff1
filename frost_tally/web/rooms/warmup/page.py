"""Room 3, Warm-up: what to warm before the next departure, when, and why."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import time

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.advice.worth import Option
from ....core.basis import Figure, figures
from ....core.errors import Refusal
from ....core.heat.own_minutes import WarmNote
from ....core.heat.warm import WarmUpChoice
from ....services.warmup import room as service
from ....services.warmup.minutes import drop_minutes, minutes_of, note_minutes
from ...drawing import warmth
from ...drawing.both import Both
from ...forms import choice, clock, number, parse, views
from ...guard import Posted
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...page import seen, whole_number
from ...units import Units
from ...words.reasons import why_words
from ...words.sentence import Verdict
from ...words.warm import CAUTIONS, CHOICES, PARTS, home_words, missed_words, note_words, own_words, target_words, verdict
from ..day.page import YES_NO
from .by_distance import strip

router = Router()
TABS = (Tab(of="", key="warm-up", path="/warm-up", words="Warm-up", at=4, rare=True,
    figures={
        "cabin": "Cabin", "climate": "Climate", "comfort": "Comfort", "preheat": "Warm-up", "warm_up": "Whether to warm up",
    }),)  # fmt: skip
MAIN = ("km", "out_c", "depart", "trips", "cabin_c")
SHOWN = {"": "the advised one", **{each.value: CHOICES[each] for each in WarmUpChoice}}


class WarmForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    km: float | None = number("One way", "distance", 0.5, 500, "", default=None)
    out_c: float | None = number("Outside", "temperature", -45, 35, "At departure.", default=None, step=0.5)
    depart: time | None = clock("Departs", "", None)
    trips: int | None = number("Trips of the day", "count", 1, 12, "Out and home are two.", default=None)
    cabin_c: float | None = number("Cabin", "temperature", 10, 28, "", default=None, step=0.5)
    parked_h: float | None = number("Parked between", "hours", 0.1, 72, "", default=None)
    plugged: bool | None = choice("Plugged in at departure", YES_NO, "", None)
    warm_home: bool | None = choice("Warm it for later trips too", YES_NO, "Unplugged, from the pack.", None)
    pack_price: float | None = number(
        "A new pack per kWh",
        "money",
        0,
        1_000_000,
        "For the wear; that of its chemistry, from memory, until you type yours.",
        default=None,
    )
    show: WarmUpChoice | None = choice("Draw bold", SHOWN, "", None)


class MinutesForm(BaseModel):
    """How long the car took to warm its pack."""

    minutes: float = number("It took", "minutes", 3, 240, "From the start until it was ready.")
    soak_c: float = number(
        "The pack had", "temperature", -45, 15, "A car that stood since yesterday: the air around it.", step=0.5
    )
    kwh: float | None = number("And used", "energy", 0.1, 60, "If you know; empty otherwise.", default=None, step=0.1)


@dataclass(frozen=True, kw_only=True)
class WarmView:
    """Everything the template needs."""

    room: service.WarmUpRoom
    units: Units
    verdict: Verdict
    courses: Both
    choices: Both
    strips: Both
    targets: str
    home: str
    missed: str
    own: str
    notes: tuple[str, ...]
    names: Mapping[WarmUpChoice, str]
    parts: Mapping[str, tuple[str, str]]
    ledger: tuple[tuple[str, tuple[str, ...]], ...]
    figures: tuple[Figure, ...]


def view(made: service.WarmUpRoom, units: Units) -> WarmView:
    """The room as text and pictures."""
    cold_c = min(made.inputs.out_c, 0.0)
    kinds = ("preheat.", "comfort.", "wear.", "warm_up.")
    return WarmView(
        room=made,
        units=units,
        verdict=verdict(made, units),
        courses=Both(lambda phone: warmth.course(made, units, phone)),
        choices=Both(lambda phone: warmth.choices(made, units, phone)),
        strips=Both(lambda phone: strip(made, units, phone)),
        targets=target_words(made, units),
        home=home_words(made, units),
        missed=missed_words(made, units),
        own=own_words(minutes_of(made.owned, cold_c), cold_c, made.car, units),
        notes=tuple(note_words(each, units) for each in made.owned.warm_notes),
        names=CHOICES,
        parts=PARTS,
        ledger=tuple(_ledger(made, units)),
        figures=tuple(each for each in figures() if each.key.startswith(kinds) and units.counts(each.key)),
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


def _compute(asked: Asked, override: Callable[[service.WarmInputs], service.WarmInputs]) -> service.WarmUpRoom:
    return service.warm_up_room(asked.snapshot, asked.car, override)


ROOM = LeverRoom(
    name="warm-up", path="/warm-up", templates="warmup", form=WarmForm, compute=_compute, view=view,
    context=lambda made, request: {
        "main": MAIN, "cautions": CAUTIONS, "message": "", "minutes": views(MinutesForm, {}, {}, made.asked.units),
    },
    fields={"out_low_c": "out_c", "soc_now": "km"},
)  # fmt: skip
ROOM.mount(router)


@router.post("/warm-up/minutes")
def timed(request: Request, fields: Posted) -> Response:
    """Note how long the car took to warm its pack, or take such a note away."""
    made = ROOM.made(request, {"car": fields.get("car", "")})
    car, units, household = made.result.car_id, made.asked.units, made.asked.household
    if fields.get("away"):
        undo = drop_minutes(household, car, whole_number(fields["away"], -1), seen(fields))
        return RedirectResponse(f"/warm-up?car={car}&undo={undo}", 303)
    form, errors = parse(MinutesForm, fields, units)
    if form is not None:
        note = WarmNote(minutes=form.minutes, soak_c=form.soak_c, kwh=form.kwh)
        try:
            return RedirectResponse(f"/warm-up?car={car}&undo={note_minutes(household, car, note, seen(fields))}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "minutes": refusal.message}
    return ROOM.page(request, made, 422, minutes=views(MinutesForm, fields, errors, units))


@router.post("/warm-up/keep")
def keep(request: Request, fields: Posted) -> Response:
    """Make a choice the car's habit."""
    made = ROOM.made(request, fields)
    if made.overrides.errors:
        return ROOM.page(request, made)
    shown = made.result.shown
    if shown.reason:
        return ROOM.page(request, made, 422, message=f"Nothing was kept: {why_words(shown.reason, made.asked.units)}.")
    undo = service.keep_choice(made.asked.household, made.result.car_id, shown.choice, made.result.inputs.cabin_c, seen(fields))
    return RedirectResponse(f"/warm-up?car={made.result.car_id}&undo={undo}", 303)
