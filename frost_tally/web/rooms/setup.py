"""Setting up in four short steps: car, outlet, tariff, place and usual day."""

from collections.abc import Callable, Mapping
from datetime import time
from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ...core.car import PRESETS, preset
from ...core.charge.supply import Supply
from ...core.charge.tariff import Tariff, two_band
from ...core.errors import Refusal
from ...services import setup as service
from ...services.home import Home, Stale
from ..forms import parse, shown, views
from ..guard import Posted
from ..once import Router
from ..page import home_of, render, seen, units_of, whole_number
from ..part_forms import CarForm, OutletForm, PlaceForm, TariffForm, car_from, yes
from ..words.lists import CLASSES

router = Router()


FORMS: dict[str, type[BaseModel]] = {"car": CarForm, "outlet": OutletForm, "tariff": TariffForm, "place": PlaceForm}
TITLES = {"car": "Your car", "outlet": "Your outlet", "tariff": "Your tariff", "place": "Your place and usual day"}
SHORT = {"car": ("name", "chemistry", "usable_kwh_new", "soh", "ac_limit_kw", "ac_phases")}
GROUPS: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "tariff": (("", ("name", "currency", "cheap_price", "cheap_from", "cheap_to", "dear_price")),),
    "place": (
        ("Where it stands", ("place", "zone", "altitude_m", "garage", "garage_heated_c")),
        ("Your units", ("distance_unit", "temperature_unit", "pressure_unit")),
        ("A usual day", ("plug_in", "depart", "town_km", "country_km", "motorway_km", "motorway_kmh")),
        ("This evening", ("soc_now", "out_now_c", "out_low_c")),
    ),
    "outlet": (
        ("The circuit", ("name", "code", "voltage_v", "phases", "breaker_a")),
        ("What may hold it back", ("cable_a", "selector_a", "car_setting_a")),
    ),
}
OWN_WORDS = {"currency": "three letters of a currency, such as EUR", "zone": "a zone such as Europe/Oslo or America/Toronto"}


def own_words(errors: Mapping[str, str], fields: Mapping[str, str]) -> dict[str, str]:
    """Messages with what is right for the texts that are no free texts."""
    return {
        name: f"“{fields.get(name, '')[:40]}” will not do: enter {OWN_WORDS[name]}." if name in OWN_WORDS else said
        for name, said in errors.items()
    }


@router.get("/setup")
def begin(request: Request) -> Response:
    """The first step that is missing, or Tonight when all are done."""
    step = service.progress(home_of(request)).next_step
    done = f"?undo={request.query_params['undo']}" if "undo" in request.query_params else ""
    return RedirectResponse(f"{f'/setup/{step}' if step else '/tonight'}{done}", 303)


@router.get("/setup/{step}")
def show(request: Request, step: str, preset: str = "") -> Response:
    """One step with what is known filled in."""
    car = whole_number(request.query_params.get("car"))
    state = service.progress(home_of(request), car)
    if step not in FORMS or (state.next_step and service.STEPS.index(step) > service.STEPS.index(state.next_step)):
        return RedirectResponse(f"/setup?{request.query_params}", 303)
    units = units_of(home_of(request), request)
    return _page(request, step, shown(_known(state, step, preset), FORMS[step], units), {}, 200, preset, car)


@router.post("/setup/{step}")
def keep(request: Request, step: str, fields: Posted) -> Response:
    """Keep one step whole, or say what will not do and keep nothing."""
    if step not in FORMS:
        return RedirectResponse("/setup", 303)
    home = home_of(request)
    car = whole_number(fields.get("car"))
    form, errors = parse(FORMS[step], fields, units_of(home, request))
    errors = own_words(errors, fields)
    revision = seen(fields)
    if form is not None:
        try:
            undo = KEEP[step](home, form, fields, revision, car)
            after = service.progress(home).next_step
            where = f"/setup/{after}" if after else ("/garage" if fields.get("again") else "/tonight")
            return RedirectResponse(f"{where}?undo={undo}", 303)
        except Refusal as refusal:
            errors = {
                refusal.field
                if refusal.field in FORMS[step].model_fields
                else next(iter(FORMS[step].model_fields)): refusal.message
            }
        except Stale as stale:
            return _page(
                request,
                step,
                fields,
                {},
                409,
                fields.get("preset", ""),
                car,
                f"{stale} Nothing was saved; your entries are still here.",
            )
    return _page(request, step, fields, errors, 422, fields.get("preset", ""), car)


def _page(
    request: Request,
    step: str,
    values: Mapping[str, str],
    errors: Mapping[str, str],
    status: int,
    chosen: str,
    car: int | None,
    message: str = "",
) -> Response:
    state = service.progress(home_of(request), car)
    known = state.car.preset if state.car else "compact_hatch"
    return render(
        request,
        "setup/step.html",
        status,
        room="garage",
        step=step,
        steps=service.STEPS,
        titles=TITLES,
        state=state,
        again=state.next_step is None,
        fields=views(FORMS[step], values, errors, units_of(home_of(request), request)),
        presets=CLASSES,
        chosen=chosen if chosen in PRESETS else known,
        short=SHORT.get(step),
        groups=GROUPS.get(step, (("", tuple(FORMS[step].model_fields)),)),
        errors=errors,
        message=message,
        car=car,
    )


def _known(state: service.Progress, step: str, preset_key: str) -> dict[str, Any]:
    """What the fields start with: what was kept, or defaults."""
    row, home = state.car, state.home
    if step == "car":
        if preset_key in PRESETS or row is None:
            key = preset_key if preset_key in PRESETS else "compact_hatch"
            fields = service.car_fields(preset(key, row.name if row else CLASSES[key]), key) | {
                "warm_up": row.habit.warm_up if row else "cabin"
            }
        else:
            columns = (*CarForm.model_fields, "ac_phases")
            fields = {name: getattr(each, name) for each in (row, row.habit) for name in columns if hasattr(each, name)}
        return {**fields, "heat_pump": yes(fields["heat_pump"]), "winter_tyres": yes(fields["winter_tyres"])}
    if step == "outlet":
        names = OutletForm.model_fields
        return (
            {name: getattr(row.habit.outlet, name) for name in names}
            if row and row.habit.outlet
            else {
                "name": "Wall unit",
                "code": "iec",
                "voltage_v": 230.0,
                "phases": 3 if row and row.ac_phases == 3 else 1,
                "breaker_a": 16.0,
            }
        )
    if step == "tariff":
        return _known_tariff(row, home)
    usual = ("depart", "plug_in", "town_km", "country_km", "motorway_km", "motorway_kmh")
    day = {name: getattr(row.habit, name) for name in usual if row} | {"soc_now": state.soc_now}
    place = {name: getattr(state.place, name) for name in ("altitude_m", "garage", "garage_heated_c")} | {
        "place": state.place.name
    }
    units = {name: getattr(state.person, name) for name in ("distance_unit", "temperature_unit", "pressure_unit")}
    outside = {name: getattr(home, name) for name in ("out_now_c", "out_low_c")}
    return {**day, **place, **units, **outside, "zone": state.place.zone if home.complete else ""}


def _known_tariff(row: Any, home: Any) -> dict[str, Any]:
    bands = row.habit.tariff.bands if row and row.habit.tariff else []
    if len(bands) == 2:
        cheap, dear = sorted(bands, key=lambda band: band.price_per_kwh)
        return {
            "name": row.habit.tariff.name,
            "currency": home.currency,
            "cheap_price": cheap.price_per_kwh,
            "cheap_from": cheap.start,
            "cheap_to": cheap.end,
            "dear_price": dear.price_per_kwh,
        }
    return {
        "name": "My tariff",
        "currency": home.currency,
        "cheap_price": 0.12,
        "cheap_from": time(22, 30),
        "cheap_to": time(6),
        "dear_price": 0.30,
    }


def _keep_car(home: Home, form: CarForm, fields: Mapping[str, str], revision: int, car: int | None) -> int:
    key = fields.get("preset", "") if fields.get("preset", "") in PRESETS else "compact_hatch"
    return service.keep_car(home, car_from(form, key), key, form.warm_up, revision, car)


def _keep_outlet(home: Home, form: OutletForm, fields: Mapping[str, str], revision: int, car: int | None) -> int:
    return service.keep_outlet(home, Supply(**form.model_dump()), revision, car)


def _keep_tariff(home: Home, form: TariffForm, fields: Mapping[str, str], revision: int, car: int | None) -> int:
    if form.cheap_from == form.cheap_to:
        raise Refusal("The cheap hours begin and end at the same time: enter two different times.", "cheap_to")
    if form.cheap_price > form.dear_price:
        raise Refusal("The cheap price is above the dear one: exchange them.", "cheap_price")
    for name in ("cheap_from", "cheap_to"):
        if getattr(form, name).minute % 15:
            raise Refusal("Bands change on quarter hours: 22:00, 22:15, 22:30 or 22:45.", name)
    tariff: Tariff = two_band(form.name, "UTC", form.cheap_price, form.dear_price, form.cheap_from, form.cheap_to, form.currency)
    return service.keep_tariff(home, form.name, form.currency, tariff.bands, revision, car)


def _keep_place(home: Home, form: PlaceForm, fields: Mapping[str, str], revision: int, car: int | None) -> int:
    if form.town_km + form.country_km + form.motorway_km < 1:
        raise Refusal("A usual day needs at least 1 km: enter some town, country or motorway.", "town_km")
    if form.out_low_c > form.out_now_c + 15:
        raise Refusal("The low by morning is far above the temperature now: check the two.", "out_low_c")
    values = form.model_dump()
    units = tuple(values.pop(name) for name in ("distance_unit", "temperature_unit", "pressure_unit"))
    return service.keep_place(home, service.PlaceAndDay(**values, units=units), revision, car)


KEEP: dict[str, Callable[[Home, Any, Mapping[str, str], int, int | None], int]] = {
    "car": _keep_car,
    "outlet": _keep_outlet,
    "tariff": _keep_tariff,
    "place": _keep_place,
}
