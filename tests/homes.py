"""Households for tests: each made once in a run, then copied."""

import atexit
import os
import shutil
import tempfile
import weakref
from contextlib import ExitStack
from datetime import datetime
from functools import cache
from pathlib import Path

from fastapi import FastAPI
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from frost_tally.household import whole_file
from frost_tally.household.snapshot import Snapshot
from frost_tally.household.store import open_store
from frost_tally.household.unit_of_work import Household
from frost_tally.opening import home_on, open_home
from frost_tally.settings import Settings
from frost_tally.web.app import create_app


@cache
def _folder() -> Path:
    """Where the made ones stand: given by whoever runs several processes, else this process's own."""
    if given := os.environ.get("FROST_TALLY_TEST_HOMES"):
        return Path(given)
    own = tempfile.mkdtemp()
    atexit.register(shutil.rmtree, own, ignore_errors=True)
    return Path(own)


def _made(demo: bool, years: float) -> Path:
    kept = _folder() / f"{'demo' if demo else 'empty'}-{years}.db"
    if not kept.exists():
        with tempfile.TemporaryDirectory(dir=_folder()) as folder:
            settings = Settings(data_dir=Path(folder), demo=demo)
            open_home(settings, years).engine.dispose()
            settings.database.replace(kept)
    return kept


def home_in(settings: Settings, years: float = 0.05) -> Household:
    """A home of its own in the folder of these settings: empty, or the demo's with so long a log."""
    return home_at(settings.database, settings.backups, settings.demo, years)


def home_at(database: Path, backups: Path, demo: bool = True, years: float = 0.05) -> Household:
    """A home of its own in a file; one that is there already is opened as it is."""
    if not database.exists():
        whole_file.folder(database.parent)
        shutil.copy(_made(demo, years), database)
    engine = open_store(database, backups)
    _compiling(engine)
    return home_on(engine, demo)


def read(household: Household, now: datetime | None = None) -> Snapshot:
    """One reading of a household as at a moment (None: the present), for as long as somebody holds it."""
    stack = ExitStack()
    found = stack.enter_context(household.reading(now))
    weakref.finalize(found, stack.close)
    return found


def tables(household: Household) -> Session:
    """A session to look at rows, or to change them behind the app's back."""
    return Session(household.engine, expire_on_commit=False)


def app_on(settings: Settings, household: Household) -> FastAPI:
    """This process's one app, now on this home: one that begins anew would look through all its routes first."""
    fresh = create_app(settings, household)
    app = next(iter(_apps), fresh)
    app.state, _apps[:] = fresh.state, [app]
    return app


_apps, _engines = list[FastAPI](), list[Engine]()


def _compiling(engine: Engine) -> None:
    """Let it use the statements that this process has compiled for another store."""
    engine.connect().close()  # a dialect learns of its database when it first connects
    if _engines:
        engine.dialect, engine._compiled_cache = _engines[0].dialect, _engines[0]._compiled_cache
    _engines[:1] = [engine]
