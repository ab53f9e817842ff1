"""Room 1, its timer: one start for all nights ahead."""

from collections.abc import Callable
from dataclasses import dataclass

from pydantic import BaseModel

from ....core.charge.control import STEPS_MIN
from ....services.timer import FEWEST_NIGHTS, MOST_NIGHTS, TimerInputs, TimerRoom, timer_room
from ...drawing.both import Both
from ...forms import choice, number
from ...levers import Asked, LeverRoom
from ...once import Router
from ...units import Units
from ...words.sentence import Verdict
from .picture import starts
from .words import timer_rows, timer_verdict

router = Router()
STEPS = {str(each): f"{each} minutes" for each in STEPS_MIN}


class TimerForm(BaseModel):
    """The levers of the page."""

    nights: int | None = number(
        "Nights ahead", "count", FEWEST_NIGHTS, MOST_NIGHTS, "How long it stays as it is set.", default=None
    )
    limit: float | None = number("Limit", "percent", 10, 100, "Where charging stops.", default=None)
    step_min: int | None = choice("Steps of the timer", STEPS, "What it takes.", None)


@dataclass(frozen=True, kw_only=True)
class TimerView:
    """Everything the template needs."""

    made: TimerRoom
    units: Units
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[str, str, str], ...]


def view(room: TimerRoom, units: Units) -> TimerView:
    """The season as sentences, a picture and a table."""
    return TimerView(
        made=room,
        units=units,
        verdict=timer_verdict(room, units),
        picture=Both(lambda phone: starts(room, units, phone)),
        rows=timer_rows(room, units),
    )


def _compute(asked: Asked, override: Callable[[TimerInputs], TimerInputs]) -> TimerRoom:
    return timer_room(asked.snapshot, asked.car, override, asked.wait_s)


ROOM = LeverRoom(
    name="tonight", path="/tonight/timer", templates="timer", form=TimerForm, compute=_compute, view=view,
    context=lambda made, request: {"message": ""}, wait=("A timer that is set once", "Living through the nights ahead …"),
)  # fmt: skip
ROOM.mount(router)
