"""What both versions of the protocol share: how a connected point is asked for something, and who is told what it says."""

import asyncio
import logging
from abc import ABC, abstractmethod
from collections.abc import Callable, Coroutine, Mapping
from typing import Any

from ocpp.exceptions import OCPPError
from ocpp.messages import CallResult

from .desk import Desk, Schedule

HEARTBEAT_S, SAMPLED_EACH_S, WAKE_S, BOOTS_S = 60, 60, 10.0, 3.0
SAMPLED = ("Energy.Active.Import.Register", "Power.Active.Import", "Current.Import", "SoC")
OUR_TAG = "FROSTTALLY"


class Talk(ABC):
    """A connected point, before the library's class of its version. Whatever it is asked for may be refused, or never answered."""

    timeout_s = 15
    quiet = logging.getLogger("frost_tally.ocpp")
    call: Callable[..., Coroutine[Any, Any, Any]]
    _ocpp_version: str
    _call_lock: asyncio.Lock
    _connection: Any

    def __init__(self, desk: Desk, line: Any) -> None:
        """`line` has `recv` and `send`, as the library wants it."""
        super().__init__(desk.identity, line, self.timeout_s, self.quiet)  # type: ignore[call-arg]
        self.desk, self.boots, self._tasks = desk, False, set[asyncio.Task[Any]]()
        self.quiet.disabled = True  # what a point says is nobody's to read in a log

    @property
    def version(self) -> str:
        """Of the protocol: "1.6", "2.0.1"."""
        return self._ocpp_version

    @abstractmethod
    async def greet(self) -> None:
        """Ask for what is needed to know how it stands."""

    async def starts_anew(self) -> None:
        """It booted: nothing that stood in it is sure to stand there."""
        self.boots = True
        await asyncio.to_thread(self.desk.booted)
        self.soon(self.greet())

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

    @abstractmethod
    def setting(self, request: Mapping[str, Any]) -> Any:
        """The version's own request to set a profile."""

    @abstractmethod
    async def let_begin(self) -> bool:
        """Let a charge begin for the car on its cable; whether it will."""

    @abstractmethod
    async def let_end(self, transaction: str) -> bool:
        """End a charge; whether it will."""

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
