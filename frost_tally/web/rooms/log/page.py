"""Room 6, Log: the time line of everything noted, with filters, what does not go together, and a file of what is shown."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import date, datetime
from itertools import groupby
from urllib.parse import urlencode
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.log.anomalies import Anomaly
from ....core.log.kinds import KINDS, Entry
from ....formats import values
from ....formats.writers import write_file
from ....services import log as service
from ....services.log import SIZE, TIME, Names, Place, Timeline, Wanted
from ....services.log_entry import room as log_entry
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, save, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.log import KIND_WORDS, PLURALS, Said, anomaly_words, asks_words, line
from .picture import levels
from .rail import rail

router = Router(prefix="/log")
TABS = (
    Tab(
        of="",
        key="log",
        path="/log",
        words="Log",
        at=7,
        sign="M4 4v12M8 4v12M12 4v12M16 4v12M1.5 14l17-8",
        figures={"log": "What goes together"},
    ),
    Tab(of="log", key="", path="/log", words="Time line", at=0),
)
ORDERS = {"new": "newest first", "old": "oldest first", "most": "largest first"}
MONTHS_SHOWN = 36
FILTERS = ("car", "kind", "month", "text", "order")


@dataclass(frozen=True, kw_only=True)
class Shown:
    """An entry as the list has it: its time, its level on a rail and its line, what it asks for, what does not go together and its mend."""

    entry: Entry
    clock: str
    car: str
    kind: str
    rail: str
    parts: tuple[Said, ...]
    asks: str
    anomalies: tuple[tuple[Anomaly, str, str], ...]


def wanted_of(asked: Mapping[str, str], zone: ZoneInfo) -> Wanted:
    """The filter that an address asks for; what is none of ours counts for nothing."""
    kind, order = asked.get("kind", ""), asked.get("order", "new")
    since, before = _month(asked.get("month", ""), zone)
    words = ""
    with suppress(ValueError):
        words = values.words(asked.get("text", ""))
    return Wanted(
        car_id=whole_number(asked.get("car")),
        kind=kind if kind in KINDS else "",
        since=since,
        before=before,
        text=words,
        sort=SIZE if order == "most" and kind in KINDS and KINDS[kind].main else TIME,
        oldest_first=order == "old",
    )


def _month(typed: str, zone: ZoneInfo) -> tuple[datetime | None, datetime | None]:
    """The first moment of a month such as 2027-01, and of the next."""
    try:
        first = values.day(f"{typed}-01")
    except ValueError:
        return None, None
    following = date(first.year + first.month // 12, first.month % 12 + 1, 1)
    since, before = (datetime(each.year, each.month, 1, tzinfo=zone) for each in (first, following))
    return since, before


def _place(typed: str, wanted: Wanted) -> Place | None:
    """Where a page of the list begins; the first page for what is no such place."""
    try:
        key, kind, number = typed.split("~")
        at = values.aware(key) if wanted.sort == TIME else values.number(key)
        return Place(key=at, kind=kind, number=values.whole(number)) if kind in KINDS else None
    except ValueError:
        return None


def _place_text(place: Place) -> str:
    key = place.key.isoformat() if isinstance(place.key, datetime) else repr(place.key)
    return f"{key}~{place.kind}~{place.number}"


@router.get("")
def room(request: Request) -> Response:
    """The time line."""
    asked, zone = dict(request.query_params), snapshot_of(request).home.place.clock
    wanted, units, now = wanted_of(asked, zone), units_of(request), snapshot_of(request).now
    found = service.timeline(snapshot_of(request), wanted, _place(asked.get("from", ""), wanted))
    kept = {name: asked[name] for name in FILTERS if asked.get(name)}
    more = urlencode(kept | {"from": _place_text(found.following)}) if found.following else ""
    listed = [(each, found.anomalies.get((each.kind, each.number), ())) for each in found.entries]
    odd = frozenset(found.anomalies)
    plain = not wanted.kind and not wanted.text and wanted.sort == TIME
    return render(
        request,
        "log/room.html",
        room="log",
        tab="",
        found=found,
        said=_said(found, wanted, bool(kept)),
        days=_days(listed, found.names, units),
        pictures=[levels(found.names.cars, found.facts, odd, zone, phone) for phone in (False, True)] if plain else [],
        asked={name: asked.get(name, "") for name in FILTERS},
        kinds=KIND_WORDS,
        months=_months(now, zone),
        orders=ORDERS if wanted.kind and KINDS[wanted.kind].main else {key: ORDERS[key] for key in ("new", "old")},
        more=more,
        export=urlencode(kept),
        units=units,
        filtered=bool(kept),
    )


def _said(found: Timeline, wanted: Wanted, filtered: bool) -> tuple[str, str]:
    """How much there is, and what does not go together."""
    count = sum(found.counts.values())
    of = dict(found.names.cars).get(wanted.car_id or 0, "")
    each = [
        f"{found.counts[kind]:,}".replace(",", "\u202f") + f" {_plural(kind, found.counts[kind])}"
        for kind in KINDS
        if kind in found.counts
    ]
    if not count:
        empty = "Nothing is noted yet.", "Note the level when you come home: the rest is filled in."
        return ("Nothing in the log fits.", "Choose less.") if filtered else empty
    has = f"{of + ': ' if of else ''}{', '.join(each[:4])}{f' and {len(each) - 4} more kinds' if len(each) > 4 else ''}."
    if wanted.kind or wanted.text or wanted.since:
        return has, ""
    odd = len(found.lately)
    if not odd:
        return "The entries of the last weeks go together.", has
    return (
        f"{odd} entr{'ies' if odd > 1 else 'y'} of the last weeks do{'' if odd > 1 else 'es'} not go together with the others.",
        has,
    )


def _plural(kind: str, number: int) -> str:
    words = PLURALS.get(kind, f"{KIND_WORDS[kind]}s")
    return words if number != 1 else words.removesuffix("s")


def _days(found: Sequence[tuple[Entry, tuple[Anomaly, ...]]], names: Names, units: Units) -> list[tuple[str, list[Shown]]]:
    """Entries with their anomalies, by local day."""
    shown = [(entry.at.astimezone(names.zone).date(), _shown(entry, anomalies, names, units)) for entry, anomalies in found]
    return [
        (units.date(day, weekday="A", month="B", year=True), [each for _, each in group])
        for day, group in groupby(shown, key=lambda each: each[0])
    ]


def _shown(entry: Entry, anomalies: tuple[Anomaly, ...], names: Names, units: Units) -> Shown:
    """An entry as the list has it."""
    return Shown(
        entry=entry,
        clock=units.clock(entry.at.astimezone(names.zone)),
        car=names.every_car.get(entry.car_id, ""),
        kind=KIND_WORDS[entry.kind],
        rail=rail(entry),
        parts=line(entry, units, names.every_outlet),
        asks=asks_words(entry, units, names.public_price),
        anomalies=tuple((each, *anomaly_words(each, units, names.zone)) for each in anomalies),
    )


def _months(now: datetime, zone: ZoneInfo) -> list[tuple[str, str]]:
    """The last months to choose from, the newest first."""
    here, found = now.astimezone(zone).date().replace(day=1), []
    for _ in range(MONTHS_SHOWN):
        found.append((f"{here:%Y-%m}", f"{here:%B %Y}"))
        here = date(here.year - (here.month == 1), (here.month - 2) % 12 + 1, 1)
    return found


@router.get("/doubts")
def doubtful(request: Request) -> Response:
    """Everything in the whole log that does not go together."""
    units = units_of(request)
    ever = request.query_params.get("all") == "1"
    found, names = service.doubtful(snapshot_of(request), ever), service.names(snapshot_of(request))
    count = len(found)
    said = f"{count} entr{'ies do' if count != 1 else 'y does'} not go together with what stands beside {'them' if count != 1 else 'it'}."
    return render(
        request, "log/doubts.html", room="log", tab="doubts", days=_days(found, names, units),
        said=said if count else f"Everything in the {'log' if ever else 'last year'} goes together.", units=units, ever=ever,
    )  # fmt: skip


@router.post("/doubt")
def settle(request: Request, fields: Posted) -> Response:
    """Mend what does not go together, or call it right, in one tap."""
    mend = fields.get("how") == "mend"
    kind, code = fields.get("kind", ""), fields.get("code", "")
    words = "Mended" if mend else "Called right"
    undo = log_entry.settle_anomaly(
        household_of(request), code, kind, number=whole_number(fields.get("number"), 0), words=words, mend=mend
    )
    return RedirectResponse(_back(fields.get("back", ""), undo), 303)


def _back(typed: str, undo: int) -> str:
    """A page of this room to go back to, with the way to undo."""
    path, _, query = typed.partition("?")
    if path not in ("/log", "/log/doubts"):
        path, query = "/log", ""
    return f"{path}?{query}&undo={undo}" if query else f"{path}?undo={undo}"


@router.get("/entries.csv")
def export(request: Request) -> Response:
    """What is listed, as CSV."""
    zone = snapshot_of(request).home.place.clock
    wanted = wanted_of(dict(request.query_params), zone)
    names = service.names(snapshot_of(request))
    held = service.everything(snapshot_of(request), wanted), names.every_car, names.every_outlet, zone, wanted.kind
    return save(replace(write_file("log", "log.csv", held, snapshot_of(request).now), name=f"{wanted.kind or 'log'}.csv"))
