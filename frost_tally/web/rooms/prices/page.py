"""Garage, hourly prices: a tariff of another price each hour, and files of prices by columns that are chosen once."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.errors import Refusal
from ....formats.hourly import PriceColumns
from ....formats.moments import ORDERS
from ....services import prices as service
from ...forms import FieldView, Filled, choice, number, parse, shown, text, views
from ...guard import Posted, Upload
from ...once import Router
from ...page import render, units_of, whole_number
from ...part_forms import clocks as zones
from ...reading import household_of, read_anew, snapshot_of

router = Router(prefix="/garage/prices")
PER = {"kWh": "one kWh", "MWh": "one MWh", "hundredth": "one kWh, in hundredths (cents, øre, pence)"}
NEW = "new"


class NewForm(BaseModel):
    """A new tariff of hourly prices."""

    name: str = text("What do you call it?", 40, "What the bill calls it.", "Hourly prices")
    mean_price: float = number(
        "Mean price", "price", 0, 20, "Per kWh, tax included: for hours without a price of their own.", step=0.001
    )


class ColumnsForm(BaseModel):
    """How a file of prices is read."""

    per: Literal["kWh", "MWh", "hundredth"] = choice("A price is for", PER, "", "kWh")
    comma: Literal["no", "yes"] = choice("Decimals after a", {"no": "point", "yes": "comma"}, "", "no")
    dates: Literal["iso", "dmy", "mdy"] = choice("Times look like", ORDERS, "", "iso")
    tax: float = number("Tax on top", "percent", 0, 1, "If it is not in the file’s prices.", default=0.0, step=0.5)
    added: float = number(
        "Grid and fees on top", "price", 0, 5, "Per kWh with its tax, if not in the file.", default=0.0, step=0.001
    )
    new_name: str = text("Name of a new tariff", 40, "Only for a new one.", "Hourly prices")


@router.get("")
def begin(request: Request) -> Response:
    """A file of prices, or a mean to begin with."""
    return _begin(request, Filled(shown({"name": "Hourly prices"}, NewForm, units_of(request))))


def _begin(request: Request, filled: Filled, file_error: str = "") -> Response:
    return render(
        request, "prices/room.html", 422 if file_error else filled.status, room="garage", tab="tariffs", file_error=file_error,
        fields=views(NewForm, filled.typed, filled.errors, units_of(request)), errors=filled.errors, message=filled.message,
        tariff=whole_number(request.query_params.get("tariff")),
    )  # fmt: skip


@router.post("/new")
def new(request: Request, fields: Posted) -> Response:
    """A tariff with its mean alone: the hours come later."""
    form, errors = parse(NewForm, fields, units_of(request))
    if form is not None:
        try:
            undo, _ = service.new_hourly(household_of(request), form.name, form.mean_price)
            return RedirectResponse(f"/garage/tariffs?undo={undo}", 303)
        except Refusal as refusal:
            errors = {refusal.field or "name": refusal.message}
    return _begin(request, Filled(fields, errors, status=422))


@router.post("/file")
def receive(request: Request, sent: Upload) -> Response:
    """Find out how a file is written, and show it or ask."""
    try:
        return RedirectResponse(received(request, sent.name, sent.content, whole_number(sent.fields.get("tariff"))), 303)
    except Refusal as refusal:
        return _begin(request, Filled(shown({}, NewForm, units_of(request))), f"{sent.name or 'The file'}: {refusal.message}")


def received(request: Request, name: str, content: bytes, tariff: int | None) -> str:
    """Where a file of prices goes on: to its preview where nothing has to be chosen, else to its columns. Raises: Refusal."""
    household = household_of(request)
    waits, plain = service.receive(household, snapshot_of(request), name=name, content=content, tariff=tariff)
    if not plain:
        return f"/garage/prices/{waits}"
    here = read_anew(request)
    file = service.waiting(here, waits)
    return f"/garage/taking/{service.choose(household, here, waits, file.how, file.tariff, '')}"


@router.get("/{waits}")
def columns(request: Request, waits: str) -> Response:
    """The columns of a file, as they are guessed."""
    file = service.waiting(snapshot_of(request), waits[:40])
    how, place = file.how, file.tariff
    typed = shown(
        {**vars(how), "comma": "yes" if how.comma else "no", "new_name": "Hourly prices"}, ColumnsForm, units_of(request)
    )
    at = {"at_start": how.start, "at_price": how.price, "tariff": place, "zone": how.zone}
    return _columns(request, file, {**typed, **{name: "" if each is None else str(each) for name, each in at.items()}}, {})


def _columns(
    request: Request, file: service.PriceFile, typed: Mapping[str, str], errors: Mapping[str, str], message: str = ""
) -> Response:
    titles = {"": "–"} | {str(i): title[:60] or f"column {i + 1}" for i, title in enumerate(file.header)}
    them = {**{str(each.id): each.name for each in service.hourly(snapshot_of(request))}, NEW: "a new one"}
    clocks = {each: each for each in sorted(zones())}
    chosen = {
        "at_start": FieldView("at_start", "An hour begins", "choice", options=titles),
        "at_price": FieldView("at_price", "Price", "choice", options=titles),
        "zone": FieldView("zone", "On the clock of", "choice", options=clocks, hint="Where times have no offset."),
        "tariff": FieldView("tariff", "They are the prices of", "choice", options=them),
    }
    known = {name: replace(each, value=typed.get(name, ""), error=errors.get(name, "")) for name, each in chosen.items()}
    known |= views(ColumnsForm, typed, errors, units_of(request))
    return render(
        request, "prices/columns.html", 422 if errors or message else 200, room="garage", tab="tariffs", file=file, fields=known,
        errors=errors, message=message,
    )  # fmt: skip


@router.post("/{waits}")
def chosen(request: Request, waits: str, fields: Posted) -> Response:
    """Read the file by the columns that were chosen: its preview shows what it would do."""
    file = service.waiting(snapshot_of(request), waits[:40])
    form, errors = parse(ColumnsForm, fields, units_of(request))
    start, price = (whole_number(fields.get(name), -1) for name in ("at_start", "at_price"))
    for name, at in (("at_start", start), ("at_price", price)):
        if not 0 <= at < len(file.header):
            errors[name] = "This is needed: choose the column that has it."
    zone = fields.get("zone", "")
    if zone not in zones():
        errors["zone"] = "Choose a clock."
    if form is None or errors:
        return _columns(request, file, fields, errors)
    how = PriceColumns(
        start=start,
        price=price,
        per=form.per,
        comma=form.comma == "yes",
        dates=form.dates,
        zone=zone,
        tax=form.tax,
        added=form.added,
    )
    try:
        tariff = None if fields.get("tariff") == NEW else whole_number(fields.get("tariff"))
        made = service.choose(household_of(request), snapshot_of(request), file.number, how, tariff, form.new_name)
    except Refusal as refusal:
        field = {"start": "at_start", "price": "at_price", "name": "new_name"}.get(refusal.field, refusal.field)
        return _columns(request, file, fields, {field: refusal.message} if field else {}, "" if field else refusal.message)
    return RedirectResponse(f"/garage/taking/{made}", 303)
