"""Room 7, hindsight: the nights that are over, each against its cheapest hours."""

from collections.abc import Callable
from dataclasses import dataclass

from pydantic import BaseModel

from ....services.hindsight import MOST, HindsightInputs, HindsightRoom, hindsight_room
from ...drawing.both import Both
from ...forms import number
from ...levers import Asked, LeverRoom
from ...once import Router
from ...units import Units
from ...words.sentence import Verdict
from .picture import columns
from .words import rows, verdict

router = Router()


class HindsightForm(BaseModel):
    """The lever of the page."""

    days: int | None = number("Days back", "count", 1, MOST, "A month, a winter, a year.", default=None)


@dataclass(frozen=True, kw_only=True)
class HindsightView:
    """Everything the template needs."""

    room: HindsightRoom
    units: Units
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[str, ...], ...]


def view(room: HindsightRoom, units: Units) -> HindsightView:
    """The nights as sentences, a picture and a table."""
    said = verdict(room, units)
    return HindsightView(
        room=room, units=units, verdict=said, rows=rows(room, units),
        picture=Both(lambda phone: columns(room, units, f"The nights that are over. {said.plain}", phone)),
    )  # fmt: skip


def _compute(asked: Asked, override: Callable[[HindsightInputs], HindsightInputs]) -> HindsightRoom:
    return hindsight_room(asked.snapshot, asked.car, override, asked.wait_s)


ROOM = LeverRoom(
    name="log", path="/log/hindsight", templates="hindsight", form=HindsightForm, compute=_compute, view=view,
    context=lambda made, request: {"message": "", "tab": "month"}, wait=("The nights that are over", "Planning each of them anew …"),
)  # fmt: skip
ROOM.mount(router)
