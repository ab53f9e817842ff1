"""Log, files: any file that has a reader comes in here; entries are previewed, their columns chosen where they are not ours."""

from collections.abc import Mapping
from datetime import UTC, datetime
from urllib.parse import urlencode
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.errors import Refusal
from ....core.log.kinds import KINDS, MOMENT, Column, Kind
from ....formats.hourly import sounds_like_prices
from ....formats.log_columns import COMMON, FILE_UNITS, Choice
from ....formats.log_guess import guess_columns, guess_kind
from ....formats.moments import ORDERS
from ....formats.readers import kind_of
from ....services import log as log_service
from ....services.log_import import intervals as imports
from ....services.log_import import room as service
from ....services.log_import.jobs import JOBS, Job
from ....services.log_import.taking import failed_files, take_beside, taken_files
from ....services.log_import.track import drive_of
from ...forms import FieldView
from ...guard import Posted, Upload
from ...navigation import Tab
from ...once import Router
from ...page import render, units_of, whole_number
from ...part_forms import clocks as zones
from ...reading import household_of, read_anew, snapshot_of
from ...refusals import words_of
from ...units import Units
from ...words.log import KIND_WORDS, LABELS
from ..prices.page import received

router = Router(prefix="/log/import")
TABS = (Tab(of="log", key="import", path="/log/import", words="Import", at=5),)


@router.get("")
def room(request: Request) -> Response:
    """Choose a file."""
    return _ask(request)


def _ask(request: Request, error: str = "", name: str = "", status: int = 200) -> Response:
    taken = taken_files(snapshot_of(request))
    failed = [each for each in failed_files(snapshot_of(request)) if JOBS.under_way(f"take {each[0]}") is None]
    return render(
        request, "log_import/room.html", status, room="log", tab="import", error=error, name=name, taken=taken, failed=failed
    )


@router.post("")
def receive(request: Request, sent: Upload) -> Response:
    """Find out what a file is, and show what it would do."""
    try:
        what = kind_of(sent.content)
        if what in ("readings", "weather"):
            number = imports.prepare(household_of(request), snapshot_of(request), what, name=sent.name, content=sent.content)
            return RedirectResponse(f"/garage/taking/{number}", 303)
        if what == "prices" or (what == "log" and sounds_like_prices(sent.content)):
            return RedirectResponse(received(request, sent.name, sent.content, None), 303)
        if what == "track":
            return RedirectResponse(_as_drive(request, sent.content), 303)
        if what != "log":
            return _ask(request, ELSEWHERE[what], sent.name, 422)
        number = service.receive(household_of(request), snapshot_of(request), sent.name, sent.content)
    except Refusal as refusal:
        return _ask(request, refusal.message, sent.name, 422)
    if service.preview(read_anew(request), number).choice is not None:
        _look(request, number)
    return RedirectResponse(f"/log/import/{number}", 303)


ELSEWHERE = {
    "everything": "This is everything that a household has. Bring it back under My data.",
    "tariff": "This is a tariff. Open it under Garage, Tariffs: the painter shows it first.",
}


def _as_drive(request: Request, content: bytes) -> str:
    """A track as the address of a drive's form that is filled with it."""
    drive = drive_of(snapshot_of(request), content)
    return f"/log/new/drive?{urlencode(drive)}"


def _look(request: Request, number: str) -> Job:
    household = household_of(request)
    return JOBS.start(f"look {number}", lambda tell: service.look(household, number, tell))


@router.get("/{number}")
def preview(request: Request, number: str) -> Response:
    """How far reading it is, its columns to choose, or what it would do."""
    number = number[:40]
    job = JOBS.under_way(f"look {number}") or JOBS.under_way(f"take {number}")
    if job is not None:
        answer = render(request, "log_import/wait.html", room="log", tab="import", number=number, share=job.share)
        answer.headers["refresh"] = "1"
        return answer
    found = service.preview(snapshot_of(request), number)
    if found.choice is None or ("columns" in request.query_params and not found.done):
        return _choose(request, found, {}, {}, 200)
    if not service.looked(snapshot_of(request), number):
        job = _look(request, number)
        if not job.result.done():
            return RedirectResponse(f"/log/import/{number}", 303)
        try:
            job.result.result()
        except Refusal as refusal:
            return _ask(request, refusal.message, found.name, 422)
        found = service.preview(read_anew(request), number)
    units = units_of(request)
    zone = log_service.names(snapshot_of(request)).zone
    span = [_day(each, zone, units) for each in found.span]
    undo = next((each.undo for each in taken_files(snapshot_of(request)) if each.number == number), 0) if found.done else 0
    return render(
        request, "log_import/preview.html", room="log", tab="import", found=found, kinds=KIND_WORDS, span=span, units=units, undo=undo,
    )  # fmt: skip


def _day(stamp: str, zone: ZoneInfo, units: Units) -> str:
    return units.date(datetime.fromisoformat(stamp).replace(tzinfo=UTC).astimezone(zone), year=True) if stamp else ""


@router.post("/{number}")
def take(request: Request, number: str, fields: Posted) -> Response:
    """Take it over, stop it, or leave it."""
    number = number[:40]
    how = fields.get("how", "")
    if how == "stop":
        for what in ("look", "take"):
            JOBS.stop(f"{what} {number}")
        service.forget(household_of(request), number)
        return RedirectResponse("/log/import", 303)
    if how == "leave":
        service.forget(household_of(request), number)
        return RedirectResponse("/log/import", 303)
    if how == "columns":
        return _chosen(request, number, fields)
    household = household_of(request)
    job = JOBS.start(f"take {number}", lambda tell: take_beside(household, number, words_of, tell))
    if job.result.done() and job.result.exception() is None:  # else the page of the file says what came of it
        return RedirectResponse(f"/log/import/{number}?undo={job.result.result()}", 303)
    return RedirectResponse(f"/log/import/{number}", 303)


def _chosen(request: Request, number: str, fields: Mapping[str, str]) -> Response:
    """The columns that somebody chose."""
    found = service.preview(snapshot_of(request), number)
    shape = KINDS.get(fields.get("kind", ""))
    if shape is None or fields.get("act") == "kind":
        return _choose(request, found, fields, {}, 200)
    columns = {}
    for name in [*(each.name for each in shape.columns), "car"]:
        at = whole_number(fields.get(f"at_{name}"), -1)
        if 0 <= at < len(found.header):
            columns[name] = (at, fields.get(f"unit_{name}", ""))
    choice = Choice(
        kind=shape.key,
        columns=columns,
        comma=fields.get("comma") == "yes",
        dates=fields.get("dates", "") if fields.get("dates") in ORDERS else "iso",
        zone=fields.get("zone", "") if fields.get("zone") in zones() else snapshot_of(request).home.place.zone,
        car_id=whole_number(fields.get("car_id")),
    )
    try:
        service.choose(household_of(request), snapshot_of(request), number, choice)
    except Refusal as refusal:
        return _choose(request, found, fields, {refusal.field: refusal.message}, 422)
    _look(request, number)
    return RedirectResponse(f"/log/import/{number}", 303)


def _choose(
    request: Request, found: service.LogPreview, fields: Mapping[str, str], errors: Mapping[str, str], status: int
) -> Response:
    asked = fields.get("kind") or (found.choice.kind if found.choice else "") or guess_kind(found.header)
    shape = KINDS.get(asked, KINDS["charge"])
    cars = log_service.names(snapshot_of(request)).cars
    known = (
        fields
        if fields.get("kind") == shape.key and fields.get("act") != "kind"
        else _known(shape, found, snapshot_of(request).home.place.zone)
    )
    return render(
        request, "log_import/columns.html", status, room="log", tab="import", found=found, kinds=KIND_WORDS, shape=shape, errors=errors,
        rows=[_row(each, found.header, known, errors) for each in shape.columns], known=known, cars=cars, orders=ORDERS, zones=zones(),
        car=_column_field("car", "Car", found.header, known, errors),
    )  # fmt: skip


def _known(shape: Kind, found: service.LogPreview, zone: str) -> dict[str, str]:
    """What the chooser starts from: as it was chosen before, else by the names in the header."""
    if found.choice is not None and found.choice.kind == shape.key:
        kept = found.choice
        columns = {f"at_{name}": str(at) for name, (at, _) in kept.columns.items() if name not in COMMON or name == "car"}
        units = {f"unit_{name}": unit for name, (_, unit) in kept.columns.items()}
        more = {"comma": "yes" if kept.comma else "no", "dates": kept.dates, "zone": kept.zone, "car_id": str(kept.car_id or "")}
        return columns | units | more
    guess = guess_columns(shape.key, found.header)
    places = {f"at_{name}": str(at) for name, (at, _) in guess.items()}
    return {"zone": zone} | places | {f"unit_{name}": unit for name, (_, unit) in guess.items()}


def _row(
    column: Column, header: tuple[str, ...], known: Mapping[str, str], errors: Mapping[str, str]
) -> tuple[FieldView, FieldView | None]:
    """The choice of a column, and of its unit."""
    label = LABELS[column.name][0] + (" (day and time)" if column.quantity == MOMENT else "")
    place = _column_field(column.name, f"{label}{', needed' if column.needed else ''}", header, known, errors)
    units = FILE_UNITS.get(column.quantity, {})
    if len(units) < 2:
        return place, None
    name = f"unit_{column.name}"
    return place, FieldView(name, "in", "choice", known.get(name, next(iter(units))), options={each: each for each in units})


def _column_field(
    name: str, label: str, header: tuple[str, ...], known: Mapping[str, str], errors: Mapping[str, str]
) -> FieldView:
    options = {"": "–"} | {str(i): title[:60] or f"column {i + 1}" for i, title in enumerate(header)}
    at, error = f"at_{name}", errors.get(name, "")
    return FieldView(at, label, "choice", known.get(at, ""), error=error, options=options)
