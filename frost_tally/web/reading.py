"""What a request reads of the household: one state, kept until its answer begins."""

from contextlib import ExitStack

from fastapi import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..services.shared.home import Household, Snapshot


def household_of(request: Request) -> Household:
    """The household that this application serves, to decide for it."""
    household: Household = request.app.state.household
    return household


def snapshot_of(request: Request) -> Snapshot:
    """What this request reads: one state of the store at one moment, opened when somebody asks for it first."""
    if not hasattr(request.state, "snapshot"):
        open_reading = request.state.reading = ExitStack()
        request.state.snapshot = open_reading.enter_context(household_of(request).reading())
    found: Snapshot = request.state.snapshot
    return found


def read_anew(request: Request) -> Snapshot:
    """The same after this request itself wrote something down."""
    _close(request.scope)
    return snapshot_of(request)


def _close(scope: Scope) -> None:
    state = scope.get("state", {})
    state.pop("snapshot", None)
    if (reading := state.pop("reading", None)) is not None:
        reading.close()


class OneReading:
    """Close what a request read when its answer begins: nothing of the store is asked for any more then."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def closing(message: Message) -> None:
            _close(scope)
            await send(message)

        try:
            await self.app(scope, receive, closing)
        finally:
            _close(scope)
