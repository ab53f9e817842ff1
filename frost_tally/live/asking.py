"""What one point was asked for, and what became of it: each thing once, until it stands in the point."""

import asyncio
from collections.abc import Coroutine
from concurrent.futures import Future
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from ..core.live.heard import Socket
from ..core.live.profile import Profile
from .ocpp.desk import Schedule
from .points import Place

REFUSED_FOR, BEGIN_EACH = timedelta(minutes=10), timedelta(minutes=5)
"""What a point did not take is asked for again after so long; and how often a charge that does not begin is asked to."""


@dataclass(kw_only=True)
class Asking:
    """`stands` is what stands in the point, `wanted` what it was asked for last and `refused` since when it does not take that.
    `wakes`: the car is to be woken with the next thing that is asked; `ended` is the charge that was asked to end.
    """

    stands: object = None
    wanted: object = None
    pending: Future[bool] | None = None
    refused: datetime | None = None
    begun: datetime | None = None
    wakes: bool = False
    ended: str = ""

    @property
    def settled(self) -> bool:
        """Whether nothing is still open."""
        return self.pending is None or self.pending.done()

    def keep(
        self,
        place: Place,
        profile: Profile,
        phases: int,
        *,
        now: datetime,
        loop: asyncio.AbstractEventLoop | None,
        wake: bool = False,
    ) -> bool:
        """Ask for a profile, where it does not stand there already; whether the point refuses it, as is known since this look."""
        self.wakes = self.wakes or wake  # until the point can be asked
        if place.talk is None or not place.ready:
            self.stands = None
            return False
        if not self.settled:
            return False
        refuses = self.pending is not None and self._refuses(now)
        wanted = profile.periods, place.heard.transaction, place.talk, place.boots
        again = wanted != self.wanted or self.refused is None or now - self.refused >= REFUSED_FOR
        if self.wakes or (wanted != self.stands and again):
            schedule = Schedule(begin=now.replace(second=0, microsecond=0), phases=phases, periods=profile.from_now(now))
            ask, self.wakes = place.talk.wake if self.wakes else place.talk.keep, False
            self.wanted, self.pending = wanted, soon(ask(schedule, place.heard.transaction), loop)
        return refuses

    def begin(self, place: Place, now: datetime, loop: asyncio.AbstractEventLoop | None) -> None:
        """Let a charge begin where a car is on the cable and the point waits for a word."""
        waits = place.heard.plugged and place.heard.socket is Socket.HOLDS and not place.heard.transaction
        if waits and place.talk is not None and place.ready and (self.begun is None or now - self.begun >= BEGIN_EACH):
            self.begun = now
            soon(place.talk.let_begin(), loop)

    def end(self, place: Place, loop: asyncio.AbstractEventLoop | None) -> None:
        """End a charge under way: something is wrong with its plug."""
        if place.talk is not None and place.ready and place.heard.transaction not in ("", self.ended):
            self.ended = place.heard.transaction
            soon(place.talk.let_end(self.ended), loop)

    def _refuses(self, now: datetime) -> bool:
        """What became of the last request; whether it was refused for the first time."""
        done, self.pending = self.pending, None
        well = done is not None and not done.cancelled() and done.exception() is None and done.result()
        first = not well and self.refused is None
        self.stands, self.refused = (self.wanted, None) if well else (None, now)
        return first


def soon(work: Coroutine[Any, Any, bool], loop: asyncio.AbstractEventLoop | None) -> Future[bool] | None:
    """Begin something on the line's own loop."""
    if loop is None or loop.is_closed():
        work.close()
        return None
    return asyncio.run_coroutine_threadsafe(work, loop)
