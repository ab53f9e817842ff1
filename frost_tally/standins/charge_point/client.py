"""The simulated point's line: connects, speaks, keeps what nobody hears, and connects again."""

import asyncio
import contextlib
from collections import deque
from collections.abc import Callable
from datetime import datetime
from typing import Any

from ocpp.exceptions import OCPPError
from websockets.asyncio.client import connect
from websockets.exceptions import InvalidHandshake, WebSocketException
from websockets.typing import Subprotocol

from ...core.live.heard import Socket
from .garage import Act, Garage, Guest
from .speakers import Speaker, Speaker16, Speaker201

SPEAKERS: dict[str, Any] = {"1.6": Speaker16, "2.0.1": Speaker201}
METERED_S, BEAT_S = 60.0, 30.0
TRIES_EACH_S = 0.5


class Line:
    """A connection that can be listened along with."""

    def __init__(self, socket: Any, heard: Callable[[str, str], None]) -> None:
        self.socket, self.heard = socket, heard

    async def recv(self) -> str:
        """The next message."""
        told = str(await self.socket.recv())
        self.heard("in", told)
        return told

    async def send(self, message: str) -> None:
        """Say something."""
        self.heard("out", message)
        await self.socket.send(message)


class Client:
    """The point with its line. `clock` tells its time once it was told one: the demo's, or a fast one. Each `step_s` (real) it looks."""

    def __init__(
        self,
        garage: Garage,
        address: str,
        *,
        name: str,
        password: str,
        version: str = "1.6",
        clock: Callable[[], datetime],
        step_s: float = 0.1,
        heard: Callable[[str, str], None] = lambda way, message: None,
        set_clock: Callable[[datetime], None] = lambda told: None,
    ) -> None:
        self.garage, self.address, self.name, self.password, self.version = garage, address, name, password, version
        self.clock, self.set_clock, self.step_s, self.heard = clock, set_clock, step_s, heard
        self.wanted, self.number, self.begun_at = set[str](), "", garage.now
        self.told: tuple[Socket, str] | None = None
        self.metered, self.refused = garage.now, 0
        self._unsaid = deque[tuple[str, datetime, float, str, str]](maxlen=200)
        self._halted = False
        self._todo = deque[tuple[Act, Guest | None]]()

    def do(self, what: Act, guest: Guest | None = None) -> None:
        """Somebody does something to it, as soon as it looks; from whatever thread."""
        self._todo.append((what, guest))

    @property
    def quiet(self) -> bool:
        """Whether it has said all that there is to say by now, or cannot be heard."""
        owing = self.number and (self.garage.now - self.metered).total_seconds() >= METERED_S
        told = self.told == (self.garage.socket(bool(self.number)), self.number)
        return not self.garage.heard or not (self._unsaid or self._todo or self.wanted or owing or not told)

    def begin(self) -> None:
        """A charge was asked for from afar: it begins by itself here, as soon as a car is there."""
        self._halted = False

    def end(self) -> None:
        """Its end was asked for from afar."""
        self._halted = True

    async def run(self) -> None:
        """Live until it is cancelled."""
        while True:
            with contextlib.suppress(OSError, WebSocketException, OCPPError, TimeoutError):
                if self.garage.heard:
                    await self._connected()
            await asyncio.sleep(TRIES_EACH_S * 2.0 ** min(self.refused, 6))
            self._live()

    async def _connected(self) -> None:
        uri = self.address.replace("://", f"://{self.name}:{self.password}@", 1) + f"/ocpp/{self.name}"
        try:
            async with connect(uri, subprotocols=[Subprotocol(f"ocpp{self.version}")], proxy=None, open_timeout=5) as socket:
                self.refused = 0
                speaker = SPEAKERS[self.version](self, self.name, Line(socket, self.heard))
                both = [asyncio.ensure_future(each) for each in (speaker.start(), self._speak(speaker))]
                try:  # an answer that is waited for does not come on a line that is closed
                    done, _ = await asyncio.wait(both, return_when=asyncio.FIRST_COMPLETED)
                    await next(iter(done))
                finally:
                    for each in both:
                        each.cancel()
                    await asyncio.gather(*both, return_exceptions=True)
        except InvalidHandshake as problem:
            self.refused += 1
            self.heard("no", str(problem))
            raise

    async def _speak(self, speaker: Speaker) -> None:
        """What it says for as long as it is heard."""
        self.set_clock(await speaker.boot())
        self.told, beat = None, asyncio.get_running_loop().time()
        while self.garage.heard:
            self._live()
            await self._say_what_was(speaker)
            socket = self.garage.socket(bool(self.number))
            if (socket, self.number) != self.told or "StatusNotification" in self.wanted:
                self.wanted.discard("StatusNotification")
                self.told = socket, self.number
                await speaker.tell(socket, self.number)
            asked = self.wanted & {"MeterValues", "TransactionEvent"}
            if asked or (self.number and (self.garage.now - self.metered).total_seconds() >= METERED_S):
                self.wanted -= asked
                self.metered = self.garage.now
                await speaker.counted(self.garage.now, self.garage.register_kwh, self.number)
            if asyncio.get_running_loop().time() - beat > BEAT_S:
                beat = asyncio.get_running_loop().time()
                self.set_clock(await speaker.beat())
            await asyncio.sleep(self.step_s)

    def _live(self) -> None:
        """Time goes on, heard or not; a charge begins with the cable and ends with it, or with the power."""
        while self._todo:
            self.garage.act(*self._todo.popleft())
        if not self.garage.powered and self.number:
            self._ended("PowerLoss")
        self.garage.until(self.clock())
        there = self.garage.socket(True) is not Socket.FREE and self.garage.powered and not self._halted
        if there and not self.number:
            self.begun_at = self.garage.now
            self.number = f"new-{int(self.begun_at.timestamp())}"
            tag = self.garage.guest.tag if self.garage.guest else ""
            self._unsaid.append(("begun", self.begun_at, self.garage.register_kwh, self.number, tag))
        elif self.number and not there:
            self._ended("EVDisconnected")

    def _ended(self, reason: str) -> None:
        self._unsaid.append(("over", self.garage.now, self.garage.register_kwh, self.number, reason))
        self.number = ""
        self.garage.running = None

    async def _say_what_was(self, speaker: Speaker) -> None:
        """Beginnings and ends of charges, in order; each until it was heard."""
        while self._unsaid:
            kind, at, kwh, number, more = self._unsaid[0]
            if kind == "begun":
                given = await speaker.begun(at, kwh, more, number)
                self._renumber(number, given)
            else:
                await speaker.over(at, kwh, number, more)
            self._unsaid.popleft()

    def _renumber(self, number: str, given: str) -> None:
        """The number that a charge was given in place of its own."""
        self._unsaid = deque(
            ((kind, at, kwh, given if each == number else each, more) for kind, at, kwh, each, more in self._unsaid), maxlen=200
        )
        self.number = given if self.number == number else self.number
