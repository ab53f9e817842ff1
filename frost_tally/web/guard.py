"""What every request passes: size limit, security headers, a log line, and a token on every change."""

import hmac
import secrets
import time
from dataclasses import dataclass
from typing import Annotated

import structlog
from fastapi import Depends, Request
from itsdangerous import BadSignature, URLSafeSerializer
from starlette.datastructures import MutableHeaders, UploadFile
from starlette.types import ASGIApp, Message, Receive, Scope, Send

log = structlog.get_logger("frost_tally.web")
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; "
    "form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "content-security-policy": POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "cross-origin-opener-policy": "same-origin",
    "permissions-policy": "camera=(), microphone=(), geolocation=()",
}
COOKIE = "frost_tally_visit"


class RefusedToken(RuntimeError):
    """A change came without the token of its page."""


class TooLarge(RuntimeError):
    """A request body over the limit."""


class SizeLimit:
    """Refuse bodies over a limit before anything reads them, whether or not they say their length."""

    def __init__(self, app: ASGIApp, max_bytes: int, files: tuple[str, ...] = (), file_bytes: int = 0) -> None:
        """`files` begins the paths that take files of up to `file_bytes`."""
        self.app, self.max_bytes, self.files, self.file_bytes = app, max_bytes, files, file_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return await self.app(scope, receive, send)
        length = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        takes_file = str(scope["path"]).startswith(self.files)
        most = self.file_bytes if takes_file else self.max_bytes
        if not length.isdigit() or int(length) > most:
            return await self._refuse(send, most)
        seen, begun = 0, False

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > most:
                raise TooLarge
            return message

        async def watched(message: Message) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            await self.app(scope, counted, watched)
        except TooLarge:
            if not begun:
                await self._refuse(send, most)

    async def _refuse(self, send: Send, most: int) -> None:
        body = f"This is more than the {most // 1000} kB that a page here can need. Nothing was saved.".encode()
        headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"content-length", str(len(body)).encode())]
        headers += [(name.encode(), value.encode()) for name, value in HEADERS.items()]
        await send({"type": "http.response.start", "status": 413, "headers": headers})
        await send({"type": "http.response.body", "body": body})


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
                spent = 1000 * (time.perf_counter() - begun)
                headers["server-timing"] = f"app;dur={spent:.1f}"
                log.info("request", method=scope["method"], path=scope["path"], status=message["status"], ms=round(spent, 1))
            await send(message)

        await self.app(scope, receive, sealed)


class HeadAsGet:
    """HEAD is answered as GET is, without its body."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] != "HEAD":
            return await self.app(scope, receive, send)

        async def bare(message: Message) -> None:
            await send({**message, "body": b""} if message["type"] == "http.response.body" else message)

        await self.app({**scope, "method": "GET"}, receive, bare)


class Tokens:
    """Signed double-submit tokens: a cookie names the visit, each form carries its signature."""

    def __init__(self, secret: str) -> None:
        self.signer = URLSafeSerializer(secret, salt="frost-tally-form")

    def visit(self, request: Request) -> str:
        """The visit's name from its cookie, or a new one."""
        return request.cookies.get(COOKIE) or secrets.token_urlsafe(18)

    def token(self, visit: str) -> str:
        """The token that a form of this visit carries."""
        return str(self.signer.dumps(visit))

    def check(self, request: Request, token: str) -> None:
        """Raises: RefusedToken when the token is not this visit's, or the browser says that another site sent it."""
        visit = request.cookies.get(COOKIE, "")
        try:
            named = str(self.signer.loads(token))
        except BadSignature:
            named = ""
        other_site = request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none")
        if not visit or other_site or not hmac.compare_digest(named.encode(), visit.encode()):
            raise RefusedToken


async def posted(request: Request) -> dict[str, str]:
    """The fields of a posted form, its token checked. Raises: RefusedToken."""
    form = await request.form(max_fields=100, max_files=0)
    fields = {name: value for name, value in form.items() if isinstance(value, str)}
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
    request.app.state.tokens.check(request, fields.get("token", ""))
    file = next((value for value in form.values() if isinstance(value, UploadFile)), None)
    return PostedFile(fields, (file.filename or "")[:80] if file else "", await file.read() if file else b"")


Upload = Annotated[PostedFile, Depends(posted_file)]
Posted = Annotated[dict[str, str], Depends(posted)]
