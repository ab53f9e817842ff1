"""Room 5, a stranger's car: what is left of its pack, judged before it is bought; one page, also on paper."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import date

from pydantic import BaseModel

from ....core.basis import Figure, figures
from ....services.used_car import UsedInputs, UsedRoom
from ....services.used_car import used_room as service
from ...drawing.both import Both
from ...forms import choice, day, number
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...units import Units
from ...words.lists import CLASSES
from ...words.sentence import Verdict
from .picture import health_scale
from .words import ASK, STEPS, foreseen_rows, used_verdict

router = Router()
TABS = (
    Tab(of="battery", key="used", path="/battery/used", words="A stranger’s car", at=4, figures={"used": "A stranger’s car"}),
)
CELLS = {"": "as its class has", "NMC": "NMC or NCA", "LFP": "LFP"}


class UsedForm(BaseModel):
    """What can be read of it, in SI; a missing one stays as usual."""

    preset: str | None = choice("What it is", CLASSES, "", None)
    new_on: date | None = day("First day", "As its papers say.", None)
    km: float | None = number("Its odometer", "distance", 0, 600_000, "", default=None)
    figure: float | None = number("Its own health figure", "percent", 0.4, 1.05, "If it shows one.", default=None)
    soc_from: float | None = number("Driven from", "percent", 0.0, 1.0, "Level at the start.", default=None)
    soc_to: float | None = number("to", "percent", 0.0, 1.0, "Level at the end.", default=None)
    kwh: float | None = number("Energy of the drive", "energy", 0.5, 300, "Of the trip meter.", default=None)
    pack_c: float | None = number("Pack", "temperature", -40, 60, "If it shows it.", default=None, step=0.5)
    air_c: float | None = number("Outside", "temperature", -40, 45, "On the drive.", default=None, step=0.5)
    usable_kwh: float | None = number("Usable when new", "energy", 5, 250, "Empty: as its class has.", default=None)
    chemistry: str | None = choice("Cells", CELLS, "", None)
    warranty_soh: float | None = number("Its warranty promises", "percent", 0.4, 0.95, "", default=None)
    warranty_years: float | None = number("For years", "count", 1, 20, "", default=None)
    warranty_km: float | None = number("Or up to", "distance", 10_000, 600_000, "", default=None)
    pack_price: float | None = number(
        "A new pack per kWh", "money", 0, 1_000_000, "From memory, until you type one.", default=None
    )


FIRST = ("preset", "new_on", "km", "figure")
DRIVE = ("soc_from", "soc_to", "kwh", "pack_c", "air_c")


@dataclass(frozen=True, kw_only=True)
class UsedView:
    """Everything the templates need."""

    room: UsedRoom
    units: Units
    verdict: Verdict
    picture: Both
    foreseen: list[tuple[str, str, str]]
    figures: tuple[Figure, ...]


def view(made: UsedRoom, units: Units) -> UsedView:
    """The page as text and picture."""
    return UsedView(
        room=made,
        units=units,
        verdict=used_verdict(made, units),
        picture=Both(lambda phone: health_scale(made, units, phone)),
        foreseen=foreseen_rows(made, units),
        figures=tuple(each for each in figures() if each.key.startswith(("used.", "capacity.", "trend."))),
    )


def _compute(asked: Asked, override: Callable[[UsedInputs], UsedInputs]) -> UsedRoom:
    return service(asked.snapshot, asked.car, override, asked.units.currency)


ROOM = LeverRoom(
    name="battery", path="/battery/used", templates="used_car", form=UsedForm, compute=_compute, view=view,
    context=lambda made, request: {"first": FIRST, "drive": DRIVE, "ask": ASK, "steps": STEPS, "tab": "used"},
)  # fmt: skip
ROOM.mount(router)
