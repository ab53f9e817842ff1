"""The server is killed in the middle of a night, again and again, and started anew: nothing is lost, and the car is ready."""

import os
import signal
import socket as sockets
import subprocess
import sys
import time
from datetime import timedelta
from random import Random

from frost_tally.demo.world import StoredClock
from frost_tally.standins.charge_point.garage import Act
from tests.drilled import count, seed_of
from tests.live.garage import LONG, MINUTE, LiveCase, Wire, waited


class Killed(LiveCase):
    """`SIGKILL` at random moments."""

    def begin(self) -> None:
        """A server in a process of its own, on the same port each time."""
        self.stored = StoredClock(self.household.engine)
        with sockets.create_server(("127.0.0.1", 0)) as free:
            self.port = free.getsockname()[1]
        self.address = f"ws://127.0.0.1:{self.port}"
        self.started()

    def started(self) -> None:
        """It starts, and answers."""
        command = [sys.executable, "-m", "tests.live.server_alone", str(self.settings.data_dir), str(self.port)]
        self.process = subprocess.Popen(command, stderr=subprocess.DEVNULL)
        self.stack.callback(self.end, self.process)
        waited("the server", self.answers)

    def answers(self) -> bool:
        """Whether somebody listens."""
        with sockets.socket() as tried:
            tried.settimeout(0.2)
            return tried.connect_ex(("127.0.0.1", self.port)) == 0

    def end(self, process: "subprocess.Popen[bytes]") -> None:
        """Kill it, whatever it does."""
        if process.poll() is None:
            os.kill(process.pid, signal.SIGKILL)
        process.wait()

    def asked_again(self, wire: Wire, before: int) -> None:
        """Wait until the point was asked for something anew."""
        waited("the point to be asked", lambda: any("SetChargingProfile" in told for _, told in wire.said[before:]))

    def test_a_night_survives_a_server_that_is_killed(self) -> None:
        seed = seed_of("killed in the night")
        draw = Random(seed)
        begins_h = 0.0 if count(20) == 20 else 8.4  # a tenth of the kills, in the hours that charge
        kills_h = sorted(draw.uniform(begins_h, 11.8) for _ in range(count(20)))
        self.clock.at = self.evening
        wire = self.wire_to_process()
        wire.client.do(Act.PLUG, self.guest(limit=0.8, tells=draw.random() < 0.5))
        waited("the cable", lambda: "plugged_in" in self.codes())
        leaves = self.evening + timedelta(hours=12.9)
        self.clock.at = self.evening + timedelta(hours=begins_h)
        while self.clock.at < leaves:
            wait = LONG if wire.still else MINUTE
            self.clock.at = min(leaves, self.clock.at + wait)
            self.stored.set(self.clock.at)
            if kills_h and self.clock.at - self.evening > timedelta(hours=kills_h[0]):
                kills_h.pop(0)
                self.end(self.process)
                self.started()
                self.asked_again(wire, len(wire.said))
            waited("the point", lambda: wire.garage.now >= self.clock.at)
            waited("its words", wire.ready)
            time.sleep(0.02)
        assert wire.garage.house is not None
        self.assertGreater(wire.garage.house.running.soc, 0.637)
        wire.client.do(Act.UNPLUG)
        waited("the end", lambda: wire.garage.house is None and wire.ready())
        waited("the log", lambda: bool(self.charges()))
        self.assertAlmostEqual(sum(kwh for _, kwh, _ in self.charges()), wire.garage.register_kwh - 1234.5, delta=0.01)
        codes = self.codes()
        self.assertEqual(codes.count("plugged_in"), 1, codes)
        self.assertNotIn("short", codes)
