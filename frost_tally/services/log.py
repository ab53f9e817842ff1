"""The log's list: a page of entries with what does not go together in them, and what would mend it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from itertools import count as numbers
from zoneinfo import ZoneInfo

from ..core.battery.limit_policies import WAY_PRICE
from ..core.log.anomalies import Anomaly, anomalies
from ..core.log.facts import Fact
from ..core.log.kinds import Entry
from ..formats.log_csv import write_entries
from ..household import log as store
from ..household.log import SIZE, TABLES, TIME, Place, Wanted
from ..household.log_facts import facts
from ..household.snapshot import Snapshot
from .shared.derived import derived

MOST = 50
BEFORE, AFTER = timedelta(days=100), timedelta(days=14)
"""So far around the listed time an entry can stand that another one does not go together with."""
A_YEAR = timedelta(days=400)
EVER = datetime(1970, 2, 1, tzinfo=UTC), datetime(2099, 12, 1, tzinfo=UTC)
LATELY = timedelta(days=60)
READ_FOR_ANOMALIES = ("drive", "charge", "reading")
READS = (*TABLES, "outlet", "car")
WIDEST = timedelta(days=200)
"""Entries that are further apart, such as the longest drives of ten years, are not held against their neighbours in the list."""
__all__ = ["MOST", "SIZE", "TIME", "Names", "Place", "Timeline", "Wanted", "doubtful", "everything", "names", "some", "timeline"]


@dataclass(frozen=True, kw_only=True)
class Names:
    """What entries refer to: the cars and outlets of the home by number, and its clock; `every_…` has those too that were put
    away; `public_price` what a kWh usually costs elsewhere.
    """

    cars: tuple[tuple[int, str], ...]
    outlets: Mapping[int, str]
    every_car: Mapping[int, str]
    every_outlet: Mapping[int, str]
    zone: ZoneInfo
    public_price: float


def names(snapshot: Snapshot) -> Names:
    """The names that entries refer to."""
    home = snapshot.home
    return Names(
        cars=home.names,
        outlets={each.id: each.name for each in home.outlets},
        every_car=store.names_ever(snapshot.log, "car"),
        every_outlet=store.names_ever(snapshot.log, "outlet"),
        zone=home.place.clock,
        public_price=WAY_PRICE * home.per_euro,
    )


@dataclass(frozen=True, kw_only=True)
class Timeline:
    """A page of the log: entries with their anomalies, where the next page begins (None at the end), and how many there are by kind.

    `lately` are the anomalies of the last weeks, whatever is listed; `facts` are the cars' drives, charges and readings of the time listed.
    """

    names: Names
    entries: tuple[Entry, ...]
    anomalies: Mapping[tuple[str, int], tuple[Anomaly, ...]]
    following: Place | None
    counts: Mapping[str, int]
    lately: tuple[Anomaly, ...]
    facts: Mapping[int, tuple[Fact, ...]]


def timeline(snapshot: Snapshot, wanted: Wanted, after: Place | None = None, most: int = MOST) -> Timeline:
    """A page of the log after a place in it, the first one without."""

    today = snapshot.now.replace(hour=0, minute=0, second=0, microsecond=0)

    def read() -> Timeline:
        now, log = today + timedelta(days=1), snapshot.log
        found = store.page(log, wanted, after, most + 1)
        shown, more = [entry for _, entry in found[:most]], len(found) > most
        since, until = _span(shown, now)
        near = until - since <= WIDEST
        lately = anomalies_between(snapshot, today - LATELY, now + timedelta(days=1))
        covered = near and since >= today - LATELY
        odd = lately if covered else anomalies_between(snapshot, since, until) if near else []
        return Timeline(
            names=names(snapshot),
            entries=tuple(shown),
            anomalies=_by_entry(odd),
            following=found[most - 1][0] if more else None,
            counts=store.count(log, wanted),
            lately=tuple(lately),
            facts={
                each.id: tuple(facts(log, each.id, since, until))
                for each in snapshot.home.cars
                if near and wanted.car_id in (None, each.id)
            },
        )

    return derived(snapshot, ("log", snapshot.home, wanted, after, most, today), read, READS)


def some(snapshot: Snapshot, wanted: Wanted, after: Place | None, most: int) -> tuple[list[Entry], bool]:
    """Entries after a place in the list, so many at most, and whether there are more."""
    found = store.page(snapshot.log, wanted, after, most + 1)
    return [entry for _, entry in found[:most]], len(found) > most


def _span(entries: Sequence[Entry], now: datetime) -> tuple[datetime, datetime]:
    """The time that some entries are from."""
    times = [each.at for each in entries] or [now]
    return min(times), max(times)


def anomalies_between(snapshot: Snapshot, since: datetime, until: datetime, before: timedelta = BEFORE) -> list[Anomaly]:
    """What does not go together between two times, for all cars; what came so far before counts for it too."""
    found = []
    for each in snapshot.home.cars:
        known = facts(snapshot.log, each.id, max(EVER[0], since - before) if since > EVER[0] else since, until + AFTER)
        found += [odd for odd in anomalies(known, each.car) if since.timestamp() <= odd.fact.begun_s <= until.timestamp()]
    return found


def _by_entry(found: Sequence[Anomaly]) -> dict[tuple[str, int], tuple[Anomaly, ...]]:
    by_entry: dict[tuple[str, int], tuple[Anomaly, ...]] = {}
    for each in found:
        key = each.fact.kind, each.fact.number
        by_entry[key] = (*by_entry.get(key, ()), each)
    return by_entry


def doubtful(snapshot: Snapshot, ever: bool = False) -> tuple[tuple[Entry, tuple[Anomaly, ...]], ...]:
    """The entries of the last year, or `ever`, that do not go together with their neighbours, the newest first."""
    today = snapshot.now.replace(hour=0, minute=0, second=0, microsecond=0)

    def read() -> tuple[tuple[Entry, tuple[Anomaly, ...]], ...]:
        found = _by_entry(anomalies_between(snapshot, *(EVER if ever else (today - A_YEAR, EVER[1])), A_YEAR))
        entries = store.read_entries(snapshot.log, found)
        return tuple((entries[key], found[key]) for key in sorted(found, key=lambda key: entries[key].at, reverse=True))

    return derived(snapshot, ("doubtful", snapshot.home, ever, today), read, READ_FOR_ANOMALIES)


def everything(snapshot: Snapshot, wanted: Wanted) -> list[Entry]:
    """All entries of a list, in its order."""
    found, after = list[Entry](), None
    for _ in numbers():
        part = store.page(snapshot.log, wanted, after, 2000)
        found += [entry for _, entry in part]
        if len(part) < 2000:
            break
        after = part[-1][0]
    return found


def log_pieces(snapshot: Snapshot) -> list[str]:
    """The whole log as one table, CSV."""
    found = names(snapshot)
    return [write_entries(everything(snapshot, Wanted(oldest_first=True)), found.every_car, found.every_outlet, found.zone)]
