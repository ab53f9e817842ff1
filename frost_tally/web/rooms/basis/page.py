"""Why this number: what the verdict rests on, and every constant of the core with its unit, its basis and its source."""

from collections.abc import Mapping
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response

from ....core.basis import Figure, figures
from ....core.car import SPANS
from ....core.errors import Refusal
from ....services.basis import RestsOn, rests_on
from ....services.setup import own_numbers
from ....services.shared.home import NotSetUp
from ....services.tonight.room import tonight
from ...navigation import Tab, figures_of
from ...once import Router
from ...page import render, units_of, whole_number
from ...reading import snapshot_of
from ...units import Units
from ...words.lists import CLASSES
from ...words.sentence import figure_words
from .picture import moves
from .seen import Seen, found, seen

router = Router()
TABS = (
    Tab(of="", key="basis", path="/basis", words="Why", at=10, rare=True),
    Tab(of="basis", key="numbers", path="/basis", words="These numbers", at=0),
)
EVERYWHERE: Mapping[str, str] = {"pack": "Pack", "units": "Constants", "why": "This page"}
"""The parts of the core that no page shows more than the others."""


@dataclass(frozen=True)
class Part:
    """A part's figures; `room` shows most of them."""

    room: str
    name: str
    figures: tuple[Figure, ...]


def parts(find: str, rooms: Mapping[str, Mapping[str, str]], units: Units) -> tuple[Part, ...]:
    """All parts of the rooms with the figures in which some words are found; parts without any are left out."""
    wanted = find.casefold().split()
    found = []
    for room_name, names in rooms.items():
        for key, name in names.items():
            shared = f"{room_name} {name}"
            fit = figures(f"{key}.")
            if wanted:  # what nobody looks for is not put into words twice
                texts = {each: f"{shared} {' '.join(_said(each, units))}".casefold() for each in fit}
                fit = tuple(each for each, text in texts.items() if all(word in text for word in wanted))
            if fit:
                found.append(Part(room_name, name, fit))
    return tuple(found)


def _said(each: Figure, units: Units) -> tuple[str, ...]:
    """What a figure's row says."""
    return figure_words(each.key), units.figure(each.value, each.unit), each.basis.value, units.say(each.source)


@router.get("/basis")
def room(request: Request, find: str = "") -> Response:
    """What the verdict rests on, the household's own numbers, then all figures by room; `find` looks for words in them."""
    units, find = units_of(request), find.strip()[:60]
    rooms = {**figures_of(request.app.state.tabs), "Everywhere": EVERYWHERE}
    return render(
        request,
        "basis/room.html",
        room="basis",
        tab="numbers",
        find=find,
        parts=parts(find, rooms, units),
        rooms=tuple(rooms),
        own=() if find else own_numbers(snapshot_of(request)),
        seen=_seen(request, units, find) if find else {},
        rests=() if find else _rests(request, units),
        spans=SPANS,
        classes=CLASSES,
    )


def _seen(request: Request, units: Units, find: str) -> dict[str, tuple[Seen, ...]]:
    """What the screens show of tomorrow, with some words in it; nothing before there is a plan."""
    try:
        night = tonight(snapshot_of(request), whole_number(request.query_params.get("car")))
    except (NotSetUp, Refusal):
        return {}
    return found(seen(night, snapshot_of(request), units), find)


def _rests(request: Request, units: Units) -> tuple[str, str]:
    """What tomorrow's verdict rests on, drawn in both shapes; nothing before there is one."""
    try:
        made: RestsOn = rests_on(snapshot_of(request), whole_number(request.query_params.get("car")))
    except NotSetUp:
        return "", ""
    return moves(made, units), moves(made, units, phone=True)
