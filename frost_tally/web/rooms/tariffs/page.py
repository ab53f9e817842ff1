"""Garage, tariffs: the list, the painted week, files in and out, dated prices."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.charge.tariff import DAY_NAMES, Tariff
from ....core.charge.week import MOST_BANDS, NONE
from ....core.errors import Refusal
from ....formats import values
from ....formats.readers import Here, read_file
from ....formats.tariff_json import TariffFile
from ....formats.writers import write_file
from ....services import tariffs as service
from ....services.log_import import intervals as imports
from ....services.shared.home import Home, Stale, holidays_of
from ...guard import Posted, Upload
from ...navigation import Tab
from ...once import Router
from ...page import render, save, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.lists import TARIFF_SHAPES
from . import picture as drawing
from .form import DAYS, MOST_SEASONS, TypedTariff, acted, read, views

router = Router(prefix="/garage")
TABS = (Tab(of="garage", key="tariffs", path="/garage/tariffs", words="Tariffs", at=2, figures={"tariff": "Tariffs"}),)


@dataclass(frozen=True)
class Painter:
    """Everything the painted parts of the page need."""

    typed: TypedTariff
    week: tuple[str, str]
    year: tuple[str, str]
    faults: tuple[str, ...]
    said: str


def _painter(typed: TypedTariff, home: Home, units: Units) -> Painter:
    tariff = typed.draft.tariff(home.place.zone, home.currency)
    season = typed.draft.seasons[typed.shown]
    with_holidays = tariff.holidays is not None
    args = (season.week, typed.draft.palette, units, with_holidays)
    return Painter(
        typed,
        (drawing.drawn(*args), drawing.drawn(*args, phone=True)),
        (drawing.year_strip(tariff, typed.shown), drawing.year_strip(tariff, typed.shown, phone=True)),
        tariff.faults(),
        _said(typed, tariff, units),
    )


def _said(typed: TypedTariff, tariff: Tariff, units: Units) -> str:
    """The shown week in a sentence: cheapest and dearest, or that something is missing."""
    season = typed.draft.seasons[typed.shown]
    used = sorted(
        {c for row in season.week.rows for c in row if c != NONE}, key=lambda c: (typed.draft.palette[c].price_per_kwh, c)
    )
    if tariff.faults():
        count = len(tariff.faults())
        return f"{season.name}: {count} gap{'s' if count > 1 else ''} or overlap{'s' if count > 1 else ''} to mend before it can be kept."
    low, high = typed.draft.palette[used[0]], typed.draft.palette[used[-1]]
    if low.price_per_kwh == high.price_per_kwh:
        return f"{season.name}: one price, {units.text(low.price_per_kwh, 'price')}."
    share = f", {100 * low.price_per_kwh / high.price_per_kwh:.0f} % of the dearest" if low.price_per_kwh > 0 else ""
    dearest = units.text(high.price_per_kwh, "price", unit=False)
    return f"{season.name}: cheapest {units.text(low.price_per_kwh, 'price')} ({low.name}){share}, {dearest} ({high.name})."


@router.get("/tariffs")
def listed(request: Request) -> Response:
    """All tariffs."""
    return _list(request)


def _list(request: Request, message: str = "", status: int = 200) -> Response:
    units, now = units_of(request), snapshot_of(request).now
    found = service.listed(snapshot_of(request))
    hour = now.replace(minute=0, second=0, microsecond=0)
    return render(
        request,
        "tariffs/room.html",
        status,
        room="garage",
        tab="tariffs",
        found=[
            (
                each,
                _bands_words(each.tariff, units),
                _validity(each.tariff, now.date(), units),
                drawing.day_strip(each.tariff, hour, each.tariff.zone, units),
            )
            for each in found
        ],
        shapes=TARIFF_SHAPES,
        units=units,
        message=message,
        fetched=request.query_params.get("fetched", ""),
    )


def _bands_words(tariff: Tariff, units: Units) -> str:
    """The tariff's bands with their prices: "night 0.12 · day 0.30"."""
    bands = dict.fromkeys((b.name, b.price_per_kwh) for b in [*tariff.bands, *(b for s in tariff.seasons for b in s.bands)])
    return " · ".join(f"{name} {units.text(price, 'price', 2, unit=False)}" for name, price in bands)


def _validity(tariff: Tariff, today: date, units: Units) -> str:
    begins, ends = ("" if each is None else units.date(each, year=True) for each in (tariff.valid_from, tariff.valid_to))
    if tariff.following is not None:
        return f"until {ends}, then “{tariff.following.name}”"
    if tariff.valid_to is not None and tariff.valid_to < today:
        return f"ended on {ends}; its prices are still used until you choose another"
    if tariff.valid_from is not None and tariff.valid_from > today:
        return f"from {begins}"
    return f"until {ends}" if tariff.valid_to else ""


@router.get("/tariffs/schema.json")
def schema(request: Request) -> Response:
    """The schema of the tariff's JSON."""
    return save(write_file("tariff schema", "schema.json", None, snapshot_of(request).now))


@router.get("/tariffs/{which}")
def paint(request: Request, which: str, shape: str = "two") -> Response:
    """The painter on a kept tariff, or on a shape to start from."""
    number = whole_number(which)
    if number is None and shape == "dated":  # no price of ours shall decide: a file or a typed mean comes first
        return RedirectResponse("/garage/prices", 303)
    draft = service.stored(snapshot_of(request), number) if number is not None else service.started(shape)
    return _page(request, TypedTariff(draft), {}, 200)


def _page(request: Request, typed: TypedTariff, raw: Mapping[str, str], status: int, message: str = "") -> Response:
    units = units_of(request)
    part = "x-part" in request.headers
    return render(
        request,
        "tariffs/painter_part.html" if part else "tariffs/painter.html",
        200 if part and status == 422 else status,
        room="garage",
        tab="tariffs",
        painter=_painter(typed, snapshot_of(request).home, units),
        fields=views(typed, raw, units),
        days=DAYS,
        none=NONE,
        most_bands=MOST_BANDS,
        most_seasons=MOST_SEASONS,
        names=DAY_NAMES,
        message=message,
        typed=typed,
        pending=raw.get("pending", ""),
    )


@router.post("/tariffs/draft")
def draft(request: Request, fields: Posted) -> Response:
    """One action on the draft; nothing is kept until "Keep"."""
    units = units_of(request)
    typed = read(fields, units)
    action = fields.get("action", "look")
    if action not in ("keep", "keep_from"):
        typed = acted(typed, fields, units)
        return _page(request, typed, fields, 422 if typed.errors and "x-part" not in request.headers else 200)
    if typed.errors:
        return _page(request, typed, fields, 422, f"Nothing was saved yet: {len(typed.errors)} of the fields will not do.")
    try:
        since = _since(fields) if action == "keep_from" else None
        revision, pending = seen(fields), fields.get("pending", "")[:40]
        undo = service.keep(household_of(request), typed.draft, revision, since, pending)
    except Refusal as refusal:
        typed.errors[refusal.field] = refusal.message
        return _page(request, typed, fields, 422, f"Nothing was saved yet: {refusal.message}")
    except Stale as stale:
        return _page(
            request, typed, fields, 409, f"{stale} Nothing was saved; your painting is still here. Reload to see what changed."
        )
    return RedirectResponse(f"/garage/tariffs?undo={undo}", 303)


def _since(fields: Mapping[str, str]) -> date:
    try:
        return values.day(fields.get("replaces_from", ""))
    except ValueError:
        raise Refusal("Enter the first day of the new prices, such as 2027-04-01.", "replaces_from") from None


@router.post("/tariffs/{which}/remove")
def remove(request: Request, which: str, fields: Posted) -> Response:
    """Put a tariff away."""
    try:
        undo = service.remove(household_of(request), whole_number(which, 0), seen(fields))
    except Refusal as refusal:
        return _list(request, f"{refusal.message} Nothing was changed.", 422)
    return RedirectResponse(f"/garage/tariffs?undo={undo}", 303)


@router.post("/tariffs/{which}/fetch")
def fetch(request: Request, which: str, fields: Posted) -> Response:
    """Fetch the dated prices known now."""
    count, _ = service.fetch(
        household_of(request), snapshot_of(request), whole_number(which, 0), 365 if fields.get("how") == "year" else 1
    )
    return RedirectResponse(f"/garage/tariffs?fetched={count}", 303)


@router.post("/import/tariff")
def upload(request: Request, sent: Upload) -> Response:
    """Open a tariff file in the painter: its preview; nothing is kept yet."""
    home = snapshot_of(request).home
    try:
        file: TariffFile = read_file("tariff", sent.content, Here(home.place.zone, holidays_of))
    except Refusal as refusal:
        return _list(request, f"{refusal.message} Nothing was changed.", 422)
    made = service.draft_of(file)
    if len(made.palette) > MOST_BANDS or len(made.seasons) > MOST_SEASONS + 1:
        return _list(request, f"The file has more than {MOST_BANDS} prices or {MOST_SEASONS} seasons. Nothing was changed.", 422)
    notes = list(file.notes)
    if file.tariff.currency != home.currency:
        notes.append(f"its prices are in {file.tariff.currency}, yours in {home.currency}: they are not converted")
    held = ""
    if file.tariff.series is not None:
        held = imports.hold(household_of(request), snapshot_of(request), sent.name, file.tariff.series)
        notes.append(f"its {len(file.tariff.series.start_s)} dated prices are taken over with it")
    words = f"From {sent.name}. Not kept yet: look at it, then keep it." + (f" Note: {'; '.join(notes)}." if notes else "")
    return _page(request, TypedTariff(made), {"pending": held}, 200, words)


@router.get("/tariffs/{which}/{file}")
def download(request: Request, which: str, file: str) -> Response:
    """A tariff in one of its formats."""
    return save(
        write_file("tariff", file, service.file_of(snapshot_of(request), whole_number(which, 0)), snapshot_of(request).now)
    )
