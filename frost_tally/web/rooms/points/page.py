"""Room 8, Garage: the charge points, their names and passwords, and who knocked in vain."""

from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....access.door import Access, Purpose
from ....core.errors import Refusal
from ....core.parts import Outlet
from ....formats import values
from ....services import garage as parts
from ....services.shared.home import Stale
from ....services.tonight import point as service
from ...door import access_of
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, seen, whole_number
from ...reading import household_of, snapshot_of
from ..setup.steps import own_words
from .words import KNOCKS, told_last

router = Router(prefix="/garage/points")
TABS = (Tab(of="garage", key="points", path="/garage/points", words="Charge points", at=7),)


@dataclass(frozen=True, kw_only=True)
class NamedOutlet:
    """An outlet with what is known of its point."""

    outlet: Outlet
    words: str
    password: bool


def _keys(request: Request) -> Access:
    found: Access = request.app.state.keys()
    return found


@router.get("")
def points(request: Request) -> Response:
    """The outlets with their points."""
    return _page(request)


def _page(request: Request, status: int = 200, **more: object) -> Response:
    snapshot = snapshot_of(request)
    zone, outlets = snapshot.home.place.clock, snapshot.home.outlets
    named = any(each.point for each in outlets)
    tokens = {each.name for each in _keys(request).tokens() if each.purpose is Purpose.POINT} if named else set()
    shown = [
        NamedOutlet(
            outlet=each, words=told_last(service.last_told(snapshot, each), snapshot.now, zone), password=each.point in tokens
        )
        for each in outlets
        if each.point or not each.install_cost  # one that is only thought of has none
    ]
    base = request.url
    context = {"error": "", "field": "", "typed": "", "secret": "", "secret_of": ""} | more
    return render(
        request, "points/room.html", status, room="garage", tab="points", outlets=shown,
        named=[each for each in shown if each.outlet.point], knocks=request.app.state.knocks.latest(), reasons=KNOCKS, zone=zone,
        local=access_of(request) is None, safe=base.scheme == "https",
        address=f"{'wss' if base.scheme == 'https' else 'ws'}://{base.netloc}/ocpp", **context,
    )  # fmt: skip


@router.post("/name")
def name(request: Request, fields: Posted) -> Response:
    """What an outlet's point is called here; nothing for one that has none."""
    outlet, typed = whole_number(fields.get("outlet"), 0), fields.get("point", "")[:80]
    try:
        kept = values.identity(typed) if typed.strip() else ""
        before = next((each.point for each in snapshot_of(request).home.outlets if each.id == outlet), "")
        number = parts.keep_point(household_of(request), outlet, kept, seen(fields))
    except Stale as problem:
        return _page(request, 409, error=f"{problem} Nothing was saved.", field=outlet, typed=typed)
    except Refusal as problem:
        return _page(request, 422, error=problem.message, field=outlet, typed=typed)
    except ValueError:
        return _page(request, 422, error=own_words({"point": ""}, {"point": typed})["point"], field=outlet, typed=typed)
    if before and before != kept:
        _revoke(request, before)
    return RedirectResponse(f"/garage/points?undo={number}", 303)


@router.post("/password")
def password(request: Request, fields: Posted) -> Response:
    """A point's password: shown once, and the one before lets in no more."""
    outlet = whole_number(fields.get("outlet"), 0)
    point = next((each.point for each in snapshot_of(request).home.outlets if each.id == outlet), "")
    if not point:
        return _page(request, 422, error="Name the point first.")
    _revoke(request, point)
    secret = _keys(request).make_token(Purpose.POINT, point)
    return _page(request, secret=secret, secret_of=point)


def _revoke(request: Request, point: str) -> None:
    for each in _keys(request).tokens():
        if each.purpose is Purpose.POINT and each.name == point:
            _keys(request).revoke(each.id)
