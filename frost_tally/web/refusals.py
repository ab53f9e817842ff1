"""What a person sees when something is refused or fails: in the app's own look, what happened, and that nothing was saved."""

import secrets
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import urlencode

import structlog
from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from sqlalchemy.exc import DBAPIError
from starlette.exceptions import HTTPException

from ..access.door import Right
from ..core.errors import Missing, Refusal
from ..services.log_import.jobs import Stopped
from ..services.setup import progress
from .api.problem import BadValue, for_scripts
from .api.problem import problem as told_to_scripts
from .door import NotYours
from .guard import TooLarge, address, from_here, place_of
from .page import render, units_of, whole_number
from .reading import snapshot_of

log = structlog.get_logger("frost_tally.web")


@dataclass(frozen=True)
class Fault:
    """A failure of the store, by words of its message: what to say, the status, and after how many seconds to try again."""

    part: str
    title: str
    detail: str
    status: int = 503
    retry_s: int = 0


RESTORE = "Nothing was saved. Stop Frost Tally, and put the newest copy back: `frost-tally restore`."
STORE_FAULTS = (
    Fault("locked", "Something else is writing", "Nothing was saved. It passes by itself: try again in a moment.", retry_s=5),
    Fault("disk is full", "There is no room left on the disk", "Nothing was saved. Make room, then send it again."),
    Fault("disk I/O error", "The disk does not answer", "Nothing was saved. Look whether it is full or failing, then send it again."),
    Fault("readonly", "The data cannot be written to", "Nothing was saved. Give yourself the right to its folder, then send it again."),
    Fault("unable to open", "The data cannot be reached", "Nothing was saved. Look whether its folder is still there, then try again."),
    Fault("No space left", "There is no room left on the disk", "Nothing was changed. Make room, then do it again."),
    Fault("Permission denied", "The folder cannot be written to", "Nothing was changed. Give yourself the right to it, then do it again."),
    Fault("Read-only file system", "The folder cannot be written to", "Nothing was changed. Its disk can only be read."),
    Fault("malformed", "The data file is damaged", RESTORE, 500),
    Fault("not a database", "The data file is damaged", RESTORE, 500),
)  # fmt: skip
STORE_PROBLEMS = (DBAPIError, sqlite3.Error, OSError)
HIDDEN = (
    "revision",
    "opened",
    "shown_in",
    "car",
    "warm_up",
    "night",
    "number",
    "back",
    "decision",
    "departure",
    "due",
    "preset",
    "pending",
    "action",
)
PROBLEMS = {
    404: ("There is no such page", "The rooms are in the list of rooms."),
    405: ("That is not done here", "Use the page’s own buttons."),
    400: ("That could not be read", "Nothing was saved."),
    413: ("This is more than a page here can need", "Nothing was saved. Send less, or a smaller file."),
}


def to_setup(request: Request, problem: Exception) -> Response:
    """To the first step that is missing; for a further car without outlet or tariff to where it gets them."""
    if for_scripts(request):
        return told_to_scripts(409, "Not set up yet", "A car, its outlet and its tariff come first: open the page.")
    snapshot = snapshot_of(request)
    asked = whole_number(request.query_params.get("car"))
    complete = progress(snapshot).next_step is None
    if complete and not snapshot.home.outlets:  # no socket at home: there are no nights to plan
        return RedirectResponse("/day/long/weekly", 303)
    if complete and any(each.id == asked for each in snapshot.home.cars):
        return RedirectResponse(f"/garage/edit/day/{asked}", 303)
    return RedirectResponse("/setup", 303)


def stale(request: Request, problem: Exception) -> Response:
    """The household moved on since the page was made."""
    if getattr(problem, "replaced", False):  # what its numbers meant is somebody else's by now: nothing to be sent again
        words = f"{problem} Nothing was saved. Open the page anew, and repeat it there."
        return _said(request, 409, "This page is of other data", words, again=False)
    return _said(
        request, 409, "This page is out of date", f"{problem} Nothing was saved. Look at what changed, then decide anew."
    )


def slept(request: Request, problem: Exception) -> Response:
    """A page of another time, whose form would count for the present: a second look, then it may be sent once more."""
    units, now = units_of(request), snapshot_of(request).now
    opened = getattr(problem, "opened", None)
    told = [f"{at:%A} {at.day} {at:%B} at {units.clock(at)}" for at in (opened and opened.astimezone(now.tzinfo), now) if at]
    words = f"What you entered would count for now, {told.pop()}. Nothing was saved yet: send it again if it is so now."
    return _said(request, 409, "This page is of another time", f"It was opened on {told[0]}. {words}" if told else words)


def refused(request: Request, problem: Exception) -> Response:
    """A change without its page's token: from elsewhere, or from a page older than this start, which may send it once more."""
    if from_here(request):
        return _said(
            request,
            403,
            "This page is older than the last start",
            "Nothing was saved yet. Your entries are kept: send them again.",
        )
    return _said(
        request, 403, "This change did not come from its page", "Nothing was saved. Open the page again and repeat it there."
    )


def cannot(request: Request, problem: Exception) -> Response:
    """A refusal that belongs to no field of a page."""
    if for_scripts(request):
        field = getattr(problem, "field", "")
        faults = [BadValue(pointer=field, detail=str(problem))] if field else ()
        if isinstance(problem, Missing):
            return told_to_scripts(404, "There is no such thing", str(problem), faults)
        return told_to_scripts(422, "That cannot be done", f"{problem} Nothing was changed.", faults)
    return _said(request, 422, "That cannot be done", f"{problem} Nothing was changed.")


def later(request: Request, problem: Exception) -> Response:
    """Something takes longer than anybody waits."""
    answer = _said(request, 503, "This takes longer than usual", "It is still being worked out. Ask for it again in a minute.")
    answer.headers["retry-after"] = "60"
    return answer


def too_often(request: Request, found: Exception) -> Response:
    """A script asks more often than the settings allow."""
    answer = told_to_scripts(429, "Asked too often", str(found))
    answer.headers["retry-after"] = str(getattr(found, "seconds", 60))
    return answer


def problem(request: Request, found: Exception) -> Response:
    """An HTTP error."""
    status = found.status_code if isinstance(found, HTTPException) else 500
    return _said(request, status, *PROBLEMS.get(status, PROBLEMS[400]))


def store_fails(request: Request, found: Exception) -> Response:
    """The store cannot be read or written."""
    fault = _fault(found)
    if fault is None:
        return unforeseen(request, found)
    log.error("store", said=fault.title, path=place_of(request.scope), exc_info=found)
    answer = _said(request, fault.status, fault.title, fault.detail)
    if fault.retry_s:
        answer.headers["retry-after"] = str(fault.retry_s)
    return answer


def data_refuses(request: Request, problem: Exception) -> Response:
    """A copy, a bring-back or a delete that the data's folders do not allow, in their own sentence."""
    log.error("data", said=str(problem))
    return _said(request, 503, "That could not be done with the data", f"{problem} Nothing was changed.")


def _fault(found: Exception) -> Fault | None:
    said = str(found.orig if isinstance(found, DBAPIError) else (isinstance(found, OSError) and found.strerror) or found)
    return next((each for each in STORE_FAULTS if each.part in said), None)


def words_of(found: Exception) -> str:
    """What is said of a failure that no page waits for; what nobody foresaw gets a number, under which the log has the trace."""
    if isinstance(found, Stopped):
        return "It was stopped."
    if isinstance(found, Refusal):
        return found.message
    if isinstance(found, STORE_PROBLEMS) and (fault := _fault(found)) is not None:
        log.error("store", said=fault.title, exc_info=found)
        return f"{fault.title}."
    number = secrets.token_hex(3)
    log.error("unforeseen", number=number, exc_info=found)
    return f"That was not foreseen. Its number is {number}: the log has more under it."


def unforeseen(request: Request, found: Exception) -> Response:
    """What nobody foresaw: a short number, under which the log has the trace."""
    if isinstance(found, TooLarge):
        return _said(request, 413, *PROBLEMS[413])
    if isinstance(found, NotYours):
        return not_yours(request, found)
    if isinstance(found, STORE_PROBLEMS) and _fault(found) is not None:
        return store_fails(request, found)
    number = secrets.token_hex(3)
    log.error("unforeseen", number=number, path=place_of(request.scope), exc_info=found)
    return _said(request, 500, "That was not foreseen", f"Nothing was saved. Its number is {number}: the log has more under it.")


def not_yours(request: Request, found: NotYours) -> Response:
    """To the sign-in, for who looks for a page and is nobody yet; else what their right does not reach."""
    if found.visitor is None:
        if for_scripts(request):
            return told_to_scripts(401, "No key, or one that is not known", "Send a key that Garage, People and devices made.")
        if request.method == "GET" and not request.url.path.endswith("/live"):
            asked = f"{request.url.path}?{request.url.query}".rstrip("?")
            return RedirectResponse("/sign-in" + ("" if asked == "/" else f"?{urlencode({'back': asked})}"), 303)
        return _said(request, 401, "Nobody is signed in here", "Nothing was saved. Sign in, and send it again.")
    words = (
        "This key is for something else."
        if found.visitor.token_id is not None
        else "You came by a guest’s link: it shows Tonight."
        if found.visitor.right is Right.GUEST
        else "Owners change things here, and see who may come in."
    )
    return _said(request, 403, "This is not for you to do", f"{words} Nothing was saved.")


def _said(request: Request, status: int, title: str, detail: str, again: bool = True) -> Response:
    """A page of its own, with what was entered, where our own page sent it, to be sent `again`; problem details for scripts."""
    if for_scripts(request):
        return told_to_scripts(status, title, detail)
    fields: Mapping[str, str] = (
        getattr(request.state, "fields", {}) if from_here(request) and status in (401, 403, 409, 500, 503) else {}
    )
    kept = {name: value for name, value in fields.items() if name != "token"}
    if status == 409:
        kept |= {"revision": str(snapshot_of(request).revision), "opened": snapshot_of(request).now.isoformat()}
    typed = [value for name, value in kept.items() if value not in ("", "yes", "no") and name not in HIDDEN]
    came = address(request.headers.get("referer", "")) if from_here(request) else None
    back = f"{came.path}?{came.query}".rstrip("?") if came and came.path.startswith("/") else "/tonight"
    return render(
        request,
        "said.html",
        status,
        bare=True,
        title=title,
        detail=detail,
        room="",
        again=kept,
        sent=bool(fields) and again,
        typed=typed,
        back=back,
    )
