"""Room 1, its rota: who has the cable on which night of the coming week."""

from fastapi import Request
from fastapi.responses import Response

from ...services import clock as clocks
from ...services import rota as service
from ..drawing.both import Both
from ..drawing.rota import board
from ..once import Router
from ..page import home_of, render, units_of
from ..words.rota import rota_verdict

router = Router(prefix="/tonight")


@router.get("/rota")
def room(request: Request) -> Response:
    """The rotas of the outlets that cars share."""
    home, units = home_of(request), units_of(home_of(request), request)
    found = service.shared_cables(home, clocks.minute(home))
    shared = [(each, rota_verdict(each, units), Both(lambda phone, each=each: board(each, units, phone))) for each in found]  # type: ignore[misc]
    return render(request, "tonight/rota.html", room="tonight", shared=shared, units=units)
