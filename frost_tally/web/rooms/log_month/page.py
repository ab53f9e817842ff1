"""Log, the month and the year: what they cost, against what they would have cost; on one page, as CSV."""

from datetime import date, datetime

from fastapi import Request
from fastapi.responses import Response

from ....core.log.sums import Sums
from ....formats import values
from ....formats.writers import table_file
from ....services.log_month import room as service
from ...navigation import Tab
from ...once import Router
from ...page import render, save, units_of, whole_number
from ...reading import snapshot_of
from ...units import Units
from . import picture as drawing_month
from . import year_picture as drawing_year
from .words import day_words, month_verdict, tally_rows

router = Router(prefix="/log")
TABS = (
    Tab(of="log", key="month", path="/log/month", words="Month", at=2),
    Tab(of="log", key="year", path="/log/year", words="Year", at=3),
)
SUMS_HEADER = (
    "charges", "drives", "wall_kwh", "pack_kwh", "lost_kwh", "distance_km", "cost", "dear_share", "saved_against_at_once",
    "saved_against_mean_price",
)  # fmt: skip
EARLIEST = 1990


def _today(request: Request) -> date:
    return snapshot_of(request).now.date()


def _asked(request: Request) -> tuple[date, int | None, list[tuple[int, str]]]:
    """The month and the car that an address asks for, and all cars."""
    cars = list(snapshot_of(request).home.names)
    car = whole_number(request.query_params.get("car"))
    try:
        first = values.day(f"{request.query_params.get('month', '')}-01")
    except ValueError:
        first = _today(request).replace(day=1)
    return first, car if car in dict(cars) else None, cars


@router.get("/month")
def month(request: Request) -> Response:
    """One month."""
    units = units_of(request)
    first, car, cars = _asked(request)
    found = service.month(snapshot_of(request), first, car)
    notable = (("Best day", found.best, False), ("Worst day", found.worst, True))
    days = [(name, day_words(day, units, worst), day) for name, day, worst in notable if day]
    return render(
        request, "log_month/room.html", room="log", tab="month", found=found, said=month_verdict(found, units), days=days, cars=cars,
        car=car, rows=tally_rows(found, units), pictures=drawing_month.pictures(found, units),
        steps=_steps(first, request), units=units, month=f"{first:%Y-%m}",
    )  # fmt: skip


def _steps(first: date, request: Request) -> tuple[str, str]:
    """The months before and after; "" after this one."""
    following = service.month_after(first)
    return f"{service.month_after(first, -1):%Y-%m}", f"{following:%Y-%m}" if following <= _today(request) else ""


@router.get("/month.csv")
def month_csv(request: Request) -> Response:
    """The month's sums by car, in SI and the contracts' money."""
    first, car, _ = _asked(request)
    found = service.month(snapshot_of(request), first, car)
    rows = [[f"{first:%Y-%m}", each.name, *_numbers(each.sums)] for each in found.cars]
    return save(table_file(f"month-{first:%Y-%m}.csv", ("month", "car", *SUMS_HEADER), rows))


def _numbers(sums: Sums) -> list[float | int]:
    found = (
        sums.wall_kwh, sums.pack_kwh, sums.lost_kwh, sums.km, sums.cost, sums.dear_share, sums.saved_at_once, sums.saved_at_mean,
    )  # fmt: skip
    return [sums.charges, sums.drives, *(round(each, 4) for each in found)]


@router.get("/year")
def year(request: Request) -> Response:
    """Twelve months beside the twelve before."""
    units = units_of(request)
    _, car, cars = _asked(request)
    number = _year_asked(request, snapshot_of(request).now)
    found = service.year(snapshot_of(request), number, car)
    return render(
        request, "log_month/year.html", room="log", tab="year", found=found, cars=cars, car=car, units=units, said=_year_said(found, units),
        pictures=[drawing_year.columns(found, units, phone) for phone in (False, True)], rows=_year_rows(found, units),
        following=number + 1 if number < _today(request).year else None,
    )  # fmt: skip


def _year_asked(request: Request, now: datetime) -> int:
    asked = whole_number(request.query_params.get("year"), now.year)
    return asked if EARLIEST <= asked <= now.year else now.year


def _year_said(found: service.Year, units: Units) -> tuple[str, str]:
    this, before = (sum(months, Sums()) for months in (found.months, found.before))
    if not this.charges and not this.drives:
        return f"{found.year}: nothing is noted.", ""
    lead = f"{found.year}: {_spent(this, units)} from the wall."
    return lead, f"{found.year - 1}: {_spent(before, units)}." if before.charges else "Nothing is noted of the year before."


def _spent(sums: Sums, units: Units) -> str:
    return f"{units.money(sums.cost)} for {units.text(sums.km, 'distance')}, {units.text(sums.wall_kwh, 'energy', 0)}"


def _year_rows(found: service.Year, units: Units) -> list[tuple[str, list[str]]]:
    rows = []
    for i, (each, before) in enumerate(zip(found.months, found.before, strict=True), 1):
        if each.charges or each.drives or before.charges or before.drives:
            saved = [units.text(each.dear_share, "percent"), units.money(each.saved_at_once)] if each.home_kwh else ["–"] * 2
            rows.append((f"{date(found.year, i, 1):%B}", [*_three(each, units), *saved, *_three(before, units)[1:]]))
    return rows


def _three(sums: Sums, units: Units) -> list[str]:
    if not sums.charges and not sums.drives:
        return ["–"] * 3
    return [units.text(sums.km, "distance"), units.text(sums.wall_kwh, "energy"), units.money(sums.cost)]


@router.get("/year.csv")
def year_csv(request: Request) -> Response:
    """Every month of the year and of the year before, in SI and the contracts' money."""
    _, car, _ = _asked(request)
    number = _year_asked(request, snapshot_of(request).now)
    found = service.year(snapshot_of(request), number, car)
    both = ((number - 1, found.before), (number, found.months))
    rows = [[f"{each}-{i:02d}", *_numbers(sums)] for each, months in both for i, sums in enumerate(months, 1)]
    return save(table_file(f"year-{number}.csv", ("month", *SUMS_HEADER), rows))
