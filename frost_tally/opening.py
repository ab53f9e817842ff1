"""Opening a home: the owner's own, or the made-up one, which only a demo loads."""

from dataclasses import replace

from sqlalchemy import Engine

from .household.store import open_store
from .household.unit_of_work import Household
from .settings import Settings
from .world import Mail, World


def open_home(settings: Settings, years: float = 2.0, *, looked_through: bool = True) -> Household:
    """The home of these settings in its world: the owner's own, or the made-up one, filled the first time with so long a log; see
    `open_store`.
    """
    engine = open_store(settings.database, settings.backups, looked_through=looked_through)
    household = home_on(engine, settings.demo, _mail(settings))
    if settings.demo and not _is_set_up(household):
        from .demo.filling import fill

        fill(household, years)
    return household


def _is_set_up(household: Household) -> bool:
    """Whether the home has been there before."""
    with household.reading() as snapshot:
        return snapshot.home.complete


def _mail(settings: Settings) -> Mail | None:
    """Who sends letters; nobody where no server is set."""
    if not settings.smtp_host:
        return None
    from .mail import Smtp

    return Smtp(settings)


def home_on(engine: Engine, demo: bool, mail: Mail | None = None) -> Household:
    """The home of a store in its world: the made-up one, or the owner's own."""
    if not demo:
        return Household(engine, World(mail=mail))
    from .demo.passing import pass_by
    from .demo.world import demo_world

    return Household(engine, replace(demo_world(engine), passing=pass_by, mail=mail))
