"""Garage, the house: what it uses by month, meter readings and dated prices from files, previewed before they are taken."""

from typing import Any

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel, create_model

from ....core.charge.tariff import MONTHS
from ....core.errors import Refusal
from ....core.home import HouseUse
from ....formats.writers import write_file
from ....services.compare import TYPICAL_MONTHS
from ....services.garage import keep_house
from ....services.log_import import intervals as imports
from ....services.shared.home import Stale
from ...forms import Filled, choice, not_kept, number, parse, shown, views
from ...guard import Posted, Upload
from ...navigation import Tab
from ...once import Router
from ...page import render, save, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.lists import HOUSE_SHAPES

router = Router(prefix="/garage")
TABS = (Tab(of="garage", key="house", path="/garage/house", words="House use", at=4, figures={"house": "House"}),)
_MONTHS: dict[str, Any] = {f"m{i}": (float, number(name, "energy", 0, 20_000)) for i, name in enumerate(MONTHS, 1)}
HouseForm: type[BaseModel] = create_model(
    "HouseForm",
    **_MONTHS,
    house_shape=(str, choice("A usual day", HOUSE_SHAPES)),
    shift=(
        float,
        number("Moved into cheap hours", "percent", 0.0, 0.5, "Dishwasher, washing: this share of the day.", default=0.0),
    ),
)
KINDS = {"readings": "readings", "prices": "prices", "weather": "hours of weather"}


@router.get("/house")
def house(request: Request) -> Response:
    """The house's use."""
    use = snapshot_of(request).home.house
    known = {f"m{i}": kwh for i, kwh in enumerate(use.kwh or TYPICAL_MONTHS, 1)} | {"house_shape": use.shape, "shift": use.shift}
    return _page(request, Filled(shown(known, HouseForm, units_of(request))))


@router.post("/house")
def keep(request: Request, fields: Posted) -> Response:
    """Keep the monthly figures, the day's shape and the moved share."""
    form, errors = parse(HouseForm, fields, units_of(request))
    if form is None:
        return _page(request, Filled(fields, errors, status=422))
    values = form.model_dump()
    try:
        use = HouseUse(kwh=tuple(values[f"m{i}"] for i in range(1, 13)), shape=values["house_shape"], shift=values["shift"])
        undo = keep_house(household_of(request), use, seen(fields))
    except Stale as problem:
        return _page(request, not_kept(fields, HouseForm, problem, units_of(request)))
    return RedirectResponse(f"/garage/house?undo={undo}", 303)


def _page(request: Request, filled: Filled) -> Response:
    return render(
        request,
        "house/room.html",
        filled.status,
        room="garage",
        tab="house",
        fields=views(HouseForm, filled.typed, filled.errors, units_of(request)),
        own=bool(snapshot_of(request).home.house.kwh),
        readings=imports.meter_count(snapshot_of(request)),
        errors=filled.errors,
        message=filled.message,
        file_error="",
    )


@router.post("/import/{kind}")
def upload(request: Request, kind: str, sent: Upload) -> Response:
    """Read a file and show what taking it over would do."""
    if kind not in KINDS:
        return RedirectResponse("/garage/house", 303)
    tariff = whole_number(sent.fields.get("tariff"))
    try:
        number = imports.prepare(
            household_of(request), snapshot_of(request), kind, name=sent.name, content=sent.content, tariff=tariff
        )
    except Refusal as refusal:
        back = f"/garage/tariffs/{tariff}" if kind == "prices" else "/garage/house"
        return render(
            request,
            "house/import.html",
            422,
            room="garage",
            tab="house",
            found=None,
            error=refusal.message,
            name=sent.name,
            back=back,
        )
    return RedirectResponse(f"/garage/taking/{number}", 303)


@router.get("/taking/{number}")
def preview(request: Request, number: str) -> Response:
    """The preview of a file, or what was taken."""
    found = imports.preview(snapshot_of(request), number[:40])
    back = {"prices": f"/garage/tariffs/{found.tariff}", "weather": "/log/import"}.get(found.kind, "/garage/house")
    room, tab = ("log", "import") if found.kind == "weather" else ("garage", "house")
    return render(
        request, "house/import.html", room=room, tab=tab, found=found, error="", name=found.name, back=back,
        what=KINDS[found.kind], total=_total(found, units_of(request)),
    )  # fmt: skip


def _total(found: imports.Preview, units: Units) -> str:
    """What the values of a file come to."""
    if found.kind == "readings":
        return units.text(found.total, "energy", 0)
    if found.kind == "weather":
        return f"{units.text(found.total, 'temperature')} on average"
    return f"{units.text(found.total, 'price')} on average"


@router.post("/taking/{number}")
def take(request: Request, number: str, fields: Posted) -> Response:
    """Take the file over."""
    undo = imports.take(household_of(request), number[:40])
    return RedirectResponse(f"/garage/taking/{number[:40]}?undo={undo}", 303)


@router.get("/house/readings.csv")
def readings_csv(request: Request) -> Response:
    """All readings as CSV."""
    return save(
        write_file("readings", "readings.csv", imports.interval_rows(snapshot_of(request), "readings"), snapshot_of(request).now)
    )
