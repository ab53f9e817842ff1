"""Room 2, its weekly charger: a car without a socket at home, once a week at a fast post."""

from collections.abc import Callable
from dataclasses import dataclass

from pydantic import BaseModel

from ....services.weekly import WeeklyInputs, WeeklyRoom, weekly_room
from ...forms import number
from ...levers import Asked, LeverRoom
from ...once import Router
from ...units import Units
from ...words.sentence import Verdict
from .words import weekly_rows, weekly_verdict

router = Router()


class WeeklyForm(BaseModel):
    """The levers of the page."""

    post_kw: float | None = number("The post", "power", 20, 500, "What it gives this car.", default=None)
    price: float | None = number("Its price", "price", 0, 20, "Per kWh, tax included.", default=None, step=0.01)


@dataclass(frozen=True, kw_only=True)
class WeeklyView:
    """Everything the template needs."""

    made: WeeklyRoom
    units: Units
    verdict: Verdict
    rows: tuple[tuple[str, str, str, str], ...]


def view(room: WeeklyRoom, units: Units) -> WeeklyView:
    """The year as sentences and a table."""
    return WeeklyView(made=room, units=units, verdict=weekly_verdict(room, units), rows=weekly_rows(room, units))


def _compute(asked: Asked, override: Callable[[WeeklyInputs], WeeklyInputs]) -> WeeklyRoom:
    return weekly_room(asked.snapshot, asked.car, override, asked.wait_s)


ROOM = LeverRoom(
    name="day", path="/day/long/weekly", templates="weekly", form=WeeklyForm, compute=_compute, view=view,
    context=lambda made, request: {"message": ""}, wait=("Once a week at a fast post", "Working out a year of weeks and of nights …"),
)  # fmt: skip
ROOM.mount(router)
