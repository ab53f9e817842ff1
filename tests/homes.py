"""Households for tests: each made once in a run, then copied."""

import atexit
import shutil
import tempfile
from functools import cache
from pathlib import Path

from frost_tally.demo import open_home
from frost_tally.household.home import Home
from frost_tally.settings import Settings


@cache
def _made(demo: bool, years: float) -> Path:
    folder = tempfile.mkdtemp()
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    settings = Settings(data_dir=Path(folder), demo=demo)
    open_home(settings, years).engine.dispose()
    return settings.database


def home_in(settings: Settings, years: float = 0.05) -> Home:
    """A home of its own in the folder of these settings: empty, or the demo's with so long a log."""
    settings.database.parent.mkdir(parents=True, exist_ok=True)
    shutil.copy(_made(settings.demo, years), settings.database)
    return open_home(settings, years)
