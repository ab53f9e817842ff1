"""The way back from the last decision, for every room."""

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....services.shared.home import Stamp
from ...guard import Posted
from ...once import Router
from ...page import seen, whole_number
from ...reading import household_of

router = Router()


@router.post("/undo")
def undo(request: Request, fields: Posted) -> Response:
    """Take back a decision, and offer the way back from that on the page it came from."""
    made_on = seen(fields)  # says of which store the number is
    number = household_of(request).undo(Stamp(whole_number(fields.get("decision"), 0), made_on.store))
    back = fields.get("back", "")
    if not back.startswith("/") or back.startswith(("//", "/\\")):
        back = "/tonight"
    return RedirectResponse(f"{back}{'&' if '?' in back else '?'}undo={number}", 303)
