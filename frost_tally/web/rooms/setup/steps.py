"""The steps of setting up: their forms and fields, what each starts from, and what is said of texts that are no free texts."""

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ....core.car import PRESETS
from ....core.charge.supply import Code
from ...part_forms import CHARGING, PRICED, CarStep, DayStep, OutletForm, SharedStep
from ...words.fields import CAR

Groups = tuple[tuple[str, tuple[str, ...]], ...]
TITLES = {"car": "Your car", "outlet": "Where it charges", "place": "Your usual day"}
PRICES = {"two": "Cheap and dear hours", "one": "One price", "hourly": "Another each hour", "unknown": "I do not know"}
ASKED = {
    "two": ("cheap_price", "cheap_from", "cheap_to", "dear_price"),
    "one": ("mean_price",),
    "hourly": ("mean_price",),
    "unknown": (),
}
NO_SOCKET, SHARED, ANOTHER = "none", "shared", "another"
"""Kinds of an outlet that are none of its own; and a walk for one more car."""


@dataclass(frozen=True, kw_only=True)
class Start:
    """What a step starts from: a class of car, a kind of outlet, what is known of prices ("" for what is kept already, or the usual); the
    code of circuits; whether one more car is set up.
    """

    preset: str = ""
    kind: str = ""
    prices: str = ""
    code: Code = Code.IEC
    walk: str = ""

    @property
    def travels(self) -> dict[str, str]:
        """What goes on to the next step."""
        return {"mains": self.code.value} | ({"walk": self.walk} if self.walk else {})


def start_of(fields: Mapping[str, str], usual: str) -> Start:
    """What the fields of a step, or its address, start from; `usual` is the code where this browser is at home."""
    preset, prices, code = (fields.get(name, "") for name in ("preset", "prices", "mains"))
    return Start(
        preset=preset if preset in PRESETS else "",
        kind=fields.get("kind", ""),
        prices=prices if prices in PRICED else "",
        code=Code(code if code in list(Code) else usual),
        walk=ANOTHER if fields.get("walk") == ANOTHER else "",
    )


@dataclass(frozen=True)
class Step:
    """One step: its form, its title, what it asks first (by heading), and what stands folded up beside it."""

    form: type[BaseModel]
    title: str
    sub: str
    groups: Groups
    folded: tuple[str, tuple[str, ...]] = ("", ())


def step_of(name: str, start: Start) -> Step:
    """A step as it starts. Raises: KeyError for one that is none."""
    return {"car": _car, "outlet": _outlet, "place": _place}[name](start)


def _car(start: Start) -> Step:
    rest, names = next((heading, tuple(names)) for heading, names in CAR.items() if heading)
    sub = "Start from a class of car, then put in what you know. Everything has a sensible value already."
    own = tuple(each for each in names if each != "soh")
    return Step(CarStep, TITLES["car"], sub, (("", tuple(CAR[""])), ("How old it is", ("age_years", "soh"))), (rest, own))


def _outlet(start: Start) -> Step:
    if start.kind == NO_SOCKET:
        return Step(SharedStep, TITLES["outlet"], "Then it charges once a week at a fast post: you will see what that takes.", ())
    if start.kind == SHARED:
        return Step(
            SharedStep, TITLES["outlet"], "On the cable and the tariff that are there.", (("Who starts charging", ("control",)),)
        )
    prices = start.prices or "two"
    sub = "Where the car is plugged in at night, what starts it, and what that costs. The smallest limit decides."
    folded = tuple(each for each in (*OutletForm.model_fields, "tariff") if each != "breaker_a")
    groups: Groups = (("", ("breaker_a",)), ("Who starts charging", ("control",)), ("What it costs", ASKED[prices]))
    return Step(CHARGING[prices], TITLES["outlet"], sub, groups, ("Volts, phases, lead, and names", folded))


def _place(start: Start) -> Step:
    return Step(
        DayStep,
        TITLES["place"],
        "How far you drive, when you leave, and how it stands this evening.",
        (
            ("A usual day", ("depart", "town_km", "country_km", "motorway_km")),
            ("At weekends", ("weekend", "weekend_km")),
            ("Where it stands", ("garage", "winters")),
            ("This evening", ("soc_now", "out_now_c", "out_low_c")),
        ),
        ("Place, motorway speed and plug-in time", ("place", "zone", "altitude_m", "garage_heated_c", "motorway_kmh", "plug_in")),
    )


OWN_WORDS = {
    "point": "up to 36 letters, digits, - _ . without spaces",
    "email": "an address such as ida@example.org",
    "currency": "three letters of a currency, such as EUR",
    "zone": "a zone such as Europe/Oslo or America/Toronto",
}


def own_words(errors: Mapping[str, str], fields: Mapping[str, str]) -> dict[str, str]:
    """Messages with what is right for the texts that are no free texts."""
    return {
        name: f"“{fields.get(name, '')[:40]}” will not do: enter {OWN_WORDS[name]}."
        if name in OWN_WORDS and fields.get(name)
        else said
        for name, said in errors.items()
    }
