"""What the page loads besides itself: under an address that changes with the content, so that a browser keeps it for good."""

import hashlib
from functools import cache
from pathlib import Path

from starlette.middleware.gzip import GZipMiddleware
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

FOLDER = Path(__file__).parent / "static"
FOR_GOOD = (b"cache-control", b"public, max-age=31536000, immutable")


@cache
def address() -> str:
    """Where the files are: /static/ and a digest of all of them, so that one which names another finds it beside itself."""
    digest = hashlib.sha256()
    for path in sorted(each for each in FOLDER.rglob("*") if each.is_file()):
        digest.update(path.read_bytes())
    return f"/static/{digest.hexdigest()[:12]}"


class Assets:
    """The files, packed, to be kept for good."""

    def __init__(self) -> None:
        self.files: ASGIApp = GZipMiddleware(StaticFiles(directory=FOLDER), minimum_size=1000, compresslevel=9)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def kept(message: Message) -> None:
            if message["type"] == "http.response.start" and message["status"] in (200, 304):
                message = {**message, "headers": [*message["headers"], FOR_GOOD]}
            await send(message)

        await self.files(scope, receive, kept)
