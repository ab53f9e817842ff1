"""Setting up in four short steps: car, outlet, tariff, place and usual day."""

from collections.abc import Callable, Mapping
from datetime import time
from typing import Any
from zoneinfo import available_timezones

from babel.numbers import list_currencies
from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, field_validator

from ...core.battery.cold import Chemistry
from ...core.car import FIELDS, PRESETS, SPANS, Car, Preheats, preset
from ...core.charge.supply import Code, Supply
from ...core.charge.tariff import Tariff, two_band
from ...core.errors import Refusal
from ...services import setup as service
from ...services.home import Home, Stale
from ..forms import choice, clock, number, parse, shown, text, views
from ..guard import Posted
from ..page import home_of, render, units_of, whole_number
from ..words.lists import CLASSES
from .tonight import WARM_UPS

router = APIRouter()
PHASES = {"1": "1", "3": "3"}
LOWEST_V = 200.0
YES_NO = {"yes": "yes", "no": "no"}
GARAGES = {"outdoor": "outdoors", "unheated": "in an unheated garage", "heated": "in a heated garage"}


class Located(BaseModel):
    """Where cars stand."""

    zone: str = text("Time zone", 40, "Such as Europe/Oslo; clock changes follow it.")
    altitude_m: float = number("Altitude", "height", -400, 4500, "A map knows it.", 0.0)
    garage: str = choice("The car stands", GARAGES)
    garage_heated_c: float = number("Garage temperature", "temperature", -5, 30, "Only if it is heated.", 10.0)

    @field_validator("zone")
    @classmethod
    def _zone(cls, value: str) -> str:
        if value not in available_timezones():
            raise ValueError("unknown")
        return value


class Measured(BaseModel):
    """Somebody's units."""

    distance_unit: str = choice("Distances in", {"km": "kilometres", "mi": "miles"})
    temperature_unit: str = choice("Temperatures in", {"C": "°C", "F": "°F"})
    pressure_unit: str = choice("Pressures in", {"kPa": "kPa", "bar": "bar", "psi": "psi"})


class Paid(BaseModel):
    """Some money."""

    currency: str = text("Currency", 3, "Three letters, such as EUR.", "EUR")

    @field_validator("currency")
    @classmethod
    def _known(cls, value: str) -> str:
        if value.upper() not in list_currencies():
            raise ValueError("unknown")
        return value.upper()


class CarForm(BaseModel):
    """Step 1."""

    name: str = text("What do you call it?", 30, "Any name you like.")
    chemistry: Chemistry = choice(
        "Battery chemistry",
        {"NMC": "NMC or NCA", "LFP": "LFP"},
        "The manual or the maker’s data sheet; LFP often asks for 100 % weekly.",
    )
    usable_kwh_new: float = number(
        "Usable capacity when new", "energy", *SPANS["usable_kwh_new"].ends, "The data sheet’s usable or net figure.", step=0.1
    )
    soh: float = number("Health today", "percent", *SPANS["soh"].ends, "100 when new; your last test, or 2 less per year.")
    ac_limit_kw: float = number(
        "AC charging power", "power", *SPANS["ac_limit_kw"].ends, "The most the car takes from a wall unit.", step=0.1
    )
    ac_phases: int = choice("Phases it charges on", PHASES)
    ac_limit_a: float | None = number(
        "Current limit per phase", "current", *SPANS["ac_limit_a"].ends, "If the manual gives one; empty: from the power.", None
    )
    heat_pump: str = choice("Heat pump", YES_NO, "Without one the heater is electric resistance.")
    preheats: Preheats = choice(
        "Warms its pack before departure",
        {"yes": "yes", "no": "no", "unknown": "not known"},
        "If nobody knows, the plan warms the cabin only.",
    )
    warm_up: str = choice("Warm up before departure", WARM_UPS)
    placard_kpa: float = number("Tyre placard pressure", "pressure", *SPANS["placard_kpa"].ends, "On the door post; cold.")
    winter_tyres: str = choice("Winter tyres", YES_NO)
    mass_kg: float = number("Mass with driver", "mass", *SPANS["mass_kg"].ends, "Registration paper plus 75 kg.")
    drag_area_m2: float = number(
        "Drag area Cd·A", "area", *SPANS["drag_area_m2"].ends, "Cd times frontal area; or the class’s.", step=0.01
    )
    rolling_coefficient: float = number(
        "Rolling coefficient", "ratio", *SPANS["rolling_coefficient"].ends, "At 25 °C; the class value is fine.", step=0.0001
    )
    pack_heater_kw: float = number("Pack heater", "power", *SPANS["pack_heater_kw"].ends, "0 if it has none.", step=0.1)
    cabin_heater_kw: float = number("Cabin heater", "power", *SPANS["cabin_heater_kw"].ends, "Heat, not electricity.", step=0.1)


class OutletForm(BaseModel):
    """Step 2."""

    name: str = text("Name", 30, "Wall unit, garage socket …", "Wall unit")
    code: Code = choice(
        "Code rule",
        {"iec": "IEC (as rated)", "north_america": "North America (80 % of the breaker)"},
        "Which rule your wiring follows.",
    )
    voltage_v: float = number("Voltage", "voltage", 90, 300, "Phase to neutral: 230; 120 or 240 in North America.")
    phases: int = choice("Phases", PHASES)
    breaker_a: float = number("Breaker", "current", 6, 125, "Printed on it.")
    cable_a: float | None = number(
        "Lead or wall unit maximum", "current", 6, 100, "Printed on it; empty if it is not the limit.", None
    )
    selector_a: float | None = number("Its selector is set to", "current", 6, 100, "Empty if it has none.", None)
    car_setting_a: float | None = number("The car itself is set to", "current", 6, 100, "Empty if you never changed it.", None)


class TariffForm(Paid):
    """Step 3: two bands a day."""

    name: str = text("Name", 40, "What the bill calls it.", "My tariff")
    cheap_price: float = number("Cheap price", "price", 0, 5, "Per kWh, tax included.", step=0.001)
    cheap_from: time = clock("Cheap from")
    cheap_to: time = clock("Cheap until")
    dear_price: float = number("Dear price", "price", 0, 5, "Per kWh, tax included.", step=0.001)


class PlaceForm(Located, Measured):
    """Step 4."""

    place: str = text("Place", 40, "Any name you like.")
    soc_now: float = number("Level now", "percent", 0, 1, "What the car shows.")
    plug_in: time = clock("You plug in at")
    depart: time = clock("You leave at")
    town_km: float = number("Town", "distance", 0, 500, "Of a usual day, there and back.")
    country_km: float = number("Country road", "distance", 0, 800, "Of a usual day, there and back.")
    motorway_km: float = number("Motorway", "distance", 0, 1000, "Of a usual day, there and back.")
    motorway_kmh: float = number("Your motorway speed", "speed", 50, 160)
    out_now_c: float = number("Outside now", "temperature", -45, 45, "You can type it anew each evening.")
    out_low_c: float = number("Low by morning", "temperature", -45, 45, "From any forecast.")


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
    revision = whole_number(fields.get("revision"), -1)
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


def yes(value: object) -> str:
    return "yes" if value else "no"


def car_from(form: CarForm, key: str) -> Car:
    """The core's car from its form and class."""
    base = preset(key, form.name)
    follows = form.ac_limit_a == base.charger.ac_limit_a and form.ac_limit_kw != base.charger.ac_limit_kw
    from_power = form.ac_limit_kw * 1000 / form.ac_phases / LOWEST_V
    amps = from_power if form.ac_limit_a is None or follows else form.ac_limit_a  # a class's current follows its power
    values = {column: getattr(form, column) for column in FIELDS if hasattr(form, column)}
    switches = {name: values[name] == "yes" for name in ("heat_pump", "winter_tyres")}
    return base.with_values({**values, **switches, "ac_limit_a": max(6.0, min(100.0, amps))})


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
