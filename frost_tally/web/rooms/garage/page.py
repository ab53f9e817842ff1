"""Room 7, Garage: what is there, each part with its form, put away and undone."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from enum import StrEnum
from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ....core.car import PRESETS, preset
from ....core.charge.outlet_comparison import MOST_OFFERS
from ....core.charge.supply import HOUSE_PHASES, Code, Supply
from ....core.charge.usual_supplies import USUAL_SUPPLIES
from ....core.errors import Refusal
from ....core.home import Home, named
from ....services import garage as service
from ....services import setup as setting_up
from ....services.setup import car_fields, with_means
from ....services.shared.home import Stale
from ....services.tonight.reminding import told_lately
from ...forms import FieldView, Filled, carried, choice, not_kept, parse, shown, views
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import PERSON_COOKIE, locale_defaults, render, seen, units_of, whole_number
from ...part_forms import CarForm, car_from, preferences_of
from ...reading import household_of, read_anew, snapshot_of
from ...units import Units
from ...words.lists import CLASSES, OUTLET_KINDS
from ...words.reminders import KINDS
from ..outlets import picture as drawing
from ..setup.steps import own_words
from .forms import PARTS

router = Router(prefix="/garage")
TABS = (
    Tab(of="", key="garage", path="/garage", words="Garage", at=8, rare=True, figures={"reach": "The cable’s reach"}),
    Tab(of="garage", key="", path="/garage", words="Cars and parts", at=0),
)
BENCH = "bench"
THOUGHT = (("", ("breaker_a", "install_cost")),)
"""What is asked of an outlet that is thought of on the bench, besides its kind."""
TEST_LETTER = (
    "Frost Tally: a test letter",
    "This is the letter that you asked for. It came, so reminders and faults of the night come too, once you say yes to them.",
)
INSTALL_COSTS: Mapping[str, float] = {"wall_one": 900.0, "wall_three": 1100.0, "dryer": 400.0, "range": 600.0, "caravan": 300.0}
"""Made-up installation costs of the usual outlets, to be replaced by an offer."""


@router.get("")
def overview(request: Request) -> Response:
    """What is set up, each part with its way to change it."""
    if setting_up.progress(snapshot_of(request)).next_step:
        return RedirectResponse("/setup", 303)
    return _overview(request)


def _overview(request: Request, message: str = "", status: int = 200) -> Response:
    snapshot = snapshot_of(request)
    cars = service.cars_on_outlets(snapshot)
    hung = [(each.owned.name, each.rate) for each in cars if each.rate is not None]
    return render(
        request,
        "garage/room.html",
        status,
        room="garage",
        tab="",
        cars=cars,
        home=snapshot.home,
        zone=snapshot.home.place.clock,
        places=dict(named(snapshot.home.places)),
        units=units_of(request),
        offers={key: OUTLET_KINDS[key].lower() for key in USUAL_SUPPLIES[_code(request)]},
        viewer=whole_number(request.cookies.get(PERSON_COOKIE), 0),
        said=request.query_params.get("said", ""),
        message=message,
        mail=snapshot.world.mail is not None,
        reminded=[(KINDS[kind], name, each) for kind, name, each in told_lately(snapshot)],
        box=snapshot.world.letter_box.letters() if snapshot.world.letter_box else None,
        pictures=[drawing.hung(hung, units_of(request), phone) for phone in (False, True)] if hung else [],
    )


@router.get("/edit/{what}/{which}")
def edit(request: Request, what: str, which: str, preset: str = "", offer: str = "", *, back: str = "") -> Response:
    """A part's form with what is known filled in; `which` is a number or "new", `back` BENCH for one that is thought of there."""
    if what not in PARTS:
        return RedirectResponse("/garage", 303)
    start = preset or offer
    texts = shown(_known(request, what, which, start), _model(snapshot_of(request).home, what), units_of(request))
    return _form(request, what, which, Filled(texts | {"start": start, "back": back}))


@router.post("/edit/{what}/{which}/draft")
def draft(request: Request, what: str, which: str, fields: Posted) -> Response:
    """The form again, from another class of car or kind of outlet. What was typed stays; nothing is kept."""
    if what not in PARTS:
        return RedirectResponse("/garage", 303)
    units, start = units_of(request), fields.get("act", "").partition(":")[2]
    known = tuple(_known(request, what, which, each) for each in (fields.get("start", ""), start))
    texts = carried(_model(snapshot_of(request).home, what), fields, (units, units), (known[0], known[1]))
    return _form(request, what, which, Filled({**fields, **texts, "start": start}))


@router.post("/edit/{what}/{which}")
def keep(request: Request, what: str, which: str, fields: Posted) -> Response:
    """Keep a part whole, or say what will not do and keep nothing."""
    if what not in PARTS:
        return RedirectResponse("/garage", 303)
    model = _model(snapshot_of(request).home, what)
    form, errors = parse(model, fields, units_of(request))
    errors = own_words(errors, fields)
    if form is not None:
        try:
            number = None if which == "new" else whole_number(which, 0)
            undo = service.keep_part(household_of(request), PARTS[what].kind, number, KEEP[what](form, fields), seen(fields))
            if fields.get("back") == BENCH:  # with the others that fit beside it
                *others, new = (each.id for each in read_anew(request).home.outlets)
                shown_on = ",".join(str(each) for each in [*others[: MOST_OFFERS - 1], new])
                return RedirectResponse(f"/garage/outlets?outlet={shown_on}&undo={undo}", 303)
            return RedirectResponse(f"/garage?undo={undo}", 303)
        except (Stale, Refusal) as problem:
            return _form(request, what, which, not_kept(fields, model, problem, units_of(request)))
    return _form(request, what, which, Filled(fields, errors, status=422))


@router.post("/remove/{kind}/{which}")
def remove(request: Request, kind: str, which: str, fields: Posted) -> Response:
    """Put a part away."""
    if kind not in service.KINDS:
        return RedirectResponse("/garage", 303)
    try:
        undo = service.remove(household_of(request), kind, whole_number(which, 0), seen(fields))
        return RedirectResponse(f"/garage?undo={undo}", 303)
    except Refusal as refusal:
        return _overview(request, f"{refusal.message} Nothing was changed.", 422)


@router.post("/letter")
def test_letter(request: Request, fields: Posted) -> Response:
    """Send somebody a letter, to see whether it comes."""
    try:
        service.send_test(snapshot_of(request), whole_number(fields.get("person"), 0), *TEST_LETTER)
    except Refusal as refusal:
        return _overview(request, f"{refusal.message} Nothing was sent.", 422)
    return RedirectResponse("/garage?said=letter#people", 303)


@router.post("/look")
def look(request: Request, fields: Posted) -> Response:
    """Look with somebody's units, in this browser."""
    response = RedirectResponse("/garage", 303)
    response.set_cookie(
        PERSON_COOKIE, str(whole_number(fields.get("person"), 0)), httponly=True, samesite="strict", max_age=31_536_000
    )
    return response


def _model(home: Home, what: str) -> type[BaseModel]:
    """The form with the choices that this home has."""
    model = PARTS[what].form
    choices: dict[str, dict[str, str]] = {}
    if what == "outlet":
        choices = {"place_id": {str(each.id): each.name for each in home.places}}
    if what == "day":
        choices = {
            "outlet_id": {str(each.id): each.name for each in home.outlets},
            "tariff_id": {str(each.id): each.name for each in home.contracts},
        }
    if not choices:
        return model
    words = {name: each for group in PARTS[what].words.values() for name, each in group.items()}
    fields: dict[str, Any] = {name: (int, choice(words[name][0], options)) for name, options in choices.items()}
    return create_model(model.__name__, __base__=model, **fields)


def _known(request: Request, what: str, which: str, start: str) -> dict[str, Any]:
    """What is known of a part; `start` is a class of car or a kind of outlet to begin from, "" for what was kept or is usual."""
    home = snapshot_of(request).home
    code = _code(request)
    kinds, phases = USUAL_SUPPLIES[code], HOUSE_PHASES[code]
    if which == "new":
        key, kind = start if start in PRESETS else "compact_hatch", start if start in kinds else "wall_one"
        made: dict[str, dict[str, Any]] = {
            "car": dict(car_fields(preset(key, CLASSES[key], phases), key) | {"warm_up": "cabin"}),
            "outlet": {**_of_kind(kinds, kind, home.per_euro), "place_id": home.place.id},
            "place": {"garage": "outdoor"},
            "person": {**preferences_of(locale_defaults(request).units), "currency": home.currency, "per_contract": 1.0},
        }
        known = made.get(what, {})
    else:
        kept = service.part(snapshot_of(request), PARTS[what].kind, whole_number(which, 0))
        known = {name: kept[name] for name in (*_model(home, what).model_fields, "preset", "chemistry") if name in kept}
        if what == "car" and start in PRESETS:
            known = car_fields(preset(start, kept["name"], phases), start) | {"warm_up": kept["warm_up"]}
        if what == "outlet" and start in kinds:
            known |= {
                name: value
                for name, value in _of_kind(kinds, start, home.per_euro).items()
                if name not in ("name", "install_cost")
            }
    return known


def _of_kind(kinds: Mapping[str, Supply], kind: str, per_euro: float) -> dict[str, Any]:
    """An outlet to begin from; what it costs to have is about so much in the contracts' money, two figures of it."""
    cost = float(f"{per_euro * INSTALL_COSTS.get(kind, 0.0):.2g}")
    return {**vars(kinds[kind]), "name": OUTLET_KINDS[kind], "install_cost": cost}


def _code(request: Request) -> Code:
    """The rule that this home's circuits follow, else the one of where the browser is at home."""
    outlets = snapshot_of(request).home.outlets
    return outlets[0].supply.code if outlets else Code(locale_defaults(request).code)


def _form(request: Request, what: str, which: str, filled: Filled) -> Response:
    values, errors = filled.typed, filled.errors
    part, model = PARTS[what], _model(snapshot_of(request).home, what)
    start = values.get("start", "")
    kept = None if which == "new" else service.part(snapshot_of(request), part.kind, whole_number(which, 0))
    chosen = start if start in PRESETS else (kept["preset"] if what == "car" and kept else "compact_hatch")
    kinds = {key: OUTLET_KINDS[key] for key in USUAL_SUPPLIES[_code(request)]} if what == "outlet" else {}
    return render(
        request,
        "garage/edit.html",
        filled.status,
        room="garage",
        tab="",
        what=what,
        which=which,
        title=f"{part.title}: {kept['name']}" if kept is not None else f"Another {part.title.lower()}",
        fields=_with_basis(what, chosen, values, views(model, values, errors, units_of(request)), units_of(request)),
        groups=THOUGHT if values.get("back") == BENCH else part.groups,
        folded=[name for _, names in part.groups for name in names if name not in THOUGHT[0][1]]
        if values.get("back") == BENCH
        else [],
        back=BENCH if values.get("back") == BENCH else "",
        presets=CLASSES if what == "car" else {},
        chosen=chosen,
        kinds=kinds,
        chosen_kind=start if start in kinds or kept is not None else "wall_one",
        start=start,
        errors=errors,
        message=filled.message,
        removable=kept is not None and what != "day",
        kind=part.kind,
    )


def _with_basis(
    what: str, key: str, values: Mapping[str, str], fields: Mapping[str, FieldView], units: Units
) -> dict[str, FieldView]:
    """A car's numbers with their basis beside the hint: still the class's, or entered."""
    if what != "car":
        return dict(fields)
    sold = {"1": 1, "3": 3}.get(values.get("ac_phases", ""))
    generic = shown(car_fields(preset(key, "", sold), key), CarForm, units)
    free = ("name", "warm_up")
    words = {name: "class value" if values.get(name) == generic.get(name) else "entered" for name in fields}
    return {n: f if n in free else replace(f, unit=f"{f.unit} · {words[n]}".lstrip(" ·")) for n, f in fields.items()}


def _car(form: Any, fields: Mapping[str, str]) -> dict[str, Any]:
    key = fields.get("preset", "") if fields.get("preset", "") in PRESETS else "compact_hatch"
    return car_fields(car_from(form, key).checked(), key) | {"warm_up": form.warm_up}


def _plain(form: Any, fields: Mapping[str, str]) -> dict[str, Any]:
    return {name: value.value if isinstance(value, StrEnum) else value for name, value in form.model_dump().items()}


def _place(form: Any, fields: Mapping[str, str]) -> dict[str, Any]:
    return with_means(_plain(form, fields))


KEEP: Mapping[str, Callable[[Any, Mapping[str, str]], dict[str, Any]]] = {
    "car": _car, "day": _plain, "outlet": _plain, "place": _place, "person": _plain,
}  # fmt: skip
