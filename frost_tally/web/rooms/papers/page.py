"""Garage, what goes on paper: for the electrician, for the utility; and whether the lead reaches."""

from dataclasses import dataclass
from typing import Any

from fastapi import Request
from fastapi.responses import Response
from pydantic import BaseModel

from ....core.charge.reach import Bay, Port, Way, ways
from ....core.charge.tariff import MONTHS
from ....core.home import named
from ....services.papers import for_electrician, for_utility
from ...drawing.both import Both
from ...forms import checked, choice, number, parse, views
from ...once import Router
from ...page import render, texts_of, units_of, whole_number
from ...reading import snapshot_of
from ...words.lists import PORTS
from ...words.reasons import LIMITS
from . import picture as drawing
from .words import verdict

router = Router(prefix="/garage/papers")
MOST_DROP = 0.03


class RunForm(BaseModel):
    """How far the circuit runs."""

    run_m: float | None = number(
        "Run of the circuit", "height", 1, 200, "From the board to the outlet; measure it.", default=None
    )


@router.get("/electrician")
def electrician(request: Request) -> Response:
    """A page for the electrician, to print."""
    units = units_of(request)
    query = request.query_params
    made = for_electrician(snapshot_of(request), whole_number(query.get("car")), whole_number(query.get("outlet")))
    texts = texts_of(request, RunForm, {})
    found, errors = checked(RunForm, texts, units)
    run_m, supply = found.get("run_m"), made.outlet.supply
    amps = made.rate.amps if made.rate else supply.continuous_a
    drops = [(mm2, supply.drop_v(amps, run_m, mm2)) for mm2 in (2.5, 4, 6, 10)] if run_m else []
    return render(
        request,
        "papers/electrician.html",
        422 if errors else 200,
        room="garage",
        tab="outlets",
        made=made,
        limits=LIMITS,
        run_m=run_m,
        drops=[(mm2, volts, volts / supply.voltage_v) for mm2, volts in drops],
        most_drop=MOST_DROP,
        fields=views(RunForm, texts, errors, units),
        cars=list(snapshot_of(request).home.names),
        car=made.owned.id,
        place=dict(named(snapshot_of(request).home.places)).get(made.outlet.place_id or 0, ""),
    )


@router.get("/utility")
def utility(request: Request) -> Response:
    """A page for the utility, to print."""
    made = for_utility(snapshot_of(request))
    return render(request, "papers/utility.html", room="garage", tab="compare", made=made, months=MONTHS)


class ReachForm(BaseModel):
    """The bay, the post, the lead and the port."""

    port: Port = choice("The port is", PORTS, "Seen from the driver’s seat.", Port.REAR_LEFT)
    lead_m: float = number("Length of the lead", "length", 1, 15, "Printed on it, or measured.", default=5.0)
    post_m: float = number("Post, from the middle of the bay", "length", -10, 10, "To the left: with a minus.", default=-1.5)
    height_m: float = number("Height of the post", "length", 0, 3, "Where the lead leaves it.", default=1.2)
    length_m: float = number("Length of the car", "length", 2, 8, "", default=4.4)
    width_m: float = number("Width of the car", "length", 1, 3, "", default=1.85)
    bay_m: float = number("Width of a bay", "length", 2, 10, "For a second car beside it.", default=2.6)
    other: str = choice("A second car beside it, to the right", {"": "none", **PORTS}, "On the same post.", "")


@dataclass(frozen=True)
class Reach:
    """A lead and where it has to go: the ways of the car, and of the second one if there is one."""

    bay: Bay
    lead_m: float
    port: Port
    first: tuple[Way, Way]
    second: tuple[Way, Way] | None


@router.get("/reach")
def reach(request: Request) -> Response:
    """Whether the lead reaches, and which way in to park."""
    units = units_of(request)
    usual = {name: info.default for name, info in ReachForm.model_fields.items()}
    typed = texts_of(request, ReachForm, usual)
    form, errors = parse(ReachForm, typed, units)
    made = _reach(form if form is not None else ReachForm())
    return render(
        request,
        "papers/reach.html",
        422 if errors else 200,
        room="garage",
        tab="outlets",
        fields=views(ReachForm, typed, errors, units),
        errors=errors,
        view={"verdict": verdict(made, units)},
        picture=Both(lambda phone: drawing.reach(made, units, phone)),
    )


def _reach(form: Any) -> Reach:
    bay = Bay(
        width_m=form.bay_m, post_m=form.post_m, post_height_m=form.height_m, car_length_m=form.length_m, car_width_m=form.width_m
    )
    second = ways(bay, Port(form.other), form.bay_m) if form.other else None
    return Reach(bay, form.lead_m, form.port, ways(bay, form.port), second)
