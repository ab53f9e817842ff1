"""How long the pages take on the server with a long log, and where the time goes: store, drawing, and computing with all the rest."""

import asyncio
import gc
import statistics
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

import fastapi.routing
import httpx2 as httpx
from jinja2 import Template
from sqlalchemy.orm import Session

from frost_tally.household.unit_of_work import Household
from frost_tally.web.app import PAGES as ROOM_PAGES
from frost_tally.web.app import create_app
from frost_tally.web.levers import LeverRoom
from tests.browser.page import Server
from tests.homes import read

ROUTING: Any = fastapi.routing
AIMS = {"/day": 70.0, "/warm-up": 60.0}
AIM = 50.0
LISTED = (
    "/tonight",
    "/week",
    "/tonight/timer?now=1",
    "/day/long?way=1",
    "/day/long/side?now=1",
    "/day/long/weekly?now=1",
    "/day",
    "/warm-up",
    "/day/tyres",
    "/battery",
    "/battery/guide",
    "/battery/schools",
    "/battery/report",
    "/battery/used?figure=88",
    "/parked",
    "/parked/season",
    "/parked/twelve-volt",
    "/parked/washer",
    "/garage",
    "/garage/outlets?now=1",
    "/garage/tariffs",
    "/garage/tariffs/2",
    "/garage/compare?now=1",
    "/garage/house",
    "/log",
    "/log?kind=drive&order=most",
    "/log?text=ferry",
    "/log/new",
    "/log/month",
    "/log/year",
    "/log/learnt",
    "/log/data",
)
PAGES = (*LISTED, *(path for path in ROOM_PAGES if path not in {each.partition("?")[0] for each in (*LISTED, "/setup")}))
TIMES = 15


@dataclass
class Passing:
    """A clock that goes on when it is told to."""

    at: datetime

    def now(self) -> datetime:
        """The moment."""
        return self.at


class Shares:
    """Milliseconds by kind, those of an inner call taken off the outer one."""

    def __init__(self) -> None:
        self.spent = dict.fromkeys(("store", "drawing"), 0.0)
        self.inner = [0.0]

    def timed(self, kind: str, act: Callable[..., Any]) -> Callable[..., Any]:
        """The same act, its time counted."""

        def run(*args: Any, **more: Any) -> Any:
            begun = time.perf_counter()
            self.inner.append(0.0)
            try:
                return act(*args, **more)
            finally:
                whole = 1000 * (time.perf_counter() - begun)
                self.spent[kind] += whole - self.inner.pop()
                self.inner[-1] += whole

        return run


@contextmanager
def measured() -> Iterator[Shares]:
    """Count what the store and the drawing take, everything in this thread."""
    shares = Shares()
    places = ((Session, "execute", "store"), (Session, "scalars", "store"), (Session, "scalar", "store"), (Session, "get", "store"),
              (Template, "render", "drawing"))  # fmt: skip
    before = [(kind, name, getattr(kind, name)) for kind, name, _ in places]
    pool = ROUTING.run_in_threadpool

    async def at_once(act: Callable[..., Any], *args: Any, **more: Any) -> Any:
        return act(*args, **more)

    def drawn(room: LeverRoom[Any], *args: Any) -> dict[str, object]:
        return dict(shares.timed("drawing", parts)(room, *args))

    parts = LeverRoom._parts
    for kind, name, what in places:
        setattr(kind, name, shares.timed(what, getattr(kind, name)))
    LeverRoom._parts, ROUTING.run_in_threadpool = drawn, at_once  # type: ignore[method-assign, assignment]
    try:
        yield shares
    finally:
        for kind, name, act in before:
            setattr(kind, name, act)
        LeverRoom._parts, ROUTING.run_in_threadpool = parts, pool  # type: ignore[method-assign]


def pages(years: float) -> None:
    """Every page worked out anew a minute later, and asked for again in the same minute."""
    server = Server(True, years)
    try:
        asyncio.run(_all(server, years))
    finally:
        server.stop()


async def _all(server: Server, years: float) -> None:
    gc.freeze()  # as the command does that serves
    gc.set_threshold(100_000)
    passing = Passing(read(server.household).now)
    household = Household(server.household.engine, replace(server.household.world, clock=passing))
    transport = httpx.ASGITransport(app=create_app(server.settings, household))
    async with httpx.AsyncClient(transport=transport, base_url=server.address) as client:
        found: dict[str, list[tuple[float, float, float, float]]] = {path: [] for path in PAGES}
        for turn in range(-2, TIMES):  # by turns, so that a slow moment of the machine falls on all alike
            for path, times in found.items():
                passing.at += timedelta(minutes=1)
                with measured() as shares:
                    anew = await _one(client, path)
                again = await _one(client, path)
                if turn >= 0:
                    times.append((anew, again, shares.spent["store"], shares.spent["drawing"]))
        for path, times in found.items():
            anew, again, store, drawing = (statistics.median(each) for each in zip(*times, strict=True))
            shared = (
                f"store {store:.1f}, drawing {drawing:.1f}, the rest {anew - store - drawing:.1f}; aim {AIMS.get(path, AIM):.0f}"
            )
            print(f"{path:24} log of {years:2.0f} years {anew:7.1f} ms anew ({shared}), {again:.1f} ms again")


async def _one(client: httpx.AsyncClient, path: str) -> float:
    begun = time.perf_counter()
    (await client.get(path)).raise_for_status()
    return 1000 * (time.perf_counter() - begun)
