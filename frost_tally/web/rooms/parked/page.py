"""Room 5, Parked: a stand of days or weeks and what to leave it with."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from pydantic import BaseModel

from ....core.basis import Figure, figures
from ....services import parked as service
from ....services.parked import ParkedRoom
from ...drawing.both import Both
from ...forms import choice, day, number
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...units import Units
from ...words.parked import CAUTIONS_AWAY, away_verdict, idle_words
from ...words.sentence import Verdict
from . import picture as drawing

router = Router()
TABS = (
    Tab(of="", key="parked", path="/parked", words="Parked", at=6, rare=True, figures={"parked": "Standing"}),
    Tab(of="parked", key="", path="/parked", words="Away", at=0),
)
YES_NO = {"no": "no", "yes": "yes"}
CAMERAS = {"off": "off", "day": "half of the day", "not_home": "all day, off at home", "away": "all day"}
POLLS = {"never": "never", "few": "four times a day", "often": "every half hour"}


class AwayForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    soc: float | None = number("Left at", "percent", 0.02, 1.0, "", default=None)
    leaves_on: date | None = day("Leaves on", "Today, or a day to come.", None)
    back_on: date | None = day("Back on", "Instead of the days.", None)
    days: int | None = number("Days", "count", 1, 365, "", default=None)
    charger_km: float | None = number("Next charger", "distance", 0, 400, "", default=None)
    climate_h: float | None = number("Climate a day", "hours", 0, 24, "", default=None, step=0.5)
    cameras: str | None = choice("Watch cameras", CAMERAS, "", None)
    plugged: bool | None = choice("Plugged in", YES_NO, "", None)
    polls: str | None = choice("An app looks", POLLS, "", None)
    keep_warm: bool | None = choice("Keeps its pack from freezing", YES_NO, "Where the car does that.", None)
    at_home: bool | None = choice("It stands at home", YES_NO, "In its garage, else outdoors.", None)
    out_c: float | None = number(
        "Mean temperature", "temperature", -45, 45, "Empty: the weather of the place.", default=None, step=0.5
    )
    limit: float | None = number("Held at", "percent", 0.3, 1.0, "While plugged in.", default=None)


MAIN = ("soc", "days", "charger_km", "climate_h")
FIRST = ("leaves_on", "back_on", "cameras", "plugged", "polls")


@dataclass(frozen=True, kw_only=True)
class AwayView:
    """Everything the template needs."""

    room: ParkedRoom
    units: Units
    verdict: Verdict
    course: Both
    savings: Both
    idle: str
    air: str
    figures: tuple[Figure, ...]


def view(made: ParkedRoom, units: Units) -> AwayView:
    """The room as text and pictures."""
    coldest, mean = (units.text(each, "temperature", 0) for each in made.air)
    return AwayView(
        room=made,
        units=units,
        verdict=away_verdict(made, units),
        course=Both(lambda phone: drawing.course(made, units, phone)),
        savings=Both(lambda phone: drawing.savings(made, units, phone)),
        idle=idle_words(made, units),
        air=f"{mean}, as typed"
        if made.typed
        else f"{mean} on average, {coldest} on the coldest day, by the weather of the place",
        figures=figures("parked."),
    )


def _compute(asked: Asked, override: Callable[[service.ParkedInputs], service.ParkedInputs]) -> ParkedRoom:
    return service.parked_room(asked.snapshot, asked.car, override)


ROOM = LeverRoom(
    name="parked", path="/parked", templates="parked", form=AwayForm, compute=_compute, view=view,
    context=lambda made, request: {"main": MAIN, "first": FIRST, "cautions": CAUTIONS_AWAY, "tab": ""},
)  # fmt: skip
ROOM.mount(router)
