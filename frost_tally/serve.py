"""Starting: this data for one server, a port that is free, and only then the words that say where it is."""

import gc
import logging
import socket
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING

import structlog
import uvicorn
from fastapi import FastAPI
from rich.console import Console

from .access.door import Access
from .household import nightly
from .household.store import claim
from .household.unit_of_work import Household
from .live import reminding
from .live.nights import REST_S, Nights
from .live.ocpp.socket import MOST_B, open_line
from .live.points import Points
from .opening import open_home
from .settings import Settings
from .web.app import create_app

if TYPE_CHECKING:
    from .standins.mail_box import MailBox


GOES_ON_S = 3
"""Told to stop, it waits so long for what is under way: a point or a phone that has said half of what it wants does not keep it."""


class CannotStart(RuntimeError):
    """The server cannot be started, with a sentence for a person."""


def serve(settings: Settings, out: Console) -> None:
    """Serve until it is stopped. Raises: CannotStart; StoreError."""
    access = _people(settings)
    _log(settings)
    lock = claim(settings.database)
    try:
        with _listening(settings.host, settings.port) as at:
            household, box = _opened(settings)
            if settings.demo and not settings.tls_key:
                household = _with_a_point(household, settings)
            gc.freeze()  # what a start loads stays: the collector need not look at it again and again
            app = create_app(settings, household, access)
            points = Points(household, app.state.keys, app.state.knocks)
            open_line(app, points)
            server = uvicorn.Server(_config(settings, app))
            own = f"[{settings.host}]" if ":" in settings.host else settings.host
            host = own if access is None else settings.names[0]
            scheme = "https" if settings.tls_key else "http"
            out.print(f"Frost Tally is at [bold]{scheme}://{host}:{settings.port}[/bold]   (stop with Ctrl-C)")
            if access is not None and not settings.tls_key and not settings.trusted_proxies:
                out.print("Without a certificate whoever listens on the network can read along: see `frost-tally certificate`.")
            if not settings.demo:
                copy = partial(nightly.copy_of_the_night, settings.database, settings.backups)
                _again_and_again("copy of the night", nightly.LOOK_S, copy)
            _again_and_again("reminders", reminding.LOOK_S, partial(reminding.remind, household))
            _again_and_again("nights", REST_S, Nights(points).wait_and_look)
            server.run(sockets=[at])
            if box is not None:
                box.stop()
    finally:
        lock.release()


def _again_and_again(name: str, wait_s: float, act: Callable[[], object]) -> None:
    """Do it now and every so many seconds, for as long as the process lives; what goes wrong is logged, and it is tried again."""

    def go_on() -> None:
        while True:
            try:
                act()
            except Exception as problem:  # noqa: BLE001 - whatever it is, the next time is tried again
                structlog.get_logger("frost_tally").error(name, said=str(problem))
            time.sleep(wait_s)

    threading.Thread(target=go_on, name=name, daemon=True).start()


def _opened(settings: Settings) -> tuple[Household, "MailBox | None"]:
    """The home; of the demo with a mail box of its own, where its letters can be looked at."""
    if not settings.demo or settings.smtp_host:
        return open_home(settings), None
    from .standins.mail_box import MailBox

    box = MailBox()
    box.start()
    here = {"smtp_host": "127.0.0.1", "smtp_port": box.port, "smtp_security": "none"}
    household = open_home(settings.model_copy(update=here))
    return replace(household, world=replace(household.world, letter_box=box)), box


def _with_a_point(household: Household, settings: Settings) -> Household:
    """The demo with a simulated charge point, which speaks to this server."""
    from .demo.point import DemoPoint

    point = DemoPoint(household, lambda: Access(settings.access), f"ws://127.0.0.1:{settings.port}")
    point.start()
    return replace(household, world=replace(household.world, point=point))


def _people(settings: Settings) -> Access | None:
    """Who may sign in, where others can reach the server. Raises: CannotStart when nobody may."""
    if not settings.signs_in:
        return None
    access = Access(settings.access)
    if not access.people():
        demo = " --demo" if settings.demo else ""
        raise CannotStart(
            f"Others could reach it on {settings.host}, and nobody can sign in yet: `frost-tally person add NAME{demo}` lets somebody in."
        )
    return access


def _config(settings: Settings, app: FastAPI) -> uvicorn.Config:
    """How it is served: what a proxy forwards is believed of trusted ones alone. Raises: CannotStart."""
    for path in filter(None, (settings.tls_certificate, settings.tls_key)):
        if not path.is_file():
            raise CannotStart(f"{path} is not there: `frost-tally certificate` makes a certificate and its key.")
    proxies = [str(each) for each in settings.trusted_proxies]
    return uvicorn.Config(
        app, log_level="warning", server_header=False, proxy_headers=bool(proxies), forwarded_allow_ips=proxies,
        ssl_certfile=settings.tls_certificate, ssl_keyfile=settings.tls_key, access_log=False, ws_max_size=MOST_B,
        timeout_graceful_shutdown=GOES_ON_S,
    )  # fmt: skip


def _listening(host: str, port: int) -> socket.socket:
    """The port, ours. Raises: CannotStart when it is somebody else's."""
    at = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    at.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        at.bind((host, port))
        at.listen()
    except OSError as problem:
        at.close()
        raise CannotStart(
            f"Port {port} cannot be used ({problem.strerror or problem}): stop what uses it, or choose another with --port."
        ) from problem
    return at


def _log(settings: Settings) -> None:
    """One JSON object a line, on standard error."""
    structlog.configure(
        processors=[
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.getLevelNamesMapping()[settings.log_level]),
        logger_factory=structlog.PrintLoggerFactory(file=sys.stderr),
    )
