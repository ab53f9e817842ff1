"""A home with a charge point: the server on loopback, the simulated point as its client, and a clock that goes on when both are ready."""

import asyncio
import contextlib
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch

import structlog
import uvicorn

from frost_tally.access.door import Access, Purpose
from frost_tally.core.charge.supply import charge_rate
from frost_tally.core.home import OwnedCar
from frost_tally.core.live.lines import Line
from frost_tally.household import points as store
from frost_tally.live.nights import Nights
from frost_tally.live.ocpp import socket, talk
from frost_tally.live.ocpp.socket import MOST_B, open_line
from frost_tally.live.points import Points
from frost_tally.settings import Settings
from frost_tally.standins.charge_point import client
from frost_tally.standins.charge_point.client import Client
from frost_tally.standins.charge_point.garage import Act, Garage, Guest
from frost_tally.web.app import create_app
from tests.homes import home_in, tables

structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(50))
MINUTE, LONG, PATIENCE_S = timedelta(minutes=2), timedelta(minutes=4), 20.0


class SetClock:
    """Stands still until it is set."""

    def __init__(self, at: datetime) -> None:
        self.at = at

    def now(self) -> datetime:
        return self.at


def waited(what: str, ready: Callable[[], bool]) -> None:
    """Wait for something that another thread does."""
    ends = time.monotonic() + PATIENCE_S
    while not ready():
        if time.monotonic() > ends:
            raise AssertionError(f"waited in vain for {what}")
        time.sleep(0.001)


class Wire:
    """The simulated point of an outlet with its thread; `said` is the conversation: which way, and the message."""

    def __init__(self, home: "LiveCase", point: str, password: str, version: str) -> None:
        self.home, self.said = home, list[tuple[str, str]]()
        self.garage = Garage(now=home.clock.at, air_c=lambda at: -8.0)
        self.client = Client(
            self.garage, home.address, name=point, password=password, version=version, clock=home.clock.now, step_s=0.001,
            heard=lambda way, told: self.said.append((way, told)),
        )  # fmt: skip
        self._loop = asyncio.new_event_loop()
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        self._task = self._loop.create_task(self.client.run())
        with contextlib.suppress(asyncio.CancelledError):
            self._loop.run_until_complete(self._task)

    @property
    def still(self) -> bool:
        """Whether nothing flows, and nothing is to for some minutes."""
        garage, soon = self.garage, self.garage.now + LONG + MINUTE
        gives = garage.profile is None or garage.profile.amps(soon) > 0 or garage.gives
        return garage.heard and not garage.faults and (garage.house is None or not (garage.kw or gives))

    def close(self) -> None:
        """Nobody speaks any more."""
        self._loop.call_soon_threadsafe(self._task.cancel)
        self._thread.join(PATIENCE_S)

    def ready(self) -> bool:
        """Whether it lives in this minute and has said so."""
        return self.garage.now >= self.home.clock.at and self.client.quiet


class LiveCase(unittest.TestCase):
    """A demo home whose wall unit has a point; each test lets its own minutes pass."""

    version = "1.6"
    point = "garage"

    def setUp(self) -> None:
        self.stack = contextlib.ExitStack()
        self.addCleanup(self.stack.close)
        self.stack.enter_context(patch.object(talk, "WAKE_S", 0.02))
        self.stack.enter_context(patch.object(socket, "PER_S", 1e6))  # a night is lived in seconds
        self.stack.enter_context(patch.object(client, "TRIES_EACH_S", 0.005))
        self.settings = Settings(
            data_dir=Path(self.stack.enter_context(tempfile.TemporaryDirectory())), demo=True, log_level="ERROR"
        )
        household = home_in(self.settings)
        with household.reading() as snapshot:
            self.evening, self.zone = snapshot.now.astimezone(UTC), snapshot.home.place.clock
        self.clock = SetClock(self.evening)
        self.household = replace(household, world=replace(household.world, clock=self.clock))
        self.stack.callback(household.engine.dispose)
        with tables(self.household) as session, session.begin():
            session.connection().exec_driver_sql("UPDATE outlet SET point = ? WHERE name = 'Wall unit'", (self.point,))
        self.access = Access(self.settings.access)
        self.stack.callback(self.access.engine.dispose)
        self.password = self.access.make_token(Purpose.POINT, self.point)
        self.begin()

    def begin(self) -> None:
        """The server with its task, as after a start."""
        self.app = create_app(self.settings, self.household)
        self.points = Points(self.household, lambda: self.access, self.app.state.knocks)
        open_line(self.app, self.points)
        self.nights = Nights(self.points)
        config = uvicorn.Config(self.app, port=0, log_level="critical", ws_max_size=MOST_B, timeout_graceful_shutdown=1)
        self.server = uvicorn.Server(config)
        thread = threading.Thread(target=self.server.run, daemon=True)
        thread.start()
        waited("the server", lambda: self.server.started)
        self.port = self.server.servers[0].sockets[0].getsockname()[1]
        self.address = f"ws://127.0.0.1:{self.port}"
        self.stack.callback(thread.join, PATIENCE_S)
        self.stack.callback(setattr, self.server, "should_exit", True)

    def wire_to_process(self) -> Wire:
        """A simulated point of a server that cannot be looked into."""
        made = Wire(self, self.point, self.password, self.version)
        self.stack.callback(made.close)
        waited("the point", lambda: any("SetChargingProfile" in told for _, told in made.said))
        return made

    def wire(self, point: str = "", password: str = "", version: str = "") -> Wire:
        """A simulated point that is connected."""
        made = Wire(self, point or self.point, password or self.password, version or self.version)
        self.stack.callback(made.close)
        waited("the point", lambda: self.ready(point or self.point))
        return made

    def ready(self, point: str) -> bool:
        """Whether a point is connected and can be asked for something."""
        place = self.points._places.get(point)
        return place is not None and place.talk is not None and place.ready

    def car(self, name: str = "Marten") -> OwnedCar:
        """A car of the home."""
        with self.household.reading() as snapshot:
            return next(each for each in snapshot.home.cars if each.name == name)

    def guest(self, name: str = "Marten", **more: Any) -> Guest:
        """A car as the outlet meets it."""
        owned = self.car(name)
        soc = {"Marten": 0.41, "Dray": 0.62}[name]
        return Guest(car=owned.car, rate=charge_rate(owned.at.supply, owned.car), **{"soc": soc, "tag": owned.habit.tag, **more})

    def pass_until(self, clock: str, *wires: Wire) -> None:
        """Let time go on to a time of the local clock, everybody ready at each step: of two minutes where something goes on, else of four."""
        here = self.clock.at.astimezone(self.zone)
        hour, minute = map(int, clock.split(":"))
        at = here.replace(hour=hour, minute=minute, second=0)
        ends = (at if at > here else at + timedelta(days=1)).astimezone(UTC)
        while self.clock.at < ends:
            still = all(each.still for each in wires) and ends - self.clock.at > LONG
            self.clock.at = min(self.clock.at + (LONG if still else MINUTE), ends)
            self.look(*wires)

    def look(self, *wires: Wire) -> None:
        """Looks of the runner, until nothing follows of one."""
        said = -1
        while said != (said := self._said(*wires)):
            self.nights.look()
            waited("the point’s answers", lambda: self.nights.settled)

    def _said(self, *wires: Wire) -> int:
        """How much was said, once everybody has said what there is to say."""
        for each in wires:
            waited("the point’s words", each.ready)
        return sum(len(each.said) for each in wires)

    def lines(self, name: str = "Marten") -> list[Line]:
        """What the runner decided for a car."""
        with self.household.reading() as snapshot:
            return store.lines_since(snapshot.log, self.car(name).id, self.evening)

    def codes(self, name: str = "Marten") -> list[str]:
        """The same by codes."""
        return [each.code for each in self.lines(name)]

    def charges(self) -> list[tuple[int, float, float | None]]:
        """The charges that the point counted: car, kWh, level at the end."""
        with tables(self.household) as session:
            asked = "SELECT car_id, wall_kwh, soc_end FROM charge WHERE source = 'point' ORDER BY begun_at"
            return [tuple(each) for each in session.connection().exec_driver_sql(asked)]

    def do(self, wire: Wire, what: Act, guest: Guest | None = None) -> None:
        """Somebody does something to the point."""
        wire.client.do(what, guest)
        self.look(wire)
