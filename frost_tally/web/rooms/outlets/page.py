"""Garage, the outlets bench: up to four supplies on the same need."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ....core.basis import Figure, figures
from ....services.outlets import BenchInputs, OutletsBench, outlets_bench
from ...drawing.both import Both
from ...forms import number, picks
from ...levers import Asked, LeverRoom
from ...navigation import Tab
from ...once import Router
from ...units import Units
from ...words.garage import BenchRow, bench_rows, bench_verdict, ends_words
from ...words.sentence import Verdict
from . import picture as drawing

router = Router()
TABS = (Tab(of="garage", key="outlets", path="/garage/outlets", words="Outlets bench", at=1, figures={"bench": "Outlets bench"}),)


class BenchForm(BaseModel):
    """The levers of the bench."""

    day_km: float | None = number("Day to cover", "distance", 1, 1500, "All its driving.", default=None)
    limit: float | None = number("Limit", "percent", 0.3, 1.0, "Where charging stops.", default=None)
    outlet: tuple[int, ...] | None = picks("On the bench", None)


@dataclass(frozen=True, kw_only=True)
class BenchView:
    """Everything the template needs."""

    made: OutletsBench
    verdict: Verdict
    channels: Both
    climbs: Both
    tenths: Both | None
    ends: str
    rows: Mapping[str, tuple[BenchRow, ...]]
    figures: tuple[Figure, ...]
    units: Units


def view(made: OutletsBench, units: Units) -> BenchView:
    """The bench as text and pictures."""
    args = (made.bench, made.need, units)
    wanted = ("supply.", "bench.", "session.")
    return BenchView(
        made=made,
        verdict=bench_verdict(made, units),
        channels=Both(lambda phone: drawing.channels(*args, phone=phone)),
        climbs=Both(lambda phone: drawing.climb(*args, phone=phone)),
        tenths=Both(lambda phone: drawing.tenths(made.bench, units, phone)) if ends_words(made) else None,
        ends=ends_words(made),
        rows=bench_rows(made, units),
        figures=tuple(each for each in figures() if each.key.startswith(wanted)),
        units=units,
    )


def _compute(asked: Asked, override: Callable[[BenchInputs], BenchInputs]) -> OutletsBench:
    return outlets_bench(asked.snapshot, asked.car, override, asked.wait_s)


ROOM = LeverRoom(
    name="garage",
    path="/garage/outlets",
    templates="outlets",
    form=BenchForm,
    compute=_compute,
    view=view,
    context=lambda made, request: {"tab": "outlets"},
    fields={"outlets": "outlet"},
    wait=("Outlets on the bench", "Working out a year of nights on each outlet …"),
)
ROOM.mount(router)
