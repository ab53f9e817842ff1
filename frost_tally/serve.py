"""Starting: this data for one server, a port that is free, and only then the words that say where it is."""

import logging
import socket
import sys

import structlog
import uvicorn
from rich.console import Console

from .demo import open_home
from .household.store import claim
from .settings import Settings
from .web.app import create_app


class CannotStart(RuntimeError):
    """The server cannot be started, with a sentence for a person."""


def serve(settings: Settings, out: Console) -> None:
    """Serve until it is stopped. Raises: CannotStart; StoreError."""
    _log(settings)
    lock = claim(settings.database)
    try:
        with _listening(settings.host, settings.port) as at:
            household = open_home(settings)
            server = uvicorn.Server(uvicorn.Config(create_app(settings, household), log_level="warning", server_header=False))
            host = f"[{settings.host}]" if ":" in settings.host else settings.host
            out.print(f"Frost Tally is at [bold]http://{host}:{settings.port}[/bold]   (stop with Ctrl-C)")
            server.run(sockets=[at])
    finally:
        lock.release()


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
