"""Room 1, its rota: who has the cable on which night of the coming week."""

from fastapi import Request
from fastapi.responses import Response

from ...services import rota as service
from ..drawing.both import Both
from ..drawing.rota import board
from ..once import Router
from ..page import render, units_of
from ..reading import snapshot_of
from ..words.rota import rota_verdict

router = Router(prefix="/tonight")


@router.get("/rota")
def room(request: Request) -> Response:
    """The rotas of the outlets that cars share."""
    units = units_of(request)
    found = service.shared_cables(snapshot_of(request))
    shared = [(each, rota_verdict(each, units), Both(lambda phone, each=each: board(each, units, phone))) for each in found]  # type: ignore[misc]
    return render(request, "tonight/rota.html", room="tonight", shared=shared, units=units)
