"""What every request passes: size limit, security headers, a log line, and a token on every change."""

import hmac
import secrets
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated
from urllib.parse import SplitResult, urlsplit

import structlog
from fastapi import Depends, Request
from fastapi.responses import Response
from itsdangerous import BadSignature, URLSafeSerializer
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, MutableHeaders, UploadFile
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..core.coming.level import STILL
from ..formats import values
from ..services.shared.home import Stale
from .reading import snapshot_of

log = structlog.get_logger("frost_tally.web")
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; "
    "manifest-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=()",
}
COOKIE = "frost_tally_visit"


class RefusedToken(RuntimeError):
    """A change came without the token of its page."""


class Slept(RuntimeError):
    """A form that means the moment at which it is sent came from a page of another, as far as that is known."""

    def __init__(self, opened: datetime | None) -> None:
        super().__init__()
        self.opened = opened


class TooLarge(RuntimeError):
    """A request body over the limit."""


class SizeLimit:
    """Refuse bodies over a limit before anything reads them, whether or not they say their length."""

    def __init__(self, app: ASGIApp, max_bytes: int, takes_file: Callable[[str], bool], file_bytes: int = 0) -> None:
        """`takes_file` says of a path whether it takes a file, of up to `file_bytes`."""
        self.app, self.max_bytes, self.takes_file, self.file_bytes = app, max_bytes, takes_file, file_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        length = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        most = self.file_bytes if self.takes_file(str(scope["path"])) else self.max_bytes
        if not length.isdigit() or int(length) > most:
            raise TooLarge
        seen = 0

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > most:
                raise TooLarge
            return message

        await self.app(scope, counted, send)


class Unbroken:
    """What nobody else caught is answered by `answer`, unless an answer has begun."""

    def __init__(self, app: ASGIApp, answer: Callable[[Request, Exception], Response]) -> None:
        self.app, self.answer = app, answer

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        begun = False

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await self.app(scope, receive, watched)
        except Exception as problem:
            if begun:
                raise
            answer = await run_in_threadpool(self.answer, Request(scope), problem)
            await answer(scope, receive, send)


class SecurityHeaders:
    """Put the content security policy on every answer and write one structured log line."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        begun = time.perf_counter()

        async def sealed(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers[name] = value
                if scope["scheme"] == "https":
                    headers["strict-transport-security"] = "max-age=31536000"
                headers.setdefault("cache-control", "no-store")
                spent = 1000 * (time.perf_counter() - begun)
                headers["server-timing"] = f"app;dur={spent:.1f}"
                log.info("request", method=scope["method"], path=place_of(scope), status=message["status"], ms=round(spent, 1))
            await send(message)

        await self.app(scope, receive, sealed)


def place_of(scope: Scope) -> str:
    """Where a request went, as the log may have it: the route's own path, for what stands in an address may be the owner's words."""
    return str(getattr(scope.get("route"), "path", "(no page)"))


class HeadAsGet:
    """HEAD is answered as GET is, without its body."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD":
            return await self.app(scope, receive, send)

        inner = {**scope, "method": "GET", "headed": True}

        async def bare(message: Message) -> None:
            scope["route"] = inner.get("route")
            await send({**message, "body": b""} if message["type"] == "http.response.body" else message)

        await self.app(inner, receive, bare)


def elsewhere(request: Request) -> bool:
    """Whether the browser says that another site sent this."""
    site, origin = request.headers.get("sec-fetch-site", "same-origin"), request.headers.get("origin")
    return site not in ("same-origin", "none") or (origin is not None and address(origin).netloc != request.headers.get("host"))


def address(told: str) -> SplitResult:
    """The parts of an address that somebody told; all empty for what is none."""
    try:
        return urlsplit(told)
    except ValueError:
        return urlsplit("")


def from_here(request: Request) -> bool:
    """Whether the browser says that a page of ours sent this."""
    return request.headers.get("sec-fetch-site") == "same-origin" and not elsewhere(request)


class Tokens:
    """Signed double-submit tokens: a cookie names the visit, each form carries its signature."""

    def __init__(self, secret: str) -> None:
        self.signer = URLSafeSerializer(secret, salt="frost-tally-form")

    def visit(self, request: Request) -> str:
        """The visit's name from its cookie, or a new one."""
        return request.cookies.get(COOKIE) or secrets.token_urlsafe(18)

    def token(self, visit: str) -> str:
        """The token that the forms of one page of this visit carry."""
        return str(self.signer.dumps([visit, secrets.token_urlsafe(6)]))

    def check(self, request: Request, token: str) -> None:
        """Raises: RefusedToken when the token is not this visit's, or the browser says that another site sent it."""
        visit = request.cookies.get(COOKIE, "")
        try:
            named = str(self.signer.loads(token)[0])
        except BadSignature:
            named = ""
        if not visit or elsewhere(request) or not hmac.compare_digest(named.encode(), visit.encode()):
            raise RefusedToken


async def form_of(request: Request) -> FormData:
    """A posted form without files, read once."""
    return await request.form(max_fields=100, max_files=0)


async def posted(request: Request) -> dict[str, str]:
    """The fields of a posted form, its token checked. Raises: RefusedToken."""
    form = await form_of(request)
    fields = {name: value for name, value in form.items() if isinstance(value, str)}
    request.state.fields = fields
    request.app.state.tokens.check(request, fields.get("token", ""))
    return fields


@dataclass(frozen=True)
class PostedFile:
    """The fields of a posted form, its token checked, with one file (its name and content, both empty without one)."""

    fields: dict[str, str]
    name: str
    content: bytes


async def posted_file(request: Request) -> PostedFile:
    """A form with a file. Raises: RefusedToken."""
    form = await request.form(max_fields=40, max_files=1)
    fields = {name: value for name, value in form.items() if isinstance(value, str)}
    request.state.fields = fields
    request.app.state.tokens.check(request, fields.get("token", ""))
    file = next((value for value in form.values() if isinstance(value, UploadFile)), None)
    return PostedFile(fields, (file.filename or "")[:80] if file else "", await file.read() if file else b"")


def _of_this_store(request: Request, fields: Mapping[str, str]) -> None:
    """Raises: Stale when a form says that it was made from another store: all of it was replaced since."""
    told = fields.get("revision", "").partition(".")[2]
    if told and told != snapshot_of(request).revision.store:
        raise Stale(replaced=True)


def form_here(request: Request, fields: Annotated[dict[str, str], Depends(posted)]) -> dict[str, str]:
    """The fields of a form of this store. Raises: RefusedToken, Stale."""
    _of_this_store(request, fields)
    return fields


def file_here(request: Request, sent: Annotated[PostedFile, Depends(posted_file)]) -> PostedFile:
    """A form with a file, of this store. Raises: RefusedToken, Stale."""
    _of_this_store(request, sent.fields)
    return sent


def form_now(request: Request, fields: Annotated[dict[str, str], Depends(form_here)]) -> dict[str, str]:
    """The fields of a form that means the present. Raises: RefusedToken, Stale; Slept when its page is of another time."""
    try:
        opened = values.aware(fields.get("opened", ""))
    except ValueError:
        raise Slept(None) from None
    if abs(snapshot_of(request).now - opened) > STILL:
        raise Slept(opened)
    return fields


Upload = Annotated[PostedFile, Depends(file_here)]
Posted = Annotated[dict[str, str], Depends(form_here)]
PostedNow = Annotated[dict[str, str], Depends(form_now)]
"""Of a form that means the moment at which it is sent: a level, a reading, what is done tonight."""
PostedOfOld = Annotated[dict[str, str], Depends(posted)]
"""Of a form that itself says what happened since it was made."""
