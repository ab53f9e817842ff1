"""The application: rooms, templates, guards and what a person sees when something is refused."""

import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import cache

from anyio.to_thread import current_default_thread_limiter
from fastapi import FastAPI, Request
from fastapi.responses import RedirectResponse, Response
from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from .. import __version__
from ..core.errors import Refusal
from ..services.evening import NotSetUp
from ..services.garage import garage as garage_of
from ..services.home import Home, Stale
from ..services.remembered import NotYet
from ..services.setup import progress
from ..settings import Settings
from . import assets
from .guard import HeadAsGet, RefusedToken, SecurityHeaders, SizeLimit, Tokens
from .page import home_of, render, whole_number
from .rooms import basis, compare, day, departures, garage, house, outlets, setup, tariffs, tonight, tyres, undo, warmup
from .words.garage import year_words
from .words.reasons import LIMITS, why_words
from .words.sentence import figure_words, percent


def create_app(settings: Settings, home: Home) -> FastAPI:
    """Build the app for a home."""
    app = FastAPI(title="Frost Tally", version=__version__, docs_url=None, redoc_url=None, openapi_url=None, lifespan=_bounded)
    app.state.settings = settings
    app.state.home = home
    app.state.tokens = Tokens(secrets.token_urlsafe(32))
    app.state.templates = _templates()
    app.add_middleware(
        SizeLimit, max_bytes=settings.max_body_bytes, files=("/garage/import", "/day/track"), file_bytes=settings.max_file_bytes
    )
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=list(settings.allowed_hosts))
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=4)
    app.add_middleware(HeadAsGet)
    app.add_middleware(SecurityHeaders)
    app.mount(assets.address(), assets.Assets(), name="static")
    for room in (undo, tonight, day, tyres, warmup, departures, setup, outlets, tariffs, compare, house, garage, basis):
        app.include_router(room.router)
    app.add_exception_handler(NotSetUp, _to_setup)
    app.add_exception_handler(Stale, _stale)
    app.add_exception_handler(RefusedToken, _refused)
    app.add_exception_handler(Refusal, _cannot)
    app.add_exception_handler(NotYet, _later)
    app.add_exception_handler(HTTPException, _problem)
    app.add_api_route("/", lambda: RedirectResponse("/tonight", 303), methods=["GET"])
    return app


@asynccontextmanager
async def _bounded(app: FastAPI) -> AsyncIterator[None]:
    """More threads than there are cores only make every page wait for all others."""
    current_default_thread_limiter().total_tokens = app.state.settings.threads
    yield


@cache
def _templates() -> Environment:
    loader = PackageLoader("frost_tally.web", "templates")
    environment = Environment(
        loader=loader, autoescape=select_autoescape(), undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    environment.filters.update(percent=percent, figure_words=figure_words, why=why_words, year=year_words)
    environment.globals.update(version=__version__, limits=LIMITS, shape="", static=assets.address())
    return environment


def _to_setup(request: Request, problem: Exception) -> Response:
    """To the first step that is missing; for a further car without outlet or tariff to where it gets them."""
    home = home_of(request)
    asked = whole_number(request.query_params.get("car"))
    complete = progress(home).next_step is None
    if complete and any(each.row.id == asked for each in garage_of(home).cars):
        return RedirectResponse(f"/garage/edit/day/{asked}", 303)
    return RedirectResponse("/setup", 303)


def _stale(request: Request, problem: Exception) -> Response:
    return _said(
        request, 409, "This page is out of date", f"{problem} Nothing was saved. Open Tonight again, look, and decide anew."
    )


def _refused(request: Request, problem: Exception) -> Response:
    return _said(
        request, 403, "This change did not come from its page", "Nothing was saved. Open the page again and repeat it there."
    )


def _cannot(request: Request, problem: Exception) -> Response:
    return _said(request, 422, "That cannot be done", f"{problem} Nothing was changed.")


def _later(request: Request, problem: Exception) -> Response:
    answer = _said(request, 503, "This takes longer than usual", "It is still being worked out. Ask for it again in a minute.")
    answer.headers["retry-after"] = "60"
    return answer


def _problem(request: Request, problem: Exception) -> Response:
    status = problem.status_code if isinstance(problem, HTTPException) else 500
    words = {
        404: ("There is no such page", "The rooms are in the list of rooms."),
        405: ("That is not done here", "Use the page’s own buttons."),
        400: ("That could not be read", "Nothing was saved."),
    }
    title, detail = words.get(status, ("That did not work", "Nothing was saved."))
    return _said(request, status, title, detail)


def _said(request: Request, status: int, title: str, detail: str) -> Response:
    return render(request, "said.html", status, title=title, detail=detail, room="")
