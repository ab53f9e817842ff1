"""Room 1, a night again: faults dropped on the coming night, and what the runner makes of it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date, time
from typing import Any

from pydantic import BaseModel, create_model

from ....services.replay import SLOTS, Dropped, ReplayInputs, ReplayRoom, replay_room
from ...drawing.both import Both
from ...forms import choice, clock, day, number
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...units import Units
from ...words.hours import hour
from ...words.runner import line_words
from ...words.sentence import Verdict
from ..day.page import YES_NO
from .picture import night
from .words import FAULTS, rows, verdict

router = Router()
TABS: tuple[Tab, ...] = ()


def _slots() -> dict[str, Any]:
    found: dict[str, Any] = {}
    for i in range(1, len(SLOTS) + 1):
        found[f"kind_{i}"] = (str | None, choice(f"{('First', 'Second', 'Third')[i - 1]} fault", FAULTS, "", None))
        found[f"at_{i}"] = (time | None, clock("at", "", None))
        found[f"minutes_{i}"] = (float | None, number("for", "minutes", 1, 1440, "", default=None))
    return found


ReplayForm: type[BaseModel] = create_model(
    "ReplayForm",
    **_slots(),
    left_on=(date | None, day("Left on", "A night of the log. Empty: the coming one.", None)),
    soc=(float | None, number("Level at the cable", "percent", 0.02, 1.0, "", default=None)),
    amps=(float | None, number("Less current is", "current", 0, 32, "Under 6 A nothing flows.", default=None)),
    own_limit=(float | None, number("The car stops at", "percent", 0.1, 1.0, "Its own limit.", default=None)),
    tells=(bool | None, choice("The car tells its level", YES_NO, "Else it is counted from the energy.", None)),
    seed=(
        int | None,
        number("At random, by number", "count", 0, 99_999, "0: none. A number draws the same again.", default=None),
    ),
)


@dataclass(frozen=True, kw_only=True)
class ReplayView:
    """Everything the template needs."""

    room: ReplayRoom
    units: Units
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[str, str, str, str], ...]
    lines: tuple[tuple[int, str, str, bool], ...]


def view(room: ReplayRoom, units: Units) -> ReplayView:
    """The night as sentences, a picture and two lists."""
    said = verdict(room, units)
    lines = enumerate(room.done.runner.lines, 1)
    return ReplayView(
        room=room,
        units=units,
        verdict=said,
        picture=Both(lambda phone: night(room, units, f"The night again. {said.plain}", phone)),
        rows=rows(room, units),
        lines=tuple((i, hour(each.at, room.owned.zone, units), line_words(each, units), each.tells) for i, each in lines),
    )


def _flat(inputs: ReplayInputs) -> Mapping[str, Any]:
    """By field: the faults by their places."""
    found = {name: value for name, value in vars(inputs).items() if name != "dropped"}
    for i, each in enumerate(inputs.dropped, 1):
        found |= {f"{name}_{i}": value for name, value in vars(each).items()}
    return found


def _overridden(defaults: ReplayInputs, values: Mapping[str, Any]) -> ReplayInputs:
    flat = {**_flat(defaults), **values}
    dropped = tuple(Dropped(*(flat[f"{name}_{i}"] for name in ("kind", "at", "minutes"))) for i in range(1, len(SLOTS) + 1))
    own = {name: value for name, value in flat.items() if not name[-1].isdigit()}
    return ReplayInputs(dropped=dropped, **own)


def _compute(asked: Asked, override: Callable[[ReplayInputs], ReplayInputs]) -> ReplayRoom:
    return replay_room(asked.snapshot, asked.car, override)


ROOM = LeverRoom(
    name="tonight", path="/tonight/replay", templates="replay", form=ReplayForm, compute=_compute, view=view,
    context=lambda made, request: {"message": ""}, flat=_flat, overridden=_overridden,
)  # fmt: skip
ROOM.mount(router)
