"""Sixty clients without think time on the whole of the rooms: how long they wait, and what the server holds in memory afterwards."""

import asyncio
import gc
import multiprocessing
import os
import re
import statistics
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from pathlib import Path
from unittest import mock

import httpx2 as httpx

from tests.browser.page import Server

PATHS = (
    "/tonight",
    "/day",
    "/warm-up",
    "/garage",
    "/garage/tariffs",
    "/day/tyres",
    "/tonight/live?limit={n}",
    "/day/live?people={p}",
)
CLIENTS = 60
AIM_S, AIM_MB = 3.0, 250


def _make(years: float) -> None:
    Server(True, years).stop()


def _serve(pipe: Connection, years: float) -> None:
    server = Server(True, years)
    gc.freeze()  # as the command does that serves
    gc.set_threshold(100_000)
    pipe.send(server.address)
    pipe.recv()
    pipe.send(_most_held_mb())
    server.stop()


def _most_held_mb() -> float:
    """The most memory that this process held, MB; what its parent held counts in getrusage, but not here."""
    status = Path("/proc/self/status").read_text()
    return float(re.findall(r"VmHWM:\s+(\d+) kB", status)[0]) / 1024


@contextmanager
def served(years: float) -> Iterator[tuple[str, list[float]]]:
    """A server in a process of its own, as owners run it: its address, and, once it has stopped, the most memory it held (MB)."""
    context, held = multiprocessing.get_context("spawn"), list[float]()
    here, there = context.Pipe()
    with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, FROST_TALLY_TEST_HOMES=folder):
        maker = context.Process(target=_make, args=(years,))  # making the log takes more memory than serving it
        maker.start()
        maker.join()
        process = context.Process(target=_serve, args=(there, years))
        process.start()
        yield here.recv(), held
        here.send("stop")
        held.append(here.recv())
        process.join()


async def _client(http: httpx.AsyncClient, number: int, until: float, waited: list[float], wrong: list[int]) -> None:
    turn = number
    while time.perf_counter() < until:
        path = PATHS[turn % len(PATHS)].format(n=60 + turn % 40, p=1 + turn % 5)
        begun = time.perf_counter()
        answer = await http.get(path)
        waited.append(time.perf_counter() - begun)
        if answer.status_code != 200:
            wrong.append(answer.status_code)
        turn += 7


async def _all(address: str, seconds: float) -> tuple[list[float], list[int]]:
    waited: list[float] = []
    wrong: list[int] = []
    limits = httpx.Limits(max_connections=CLIENTS)
    async with httpx.AsyncClient(base_url=address, timeout=120, limits=limits) as http:
        until = time.perf_counter() + seconds
        await asyncio.gather(*(_client(http, i, until, waited, wrong) for i in range(CLIENTS)))
    return waited, wrong


def load(years: float = 10, seconds: float = 30.0) -> None:
    """Run the clients against a server in a process of its own."""
    with served(years) as (address, held):
        waited, wrong = asyncio.run(_all(address, seconds))
    middle, late = statistics.median(waited), statistics.quantiles(waited, n=20)[-1]
    print(
        f"{CLIENTS} clients for {seconds:.0f} s      {len(waited) / seconds:8.1f} pages a second, {middle:.2f} s median, {late:.2f} s p95 "
        f"(aim {AIM_S:.0f} s), {len(waited)} requests, {len(wrong)} errors, {held[0]:.0f} MB (aim {AIM_MB})"
    )
