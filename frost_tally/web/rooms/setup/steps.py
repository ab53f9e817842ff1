"""The three steps of setting up: their forms and fields, and what is said of texts that are no free texts."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ...part_forms import CarStep, ChargingStep, DayStep, OutletForm
from ...words.fields import CAR


@dataclass(frozen=True)
class Step:
    """One step: its form, its title, what it asks first (by heading), and what stands folded up beside it."""

    form: type[BaseModel]
    title: str
    sub: str
    groups: tuple[tuple[str, tuple[str, ...]], ...]
    folded: tuple[str, tuple[str, ...]]


_CAR = tuple(CAR[""])
STEPS: Mapping[str, Step] = {
    "car": Step(
        CarStep,
        "Your car",
        "Start from a class of car, then put in what you know. Everything has a sensible value already.",
        (("", _CAR),),
        next((heading, tuple(names)) for heading, names in CAR.items() if heading),
    ),
    "outlet": Step(
        ChargingStep,
        "Where it charges",
        "Where the car is plugged in at night, and what that costs. The smallest limit decides; two prices a day will do to begin with.",
        (("", ("breaker_a",)), ("What it costs", ("cheap_price", "cheap_from", "cheap_to", "dear_price"))),
        ("Volts, phases, lead, and names", tuple(n for n in (*OutletForm.model_fields, "tariff") if n != "breaker_a")),
    ),
    "place": Step(
        DayStep,
        "Your usual day",
        "How far you drive, when you leave, and how it stands this evening.",
        (
            ("A usual day", ("depart", "town_km", "country_km", "motorway_km")),
            ("This evening", ("soc_now", "out_now_c", "out_low_c")),
        ),
        ("Place, garage, motorway speed and plug-in time", (
            "place", "zone", "altitude_m", "winters", "garage", "garage_heated_c", "motorway_kmh", "plug_in")),
    ),
}  # fmt: skip
OWN_WORDS = {"currency": "three letters of a currency, such as EUR", "zone": "a zone such as Europe/Oslo or America/Toronto"}


def own_words(errors: Mapping[str, str], fields: Mapping[str, str]) -> dict[str, str]:
    """Messages with what is right for the texts that are no free texts."""
    return {
        name: f"“{fields.get(name, '')[:40]}” will not do: enter {OWN_WORDS[name]}." if name in OWN_WORDS else said
        for name, said in errors.items()
    }
