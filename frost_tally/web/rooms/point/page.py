"""Room 1, a part of Tonight: what the charge point tells, as it tells it. Source: server-sent events, HTML Living Standard, 9.2."""

import asyncio
import time
from collections.abc import AsyncIterator, Callable

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.responses import StreamingResponse

from ....core.errors import Refusal
from ....core.home import NotSetUp
from ....services.shared.home import Household
from ....services.tonight import point as service
from ....services.tonight.room import Tonight, tonight
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, units_of, whole_number
from ...reading import household_of, snapshot_of
from .view import PointView, point_view
from .words import ACTS

router = Router()
TABS: tuple[Tab, ...] = ()
LOOK_S, LASTS_S, QUIET_S, MOST, SETTLES_S = 1.0, 600.0, 15.0, 40, 0.8
"""How often to look, how long a stream lasts (a browser asks again by itself), how long it may be silent, how many there may be, and how
long what is done to a simulated point takes until it is told."""


def of_tonight(request: Request, car_id: int | None, shown: Tonight | None = None) -> PointView | None:
    """The point's part of a page that shows a night; None where the car's outlet has none. What somebody sets on it is no fact of its."""
    snapshot = snapshot_of(request)
    as_it_is = shown is not None and shown.inputs == shown.defaults and not shown.other_tariff
    night = shown if shown is not None and as_it_is else tonight(snapshot, car_id)
    point = service.point_now(snapshot, night)
    return None if point is None else point_view(point, night, units_of(request))


def acts_of(household: Household, car: str) -> dict[str, str]:
    """What can be done to the demo's simulated point, by its code; nothing where there is none."""
    point = household.world.point
    return {} if point is None else {each: ACTS[each].format(car=car) for each in point.acts}


@router.get("/tonight/point", include_in_schema=False)
def part(request: Request, car: str = "") -> Response:
    """The part alone, for a page that was told that something changed."""
    return render(request, "point/part.html", point=of_tonight(request, whole_number(car)), shape="")


@router.get("/tonight/point/events", include_in_schema=False)
async def events(request: Request, car: str = "") -> Response:
    """A line each time that the point of a car told something."""
    household, streams = household_of(request), request.app.state

    def look() -> tuple[int, ...]:
        with household.reading() as snapshot:
            return service.latest(snapshot, snapshot.home.ready_car(whole_number(car)).id)

    try:
        first = await run_in_threadpool(look)
    except (NotSetUp, Refusal):
        first = ()
    heard = any(first) and not request.scope.get("headed")
    if not heard or getattr(streams, "streams", 0) >= MOST:  # a browser does not ask again
        return Response(status_code=204)
    return StreamingResponse(_told(request, look, first), media_type="text/event-stream")


async def _told(request: Request, look: Callable[[], tuple[int, ...]], before: tuple[int, ...]) -> AsyncIterator[str]:
    state, clock = request.app.state, asyncio.get_running_loop().time
    state.streams = getattr(state, "streams", 0) + 1
    ends, spoke = clock() + LASTS_S, clock()
    try:
        yield "retry: 2000\n\n"
        while clock() < ends and not await request.is_disconnected():
            await asyncio.sleep(LOOK_S)
            now = await run_in_threadpool(look)
            if now != before:
                before, spoke = now, clock()
                yield f"event: told\nid: {'.'.join(map(str, now))}\ndata: \n\n"
            elif clock() - spoke > QUIET_S:
                spoke = clock()
                yield ": here\n\n"
    finally:
        state.streams -= 1


@router.post("/tonight/stand-in")
def stand_in(request: Request, fields: Posted) -> Response:
    """Something is done to the demo's simulated point, or its night is let pass."""
    household, car, act = household_of(request), whole_number(fields.get("car"), 0), fields.get("act", "")
    point = household.world.point
    if point is None:
        raise Refusal("There is no simulated point here.")
    if act == "pass":
        snapshot = snapshot_of(request)
        point.let_pass(tonight(snapshot, car).plan.request.departure)
    else:
        point.act(act, car)
        time.sleep(SETTLES_S)  # so that the page that follows shows it
    return RedirectResponse(f"/tonight?car={car}", 303)


@router.post("/tonight/on-cable")
def on_cable(request: Request, fields: Posted) -> Response:
    """Its owner says which car is on the cable."""
    car, outlet = (whole_number(fields.get(name), 0) for name in ("on", "outlet"))
    snapshot = snapshot_of(request)
    if car not in dict(snapshot.home.names) or outlet not in {each.id for each in snapshot.home.outlets}:
        raise Refusal("This car or this outlet is not there any more.")
    service.is_on_cable(household_of(request), outlet, car)
    return RedirectResponse(f"/tonight?car={whole_number(fields.get('car'), car)}", 303)
