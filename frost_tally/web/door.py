"""The door: who asks, and whether their right reaches for what they ask. Every address has a rule, for what no line names only owners and
readers see, and only owners change.
"""

import re

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.types import ASGIApp, Receive, Scope, Send

from ..access.door import HERE, Access, Purpose, Right, Visitor
from ..services.shared.home import acting
from .guard import COOKIE as VISIT

COOKIE = "frost_tally_device"
EVERYBODY = re.compile(r"/(sign-in|pair|health|sw\.js|manifest\.webmanifest|guest/[\w-]{20,80}|ocpp/[^/]{1,80}|static/.*)")
"""What nobody has to sign in for; charge points bring their own password."""
GUESTS = re.compile(r"/tonight(/live|/point|/point/events)?")
OF_READERS = re.compile(r"/sign-out")
"""What readers may send."""
SCRIPTS = re.compile(r"/api/v1/.*")
OPENS = {
    Purpose.CALENDAR: re.compile(r"GET /(week/departures|warm-up/departures|parked/season)\.ics"),
    Purpose.READS: re.compile(r"(GET|HEAD) /api/v1/.*"),
    Purpose.SCRIPT: re.compile(r"\w+ /api/v1/.*"),
    Purpose.WHEELS: re.compile(r"POST /api/v1/tyres"),
}
"""What the key of each purpose opens, of method and path, and nothing else."""
RANK = {Right.GUEST: 0, Right.READER: 1, Right.OWNER: 2}


def needed(method: str, path: str) -> Right | None:
    """The right that a request needs; None for none."""
    if EVERYBODY.fullmatch(path):
        return None
    if method in ("GET", "HEAD"):
        return Right.GUEST if GUESTS.fullmatch(path) else Right.READER
    return Right.READER if OF_READERS.fullmatch(path) else Right.OWNER


class NotYours(RuntimeError):
    """The right of who asks does not reach for it; nobody signed in when `visitor` is None."""

    def __init__(self, visitor: Visitor | None) -> None:
        super().__init__()
        self.visitor = visitor


class Door:
    """Let in who may come in; `access` is None where only this computer is listened to, and whoever sits at it is the owner."""

    def __init__(self, app: ASGIApp, access: Access | None) -> None:
        self.app, self.access = app, access

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            return await self.app(scope, receive, send)
        visitor: Visitor | None = HERE
        if self.access is not None:
            visitor = await run_in_threadpool(who_asks, Request(scope), self.access) if scope["type"] == "http" else None
            need = needed(scope.get("method", "GET"), scope["path"])
            if need is not None and (visitor is None or RANK[visitor.right] < RANK[need]):
                raise NotYours(visitor)
        scope.setdefault("state", {})["visitor"] = visitor
        acting.set(visitor.name if visitor else "")
        await self.app(scope, receive, send)


def who_asks(request: Request, access: Access) -> Visitor | None:
    """Who asks: by the cookie of a device or a guest; by a key that a script sends along, or a calendar has in its address. What scripts
    change is not done by a cookie, which a browser sends whoever asks it to. Raises: NotYours for a key that opens something else.
    """
    path, method = request.url.path, request.method
    scheme, _, bearer = request.headers.get("authorization", "").partition(" ")
    key = (
        bearer.strip() if scheme.casefold() == "bearer" else request.query_params.get("key", "") if path.endswith(".ics") else ""
    )
    if key and (token := access.token(key[:80])) is not None:
        opens, need = OPENS.get(token.purpose), needed(method, path)
        visitor = Visitor(need or Right.GUEST, token.name, token_id=token.id)
        if opens is None or not opens.fullmatch(f"{method} {path}"):
            raise NotYours(visitor)
        return visitor
    if SCRIPTS.fullmatch(path) and (key or method not in ("GET", "HEAD")):
        return None
    return access.visitor(request.cookies.get(COOKIE, "")[:80])


def visitor_of(request: Request) -> Visitor | None:
    """Who asks; None for nobody who signed in."""
    found: Visitor | None = getattr(request.state, "visitor", None)
    return found


def access_of(request: Request) -> Access | None:
    """The people of this server; None where it listens to this computer alone."""
    found: Access | None = request.app.state.access
    return found


def let_in(request: Request, where: str, secret: str) -> Response:
    """On to a page, with a device's secret; the name of the visit is drawn anew, so that none from before it is worth anything."""
    answer = RedirectResponse(where, 303)
    secure = request.url.scheme == "https"
    answer.set_cookie(COOKIE, secret, max_age=90 * 86_400, httponly=True, samesite="strict", secure=secure)
    forget_visit(answer)
    return answer


def forget_visit(answer: Response) -> None:
    """The next page gives the browser another visit's name."""
    answer.delete_cookie(VISIT, httponly=True, samesite="strict")
