"""A form sent twice from one page, as by a double click, is done once: the second gets the answer of the first, when it came while that
one was under way, or before anything else was written. Later it is a wish of its own. Why: docs/decisions/0034.
"""

import hashlib
import json
from asyncio import Lock
from collections import OrderedDict
from collections.abc import Callable, Coroutine, Hashable
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from fastapi.routing import APIRoute

from .guard import form_of

REMEMBERED = 400


class Sent:
    """What was sent lately, where its answer led, and the state of the home after it; a sending under way is waited for."""

    def __init__(self) -> None:
        self.answers: OrderedDict[str, tuple[str, Hashable]] = OrderedDict()
        self.locks: dict[str, Lock] = {}

    async def once(
        self, key: str, act: Callable[[], Coroutine[Any, Any, Response]], version: Callable[[], Hashable] = lambda: None
    ) -> Response:
        """The answer to act, or where it led when it was done just before. Only what was done is remembered, nothing refused."""
        together = key in self.locks
        async with self.locks.setdefault(key, Lock()):
            try:
                led, then = self.answers.get(key, ("", None))
                if led and (together or then == version()):
                    return RedirectResponse(led, 303)
                answer = await act()
                if answer.status_code == 303 and "set-cookie" not in answer.headers:  # what a browser keeps is set anew each time
                    self.answers[key] = answer.headers["location"], version()
                    while len(self.answers) > REMEMBERED:
                        self.answers.popitem(last=False)
                return answer
            finally:
                self.locks.pop(key, None)


class _Once(APIRoute):
    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handle = super().get_route_handler()

        async def handled(request: Request) -> Response:
            if request.method != "POST" or not request.headers.get("content-type", "").startswith(
                "application/x-www-form-urlencoded"
            ):
                return await handle(request)
            form = await form_of(request)
            told = json.dumps([request.url.path, form.multi_items()]).encode()
            sent: Sent = request.app.state.sent
            return await sent.once(hashlib.sha256(told).hexdigest(), lambda: handle(request), request.app.state.household.version)

        return handled


Router = partial(APIRouter, route_class=_Once)
"""A router whose forms are done once."""
