"""The application: rooms, templates, guards."""

import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import cache
from importlib import import_module

from anyio.to_thread import current_default_thread_limiter
from fastapi import FastAPI
from fastapi.exceptions import RequestValidationError
from fastapi.responses import RedirectResponse
from fastapi.routing import APIRoute
from jinja2 import ChoiceLoader, Environment, PackageLoader, StrictUndefined, select_autoescape
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from .. import __version__
from ..access.door import Access
from ..access.knocks import Knocks
from ..core.errors import Refusal
from ..services.shared.derived import NotYet
from ..services.shared.home import Household, NotSetUp, Stale, StoreError
from ..settings import Settings
from . import assets, refusals
from .api.limit import Buckets, TooOften
from .api.problem import invalid
from .api.routes import router as api
from .door import Door
from .guard import HeadAsGet, RefusedToken, SecurityHeaders, SizeLimit, Slept, Tokens, Unbroken, file_here
from .navigation import tabs_of
from .once import Sent
from .reading import OneReading
from .words.garage import year_words
from .words.reasons import LIMITS, why_words
from .words.sentence import figure_words, percent

ORDER = [
    "undo",
    "tonight",
    "point",
    "day",
    "habits",
    "tyres",
    "warmup",
    "week",
    "timer",
    "replay",
    "long_day",
    "weekly",
    "departures",
    "battery",
    "limit_policies",
    "guides",
    "used_car",
    "parked",
    "winter",
    "setup",
    "papers",
    "outlets",
    "another_car",
    "tariffs",
    "prices",
    "compare",
    "house",
    "log",
    "log_import",
    "log_data",
    "log_month",
    "log_learnt",
    "hindsight",
    "log_entry",
    "garage",
    "sayings",
    "basis",
    "people",
    "points",
    "api_docs",
]
"""The folders of `rooms`; an address that two of them take belongs to the first."""
ROOMS = tuple(import_module(f"{__package__}.rooms.{name}.page") for name in ORDER)
FILE_PATHS = tuple(
    route.path_regex
    for room in ROOMS
    for route in room.router.routes
    if isinstance(route, APIRoute) and any(each.call is file_here for each in route.dependant.dependencies)
)
"""Of the routes that take a file, which may be larger than a form."""
TABS = tabs_of(ROOMS)
PAGES = tuple(
    route.path
    for room in ROOMS
    for route in room.router.routes
    if isinstance(route, APIRoute)
    and route.include_in_schema
    and "GET" in (route.methods or ())
    and not set("{.") & set(route.path)
    and not route.path.endswith("/live")
)
"""The pages that need nothing to be said: bench and tests look at each."""


def create_app(settings: Settings, household: Household, access: Access | None = None) -> FastAPI:
    """Build the app for a household; `access` says who may come in from elsewhere (None: it is reached from this computer alone)."""
    app = FastAPI(title="Frost Tally", version=__version__, docs_url=None, redoc_url=None, openapi_url=None, lifespan=_bounded)
    app.state.settings = settings
    app.state.household = household
    app.state.tokens = Tokens(secrets.token_urlsafe(32))
    app.state.templates = _templates()
    app.state.sent = Sent()
    app.state.tabs = TABS
    app.state.access = access
    app.state.keys = cache(lambda: access or Access(settings.access))
    app.state.knocks = Knocks()
    app.state.buckets = Buckets(settings.api_per_minute)
    app.add_middleware(Door, access=access)
    app.add_middleware(SizeLimit, max_bytes=settings.max_body_bytes, takes_file=_takes_file, file_bytes=settings.max_file_bytes)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=list(settings.names))
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=4)
    app.add_middleware(HeadAsGet)
    app.add_middleware(OneReading)
    app.add_middleware(Unbroken, answer=refusals.unforeseen)
    app.add_middleware(SecurityHeaders)
    app.mount(assets.address(), assets.Assets(), name="static")
    for room in ROOMS:
        app.include_router(room.router)
    app.include_router(api)
    app.add_exception_handler(NotSetUp, refusals.to_setup)
    app.add_exception_handler(Stale, refusals.stale)
    app.add_exception_handler(Slept, refusals.slept)
    app.add_exception_handler(RefusedToken, refusals.refused)
    app.add_exception_handler(Refusal, refusals.cannot)
    app.add_exception_handler(TooOften, refusals.too_often)
    app.add_exception_handler(RequestValidationError, invalid)
    app.add_exception_handler(NotYet, refusals.later)
    app.add_exception_handler(HTTPException, refusals.problem)
    app.add_exception_handler(StoreError, refusals.data_refuses)
    for problem in refusals.STORE_PROBLEMS:
        app.add_exception_handler(problem, refusals.store_fails)
    app.add_api_route("/", lambda: RedirectResponse("/tonight", 303), methods=["GET"])
    return app


def _takes_file(path: str) -> bool:
    """Whether a route at this path takes a file."""
    return any(each.match(path) for each in FILE_PATHS)


@asynccontextmanager
async def _bounded(app: FastAPI) -> AsyncIterator[None]:
    """More threads than there are cores only make every page wait for all others."""
    current_default_thread_limiter().total_tokens = app.state.settings.threads
    yield


@cache
def _templates() -> Environment:
    loader = ChoiceLoader([PackageLoader("frost_tally.web", folder) for folder in ("templates", "rooms")])
    environment = Environment(
        loader=loader, autoescape=select_autoescape(), undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    environment.filters.update(percent=percent, figure_words=figure_words, why=why_words, year=year_words)
    environment.globals.update(version=__version__, tab_rows=TABS, limits=LIMITS, shape="", static=assets.address())
    return environment
