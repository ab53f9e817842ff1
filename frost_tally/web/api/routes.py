"""The addresses under /api/v1: the rooms as JSON, departures, the log in and out, and taking back. Described by their own schema."""

import hashlib
import json
from collections.abc import Callable
from datetime import date
from datetime import time as clock_time
from functools import cache
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Path, Query, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse, Response
from fastapi.security import HTTPBearer
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field

from ... import __version__
from ...core.errors import Refusal
from ...core.log.kinds import KINDS
from ...formats import values
from ...services import log as log_service
from ...services.day.room import day
from ...services.departures import room as departures_service
from ...services.log_entry import room as entry_service
from ...services.log_month.room import month as month_of
from ...services.shared.home import Household, Repeated, Sending, sending, undoable
from ...services.tonight.room import tonight
from ...services.warmup.room import warm_up_room
from ..door import visitor_of
from ..guard import RefusedToken, elsewhere
from ..page import stamp, units_of
from ..reading import household_of, read_anew, snapshot_of
from ..rooms.departures.page import WARMS
from ..words.log import KIND_WORDS
from . import answers, rooms
from .entries import ADDRESSES, COMING, PAGES, When, as_noted, entry_from
from .limit import Buckets
from .problem import RESPONSES, Problem
from .tonight import TonightAnswer, tonight_answer

ABOUT = """The rooms of Frost Tally as JSON, with the numbers that its pages show. Levels are 0 to 1, times ISO 8601, all else in the unit
that its name ends with. From elsewhere than this computer a key is needed (Garage, People and devices), sent as
`Authorization: Bearer …`. A change is sent with an `Idempotency-Key` of your own making: sent again with the same, it is not done again."""
MOST_ENTRIES = 200
Number = Annotated[int, Field(ge=1, le=999_999_999)]
CarNumber = Annotated[Number | None, Query(description="The car's number; the first car without.")]


def _allowed(request: Request) -> None:
    """Not too often; and no change that a page of another site sends through a browser."""
    buckets: Buckets = request.app.state.buckets
    visitor = visitor_of(request)
    address = request.client.host if request.client else ""
    buckets.take(f"key {visitor.token_id}" if visitor and visitor.token_id else f"address {address}")
    if request.method not in ("GET", "HEAD") and elsewhere(request):
        raise RefusedToken


router = APIRouter(prefix="/api/v1", dependencies=[Depends(_allowed), Depends(HTTPBearer(auto_error=False))], responses=RESPONSES)


@router.get("/cars")
def cars(request: Request) -> tuple[rooms.CarAnswer, ...]:
    """The cars of the home, with the numbers that they are asked by."""
    return tuple(rooms.car_answer(each) for each in snapshot_of(request).home.cars)


@router.get("/tonight")
def get_tonight(request: Request, car: CarNumber = None) -> TonightAnswer:
    """The plan for the coming night, and the level at home again."""
    return tonight_answer(tonight(snapshot_of(request), car), units_of(request))


@router.get("/day")
def get_day(request: Request, car: CarNumber = None) -> rooms.DayAnswer:
    """The day that follows: what it takes, where the kilometres go, what would help."""
    return rooms.day_answer(day(snapshot_of(request), car), units_of(request))


@router.get("/warm-up")
def get_warm_up(request: Request, car: CarNumber = None) -> rooms.WarmUpAnswer:
    """The warm-up for the next departure, beside the other choices."""
    return rooms.warm_up_answer(warm_up_room(snapshot_of(request), car), units_of(request))


@router.get("/departures")
def get_departures(request: Request, car: CarNumber = None) -> rooms.DeparturesAnswer:
    """A car's listed departures."""
    return rooms.departures_answer(departures_service.departures(snapshot_of(request), car))


@router.get("/months/{which}")
def get_month(
    request: Request, which: Annotated[str, Path(pattern=r"^(19[9]\d|20\d\d)-(0[1-9]|1[0-2])$")], car: CarNumber = None
) -> rooms.MonthAnswer:
    """What a month adds up to, such as 2027-01."""
    if car is not None:
        snapshot_of(request).home.car(car)
    return rooms.month_answer(month_of(snapshot_of(request), values.day(f"{which}-01"), car))


def _clock(told: object) -> clock_time:
    if not isinstance(told, str):
        raise ValueError("it is a text, such as 07:10")
    return values.clock(told)


def _day(told: object) -> date | None:
    if told is None:
        return None
    if not isinstance(told, str):
        raise ValueError("it is a text, such as 2027-01-14")
    return values.day(told)


def _name(told: object) -> str:
    if not isinstance(told, str):
        raise ValueError("it is a text")
    return values.words(told, 40)


class DepartureIn(BaseModel):
    """A departure: on weekdays (1 is Monday) or once on a date."""

    model_config = ConfigDict(extra="forbid")
    car_id: Number
    name: Annotated[str, BeforeValidator(_name), Field(min_length=1, max_length=40)]
    at: Annotated[answers.Clock, BeforeValidator(_clock)]
    days: Annotated[frozenset[Annotated[int, Field(ge=1, le=7)]], Field(max_length=7)] = frozenset()
    on_date: Annotated[date | None, BeforeValidator(_day)] = None
    region: Annotated[str, Field(max_length=12, pattern=r"^[A-Za-z0-9-]*$")] = ""
    warm_up: Literal[tuple(WARMS)] = "advised"  # type: ignore[valid-type]
    km: Annotated[float, Field(ge=0.5, le=500, allow_inf_nan=False)]
    day_id: Number | None = None
    nights: Annotated[int, Field(ge=0, le=21)] = 0
    place_id: Number | None = None


@router.post("/departures", status_code=201)
def add_departure(request: Request, told: DepartureIn) -> answers.Done:
    """List a departure."""
    sent = {name: value for name, value in told if name not in ("car_id", "days")}
    typed = departures_service.TypedDeparture(**sent, days=frozenset(each - 1 for each in told.days))
    now = snapshot_of(request).now
    return _done(request, told, lambda home: departures_service.keep_departure(home, now, told.car_id, typed=typed))


@router.delete("/departures/{number}")
def drop_departure(request: Request, number: Number) -> answers.Done:
    """Put a listed departure away."""
    return _done(request, number, lambda home: departures_service.drop_departure(home, number))


class Undone(BaseModel):
    """The decision that is taken back, as it was told."""

    model_config = ConfigDict(extra="forbid")
    decision: Annotated[str, Field(pattern=r"^\d{1,9}\.[0-9a-f]{1,16}$")]


@router.post("/undo")
def undo(request: Request, told: Undone) -> answers.Done:
    """Take back what was decided; what this answers takes that back in turn."""
    return _done(request, told, lambda home: home.undo(stamp(told.decision, 0)))


def _done(request: Request, told: object, act: Callable[[Household], int]) -> answers.Done:
    """Do it, once for each key; what was done, and its number. Raises: Refusal for a key that was used for something else."""
    key, visitor = request.headers.get("idempotency-key", ""), visitor_of(request)
    if len(key) > 200:
        raise Refusal("A key has 200 letters at most.", "Idempotency-Key")
    body = told.model_dump(mode="json") if isinstance(told, BaseModel) else told
    digest = _hashed(request.method, request.url.path, body)
    who = visitor.token_id if visitor else None
    reset = sending.set(Sending(_hashed(key, who), digest) if key else None)
    try:
        number = act(household_of(request))
    except Repeated as before:
        if not before.same:
            raise Refusal("This key was used for something else before.", "Idempotency-Key") from None
        return answers.Done(decision=str(before.number), words=before.words)
    finally:
        sending.reset(reset)
    return answers.Done(decision=str(number), words=undoable(read_anew(request), number))


def _hashed(*parts: object) -> str:
    return hashlib.sha256(json.dumps(parts, default=str).encode()).hexdigest()


def _entries(kind: str) -> None:
    """The addresses of a kind of entry."""
    address, coming = f"/{ADDRESSES[kind]}", COMING[kind]

    def listed(
        request: Request,
        car: CarNumber = None,
        since: When | None = None,
        before: When | None = None,
        after: Annotated[str, Query(max_length=80, description="Where the page before this one ended.")] = "",
        most: Annotated[int, Query(ge=1, le=MOST_ENTRIES)] = 50,
    ) -> Any:
        if car is not None:
            snapshot_of(request).home.car(car)
        wanted = log_service.Wanted(car_id=car, kind=kind, since=since, before=before)
        found, more = log_service.some(snapshot_of(request), wanted, _place(kind, after), most)
        shown = [as_noted(each) for each in found]
        ends = f"{found[-1].at.isoformat()}~{found[-1].number}" if more else None
        return {"entries": shown, "after": ends}

    def noted(request: Request, told: Any) -> answers.Done:
        made, now = entry_from(kind, told), snapshot_of(request).now
        words = f"{KIND_WORDS[kind].capitalize()} noted"
        return _done(request, told, lambda home: entry_service.keep(home, made, now, words)[1])

    def gone(request: Request, number: Number) -> answers.Done:
        words = f"{KIND_WORDS[kind].capitalize()} taken away"
        return _done(request, number, lambda home: entry_service.remove(home, kind, number, words))

    noted.__annotations__["told"] = coming
    named = {
        "response_model": PAGES[kind],
        "name": f"{kind}_listed",
        "summary": f"{KIND_WORDS[kind].capitalize()}: what is noted",
    }
    router.add_api_route(address, listed, methods=["GET"], **named)  # type: ignore[arg-type]
    router.add_api_route(
        address,
        noted,
        methods=["POST"],
        status_code=201,
        name=f"{kind}_noted",
        summary=f"{KIND_WORDS[kind].capitalize()}: note one",
    )
    router.add_api_route(
        f"{address}/{{number}}",
        gone,
        methods=["DELETE"],
        name=f"{kind}_gone",
        summary=f"{KIND_WORDS[kind].capitalize()}: take one away",
    )


def _place(kind: str, after: str) -> log_service.Place | None:
    if not after:
        return None
    try:
        at, _, number = after.partition("~")
        return log_service.Place(key=values.aware(at), kind=kind, number=values.whole(number))
    except ValueError:
        raise Refusal("It is what the page before answered as `after`.", "after") from None


for _kind in KINDS:
    _entries(_kind)


@cache
def schema() -> dict[str, Any]:
    """The description of all of it, OpenAPI 3.1."""
    found = get_openapi(title="Frost Tally", version=__version__, description=ABOUT, routes=router.routes)
    told = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    found["components"]["schemas"] |= told.pop("$defs") | {"Problem": told}
    return found


@router.get("/openapi.json", include_in_schema=False)
def openapi() -> Response:
    """The description for programs."""
    return JSONResponse(schema())
