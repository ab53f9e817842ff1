"""What scripts are told when something is refused or fails: problem details. Source: RFC 9457."""

from collections.abc import Iterable
from http import HTTPStatus

from fastapi import Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from pydantic import Field

from .answers import Answer

MEDIA_TYPE = "application/problem+json"
PREFIX = "/api/"


class BadValue(Answer):
    """One value that will not do: where it is (a JSON pointer into the body, or the parameter's name), and why."""

    pointer: str
    detail: str


class Problem(Answer):
    """A problem: its kind as `type`, in words, the status, what happened, and at which values."""

    type: str = Field(default="about:blank")
    title: str
    status: int
    detail: str
    errors: tuple[BadValue, ...] = ()


PROBLEM = {"content": {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}}
RESPONSES: dict[int | str, dict[str, object]] = {
    status: {"description": words, **PROBLEM}
    for status, words in {
        400: "It cannot be read",
        401: "No key, or one that is not known",
        403: "The key is not for this",
        404: "There is no such thing",
        409: "It does not go with what is there",
        413: "It is too large",
        422: "A value will not do",
        429: "Asked too often",
        503: "The data does not answer",
    }.items()
}


def for_scripts(request: Request) -> bool:
    """Whether a request is a script's."""
    return request.url.path.startswith(PREFIX)


def problem(status: int, title: str, detail: str, errors: Iterable[BadValue] = ()) -> Response:
    """The answer that says it."""
    told = Problem(title=title, status=status, detail=detail, errors=tuple(errors))
    headers = {"www-authenticate": "Bearer"} if status == HTTPStatus.UNAUTHORIZED else None
    return JSONResponse(told.model_dump(mode="json"), status, headers=headers, media_type=MEDIA_TYPE)


def invalid(request: Request, found: Exception) -> Response:
    """Values that are none, each with its place."""
    told = found.errors() if isinstance(found, RequestValidationError) else ()
    faults = [BadValue(pointer=_pointer(each["loc"]), detail=str(each["msg"])) for each in told[:20]]
    return problem(422, "A value will not do", "Nothing was saved.", faults)


def _pointer(place: Iterable[object]) -> str:
    where, *inside = (str(each) for each in place)
    return "".join(f"/{each}" for each in inside) if where == "body" else ".".join(inside)
