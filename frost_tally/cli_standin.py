"""The command line's stand-ins: a simulated charge point that knocks at a server's door."""

import asyncio
import json
import time
from contextlib import suppress
from datetime import UTC, datetime, timedelta

from .cli_out import out
from .core.car import preset
from .core.charge.supply import Supply, charge_rate
from .core.errors import Refusal
from .standins.charge_point.client import SPEAKERS, Client
from .standins.charge_point.garage import Act, Garage, Guest


class TaughtClock:
    """Goes on from what the server told it, so many times as fast as a real one."""

    def __init__(self, fast: float) -> None:
        self.fast, self.told, self.at = fast, datetime.now(UTC), time.monotonic()

    def now(self) -> datetime:
        """The moment by it."""
        return self.told + timedelta(seconds=self.fast * (time.monotonic() - self.at))

    def set(self, told: datetime) -> None:
        """It was told the time; where it runs ahead by itself, the first time counts."""
        if self.fast == 1.0 or abs(told - self.now()) > timedelta(days=1):
            self.told, self.at = told, time.monotonic()


def charge_point(
    address: str, name: str, password: str, *, version: str, soc: float, limit: float, fast: float, tells: bool
) -> None:
    """Be a charge point with a compact car on its cable, until it is stopped. Raises: Refusal."""
    if version not in SPEAKERS:
        raise Refusal(f"Versions are {' and '.join(SPEAKERS)}.", "version")
    if not address.startswith(("ws://", "wss://")):
        raise Refusal("The address begins with ws:// or wss://, such as ws://127.0.0.1:8642.", "address")
    car = preset("compact_hatch", "Stand-in", 3)
    supply = Supply(name="Stand-in", voltage_v=230, phases=3, breaker_a=16)
    guest = Guest(car=car, rate=charge_rate(supply, car), soc=soc, limit=limit, tells=tells)
    clock = TaughtClock(fast)
    garage = Garage(now=clock.now())

    def told(way: str, message: str) -> None:
        if way == "no":
            out.print(f"Not let in: {message}", markup=False)
            return
        kind, _, *rest = json.loads(message)
        if kind == 2:
            words = json.dumps(rest[1], ensure_ascii=False)
            out.print(
                f"{garage.now:%H:%M:%S} {'asked' if way == 'in' else 'told'} {rest[0]} {words[:160]}",
                markup=False,
                highlight=False,
            )

    client = Client(
        garage, address.rstrip("/").removesuffix("/ocpp"), name=name, password=password, version=version, clock=clock.now,
        set_clock=clock.set, heard=told,
    )  # fmt: skip
    client.do(Act.PLUG, guest)
    out.print(f"A simulated charge point “{name}” speaks {version} to {address} (stop with Ctrl-C)", markup=False)
    with suppress(KeyboardInterrupt):
        asyncio.run(client.run())
