"""Why this number: what the verdict rests on, and every constant of the core with its unit, its basis and its source."""

from collections.abc import Mapping
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response

from ....core.basis import Figure, figures
from ....core.car import SPANS
from ....services.home import NotSetUp
from ....services.sensitivity import RestsOn, rests_on
from ....services.setup import own_numbers
from ...navigation import Tab
from ...once import Router
from ...page import render, units_of, whole_number
from ...reading import snapshot_of
from ...units import Units
from ...words.lists import CLASSES
from ...words.sentence import figure_words
from .picture import moves

router = Router()
TABS = (Tab(of="", key="basis", path="/basis", words="Why", at=10, rare=True),)
ROOMS: Mapping[str, Mapping[str, str]] = {
    "Tonight": {
        "start": "When the cable goes in", "night": "Night plan", "session": "Charging session", "supply": "Supply",
        "tariff": "Tariffs", "wear": "Wear", "level": "The level, carried on", "weather": "Weather that was typed",
    },
    "Week": {"week": "Which nights", "rota": "Who has the cable"},
    "Day": {
        "air": "Air", "road": "Road", "cycles": "Drive schedules", "trip": "Trip", "tally": "Tally", "style": "Driving style",
        "hills": "Hills", "extras": "What stands in the air", "tyres": "Tyres", "small": "Small things",
        "remedy": "Effort of what would help",
        "rating": "Ratings", "certainty": "Certainty", "learn": "Learning",
        "fast": "Fast charging", "long_day": "The long day", "roads": "Speeds that are a choice", "weekly": "Once a week at a fast post",
    },
    "Warm-up": {
        "cabin": "Cabin", "climate": "Climate", "comfort": "Comfort", "preheat": "Warm-up", "warm_up": "Whether to warm up",
    },
    "Battery": {
        "capacity": "What a test tells", "trend": "How the trend begins", "schools": "Limit schools", "display": "The level’s display",
        "used": "A stranger’s car",
    },
    "Parked": {
        "parked": "Standing", "twelve_volt": "12 V battery", "washer": "Washer fluid", "season": "The season’s dates",
    },
    "Log": {"log": "What goes together"},
    "Garage": {"bench": "Outlets bench", "house": "House", "reach": "The cable’s reach"},
    "Everywhere": {"pack": "Pack", "units": "Constants", "why": "This page"},
}  # fmt: skip
"""The parts of the core by the room that shows most of them."""


@dataclass(frozen=True)
class Part:
    """A part's figures; `room` shows most of them."""

    room: str
    name: str
    figures: tuple[Figure, ...]


def parts(find: str, units: Units) -> tuple[Part, ...]:
    """All parts with the figures in which some words are found; parts without any are left out."""
    wanted = find.casefold().split()
    found = []
    for room_name, names in ROOMS.items():
        for key, name in names.items():
            texts = {
                each: f"{room_name} {name} {figure_words(each.key)} {each.unit} {each.basis.value} {units.say(each.source)}".casefold()
                for each in figures(f"{key}.")
            }
            fit = tuple(each for each, text in texts.items() if all(word in text for word in wanted))
            if fit:
                found.append(Part(room_name, name, fit))
    return tuple(found)


@router.get("/basis")
def room(request: Request, find: str = "") -> Response:
    """What the verdict rests on, the household's own numbers, then all figures by room; `find` looks for words in them."""
    units, find = units_of(request), find.strip()[:60]
    return render(
        request,
        "basis/room.html",
        room="basis",
        find=find,
        parts=parts(find, units),
        rooms=tuple(ROOMS),
        own=() if find else own_numbers(snapshot_of(request)),
        rests=() if find else _rests(request, units),
        spans=SPANS,
        classes=CLASSES,
    )


def _rests(request: Request, units: Units) -> tuple[str, str]:
    """What tomorrow's verdict rests on, drawn in both shapes; nothing before there is one."""
    try:
        made: RestsOn = rests_on(snapshot_of(request), whole_number(request.query_params.get("car")))
    except NotSetUp:
        return "", ""
    return moves(made, units), moves(made, units, phone=True)
