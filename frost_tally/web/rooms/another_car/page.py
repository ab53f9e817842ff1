"""Garage, another car: this household's year on each class, in this garage or another, beside fuel."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel

from ....services.another_car import AnotherCar, AnotherInputs, another_car
from ...drawing.both import Both
from ...forms import choice, number
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...units import Units
from ...words.fields import CODES
from ...words.sentence import Verdict
from .picture import years
from .words import another_rows, another_verdict

router = Router()
TABS = (Tab(of="garage", key="another", path="/garage/another", words="Another car", at=5),)


class AnotherForm(BaseModel):
    """The levers of the page."""

    garage: Literal["outdoor", "unheated", "heated"] | None = choice("The cars stand", CODES["garage"], "Another garage.", None)
    usable_kwh: float | None = number("Your car with a pack of", "energy", 5, 250, "New; empty: as it is.", default=None)
    fuel_l: float | None = number(
        "Fuel on 100 km", "litres", 2, 40, "Of the car that you would drive instead.", default=None, step=0.1
    )
    fuel_price: float | None = number(
        "A litre costs", "money", 0, 1000, "From memory until you type it.", default=None, step=0.01
    )


@dataclass(frozen=True, kw_only=True)
class AnotherView:
    """Everything the templates need."""

    room: AnotherCar
    units: Units
    verdict: Verdict
    picture: Both
    rows: tuple[tuple[str, ...], ...]


def view(room: AnotherCar, units: Units) -> AnotherView:
    """The years as a sentence, a picture and a table."""
    return AnotherView(
        room=room,
        units=units,
        verdict=another_verdict(room, units),
        picture=Both(lambda phone: years(room, units, phone)),
        rows=another_rows(room, units),
    )


def _compute(asked: Asked, override: Callable[[AnotherInputs], AnotherInputs]) -> AnotherCar:
    return another_car(asked.snapshot, asked.car, override, asked.wait_s)


ROOM = LeverRoom(
    name="garage", path="/garage/another", templates="another_car", form=AnotherForm, compute=_compute, view=view,
    context=lambda made, request: {"tab": "another", "message": ""}, wait=("Your year on another car", "Living the year through on each …"),
)  # fmt: skip
ROOM.mount(router)
