"""The forms of the parts of a home: car, outlet, tariff, place and usual day, as set-up and Garage ask for them."""

import math
from collections.abc import Iterator, Mapping
from datetime import time
from functools import cache
from typing import Any
from zoneinfo import available_timezones

from babel.core import get_global
from babel.numbers import get_territory_currencies
from pydantic import BaseModel, field_validator

from ..core.battery.cold import Chemistry
from ..core.car import FIELDS, SPANS, SWITCHES, Car, Preheats, preset
from ..core.charge.supply import Code, Supply
from ..core.coming.weather import GUESSED, OWN
from ..core.errors import OutOfRange
from ..core.measures import CHOSEN
from .forms import choice, clock, number, text
from .units import Units, units_from
from .words.warm import WARM_UPS

PHASES = {"1": "1", "3": "3"}
LOWEST_V = 200.0
YES_NO = {"yes": "yes", "no": "no"}
WINTERS_WORDS = {
    GUESSED: "not known yet",
    "mild": "mild, mostly above freezing",
    "cold": "cold, some degrees of frost",
    "hard": "hard, more than ten below",
    OWN: "as two means of its own say",
}
GARAGES = {"outdoor": "outdoors", "unheated": "in an unheated garage", "heated": "in a heated garage"}


@cache
def clocks() -> frozenset[str]:
    """The clocks of places, named as area and place, and UTC: not what a machine has for itself."""
    places = {each for each in available_timezones() if "/" in each and each.split("/")[0] not in ("posix", "right", "SystemV")}
    return frozenset(places | {"UTC"})


@cache
def _money() -> frozenset[str]:
    """What is paid with somewhere today."""
    return frozenset(code for place in get_global("territory_currencies") for code in get_territory_currencies(place))


class Located(BaseModel):
    """Where cars stand."""

    zone: str = text("Time zone", 40, "Such as Europe/Oslo; clock changes follow it.")
    altitude_m: float = number("Altitude", "height", -400, 4500, "A map knows it.", 0.0)
    garage: str = choice("The car stands", GARAGES)
    winters: str = choice("Its winters are", WINTERS_WORDS, "Until the log has temperatures of its own.", GUESSED)
    garage_heated_c: float = number("Garage temperature", "temperature", -5, 30, "Only if it is heated.", 10.0)

    @field_validator("zone")
    @classmethod
    def _zone(cls, value: str) -> str:
        if value not in clocks():
            raise ValueError("unknown")
        return value


def _labels(name: str, *quantities: str) -> dict[str, str]:
    """What somebody may choose, by the units that it leads to: "mi, mph"."""
    return {key: ", ".join(units[each].label for each in quantities) for key, units in CHOSEN[name].items()}


class Preferences(BaseModel):
    """Somebody's units, money and way of writing."""

    distance_unit: str = choice("Distances, speeds in", _labels("distance", "distance", "speed"))
    temperature_unit: str = choice("Temperatures in", _labels("temperature", "temperature"))
    pressure_unit: str = choice("Pressures in", _labels("pressure", "pressure"))
    weight_unit: str = choice("Weights, heights in", _labels("weight", "mass", "height"))
    hours: str = choice("Hours", {"24": "22:30", "12": "10:30 pm"})
    week_start: str = choice("The week begins on", {"mon": "Monday", "sun": "Sunday"})
    decimal_mark: str = choice("Decimals", {".": "1.5", ",": "1,5"})
    currency: str = text("Currency", 3, "Three letters, such as EUR.", "EUR")

    @field_validator("currency")
    @classmethod
    def _known(cls, value: str) -> str:
        if value.upper() not in _money():
            raise ValueError("unknown")
        return value.upper()


PREFERENCES = tuple(Preferences.model_fields)


def preferences_of(units: Units) -> dict[str, str]:
    """The fields of `Preferences` for some units."""
    return {
        "distance_unit": units.distance,
        "temperature_unit": units.temperature,
        "pressure_unit": units.pressure,
        "weight_unit": units.weight,
        "hours": units.hours,
        "week_start": units.week_start,
        "decimal_mark": units.decimal,
        "currency": units.currency,
    }


def units_by(ways: Mapping[str, str], otherwise: Units) -> Units:
    """The units that the fields of `Preferences` name; `otherwise` where one will not do."""
    order = (
        "distance_unit",
        "temperature_unit",
        "pressure_unit",
        "currency",
        "weight_unit",
        "hours",
        "week_start",
        "decimal_mark",
    )
    return units_from("|".join(ways.get(each, "").strip() for each in order), otherwise)


class CarForm(BaseModel):
    """A car's numbers."""

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
    mass_kg: float = number("Mass with driver", "mass", *SPANS["mass_kg"].ends, "Registration paper plus {75 kg}.")
    drag_area_m2: float = number(
        "Drag area Cd·A", "area", *SPANS["drag_area_m2"].ends, "Cd times frontal area; or the class’s.", step=0.01
    )
    rolling_coefficient: float = number(
        "Rolling coefficient", "ratio", *SPANS["rolling_coefficient"].ends, "At {25 °C}; the class value is fine.", step=0.0001
    )
    pack_heater_kw: float = number("Pack heater", "power", *SPANS["pack_heater_kw"].ends, "0 if it has none.", step=0.1)
    drive_heat_to_c: float | None = number(
        "Heats its pack on the way until", "temperature", *SPANS["drive_heat_to_c"].ends, "Empty if it never does.", None, 0.5
    )
    drive_heat_from_c: float | None = number(
        "Pack heated on the way below", "temperature", *SPANS["drive_heat_from_c"].ends, "Empty: the same temperature.", None, 0.5
    )
    drive_heat_kw: float | None = number(
        "Pack heated on the way with", "power", *SPANS["drive_heat_kw"].ends, "Empty: what its pack heater has.", None, 0.1
    )
    drive_heat_off: str = choice("Pack heating can be switched off", YES_NO, "In the car’s menu.", "no")
    friction_share: float = number(
        "Brakes blend discs in", "percent", 0, 1, "Share of the braking; 0 if it brakes with its motor.", 0.0
    )
    most_kw: float | None = number("Most power", "power", *SPANS["most_kw"].ends, "Registration paper; empty if not known.", None)
    cabin_heater_kw: float = number("Cabin heater", "power", *SPANS["cabin_heater_kw"].ends, "Heat, not electricity.", step=0.1)


class OutletForm(BaseModel):
    """An outlet and its lead."""

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

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """Wiring that cannot be."""
        if all(name in have for name in ("code", "voltage_v", "phases", "breaker_a")):
            known = {name: have[name] for name in OutletForm.model_fields if name in have}
            try:
                Supply(**{"name": "", **known, **({"shared_a": have["shared_a"]} if "shared_a" in have else {})}).checked()
            except OutOfRange as refusal:
                yield refusal.field, units.refusal(refusal)


class TwoPrices(BaseModel):
    """A tariff of two bands a day."""

    tariff: str = text("Name of the tariff", 40, "What the bill calls it.", "My tariff")
    cheap_price: float = number("Cheap price", "price", 0, 20, "Per kWh, tax included.", step=0.001)
    cheap_from: time = clock("Cheap from")
    cheap_to: time = clock("Cheap until")
    dear_price: float = number("Dear price", "price", 0, 20, "Per kWh; the same again if there is one.", step=0.001)

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """What does not go together."""
        begin, end = have.get("cheap_from"), have.get("cheap_to")
        if begin is not None and begin == end:
            yield "cheap_to", "The cheap hours begin and end at the same time: enter two different times."
        if have.get("cheap_price", 0.0) > have.get("dear_price", math.inf):
            yield "cheap_price", "The cheap price is above the dear one: exchange them."
        quarters = ", ".join(units.clock(time(22, minute)) for minute in (0, 15, 30))
        for name, at in (("cheap_from", begin), ("cheap_to", end)):
            if at is not None and at.minute % 15:
                yield name, f"Bands change on quarter hours: {quarters} or {units.clock(time(22, 45))}."


class Roads(BaseModel):
    """A usual day."""

    plug_in: time = clock("You plug in at")
    depart: time = clock("You leave at")
    town_km: float = number("Town", "distance", 0, 500, "Of a usual day, there and back.")
    country_km: float = number("Country road", "distance", 0, 800, "Of a usual day, there and back.")
    motorway_km: float = number("Motorway", "distance", 0, 1000, "Of a usual day, there and back.")
    motorway_kmh: float = number("Your motorway speed", "speed", 50, 160)

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """A day goes somewhere."""
        roads = [have.get(name) for name in ("town_km", "country_km", "motorway_km")]
        if None not in roads and sum(filter(None, roads)) < 1:
            yield "town_km", f"A usual day needs at least {units.text(1, 'distance', 1)}: enter some town, country or motorway."


class Evening(BaseModel):
    """How it stands this evening."""

    soc_now: float = number("Level now", "percent", 0, 1, "What the car shows.")
    out_now_c: float = number("Outside now", "temperature", -45, 45, "You can type it anew each evening.")
    out_low_c: float = number("Low by morning", "temperature", -45, 45, "From any forecast.")

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """A low is low."""
        if have.get("out_low_c", -99.0) > have.get("out_now_c", 99.0) + 15:
            yield "out_low_c", "The low by morning is far above the temperature now: check the two."


class CarStep(CarForm, Preferences):
    """Set-up, first step: the car."""


class ChargingStep(OutletForm, TwoPrices, Preferences):
    """Set-up, second step: where it is plugged in, and what that costs."""


class DayStep(Roads, Evening, Located, Preferences):
    """Set-up, third step: the usual day, and this evening."""

    place: str = text("Place", 40, "Any name you like.", "Home")


PART_FORMS: Mapping[str, type[BaseModel]] = {
    "car": CarForm,
    "outlet": OutletForm,
    "place": Located,
    "person": Preferences,
    "habit": DayStep,
}
"""Where the columns of a part have their names and units."""


def switched(fields: Mapping[str, Any]) -> dict[str, Any]:
    """The fields of a car as its form has them: yes or no in words."""
    return {**fields, **{name: "yes" if fields[name] else "no" for name in SWITCHES}}


def car_from(form: CarForm, key: str) -> Car:
    """The core's car from its form and class."""
    base = preset(key, form.name, form.ac_phases)
    follows = form.ac_limit_a == base.charger.ac_limit_a and form.ac_limit_kw != base.charger.ac_limit_kw
    from_power = form.ac_limit_kw * 1000 / form.ac_phases / LOWEST_V
    amps = from_power if form.ac_limit_a is None or follows else form.ac_limit_a  # a class's current follows its power
    values = {column: getattr(form, column) for column in FIELDS if hasattr(form, column)}
    switches = {name: values[name] == "yes" for name in SWITCHES}
    return base.with_values({**values, **switches, "ac_limit_a": max(6.0, min(100.0, amps))})
