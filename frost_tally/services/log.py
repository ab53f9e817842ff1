"""The log's list: a page of entries with what does not go together in them, and what would mend it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import count as numbers
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from ..core.log.doubts import Doubt, doubts
from ..core.log.facts import Fact
from ..core.log.kinds import Entry
from ..formats.log_csv import write_entries
from ..household import log as store
from ..household.home import Home
from ..household.log import SIZE, TIME, Place, Wanted
from ..household.log_facts import facts
from ..household.models import CarRow, OutletRow
from ..household.parts import car_of, cars, home_place, outlets
from ..household.parts import names_of as all_names
from .clock import minute_of
from .remembered import once

MOST = 50
BEFORE, AFTER = timedelta(days=100), timedelta(days=14)
"""So far around the listed time an entry can stand that another one does not go together with."""
A_YEAR = timedelta(days=400)
EVER = datetime(1970, 2, 1, tzinfo=UTC), datetime(2099, 12, 1, tzinfo=UTC)
LATELY = timedelta(days=60)
WIDEST = timedelta(days=200)
"""Entries that are further apart, such as the longest drives of ten years, are not held against their neighbours in the list."""
__all__ = ["MOST", "SIZE", "TIME", "Names", "Place", "Timeline", "Wanted", "doubtful", "everything", "names", "timeline"]


@dataclass(frozen=True, kw_only=True)
class Names:
    """What entries refer to: the cars and outlets of the home by number, and its clock; `every_…` has those too that were put away."""

    cars: tuple[tuple[int, str], ...]
    outlets: Mapping[int, str]
    every_car: Mapping[int, str]
    every_outlet: Mapping[int, str]
    zone: ZoneInfo


def names_of(session: Session) -> Names:
    """The names that entries refer to."""
    return Names(
        cars=tuple((each.id, each.name) for each in cars(session)),
        outlets={each.id: each.name for each in outlets(session)},
        every_car=all_names(session, CarRow),
        every_outlet=all_names(session, OutletRow),
        zone=ZoneInfo(home_place(session).zone),
    )


def names(home: Home) -> Names:
    """The same, of a home."""
    with home.reading() as session:
        return names_of(session)


@dataclass(frozen=True, kw_only=True)
class Timeline:
    """A page of the log: entries with their doubts, where the next page begins (None at the end), and how many there are by kind.

    `lately` are the doubts of the last weeks, whatever is listed; `facts` are the cars' drives, charges and readings of the time listed.
    """

    names: Names
    entries: tuple[Entry, ...]
    doubts: Mapping[tuple[str, int], tuple[Doubt, ...]]
    following: Place | None
    counts: Mapping[str, int]
    lately: tuple[Doubt, ...]
    facts: Mapping[int, tuple[Fact, ...]]


def timeline(home: Home, now: datetime, wanted: Wanted, after: Place | None = None, most: int = MOST) -> Timeline:
    """A page of the log after a place in it, the first one without."""
    now = minute_of(now)

    def read() -> Timeline:
        with home.reading() as session:
            found = store.page(session, wanted, after, most + 1)
            shown, more = [entry for _, entry in found[:most]], len(found) > most
            since, until = _span(shown, now)
            near = until - since <= WIDEST
            lately = doubts_between(session, now - LATELY, now + timedelta(days=1))
            covered = near and since >= now - LATELY
            odd = lately if covered else doubts_between(session, since, until) if near else []
            return Timeline(
                names=names_of(session),
                entries=tuple(shown),
                doubts=_by_entry(odd),
                following=found[most - 1][0] if more else None,
                counts=store.count(session, wanted),
                lately=tuple(lately),
                facts={
                    row.id: tuple(facts(session, row.id, since, until))
                    for row in cars(session)
                    if near and wanted.car_id in (None, row.id)
                },
            )

    return once(home, ("log", now, wanted, after, most), read)


def _span(entries: Sequence[Entry], now: datetime) -> tuple[datetime, datetime]:
    """The time that some entries are from."""
    times = [each.at for each in entries] or [now]
    return min(times), max(times)


def doubts_between(session: Session, since: datetime, until: datetime, before: timedelta = BEFORE) -> list[Doubt]:
    """What does not go together between two times, for all cars; what came so far before counts for it too."""
    found = []
    for row in cars(session):
        known = facts(session, row.id, max(EVER[0], since - before) if since > EVER[0] else since, until + AFTER)
        found += [each for each in doubts(known, car_of(row)) if since.timestamp() <= each.fact.begun_s <= until.timestamp()]
    return found


def _by_entry(found: Sequence[Doubt]) -> dict[tuple[str, int], tuple[Doubt, ...]]:
    by_entry: dict[tuple[str, int], tuple[Doubt, ...]] = {}
    for each in found:
        key = each.fact.kind, each.fact.number
        by_entry[key] = (*by_entry.get(key, ()), each)
    return by_entry


def doubtful(home: Home, now: datetime, ever: bool = False) -> tuple[tuple[Entry, tuple[Doubt, ...]], ...]:
    """The entries of the last year, or `ever`, that do not go together with their neighbours, the newest first."""
    now = minute_of(now)

    def read() -> tuple[tuple[Entry, tuple[Doubt, ...]], ...]:
        with home.reading() as session:
            span = EVER if ever else (now - A_YEAR, EVER[1])
            found = _by_entry(doubts_between(session, *span, A_YEAR))
            entries = store.read_entries(session, found)
        return tuple((entries[key], found[key]) for key in sorted(found, key=lambda key: entries[key].at, reverse=True))

    return once(home, ("doubtful", now, ever), read)


def everything(home: Home, wanted: Wanted) -> list[Entry]:
    """All entries of a list, in its order."""
    found: list[Entry] = []
    with home.reading() as session:
        after = None
        for _ in numbers():
            part = store.page(session, wanted, after, 2000)
            found += [entry for _, entry in part]
            if len(part) < 2000:
                return found
            after = part[-1][0]
    return found


def log_pieces(home: Home) -> list[str]:
    """The whole log as one table, CSV."""
    with home.reading() as session:
        found = names_of(session)
    return [write_entries(everything(home, Wanted(oldest_first=True)), found.every_car, found.every_outlet, found.zone)]
