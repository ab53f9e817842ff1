"""`make drill`: a hundred points knock with wrong passwords, again and again, and say garbage: what pages take beside that."""

import asyncio
import base64
import contextlib
import threading
import time
from statistics import median

import httpx2 as httpx
from websockets.asyncio.client import connect
from websockets.typing import Subprotocol

from tests.live.garage import LiveCase

KNOCKING, LOOKS, PATHS = 100, 30, ("/tonight", "/garage/house", "/garage/points")


def main() -> None:
    """Print how much longer pages take, and end with 1 where one takes more than twice as long."""
    case = LiveCase()
    case.setUp()
    try:
        base = f"http://127.0.0.1:{case.port}"
        alone = _times(base)
        stop = threading.Event()
        knocker = threading.Thread(target=lambda: asyncio.run(_all(case.address, case.point, case.password, stop)), daemon=True)
        knocker.start()
        time.sleep(3.0)
        beside = _times(base)
        stop.set()
        knocker.join(20)
        worst = max(beside[each] / alone[each] for each in PATHS)
        for path in PATHS:
            ratio = beside[path] / alone[path]
            print(
                f"{path}: {1000 * alone[path]:.1f} ms alone, {1000 * beside[path]:.1f} beside {KNOCKING} that knock: {ratio:.2f}"
            )
        print(f"knocks that are remembered: {len(case.app.state.knocks.latest())}")
        if worst > 2.0:
            raise SystemExit(1)
    finally:
        case.doCleanups()


def _times(base: str) -> dict[str, float]:
    """The median time of each page, s, after a first look."""
    with httpx.Client(base_url=base) as client:
        return {path: median(_time(client, path) for _ in range(LOOKS)) for path in PATHS if client.get(path)}


def _time(client: httpx.Client, path: str) -> float:
    begun = time.perf_counter()
    client.get(path)
    return time.perf_counter() - begun


async def _all(address: str, point: str, password: str, stop: threading.Event) -> None:
    await asyncio.gather(
        *(_knocks(address, f"knock-{i}", "wrong", stop) for i in range(KNOCKING)), _garbage(address, point, password, stop)
    )


async def _knocks(address: str, name: str, password: str, stop: threading.Event) -> None:
    """One that does not give up; a point tries every few seconds."""
    while not stop.is_set():
        with contextlib.suppress(Exception):
            async with _line(address, name, password):
                pass
        await asyncio.sleep(5.0)


async def _garbage(address: str, name: str, password: str, stop: threading.Event) -> None:
    """One that is let in and says nothing that makes sense."""
    while not stop.is_set():
        with contextlib.suppress(Exception):
            async with _line(address, name, password) as line:
                for said in ("x" * 70_000, "[2]", "[" * 9000):
                    await line.send(said)
        await asyncio.sleep(0.2)


def _line(address: str, name: str, password: str) -> connect:
    told = base64.b64encode(f"{name}:{password}".encode()).decode()
    return connect(
        f"{address}/ocpp/{name}",
        additional_headers={"Authorization": f"Basic {told}"},
        subprotocols=[Subprotocol("ocpp1.6")],
        proxy=None,
    )


if __name__ == "__main__":
    main()
