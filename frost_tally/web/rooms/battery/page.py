"""Room 4, Battery: how healthy, what wears it, tests and what they tell, the warranty; a report to print."""

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.errors import Refusal
from ....core.fields import declared
from ....core.parts import BatteryFacts
from ....formats.writers import table_file
from ....services.battery import room as service
from ....services.battery.life import OwnTest
from ....services.battery.room import Health
from ....services.shared.home import Stale
from ...drawing import health as drawing
from ...drawing.both import Both
from ...field_forms import form_of
from ...forms import Filled, not_kept, parse, shown, views
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, save, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words import battery as words
from ...words.fields import BATTERY
from ...words.log import OPTIONS

router = Router(prefix="/battery")
TABS = (
    Tab(
        of="",
        key="battery",
        path="/battery",
        words="Battery",
        at=5,
        rare=True,
        figures={"capacity": "What a test tells", "trend": "How the trend begins", "display": "The level’s display"},
    ),
    Tab(of="battery", key="", path="/battery", words="Health", at=0),
    Tab(of="battery", key="report", path="/battery/report", words="Report", at=3),
)
MOST_TESTS = 12


FactsForm = form_of("FactsForm", declared(BatteryFacts), BATTERY)
"""What the owner knows of a battery; all of it may stay empty."""


@router.get("")
def room(request: Request) -> Response:
    """The battery of a car."""
    return _page(request, Filled())


def _asked(request: Request, car: int | None = None) -> Health:
    query = request.query_params
    one, other = whole_number(query.get("a")), whole_number(query.get("b"))
    pair = (min(one, other), max(one, other)) if one is not None and other is not None else None
    return service.health(snapshot_of(request), car or whole_number(query.get("car")), pair)


def _page(request: Request, filled: Filled, car: int | None = None) -> Response:
    units, health = units_of(request), _asked(request, car)
    entered = health.battery.owned.battery
    known = {name: getattr(entered, name) for name in FactsForm.model_fields}
    return render(
        request, "battery/room.html", filled.status, room="battery", tab="", view=health, units=units, words=words, message=filled.message,
        verdict=words.verdict(health, units), errors=filled.errors,
        trend=Both(lambda phone: drawing.trend(health, units, phone)),
        together=Both(lambda phone: drawing.together(health, phone)) if health.others else None,
        causes=Both(lambda phone: drawing.causes(health, units, phone)),
        tests=[_test_row(each, health, units) for each in reversed(health.battery.tests)],
        events=_events(health, units), most=MOST_TESTS,
        fields=views(FactsForm, {**shown(known, FactsForm, units), **filled.typed}, filled.errors, units),
    )  # fmt: skip


def _test_row(each: OwnTest, health: Health, units: Units) -> dict[str, object]:
    """A test as its row shows it."""
    new_kwh, found = health.battery.car.pack.usable_kwh_new, each.capacity
    return {
        "number": each.test.id,
        "day": units.date(each.test.at.date(), month="B", year=True),
        "how": OPTIONS["how"][each.test.how],
        "levels": "" if each.test.how == "car" else f"{100 * each.test.soc_from:.0f} → {units.text(each.test.soc_to, 'percent')}",
        "kwh": units.text(found.kwh, "energy"),
        "health": f"{words.points(found.kwh / new_kwh, units)} ± {words.points(2 * found.sigma_kwh / new_kwh, units)}",
        "worth": words.WORTHS[found.worth],
        "counts": "set aside: far from all others" if each.weight < 0.5 else "",
        "parts": words.parts_words(found, units),
        "pack": "" if each.test.pack_c is None else units.text(each.test.pack_c, "temperature", 0),
        "stopped": each.test.stopped,
        "note": each.test.note,
    }


def _events(health: Health, units: Units) -> list[tuple[int, str, str, bool]]:
    """Events that may have stepped the display: number, day, what, and whether a step is marked there."""
    marked = [each for each in health.battery.events if each.kind == "step"]
    at = {each.at.replace(microsecond=0) for each in marked}
    others = [each for each in health.battery.events if each.kind != "step" and each.at.replace(microsecond=0) not in at]
    rows = sorted([*marked, *others], key=lambda each: each.at, reverse=True)
    return [
        (
            each.id,
            units.date(each.at.date(), month="B", year=True),
            f"{OPTIONS['kind'][each.kind]}{f': {each.note}' if each.note else ''}",
            each.kind == "step",
        )
        for each in rows
    ]


@router.post("/facts")
def keep_facts(request: Request, fields: Posted) -> Response:
    """Keep the first day and the warranty."""
    units, car = units_of(request), whole_number(fields.get("car"), 0)
    form, errors = parse(FactsForm, fields, units)
    if form is None:
        return _page(request, Filled(fields, errors, status=422), car)
    try:
        undo = service.keep_facts(
            household_of(request),
            snapshot_of(request),
            car,
            BatteryFacts(**form.model_dump()),
            "First day and warranty kept",
            seen_revision=seen(fields),
        )
    except (Stale, Refusal) as problem:
        return _page(request, not_kept(fields, FactsForm, problem, units), car)
    return RedirectResponse(f"/battery?car={car}&undo={undo}#facts", 303)


@router.post("/step")
def step(request: Request, fields: Posted) -> Response:
    """Allow a step of the display at an event, or allow it no longer."""
    car = whole_number(fields.get("car"), 0)
    said = "Step taken out of the trend" if fields.get("marked") else "Step allowed in the trend"
    undo = service.mark_step(household_of(request), car, whole_number(fields.get("event"), 0), said, seen(fields))
    return RedirectResponse(f"/battery?car={car}&undo={undo}", 303)


@router.post("/reckon")
def reckon(request: Request, fields: Posted) -> Response:
    """Let every plan reckon with what the tests say."""
    car = whole_number(fields.get("car"), 0)
    undo = service.reckon_with(
        household_of(request), snapshot_of(request).now, car, "Plans reckon with the measured health", seen(fields)
    )
    return RedirectResponse(f"/battery?car={car}&undo={undo}", 303)


@router.get("/report")
def report(request: Request) -> Response:
    """One page on paper: what was measured, how, and how sure it is."""
    units, health = units_of(request), _asked(request)
    return render(
        request, "battery/report.html", room="battery", tab="report", view=health, units=units, words=words,
        verdict=words.verdict(health, units, alone=True), trend=Both(lambda phone: drawing.trend(health, units, phone)),
        tests=[_test_row(each, health, units) for each in health.battery.tests], events=_events(health, units),
        today=units.date(snapshot_of(request).now.date(), month="B", year=True),
    )  # fmt: skip


HEADER = (
    "at", "kind", "how", "capacity_kwh", "sigma_kwh", "health", "sigma", "soc_from [%]", "soc_to [%]", "energy [kWh]", "pack [°C]",
    "weight",
)  # fmt: skip


@router.get("/history.csv")
def history_csv(request: Request) -> Response:
    """All measurements of the capacity, and the trend today."""
    health = _asked(request)
    own = health.battery
    new_kwh = own.car.pack.usable_kwh_new

    def sizes(kwh: float, sigma_kwh: float) -> list[float]:
        return [round(kwh, 3), round(sigma_kwh, 3), round(kwh / new_kwh, 5), round(sigma_kwh / new_kwh, 5)]

    rows: list[list[object]] = []
    for each in own.tests:
        levels = [round(100 * each.test.soc_from, 1), round(100 * each.test.soc_to, 1), each.test.kwh, each.test.pack_c]
        measured = sizes(each.capacity.kwh, each.capacity.sigma_kwh)
        rows.append([each.test.at.isoformat(), "test", each.test.how, *measured, *levels, round(each.weight, 3)])
    for kind, found in own.everyday.items():
        for month in found:
            at = own.month_of(month).isoformat()
            rows.append([at, "everyday", kind, *sizes(month.kwh, month.sigma_kwh), None, None, None, None, None])
    now = snapshot_of(request).now.isoformat()
    rows.append([now, "trend", "", *sizes(own.health_kwh, own.trend.sigma * new_kwh), None, None, None, None, None])
    return save(table_file(f"battery-{own.owned.id}.csv", HEADER, rows))
