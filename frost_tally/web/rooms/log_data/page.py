"""Log, my data: where it is, how much, its copies; take it out, bring it back, delete it."""

from datetime import UTC
from itertools import chain
from typing import cast

from fastapi import Request
from fastapi.responses import RedirectResponse, Response, StreamingResponse

from ....core.errors import Refusal
from ....formats.document import SCHEMA
from ....formats.writers import Written, write_file
from ....services.log_data import room as service
from ....services.log_import import intervals as imports
from ....services.shared.home import Stale, decisions
from ...guard import Posted, PostedOfOld, Upload
from ...navigation import Tab
from ...once import Router
from ...page import render, save, seen, units_of, whole_number
from ...part_forms import PART_FORMS
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.log import TABLE_WORDS, aside_words, size_words

router = Router(prefix="/log/data")
TABS = (Tab(of="log", key="data", path="/log/data", words="My data", at=6),)


@router.get("")
def room(request: Request) -> Response:
    """Where everything is."""
    return _page(request)


def _page(request: Request, status: int = 200, **errors: str) -> Response:
    found = service.whereabouts(household_of(request), request.app.state.settings.backups)
    rows = [(TABLE_WORDS[name], count) for name, count in found.rows.items() if count and name in TABLE_WORDS]
    units = units_of(request)
    times = [(each, each.made_at.astimezone(UTC)) for each in found.copies]
    copies = [(each, size_words(each.size), f"{units.date(at, year=True)} {units.clock(at)} UTC") for each, at in times]
    asides = [(each.id, *_aside(each, units_of(request))) for each in service.put_aside(snapshot_of(request))]
    return render(
        request, "log_data/room.html", status, asides=asides,
        room="log", tab="data", found=found, size=size_words(found.size), rows=rows, copies=copies,
        weather=found.rows["weather"], decided=_decided(request, units),
        errors={"file": "", "word": "", **errors}, kept=request.query_params.get("kept", "")[:80],
    )  # fmt: skip


def _decided(request: Request, units: Units) -> list[tuple[str, str, str, str]]:
    """The latest decisions: number, when, who, what."""
    zone = snapshot_of(request).now.tzinfo
    found = ((each, each.at.astimezone(zone)) for each in decisions(snapshot_of(request)))
    return [
        (
            str(int(each.number)),
            f"{units.date(at)} {units.clock(at)}",
            each.who,
            f"{'Taken back: ' if each.takes_back else ''}{each.words}",
        )
        for each, at in found
    ]


def _aside(found: service.Aside, units: Units) -> tuple[str, str, str]:
    """What was put aside, with the names and units of the form where it is mended."""
    table, _, column = found.place.partition(".")
    info = PART_FORMS[table].model_fields.get(column) if table in PART_FORMS else None
    quantity = cast(dict[str, str], info.json_schema_extra or {}).get("quantity", "") if info else ""
    became = units.text(float(found.became), quantity) if quantity and found.became else ""
    return aside_words(found, (info and info.title) or "", became)


@router.get("/everything.json")
def take_out(request: Request) -> Response:
    """Everything as one document."""
    pieces = service.document_of(service.database_of(household_of(request)))
    first = next(pieces)  # what cannot be read is said before the document begins
    headers = {"content-disposition": 'attachment; filename="frost-tally.json"', "cache-control": "no-store"}
    return StreamingResponse(chain([first], pieces), media_type="application/json", headers=headers)


@router.get("/schema.json")
def schema(request: Request) -> Response:
    """The schema of that document."""
    return save(Written("household.schema.json", "application/schema+json", SCHEMA.read_text()))


@router.get("/weather.csv")
def weather_csv(request: Request) -> Response:
    """The hours of weather that files brought, as CSV."""
    return save(
        write_file("weather", "weather.csv", imports.interval_rows(snapshot_of(request), "weather"), snapshot_of(request).now)
    )


@router.post("/settle")
def settle(request: Request, fields: Posted) -> Response:
    """Somebody looked at a value that was put aside."""
    number = whole_number(fields.get("aside"), 0)
    undo = service.settle(household_of(request), number, "A value that was put aside is settled", seen(fields))
    return RedirectResponse(f"/log/data?undo={undo}#aside", 303)


@router.post("/copy")
def copy_now(request: Request, fields: Posted) -> Response:
    """A copy, now."""
    kept = service.copy_now(household_of(request), request.app.state.settings.backups)
    return RedirectResponse(f"/log/data?kept={kept.name}", 303)


@router.post("/bring")
def bring(request: Request, sent: Upload) -> Response:
    """Make a document, or a copy, ready to be brought back, and show what is in it."""
    backups = request.app.state.settings.backups
    try:
        if sent.fields.get("copy"):
            ready = service.prepare_copy(household_of(request), backups, sent.fields["copy"])
        else:
            ready = service.prepare_document(service.database_of(household_of(request)), sent.content, sent.name)
    except Refusal as refusal:
        return _page(request, 422, file=f"{refusal.message} Nothing was changed.")
    return _preview(request, ready)


def _preview(request: Request, ready: service.Ready, status: int = 200, message: str = "") -> Response:
    found = [(TABLE_WORDS[table], count) for table, count in ready.rows.items() if count and table in TABLE_WORDS]
    missing = [TABLE_WORDS.get(each, each) for each in ready.missing]
    return render(
        request, "log_data/bring.html", status, room="log", tab="data", rows=found, ready=ready, missing=missing, message=message
    )


@router.post("/back")
def bring_back(request: Request, fields: PostedOfOld) -> Response:
    """Put it in place of everything, or leave it."""
    number = fields.get("ready", "")
    if fields.get("how") != "take":
        service.leave(household_of(request), number)
        return RedirectResponse("/log/data", 303)
    try:
        kept = service.bring_back(household_of(request), request.app.state.settings.backups, number, seen(fields))
    except Stale as stale:
        said = f"{stale} Nothing was replaced, and this is still ready: put it in place anew, if you still wish it."
        return _preview(request, service.ready(service.ready_under(household_of(request), number)), 409, said)
    return RedirectResponse(f"/log/data?kept={kept.name}", 303)


@router.post("/delete")
def delete(request: Request, fields: Posted) -> Response:
    """Delete everything; a copy is kept."""
    try:
        kept = service.delete_all(household_of(request), request.app.state.settings.backups, fields.get("word", ""))
    except Refusal as refusal:
        return _page(request, 422, word=refusal.message)
    return RedirectResponse(f"/log/data?kept={kept.name}", 303)
