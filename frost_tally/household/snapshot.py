"""What a page reads: one state of the store, in one transaction, at one moment."""

from collections.abc import Callable, Hashable, Iterable, Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property

from sqlalchemy.orm import Session

from ..core.coming.weather import TypedNight
from ..core.home import Home
from ..world import World
from .state import Stamp

LogTables = Session
"""The log in the store: what the readers and writers of this package are given; nobody else asks it anything."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Snapshot:
    """The home, the log (its tables, for the readers of this package), the world outside, and a moment (None: the present).

    `typed` are the outside temperatures that somebody typed, and when (None: nobody). `counters` tell how often each table
    was written by then; None inside a decision, whose writes may still be taken back.
    """

    home: Home
    log: LogTables
    world: World
    moment: datetime | None
    typed: TypedNight | None
    revision: Stamp
    counters: Mapping[str, int] | None
    reading: Callable[[datetime], AbstractContextManager["Snapshot"]]

    @cached_property
    def now(self) -> datetime:
        """The moment on home's clock: looked at once, when somebody asks."""
        return (self.moment or self.world.clock.now()).astimezone(self.home.place.clock)

    def again(self) -> AbstractContextManager["Snapshot"]:
        """A new reading at the same moment, for who works while the page is gone."""
        return self.reading(self.now)

    @property
    def minute(self) -> datetime:
        """The minute of the present, from which rooms plan: the same for all who ask within it. What was noted in it is `known_by` then."""
        return minute_of(self.now)

    def at(self, moment: datetime) -> "Snapshot":
        """The same state as at another moment."""
        return replace(self, moment=moment)

    def state_of(self, tables: Iterable[str] | None = None) -> Hashable:
        """Changes with every write to some tables (None: to any), whoever makes it. Raises: KeyError for a table that is not counted."""
        counters = self.counters or {}
        names = sorted(counters if tables is None else tables)
        return self.revision.store, *(counters[each] for each in names), *((int(self.revision),) if tables is None else ())


def minute_of(now: datetime) -> datetime:
    """The minute of a moment."""
    return now.replace(second=0, microsecond=0)
