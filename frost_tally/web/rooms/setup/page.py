"""Setting up in three short steps: car; outlet and tariff; usual day."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import time
from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.car import PRESETS, preset
from ....core.charge.supply import HOUSE_PHASES, Code, Supply
from ....core.charge.tariff import two_band
from ....core.charge.usual_supplies import USUAL_SUPPLIES
from ....core.errors import OutOfRange, Refusal
from ....services import setup as service
from ....services.shared.home import Household, Stale
from ...forms import Filled, carried, checked, not_kept, parse, shown, views
from ...guard import Posted
from ...locale_defaults import SETS, set_of
from ...once import Router
from ...page import locale_defaults, render, seen, units_of, whole_number
from ...part_forms import PREFERENCES, OutletForm, car_from, preferences_of, units_by
from ...reading import household_of, read_anew, snapshot_of
from ...units import Units
from ...words.lists import CLASSES, OUTLET_KINDS
from ...words.reasons import LIMITS
from .steps import STEPS, own_words

router = Router()
USUAL_CLASS = "compact_hatch"


@router.get("/setup")
def begin(request: Request) -> Response:
    """The first step that is missing, or Tonight when all are done."""
    step = service.progress(snapshot_of(request)).next_step
    done = f"?undo={request.query_params['undo']}" if "undo" in request.query_params else ""
    return RedirectResponse(f"{f'/setup/{step}' if step else '/tonight'}{done}", 303)


@router.get("/setup/{step}")
def show(request: Request, step: str, preset: str = "") -> Response:
    """One step with what is known filled in."""
    car = whole_number(request.query_params.get("car"))
    state = service.progress(snapshot_of(request), car)
    if not _open(step, state):
        return RedirectResponse(f"/setup?{request.query_params}", 303)
    units = units_of(request)
    start = _Start(preset if preset in PRESETS else "", "")
    return _page(request, step, Filled(shown(_known(request, state, step, start), STEPS[step].form, units)), start, units)


@router.post("/setup/{step}/draft")
def draft(request: Request, step: str, fields: Posted) -> Response:
    """The step again after a tap: in other units, from another class of car or kind of outlet. What was typed stays; nothing is kept."""
    state = service.progress(snapshot_of(request), whole_number(fields.get("car")))
    if not _open(step, state):
        return RedirectResponse("/setup", 303)
    act, _, what = fields.get("act", "").partition(":")
    was = units_of(request)
    ways = {name: fields.get(name, text) for name, text in preferences_of(was).items()}
    if act == "units" and what in SETS:
        ways |= {
            name: text
            for name, text in preferences_of(Units(**SETS[what][1])).items()
            if name not in ("currency", "decimal_mark")
        }
    units = units_by(ways, was)
    before = _Start(fields.get("preset", ""), fields.get("kind", ""))
    after = _Start(what if act == "class" else before.preset, what if act == "kind" else before.kind)
    known = (_known(request, state, step, before), _known(request, state, step, after))
    texts = carried(STEPS[step].form, fields, (was, units), known) | ways
    return _page(request, step, Filled({**fields, **texts}), after, units)


@router.post("/setup/{step}")
def keep(request: Request, step: str, fields: Posted) -> Response:
    """Keep one step whole, or say what will not do and keep nothing."""
    if not _open(step, service.progress(snapshot_of(request), whole_number(fields.get("car")))):
        return RedirectResponse("/setup", 303)
    units, model = units_of(request), STEPS[step].form
    fields = {**preferences_of(units), **fields}
    car, start = whole_number(fields.get("car")), _Start(fields.get("preset", ""), fields.get("kind", ""))
    form, errors = parse(model, fields, units)
    errors = own_words(errors, fields)
    if form is not None:
        try:
            ways = {name: getattr(form, name) for name in PREFERENCES}
            undo = KEEP[step](household_of(request), form, start, ways, seen(fields), car)
            after = service.progress(read_anew(request)).next_step
            where = f"/setup/{after}" if after else ("/garage" if fields.get("again") else "/tonight")
            return RedirectResponse(f"{where}?undo={undo}", 303)
        except (Stale, Refusal) as problem:
            return _page(request, step, not_kept(fields, model, problem, units), start, units)
    return _page(request, step, Filled(fields, errors, status=422), start, units)


def _open(step: str, state: service.Progress) -> bool:
    """Whether a step can be taken: it is one, and all before it are done."""
    return step in STEPS and (not state.next_step or service.STEPS.index(step) <= service.STEPS.index(state.next_step))


@dataclass(frozen=True)
class _Start:
    """What a step starts from: a class of car, a kind of outlet; "" for what is kept already, or the usual."""

    preset: str
    kind: str


def _page(request: Request, step: str, filled: Filled, start: _Start, units: Units) -> Response:
    values, errors = filled.typed, filled.errors
    car = whole_number(values.get("car") or request.query_params.get("car"))
    state = service.progress(snapshot_of(request), car)
    kinds = USUAL_SUPPLIES[_code(request, values)] if step == "outlet" else {}
    return render(
        request,
        "setup/room.html",
        filled.status,
        room="garage",
        step=step,
        steps=STEPS,
        state=state,
        again=state.next_step is None,
        fields=views(STEPS[step].form, {**preferences_of(units), **values}, errors, units),
        presets=CLASSES if step == "car" else {},
        chosen=start.preset if start.preset in PRESETS else (state.owned.preset if state.owned else USUAL_CLASS),
        kinds={key: OUTLET_KINDS[key] for key in kinds},
        kind=start.kind or ("" if state.owned and state.owned.outlet else _usual_kind(state, kinds)),
        ways=PREFERENCES,
        sets={key: words for key, (words, _) in SETS.items()},
        chosen_set=set_of(units),
        units=units,
        result=_result(request, values, car, units) if step == "outlet" else "",
        errors=errors,
        message=filled.message,
        car=car,
    )


def _code(request: Request, values: Mapping[str, str]) -> Code:
    """The rule of the circuits: as typed, else as usual where this browser is at home."""
    code = values.get("code", "")
    return Code(code) if code in list(Code) else Code(locale_defaults(request).code)


def _usual_kind(state: service.Progress, kinds: Mapping[str, object]) -> str:
    return "wall_three" if "wall_three" in kinds and state.owned and state.owned.car.charger.phases == 3 else "wall_one"


def _result(request: Request, values: Mapping[str, str], car: int | None, units: Units) -> str:
    """What the outlet as typed gives: amperes, kilowatts and distance per hour; "" while its fields will not do."""
    found, errors = checked(OutletForm, values, units)
    if errors:
        return ""
    try:
        rate, mild, winter = service.rate_of(snapshot_of(request), Supply(**found), car)
    except OutOfRange as refusal:
        return refusal.message
    return (
        f"{rate.amps:.0f} A, held by the {LIMITS[rate.limited_by]}: {units.text(rate.wall_kw, 'power')} at the wall, "
        f"{units.text(rate.pack_kw, 'power')} into the pack. "
        f"An hour gives {units.text(mild, 'distance')} of your usual day when mild, {units.text(winter, 'distance')} in January’s mean."
    )


def _known(request: Request, state: service.Progress, step: str, start: _Start) -> dict[str, Any]:
    """What the fields start with: what was kept, or defaults."""
    ways = preferences_of(units_of(request))
    return {**{"car": _known_car, "outlet": _known_charging, "place": _known_day}[step](request, state, start), **ways}


def _known_car(request: Request, state: service.Progress, start: _Start) -> dict[str, Any]:
    owned = state.owned
    if start.preset in PRESETS or owned is None:
        key = start.preset if start.preset in PRESETS else USUAL_CLASS
        bought = preset(key, owned.name if owned else CLASSES[key], HOUSE_PHASES[Code(locale_defaults(request).code)])
        fields = service.car_fields(bought, key)
    else:
        fields = service.car_fields(owned.car, owned.preset)
    fields["warm_up"] = owned.habit.warm_up.value if owned else "cabin"
    return fields


def _known_charging(request: Request, state: service.Progress, start: _Start) -> dict[str, Any]:
    owned, kinds = state.owned, USUAL_SUPPLIES[Code(locale_defaults(request).code)]
    if owned and owned.outlet and not start.kind:
        outlet = vars(owned.outlet.supply) | {"name": owned.outlet.name}
    else:
        kind = start.kind if start.kind in kinds else _usual_kind(state, kinds)
        outlet = {**vars(kinds[kind]), "name": OUTLET_KINDS[kind]}
    prices: dict[str, Any] = {
        "tariff": "My tariff", "cheap_price": 0.12, "cheap_from": time(22, 30), "cheap_to": time(6), "dear_price": 0.30
    }  # fmt: skip
    contract = owned.contract if owned else None
    if contract is not None and len(contract.tariff.bands) == 2:
        cheap, dear = sorted(contract.tariff.bands, key=lambda band: band.price_per_kwh)
        prices = {
            "tariff": contract.name,
            "cheap_price": cheap.price_per_kwh,
            "cheap_from": cheap.start,
            "cheap_to": cheap.end,
            "dear_price": dear.price_per_kwh,
        }
    return {name: outlet[name] for name in OutletForm.model_fields} | prices


def _known_day(request: Request, state: service.Progress, start: _Start) -> dict[str, Any]:
    owned, place = state.owned, state.place
    usual = ("depart", "plug_in", "town_km", "country_km", "motorway_km", "motorway_kmh")
    day = {name: getattr(owned.habit, name) for name in usual if owned}
    where = {name: getattr(place, name) for name in ("altitude_m", "garage", "garage_heated_c", "winters")}
    outside = dict(zip(("out_now_c", "out_low_c"), state.typed_c, strict=True))
    here = {"place": place.name or "Home", "zone": place.zone if state.complete else ""}
    return {**day, **where, **outside, **here, "soc_now": state.soc_now}


def _keep_car(household: Household, form: Any, start: _Start, ways: service.Preferences, revision: int, car: int | None) -> int:
    key = start.preset if start.preset in PRESETS else USUAL_CLASS
    return service.keep_car(
        household, car_from(form, key), key, warm_up=form.warm_up, preferences=ways, seen_revision=revision, car_id=car
    )


def _keep_charging(
    household: Household, form: Any, start: _Start, ways: service.Preferences, revision: int, car: int | None
) -> int:
    supply = Supply(**{name: getattr(form, name) for name in OutletForm.model_fields})
    bands = two_band(
        form.tariff,
        "UTC",
        form.cheap_price,
        dear=form.dear_price,
        start=form.cheap_from,
        end=form.cheap_to,
        currency=form.currency,
    ).bands
    return service.keep_charging(household, supply, (form.tariff, bands), preferences=ways, seen_revision=revision, car_id=car)


def _keep_day(household: Household, form: Any, start: _Start, ways: service.Preferences, revision: int, car: int | None) -> int:
    values = {name: value for name, value in form.model_dump().items() if name not in PREFERENCES}
    return service.keep_place(household, service.PlaceAndDay(**values), ways, revision, car)


KEEP: dict[str, Callable[[Household, Any, _Start, service.Preferences, int, int | None], int]] = {
    "car": _keep_car,
    "outlet": _keep_charging,
    "place": _keep_day,
}
