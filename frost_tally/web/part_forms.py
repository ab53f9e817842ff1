"""The forms of the parts of a home: car, outlet, tariff, place and usual day, as set-up and Garage ask for them."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import time
from functools import cache
from typing import Any, Literal
from zoneinfo import available_timezones

from babel.core import get_global
from babel.numbers import get_territory_currencies
from pydantic import BaseModel, create_model, field_validator

from ..core.car import Car, preset
from ..core.charge.supply import Supply
from ..core.errors import OutOfRange
from ..core.fields import declared
from ..core.parts import GUESSED, Habit, Outlet, Person, Place
from ..formats import values
from .field_forms import form_of
from .forms import choice, clock, number, text
from .units import IN_CODE, Units, units_from
from .words.fields import CAR, HABIT, OUTLET, PERSON, PLACE

LOWEST_V = 200.0


@cache
def clocks() -> frozenset[str]:
    """The clocks of places, named as area and place, and UTC: not what a machine has for itself."""
    places = {each for each in available_timezones() if "/" in each and each.split("/")[0] not in ("posix", "right", "SystemV")}
    return frozenset(places | {"UTC"})


@cache
def _money() -> frozenset[str]:
    """What is paid with somewhere today."""
    return frozenset(code for place in get_global("territory_currencies") for code in get_territory_currencies(place))


class _Located(BaseModel):
    @field_validator("zone", check_fields=False)
    @classmethod
    def _zone(cls, value: str) -> str:
        if value not in clocks():
            raise ValueError("unknown")
        return value


class _Paid(BaseModel):
    @field_validator("currency", check_fields=False)
    @classmethod
    def _known(cls, value: str) -> str:
        if value.upper() not in _money():
            raise ValueError("unknown")
        return value.upper()


class _Written(BaseModel):
    @field_validator("email", check_fields=False)
    @classmethod
    def _address(cls, value: str) -> str:
        return values.email(value) if value else ""

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """Letters go somewhere."""
        if have.get("mailed") and not have.get("email"):
            yield "email", "Nothing entered: enter the address that they go to."


class _Wired(BaseModel):
    @field_validator("point", check_fields=False)
    @classmethod
    def _named(cls, value: str) -> str:
        return values.identity(value) if value else ""

    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """Wiring that cannot be."""
        if all(name in have for name in ("code", "voltage_v", "phases", "breaker_a")):
            try:
                Supply(**{"name": "", **{name: have[name] for name in declared(Supply) if name in have}}).checked()
            except OutOfRange as refusal:
                yield refusal.field, units.refusal(refusal)


class _Driven(BaseModel):
    @classmethod
    def cross_checks(cls, have: Mapping[str, Any], units: Units) -> Iterator[tuple[str, str]]:
        """A day goes somewhere."""
        roads = [have.get(name) for name in ("town_km", "country_km", "motorway_km")]
        if None not in roads and sum(filter(None, roads)) < 1:
            yield "town_km", f"A usual day needs at least {units.text(1, 'distance', 1)}: enter some town, country or motorway."


_OF_CAR, _OF_OUTLET, _OF_PLACE, _OF_PERSON, _OF_HABIT = (declared(each) for each in (Car, Outlet, Place, Person, Habit))
_WIRING = ("name", *(each for each in declared(Supply) if each != "shared_a"))
_ROADS = ("plug_in", "depart", "town_km", "country_km", "motorway_km", "motorway_kmh")
_SEEN = [each for each in _OF_PLACE if each not in ("name", "january_c", "july_c")]
PREFERENCES = tuple(each for each in _OF_PERSON if each not in ("name", "per_contract", "email", "mailed"))
CarForm = form_of("CarForm", {**_OF_CAR, "warm_up": _OF_HABIT["warm_up"]}, CAR)
OutletForm = form_of("OutletForm", _OF_OUTLET, OUTLET, _Wired, only=_WIRING, name="Wall unit")
Located = form_of("Located", _OF_PLACE, PLACE, _Located, only=_SEEN, winters=GUESSED)
Roads = form_of("Roads", _OF_HABIT, HABIT, _Driven, only=_ROADS)
Preferences = form_of("Preferences", _OF_PERSON, PERSON, _Paid, only=PREFERENCES)
OutletPartForm = form_of("OutletPartForm", _OF_OUTLET, OUTLET, _Wired)
PlaceForm = form_of("PlaceForm", _OF_PLACE, PLACE, _Located)
PersonForm = form_of("PersonForm", _OF_PERSON, PERSON, _Paid, _Written)
HabitForm = form_of("HabitForm", _OF_HABIT, HABIT, _Driven)
_WAYS = {each.removesuffix("_unit").removesuffix("_mark"): each for each in PREFERENCES}
"""The fields of a person by the names of `Units`."""


def preferences_of(units: Units) -> dict[str, str]:
    """The fields of `Preferences` for some units."""
    return {column: getattr(units, way) for way, column in _WAYS.items()}


def units_by(ways: Mapping[str, str], otherwise: Units) -> Units:
    """The units that the fields of `Preferences` name; `otherwise` where one will not do."""
    units = units_from("|".join(ways.get(_WAYS[each], "").strip() for each in IN_CODE), otherwise)
    return replace(units, date_order=ways.get("date_order") or otherwise.date_order)


class NoPrices(BaseModel):
    """A tariff whose prices nobody knows."""

    tariff: str = text("Name of the tariff", 40, "What the bill calls it.", "My tariff")


class OnePrice(NoPrices):
    """A tariff of one price, or of one each hour, of which the mean is known."""

    mean_price: float = number(
        "Price", "price", 0, 20, "Per kWh, tax included; of hourly prices their mean on the last bill.", step=0.001
    )


class TwoPrices(NoPrices):
    """A tariff of two bands a day."""

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


class _Aged(BaseModel):
    age_years: float | None = number(
        "Its age in years", "count", 0, 25, "For its health, if you do not know that.", default=None, step=0.5
    )


WEEKENDS = {"same": "as on other days", "home": "it stays at home", "other": "another distance"}


class _Weekend(BaseModel):
    weekend: Literal["", "same", "home", "other"] = choice("Saturday and Sunday", WEEKENDS, "Other days are set in the Week.", "")
    weekend_km: float | None = number("Another distance", "distance", 0, 1000, "Of such a day, there and back.", default=None)


CarStep: Any = create_model("CarStep", __base__=(CarForm, _Aged, Preferences))
"""Set-up, first step: the car."""
Starts = form_of("Starts", _OF_HABIT, HABIT, only=("control",))
PRICED: Mapping[str, type[BaseModel]] = {"two": TwoPrices, "one": OnePrice, "hourly": OnePrice, "unknown": NoPrices}
"""What is asked of a tariff, by what is known of it."""
CHARGING: Mapping[str, Any] = {
    key: create_model("ChargingStep", __base__=(OutletForm, prices, Starts, Preferences)) for key, prices in PRICED.items()
}
"""Set-up, second step: where it is plugged in, what that costs, and what starts it."""
SharedStep: Any = create_model("SharedStep", __base__=(Starts, Preferences))
"""The same for a car on the cable of another."""
_AT: Any = {"place": (str, text("Place", 40, "Any name you like.", "Home"))}
DayStep: Any = create_model("DayStep", __base__=(Roads, _Weekend, Evening, Located, Preferences), **_AT)
"""Set-up, third step: the usual day, and this evening."""
PART_FORMS: Mapping[str, Any] = {
    "car": CarForm,
    "outlet": OutletPartForm,
    "place": PlaceForm,
    "person": PersonForm,
    "habit": HabitForm,
}
"""Where the columns of a part have their names and units."""


def car_from(form: Any, key: str) -> Car:
    """The core's car from its form and class."""
    base = preset(key, form.name, form.ac_phases)
    follows = form.ac_limit_a == base.charger.ac_limit_a and form.ac_limit_kw != base.charger.ac_limit_kw
    from_power = form.ac_limit_kw * 1000 / form.ac_phases / LOWEST_V
    amps = from_power if form.ac_limit_a is None or follows else form.ac_limit_a  # a class's current follows its power
    values = {column: getattr(form, column) for column in declared(Car) if hasattr(form, column)}
    return base.with_values({**values, "ac_limit_a": max(6.0, min(100.0, amps))})
