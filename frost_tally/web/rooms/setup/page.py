"""Setting up in three short steps: car; outlet and tariff; usual day."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.charge.supply import Code, Supply
from ....core.charge.tariff import two_band
from ....core.charge.usual_prices import one_price
from ....core.charge.usual_supplies import USUAL_SUPPLIES
from ....core.errors import OutOfRange, Refusal
from ....core.parts import Contract
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
from .known import USUAL_CLASS, known, typical, usual_kind
from .steps import ANOTHER, NO_SOCKET, PRICES, SHARED, TITLES, Start, own_words, start_of, step_of

router = Router()


@router.get("/setup")
def begin(request: Request) -> Response:
    """The first step that is missing, or Tonight when all are done."""
    step = service.progress(snapshot_of(request)).next_step
    done = f"?undo={request.query_params['undo']}" if "undo" in request.query_params else ""
    return RedirectResponse(f"{f'/setup/{step}' if step else '/tonight'}{done}", 303)


@router.get("/setup/{step}")
def show(request: Request, step: str) -> Response:
    """One step with what is known filled in."""
    start = _start(request, request.query_params)
    state = _state(request, request.query_params)
    if not _open(step, state, start):
        return RedirectResponse(f"/setup?{request.query_params}", 303)
    units, start = units_of(request), _begun(state, start, step)
    return _page(request, step, Filled(shown(known(request, state, step, start), step_of(step, start).form, units)), start, units)


@router.post("/setup/{step}/draft")
def draft(request: Request, step: str, fields: Posted) -> Response:
    """The step again after a tap: in other units, from another class of car, kind of outlet or of prices. What was typed stays; nothing is
    kept.
    """
    before = _start(request, fields)
    state = _state(request, fields)
    if not _open(step, state, before):
        return RedirectResponse("/setup", 303)
    act, _, what = fields.get("act", "").partition(":")
    was = units_of(request)
    ways = {name: fields.get(name, text) for name, text in preferences_of(was).items()}
    if act == "units" and what in SETS:
        ways |= {
            name: text
            for name, text in preferences_of(Units(**SETS[what].units)).items()
            if name not in ("currency", "decimal_mark")
        }
    code = Code(SETS[what].code) if act == "units" and what in SETS else before.code
    units = units_by(ways, was)
    tapped = {"class": "preset", "kind": "kind", "prices": "prices"}.get(act)
    after = start_of({**fields, "mains": code, **({tapped: what} if tapped else {})}, code)
    both = (known(request, state, step, before), known(request, state, step, after))
    texts = carried(step_of(step, after).form, fields, (was, units), both) | ways
    return _page(request, step, Filled({**fields, **texts}), after, units)


@router.post("/setup/{step}")
def keep(request: Request, step: str, fields: Posted) -> Response:
    """Keep one step whole, or say what will not do and keep nothing."""
    start = _start(request, fields)
    if not _open(step, _state(request, fields), start):
        return RedirectResponse("/setup", 303)
    if step == "outlet" and start.kind == NO_SOCKET:
        return RedirectResponse(f"/setup/place?{urlencode(start.travels | {'kind': NO_SOCKET})}", 303)
    units, model = units_of(request), step_of(step, start).form
    fields = {**preferences_of(units), **fields}
    car = whole_number(fields.get("car"))
    form, errors = parse(model, fields, units)
    errors = own_words(errors, fields)
    if form is not None:
        try:
            ways = {name: getattr(form, name) for name in PREFERENCES}
            undo = KEEP[step](household_of(request), form, start, ways, seen(fields), car)
            return RedirectResponse(_next(request, step, start, fields, car, undo=undo), 303)
        except (Stale, Refusal) as problem:
            return _page(request, step, not_kept(fields, model, problem, units), start, units)
    return _page(request, step, Filled(fields, errors, status=422), start, units)


def _next(request: Request, step: str, start: Start, fields: Mapping[str, str], car: int | None, *, undo: int) -> str:
    """Where it goes on after a step: to the one that follows, round again for one more car, or to what was set up."""
    home, done = read_anew(request).home, {"undo": str(undo)}
    if step != "place" and start.walk:
        which = home.cars[-1].id if step == "car" and car is None else car
        return f"/setup/{'outlet' if step == 'car' else 'place'}?{urlencode({**start.travels, 'car': which, **done})}"
    if step == "place" and fields.get("then") == ANOTHER:
        return f"/setup/car?{urlencode({**start.travels, 'walk': ANOTHER, **done})}"
    after = service.progress(read_anew(request)).next_step
    if after:
        return f"/setup/{after}?{urlencode({**done, **start.travels})}"
    if not home.outlets:
        return f"/day/long/weekly?undo={undo}"
    own = f"car={car}&" if start.walk else ""
    return f"/garage?undo={undo}" if fields.get("again") else f"/tonight?{own}undo={undo}"


def _start(request: Request, fields: Mapping[str, str]) -> Start:
    return start_of(fields, locale_defaults(request).code)


def _state(request: Request, fields: Mapping[str, str]) -> service.Progress:
    """How far the car is that the fields name; of one more car that is not there yet, as far as the first."""
    return service.progress(snapshot_of(request), whole_number(fields.get("car")))


def _open(step: str, state: service.Progress, start: Start) -> bool:
    """Whether a step can be taken: it is one, and all before it are done; without a socket there is no second one."""
    if step not in TITLES or (start.walk and not state.complete):
        return False
    early = not state.next_step or service.STEPS.index(step) <= service.STEPS.index(state.next_step)
    return early or (step == "place" and state.owned is not None and start.kind == NO_SOCKET)


def _begun(state: service.Progress, start: Start, step: str) -> Start:
    """A step as it begins: one more car hangs on the cable that is there, and kept prices are shown by what is known of them."""
    contract = state.owned.contract if state.owned else None
    if step == "outlet" and start.walk and state.others and not start.kind:
        return replace(start, kind=SHARED)
    if step == "outlet" and contract is not None and not start.prices:
        return replace(start, prices=_known_prices(contract))
    return start


def _known_prices(contract: Contract) -> str:
    """What is known of a kept contract's prices."""
    if contract.typical:
        return "unknown"
    if contract.feed:
        return "hourly"
    return "one" if len(contract.tariff.bands) == 1 else "two"


def _page(request: Request, name: str, filled: Filled, start: Start, units: Units) -> Response:
    values, errors = filled.typed, filled.errors
    car, step = whole_number(values.get("car") or request.query_params.get("car")), step_of(name, start)
    state = service.progress(snapshot_of(request), car)
    new = bool(start.walk) and car is None
    kinds = USUAL_SUPPLIES[start.code] if name == "outlet" else {}
    offered = {key: OUTLET_KINDS[key] for key in kinds}
    if state.others and name == "outlet":
        offered = {SHARED: f"The cable of {state.others[0][1]}", **offered}
    elif name == "outlet" and not state.complete:
        offered[NO_SOCKET] = "No socket at home"
    own = kinds and start.kind not in (SHARED, NO_SOCKET)
    return render(
        request,
        "setup/room.html",
        filled.status,
        room="garage",
        name=name,
        step=step,
        titles=TITLES,
        state=state,
        new=new,
        again=state.next_step is None and not start.walk,
        fields=views(step.form, {**preferences_of(units), **values}, errors, units),
        presets=CLASSES if name == "car" else {},
        chosen=start.preset or (state.owned.preset if state.owned and not new else USUAL_CLASS),
        kinds=offered,
        kind=start.kind or ("" if state.owned and state.owned.outlet else usual_kind(state, kinds)),
        prices=PRICES if own else {},
        priced=start.prices or "two",
        start=start,
        ways=PREFERENCES if (name == "car" and not start.walk) or set(errors) & set(PREFERENCES) else (),
        sets={key: each.words for key, each in SETS.items()},
        chosen_set=set_of(units, start.code),
        units=units,
        result=_result(request, values, car, units) if own else "",
        typical=units.text(typical("all_day", units.currency), "price") if own else "",
        no_socket=start.kind == NO_SOCKET,
        errors=errors,
        message=filled.message,
        car=car,
    )


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


def _keep_car(household: Household, form: Any, start: Start, ways: service.Preferences, revision: int, car: int | None) -> int:
    key = start.preset or USUAL_CLASS
    return service.keep_car(
        household,
        car_from(form, key),
        key,
        warm_up=form.warm_up,
        preferences=ways,
        seen_revision=revision,
        car_id=car,
        another=bool(start.walk) and car is None,
        age_years=form.age_years,
    )


def _keep_charging(
    household: Household, form: Any, start: Start, ways: service.Preferences, revision: int, car: int | None
) -> int:
    if start.kind == SHARED:
        return service.share_cable(household, car or 0, form.control, revision)
    supply = Supply(**{name: getattr(form, name) for name in OutletForm.model_fields})
    prices = start.prices or "two"
    if prices == "two":
        made = two_band(
            form.tariff,
            "UTC",
            form.cheap_price,
            dear=form.dear_price,
            start=form.cheap_from,
            end=form.cheap_to,
            currency=form.currency,
        )
    else:
        made = one_price(form.tariff, typical("all_day", form.currency) if prices == "unknown" else form.mean_price)
    return service.keep_charging(
        household,
        supply,
        (form.tariff, made.bands),
        typical=prices == "unknown",
        feed=prices == "hourly",
        control=form.control,
        preferences=ways,
        seen_revision=revision,
        car_id=car,
    )


def _keep_day(household: Household, form: Any, start: Start, ways: service.Preferences, revision: int, car: int | None) -> int:
    values = {name: value for name, value in form.model_dump().items() if name not in PREFERENCES}
    return service.keep_place(household, service.PlaceAndDay(**values), ways, revision, car)


KEEP: dict[str, Callable[[Household, Any, Start, service.Preferences, int, int | None], int]] = {
    "car": _keep_car,
    "outlet": _keep_charging,
    "place": _keep_day,
}
