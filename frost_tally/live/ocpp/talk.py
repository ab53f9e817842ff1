"""What both versions of the protocol share: how a connected point is asked for something, and who is told what it says."""

import asyncio
import logging
from collections.abc import Callable, Coroutine, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Protocol

from ocpp.exceptions import OCPPError
from ocpp.messages import CallResult

from ...core.live.heard import Sample, Socket
from ...formats.charging_profile import Drawn, NightProfile, profile_request

HEARTBEAT_S, SAMPLED_EACH_S, WAKE_S, BOOTS_S = 60, 60, 10.0, 3.0
SAMPLED = ("Energy.Active.Import.Register", "Power.Active.Import", "Current.Import", "SoC")
OUR_TAG = "FROSTTALLY"
EPOCH = datetime(2020, 1, 1, tzinfo=UTC)
LONGEST = timedelta(days=2)


class Desk(Protocol):
    """Who is told what one point says. All but `alive`, `now`, `moment` and `number_of` may take as long as a write to the store takes."""

    identity: str

    def now(self) -> datetime:
        """The present moment of this home."""

    def moment(self) -> str:
        """The same as the protocol writes it."""

    def number_of(self, at: datetime) -> int:
        """The number of a charge that begins at a moment."""

    def alive(self) -> None:
        """It was heard."""

    def booted(self) -> None:
        """It started anew."""

    def greeted(self) -> None:
        """It was asked for what is needed: from now on it can be asked for more."""

    def stands(self, socket: Socket, fault: str) -> None:
        """How it stands."""

    def connects(self, socket: Socket) -> None:
        """How its connector stands, where it tells of a charge by itself."""

    def begins(self, sample: Sample, transaction: str, tag: str) -> None:
        """A charge begins."""

    def counts(self, sample: Sample, transaction: str) -> None:
        """Its meter tells, of a charge that is under way ("": of none)."""

    def ends(self, sample: Sample, transaction: str) -> None:
        """A charge is over."""


@dataclass(frozen=True, kw_only=True)
class Schedule:
    """Amperes by time from `begin` on (aware), on so many phases: what counts from each moment."""

    begin: datetime
    phases: int
    periods: Sequence[tuple[datetime, float]]

    def profile(self, version: str, transaction: str) -> Mapping[str, Any]:
        """The request that asks for it: as a default, or of a charge that is under way."""
        ends = [at for at, _ in self.periods[1:]] + [self.begin + LONGEST]
        drawn = [
            Drawn(begin=begin, end=end, amps=amps) for (begin, amps), end in zip(self.periods, ends, strict=False) if amps > 0
        ]
        night = NightProfile(begin=self.begin, end=self.begin + LONGEST, phases=self.phases, drawn=drawn)
        return profile_request(night, version, transaction)


class Talk:
    """A connected point. Whatever it is asked for may be refused, or never answered."""

    timeout_s = 15
    quiet = logging.getLogger("frost_tally.ocpp")
    call: Callable[..., Coroutine[Any, Any, Any]]
    _ocpp_version: str
    _call_lock: asyncio.Lock
    _connection: Any

    def __init__(self, desk: Desk) -> None:
        self.desk, self.boots, self._tasks = desk, False, set[asyncio.Task[Any]]()
        self.quiet.disabled = True  # what a point says is nobody's to read in a log

    @property
    def version(self) -> str:
        """Of the protocol: "1.6", "2.0.1"."""
        return self._ocpp_version

    async def greet(self) -> None:
        """Ask for what is needed to know how it stands."""
        raise NotImplementedError

    async def greet_unless_booted(self) -> None:
        """A point that only comes back says nothing of itself: it is asked."""
        await asyncio.sleep(BOOTS_S)
        if not self.boots:
            await self.greet()

    async def keep(self, schedule: Schedule, transaction: str) -> bool:
        """Leave a schedule in it, and for the charge that is under way ("": none); whether it took it."""
        well = True
        for of in dict.fromkeys(("", transaction)):
            well = await self.accepted(self.setting(schedule.profile(self.version, of))) and well
        return well

    def setting(self, request: Mapping[str, Any]) -> Any:
        """The version's own request to set a profile."""
        raise NotImplementedError

    async def let_begin(self) -> bool:
        """Let a charge begin for the car on its cable; whether it will."""
        raise NotImplementedError

    async def let_end(self, transaction: str) -> bool:
        """End a charge; whether it will."""
        raise NotImplementedError

    async def wake(self, schedule: Schedule, transaction: str) -> bool:
        """Take the power away for a moment and give it again."""
        nothing = Schedule(begin=schedule.begin, phases=schedule.phases, periods=((schedule.begin, 0.0),))
        await self.keep(nothing, transaction)
        await asyncio.sleep(WAKE_S)
        return await self.keep(schedule, transaction)

    async def leave(self) -> bool:
        """Hang up; it may knock again."""
        await self._connection.close()
        return True

    def soon(self, work: Coroutine[Any, Any, Any]) -> None:
        """Do it beside what is going on: an answer can only be heard once this message is answered."""
        task = asyncio.get_running_loop().create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    def hang_up(self) -> None:
        """Nothing more is asked of it."""
        for task in self._tasks:
            task.cancel()

    async def tried(self, request: Any) -> Any:
        """The answer to a request; None for a refusal, one that cannot be, or none."""
        try:
            return await self.call(request)
        except (TimeoutError, OCPPError, TypeError, ConnectionError):
            return None

    async def accepted(self, request: Any) -> bool:
        """Whether a request was granted."""
        answer = await self.tried(request)
        return answer is not None and str(getattr(answer.status, "value", answer.status)) == "Accepted"

    async def route_message(self, raw: str) -> None:
        """One message; an answer that nobody waits for is not kept."""
        if not self._call_lock.locked() and raw.lstrip().startswith((f"[{CallResult.message_type_id},", "[4,")):
            return
        await super().route_message(raw)  # type: ignore[misc]
