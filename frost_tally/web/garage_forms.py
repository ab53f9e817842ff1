"""What is edited in the Garage: the form of each kind of part, and its groups of fields."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import time

from pydantic import BaseModel

from ..core.charge.control import STEPS_MIN
from ..core.coming.weather import OWN
from .forms import choice, clock, number, text
from .part_forms import PREFERENCES, WINTERS_WORDS, CarForm, Located, OutletForm, Preferences, Roads
from .setup_steps import STEPS
from .words.lists import CHARGES, CONTROLS, PLUGS, TIE_BREAKS
from .words.warm import WARM_UPS


class OutletPartForm(OutletForm):
    """An outlet with all the bench asks."""

    shared_a: float = number(
        "Others on the circuit draw", "current", 0, 100, "0 for a dedicated circuit, as the codes want.", 0.0
    )
    shared_with: str = text("Shared with", 40, "Such as a freezer; empty if dedicated.", "")
    held_from: time = clock("The house needs its power from", "Twice the same time: never.", time())
    held_until: time = clock("Needs it until", "Such as while the sauna or the stove is on.", time())
    held_a: float = number(
        "And leaves the car", "current", 0, 100, "Under 6: no charging then. The unit must hold itself to it.", 0.0
    )
    lights: str = text("What the cable’s lights mean", 200, "As its manual says: green, blinking … ", "")
    install_cost: float | None = number(
        "Cost to have it installed", "money", 0, 100_000, "From an offer; 0 if it is there, empty if you do not know.", None
    )
    place_id: int = choice("Place", {})


class PlaceForm(Located):
    """A place where cars stand."""

    name: str = text("Place", 40, "Any name you like.")
    winters: str = choice("Its winters are", WINTERS_WORDS, "Until the log has temperatures of its own.", OWN)
    january_c: float = number(
        "Mean of January", "temperature", -45, 40, "From a table of the climate; for yearly sums.", -4.0, 0.5
    )
    july_c: float = number("Mean of July", "temperature", -30, 45, "The same for July.", 16.0, 0.5)


class PersonForm(Preferences):
    """Somebody's units and money."""

    name: str = text("Who looks", 30, "Any name or nickname.")
    per_contract: float = number(
        "One unit of the contract’s money is", "ratio", 0.000001, 1_000_000, "1 if it is the same money.", 1.0
    )


class HabitForm(Roads):
    """Where a car is plugged in, and its usual day."""

    outlet_id: int = choice("Plugged into", {})
    tariff_id: int = choice("Charges on", {})
    limit: float = number("Habit limit", "percent", 0.3, 1.0, "Where charging stops on ordinary nights.")
    reserve: float = number("Reserve", "percent", 0.0, 0.5, "Kept at arrival.")
    floor: float = number("Floor", "percent", 0.0, 0.5, "The lowest level you plan to see.")
    warm_up: str = choice("Warm up before departure", WARM_UPS)
    days_a_week: float = number("Days a week you drive", "count", 1, 7, "For yearly sums without a log.")
    parked_h: float = number("Parked away", "hours", 0, 23, "Between the way out and the way home.")
    people: int = number("People", "count", 1, 9, "With the driver.")
    charges: str = choice("It is charged", CHARGES, "", "shallow")
    plugs: str = choice("The cable goes in", PLUGS, "", "every")
    control: str = choice("What starts it", CONTROLS, "The car’s or the wall unit’s own timer, never both.", "linked")
    school: str = choice("Among equal hours", TIE_BREAKS, "Late leaves the pack warm; cool spares it in summer.", "late")
    timer_step: int = choice("The timer takes", {str(each): f"{each} min" for each in STEPS_MIN}, "Its smallest step.", 15)
    awake_from: time = clock("Somebody is awake from", "", time(6, 30))
    awake_until: time = clock("Awake until", "", time(22, 30))


@dataclass(frozen=True)
class EditedPart:
    """How one kind of part is edited: its form, its title and its groups of fields."""

    form: type[BaseModel]
    title: str
    kind: str
    groups: tuple[tuple[str, tuple[str, ...]], ...]


ROADS = ("days_a_week", "town_km", "country_km", "motorway_km", "motorway_kmh")
PARTS: Mapping[str, EditedPart] = {
    "car": EditedPart(CarForm, "Car", "car", (STEPS["car"].groups[0], STEPS["car"].folded)),
    "day": EditedPart(HabitForm, "Usual day", "car", (
        ("Where it is plugged in", ("outlet_id", "tariff_id", "limit", "reserve", "floor", "warm_up")),
        ("A usual day", ("plug_in", "depart", *ROADS, "parked_h", "people")),
        ("How its nights are carried out", ("charges", "plugs", "school", "control", "timer_step", "awake_from", "awake_until")))),
    "outlet": EditedPart(OutletPartForm, "Outlet", "outlet", (
        ("The circuit", ("name", "place_id", "code", "voltage_v", "phases", "breaker_a")),
        ("What may hold it back", ("shared_a", "shared_with", "cable_a", "selector_a", "car_setting_a")),
        ("Hours and lights", ("held_from", "held_until", "held_a", "lights")),
        ("For the bench", ("install_cost",)))),
    "place": EditedPart(PlaceForm, "Place", "place", (
        ("Where it is", ("name", "zone", "altitude_m")), ("The garage", ("garage", "garage_heated_c")),
        ("Its climate", ("winters", "january_c", "july_c")))),
    "person": EditedPart(PersonForm, "Units", "person", (
        ("", ("name",)), ("Units", PREFERENCES[:-1]), ("Money", ("currency", "per_contract")))),
}  # fmt: skip
