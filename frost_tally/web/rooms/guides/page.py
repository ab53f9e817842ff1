"""Room 4, its guides: a test led step by step, on the phone, over days; ended in the log."""

from functools import partial

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ....core.battery.cold import Chemistry
from ....core.errors import Refusal
from ....core.heat.trial import Braking
from ....services import guides as service
from ....services.guides import GUIDES, GuideRoom, UnderWay
from ....services.shared.home import Stale
from ...forms import Filled, choice, not_kept, number, parse, shown, views
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.battery import CAUTIONS, worth_words
from .words import BRAKING, COUNTED, STEPS, TITLES, step_done

router = Router(prefix="/battery/guide")
TABS = (Tab(of="battery", key="guide", path="/battery/guide", words="Test guide", at=1),)
YES_NO = {"no": "no", "yes": "yes"}
FIELDS = {
    "plan_from": (float, number("From", "percent", 0.0, 1.0)),
    "plan_to": (float, number("To", "percent", 0.0, 1.0)),
    "soc_from": (float, number("Level now", "percent", 0.0, 1.0, "As the car shows it.")),
    "soc_to": (float, number("Level now", "percent", 0.0, 1.0, "As the car shows it.")),
    "kwh": (float, number("Energy since the reset", "energy", 0.5, 500.0, "As the trip meter or the wall’s meter says.")),
    "pack_c": (float | None, number("Pack", "temperature", -40.0, 60.0, "Its temperature, if the car shows it.", default=None)),
    "stopped": (bool, choice("The car ended it", YES_NO, "It stopped or lost power before you meant to end.")),
    "counted": (str, choice("Counted", COUNTED)),
    **{f"out_{i}": (float, number("Outside", "temperature", -45.0, 45.0, "As you set off.")) for i in (1, 2)},
    **{
        f"pack_{i}": (float | None, number("Pack", "temperature", -40.0, 60.0, "If the car shows it.", default=None))
        for i in (1, 2)
    },
    **{f"braking_{i}": (Braking, choice("It brakes with its motor", BRAKING, "On the first slopes.")) for i in (1, 2)},
    "figure": (float, number("The car’s figure", "percent", 0.4, 1.05)),
}


def _form(asks: tuple[str, ...]) -> type[BaseModel]:
    return create_model("StepForm", **{name: FIELDS[name] for name in asks})  # type: ignore[call-overload,no-any-return]


@router.get("")
def room(request: Request) -> Response:
    """The guides, or the step where one is."""
    return _page(request, Filled())


def _page(request: Request, filled: Filled, car: int | None = None) -> Response:
    units = units_of(request)
    made = service.guide_room(snapshot_of(request), car or whole_number(request.query_params.get("car")))
    under_way = made.under_way
    more: dict[str, object] = {}
    if under_way is not None:
        form = _form(under_way.step.asks)
        texts = {**shown(_start(under_way), form, units), **filled.typed}
        more = {
            "step": STEPS[under_way.step.key],
            "fields": views(form, texts, filled.errors, units),
            "waiting": _waiting(under_way),
        }
    return render(
        request, "guides/room.html", filled.status, room="battery", tab="guide", view=made, units=units, titles=TITLES, steps=STEPS,
        said=_said(made, units), foreseen=_foreseen(made, units), errors=filled.errors, message=filled.message, cautions=CAUTIONS[:1],
        lfp=made.owned.car.pack.chemistry is Chemistry.LFP, guides=GUIDES, **more,
    )  # fmt: skip


def _start(under_way: UnderWay) -> dict[str, object]:
    """What a step's fields start from: what was said before, the plan's usual levels."""
    low_high = dict(zip(("plan_from", "plan_to"), under_way.guide.plan, strict=True))
    return {**low_high, "stopped": False, "counted": "wall", "braking_1": "less", "braking_2": "less", **under_way.at.said}


def _said(made: GuideRoom, units: Units) -> tuple[str, str]:
    """Where a guide is, and what it will tell; or what tests tell."""
    under_way = made.under_way
    if under_way is None:
        best = next(found for key, _, _, found in made.foreseen if key == "drive_down")
        worst = made.foreseen[3][3]
        lead = f"{made.owned.name}: from 100 to 10 % driven down a test tells the capacity to ± {units.text(2 * best.sigma_kwh, 'energy')}."
        return lead, f"From 60 to 40 % it would tell nothing: ± {units.text(2 * worst.sigma_kwh, 'energy')}."
    title = TITLES[under_way.at.kind][0]
    lead = f"{title}, step {under_way.number} of {len(under_way.guide.steps)}: {STEPS[under_way.step.key].title}."
    if under_way.foreseen is None:
        return lead, "Close the page when you like: it goes on from here, on any device."
    plan = [units.text(float(str(under_way.at.said[name])), "percent") for name in ("plan_from", "plan_to")]
    return lead, f"From {plan[0]} to {plan[1]} it will tell the capacity to {worth_words(under_way.foreseen, units)}."


def _waiting(under_way: UnderWay) -> str:
    """How long still to wait."""
    if under_way.wait_h <= 0:
        return ""
    return f"About {under_way.wait_h:.0f} h to go, if it is left alone." if under_way.wait_h >= 1 else "Less than an hour to go."


def _foreseen(made: GuideRoom, units: Units) -> list[tuple[str, str, str]]:
    """What some tests would tell beforehand: how, from where to where, to how much."""
    rows = []
    for key, one, other, found in made.foreseen:
        span = f"{100 * one:.0f} → {units.text(other, 'percent')}" if one != other else "its figure"
        rows.append((TITLES[key][0], span, worth_words(found, units)))
    return rows


@router.post("/start")
def start(request: Request, fields: Posted) -> Response:
    """Begin a guide."""
    car, kind = whole_number(fields.get("car"), 0), fields.get("kind", "")
    words = f"Guide begun: {TITLES[kind][0] if kind in TITLES else ''}"
    service.start(household_of(request), snapshot_of(request).now, car, kind, words, seen_revision=seen(fields))
    return RedirectResponse(f"/battery/guide?car={car}", 303)


@router.post("/step")
def step(request: Request, fields: Posted) -> Response:
    """Do the step that the page showed."""
    units, car = units_of(request), whole_number(fields.get("car"), 0)
    now = snapshot_of(request).now
    under_way = service.guide_room(snapshot_of(request), car).under_way
    form, errors = parse(_form(under_way.step.asks if under_way else ()), fields, units)
    if form is None:
        return _page(request, Filled(fields, errors, status=422), car)
    try:
        say = partial(step_done, units=units)
        moved = service.advance(
            household_of(request),
            now,
            car,
            at_step=whole_number(fields.get("step"), -1),
            values=form.model_dump(),
            say=say,
            seen_revision=seen(fields),
        )
    except (Stale, Refusal) as problem:
        return _page(request, not_kept(fields, type(form), problem, units), car)
    target = "/battery/guide" if moved.ended is None else "/battery"
    return RedirectResponse(f"{target}?car={car}&undo={moved.undo}", 303)


@router.post("/back")
def back(request: Request, fields: Posted) -> Response:
    """One step back."""
    car = whole_number(fields.get("car"), 0)
    undo = service.back(household_of(request), car, whole_number(fields.get("step"), -1), "One step back", seen(fields))
    return RedirectResponse(f"/battery/guide?car={car}&undo={undo}", 303)


@router.post("/drop")
def drop(request: Request, fields: Posted) -> Response:
    """Leave the guide."""
    car = whole_number(fields.get("car"), 0)
    undo = service.drop(household_of(request), car, "Guide left", seen(fields))
    return RedirectResponse(f"/battery/guide?car={car}&undo={undo}", 303)
