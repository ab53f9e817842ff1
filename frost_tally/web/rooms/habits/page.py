"""Room 2, what matters where: each lever in town and on the motorway, the driver's part, and what does not matter."""

from fastapi import Request
from fastapi.responses import Response

from ....services.habits import effects
from ...drawing.both import Both
from ...once import Router
from ...page import render, units_of, whole_number
from ...reading import snapshot_of
from . import picture as drawing
from .words import foot_words, nothing_words, rating_words, small_rows, steady_words, verdict

router = Router()


@router.get("/day/matters")
def room(request: Request) -> Response:
    """The page for a car."""
    units = units_of(request)
    made = effects(snapshot_of(request), whole_number(request.query_params.get("car")))
    return render(
        request,
        "habits/room.html",
        room="day",
        made=made,
        view={"verdict": verdict(made, units)},
        picture=Both(lambda phone: drawing.effects(made, units, phone)),
        foot=(*foot_words(made, units), steady_words(made, units)),
        small=small_rows(made, units),
        nothing=nothing_words(made, units),
        ratings=rating_words(made, units),
    )
