"""Room 5, its winter: the season list, the 12 V battery, washer fluid, and the bad morning."""

from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.errors import Refusal
from ....core.fields import declared
from ....core.park.season import ITEMS
from ....core.park.washer import Alcohol, Freezes, by_mass, of_label, of_strength, share_for, top_up
from ....core.parts import TwelveVoltFacts
from ....formats.calendar_feed import CalendarEntry
from ....formats.writers import write_file
from ....services.shared.home import Stale
from ....services.winter import room as service
from ....services.winter import twelve_volt as batteries
from ....services.winter.room import Season, Task
from ...drawing.both import Both
from ...drawing.scatter import scatter
from ...field_forms import form_of
from ...forms import STALE, Filled, choice, not_kept, number, parse, shown, views
from ...guard import Posted, PostedNow
from ...navigation import Tab
from ...once import Router
from ...page import render, save, seen, texts_of, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words import parked as words
from ...words import season as season_words
from ...words.fields import TWELVE_VOLT
from ...words.season import TITLES
from . import picture as washer_drawing

router = Router(prefix="/parked")
TABS = (
    Tab(of="parked", key="season", path="/parked/season", words="Season list", at=1, figures={"season": "The season’s dates"}),
    Tab(of="parked", key="twelve-volt", path="/parked/twelve-volt", words="12 V", at=2, figures={"twelve_volt": "12 V battery"}),
    Tab(of="parked", key="washer", path="/parked/washer", words="Washer", at=3, figures={"washer": "Washer fluid"}),
    Tab(of="parked", key="frozen", path="/parked/frozen", words="Frozen", at=4),
)
REMIND_AT = time(18, 0)
ALCOHOLS = {"ethanol": "ethanol", "methanol": "methanol", "label": "by the label’s two points"}


@router.get("/season")
def season(request: Request) -> Response:
    """What to do before the winter, and this evening."""
    return _season(request, 200)


def _asked(request: Request, car: int | None = None) -> Season:
    return service.season(snapshot_of(request), car or whole_number(request.query_params.get("car")))


def _season(request: Request, status: int, message: str = "", car: int | None = None) -> Response:
    units, made = units_of(request), _asked(request, car)
    lists = [
        ("This evening, before the frost", [_row(each, made, units) for each in made.evening] if made.frost_tonight else []),
        ("Before the winter", [_row(each, made, units) for each in made.tasks]),
    ]
    bought = [
        said
        for key, said in season_words.SHOPPING.items()
        if any(each.item.key == key and each.done is None for each in (*made.tasks, *made.evening))
    ]
    return render(
        request, "winter/season.html", status, room="parked", tab="season", view=made, units=units, message=message,
        said=season_words.season_verdict(made, units), lists=lists, bought=bought,
        washer=f"washer fluid: {units.plain(made.mix_l, 0)}\u00a0L that stand {units.text(made.coldest_c, 'temperature', 0)}",
    )  # fmt: skip


def _row(task: Task, made: Season, units: Units) -> dict[str, object]:
    """An item as its row shows it."""
    said = season_words.ITEM_WORDS[task.item.key]
    return {
        "key": task.item.key,
        "title": said.title[0].upper() + said.title[1:],
        "why": units.say(said.why),
        "how": units.say(said.how),
        "minutes": task.item.minutes,
        "due": season_words.due_words(task, made.today, units),
        "again": season_words.next_words(task),
        "done": task.done is not None,
        "late": task.done is None and task.due is not None and task.due <= made.today,
        "before": [units.date(each, month="B", year=True) for each in task.before],
        "entry": task.entry,
        "link": LINKS.get(task.item.key, ""),
    }


LINKS = {
    "twelve_volt": "/parked/twelve-volt", "washer": "/parked/washer", "tyres": "/day/tyres", "pressures": "/day/tyres",
    "departures": "/week", "limit": "/tonight", "emergency": "/parked/frozen",
}  # fmt: skip


@router.post("/season")
def tick(request: Request, fields: PostedNow) -> Response:
    """Note an item, all of this evening's, or what is ticked, as done."""
    car = whole_number(fields.get("car"), 0)
    now, key = snapshot_of(request).now, fields.get("item", "")
    evening = tuple(each.key for each in ITEMS.values() if each.lead_days is None)
    ticked = tuple(each for each in ITEMS if f"is-{each}" in fields)
    if key == "ticked" and not ticked:
        return _season(request, 422, "Tick what is done first; when nothing is, there is nothing to note.", car)
    keys = {"evening": evening, "ticked": ticked}.get(key, (key,))
    words = {"evening": "This evening’s list done", "ticked": f"{len(ticked)} of the season’s items done"}
    said = words.get(key, f"Done: {TITLES.get(key, '')}")
    who = fields.get("who", "").strip()[:60]
    try:
        undo = service.tick(household_of(request), now, car, keys, TITLES, who=who, words=said, seen_revision=seen(fields))
    except Stale as problem:
        return _season(request, 409, STALE.format(problem), car)
    return RedirectResponse(f"/parked/season?car={car}&undo={undo}", 303)


@router.get("/season.ics")
def season_ics(request: Request) -> Response:
    """The season's open items as reminders."""
    made = _asked(request)
    zone = snapshot_of(request).home.place.clock
    entries = [_reminder(each, made, zone) for each in made.open if each.due is not None]
    found = write_file("departures", "departures.ics", (f"Winter, {made.owned.name}", entries), snapshot_of(request).now)
    return save(type(found)("season.ics", found.media_type, found.content))


def _reminder(task: Task, made: Season, zone: ZoneInfo) -> CalendarEntry:
    said = season_words.ITEM_WORDS[task.item.key]
    begin = datetime.combine(max(task.due or made.today, made.today), REMIND_AT, zone)
    return CalendarEntry(
        uid=f"season-{made.car_id}-{task.item.key}-{made.dates.summer.year}@frost-tally",
        start=begin,
        end=begin + timedelta(minutes=task.item.minutes),
        summary=f"{made.owned.name}: {said.title}",
        description=f"{said.why}. {said.how}.",
        alarm=True,
    )


SmallForm = form_of("SmallForm", declared(TwelveVoltFacts), TWELVE_VOLT)
"""What the owner knows of the 12 V battery; all of it may stay empty."""


@router.get("/twelve-volt")
def twelve_volt(request: Request) -> Response:
    """The 12 V battery."""
    return _twelve_volt(request, Filled())


def _twelve_volt(request: Request, filled: Filled, car: int | None = None) -> Response:
    units = units_of(request)
    found = batteries.twelve_volt(snapshot_of(request), car or whole_number(request.query_params.get("car")))
    known = {name: getattr(found.entered, name) for name in SmallForm.model_fields}
    return render(
        request, "winter/twelve_volt.html", filled.status, room="parked", tab="twelve-volt", view=found, units=units,
        message=filled.message, errors=filled.errors,
        said=words.battery_verdict(found, units), door=words.DOOR[found.entered.tops_up], cautions=words.CAUTIONS_12V,
        pictures=[_readings(found, units, phone) for phone in (False, True)] if len(found.readings) > 1 else [],
        rows=[_reading(each, found, units) for each in reversed(found.readings[-8:])],
        fields=views(SmallForm, {**shown(known, SmallForm, units), **filled.typed}, filled.errors, units),
    )  # fmt: skip


def _reading(each: tuple[datetime, float, float | None], found: batteries.TwelveVolt, units: Units) -> tuple[str, str, str]:
    """A reading as its row shows it: day, voltage, temperature."""
    at, volt, temp_c = each
    warmth = "" if temp_c is None else units.text(temp_c, "temperature", 0)
    return units.date(at.astimezone(found.zone).date(), month="B", year=True), units.text(volt, "fine_voltage"), warmth


def _readings(found: batteries.TwelveVolt, units: Units, phone: bool) -> str:
    """Resting voltage over time."""
    points = [(at.timestamp(), volt) for at, volt, _ in found.readings]
    first, last = points[0][0], points[-1][0]
    span = max(last - first, 86400.0)
    x_ticks = [(first + i * span / 4, f"{datetime.fromtimestamp(first + i * span / 4, found.zone):%b %Y}") for i in range(5)]
    y_ticks = [(volt, units.text(volt, "fine_voltage", 2, unit=False)) for volt in (11.8, 12.06, 12.24, 12.45, 12.65, 12.9)]
    said = f"Resting voltage: {len(points)} readings, the last {units.text(points[-1][1], 'fine_voltage')}."
    return scatter(points, x_ticks, y_ticks, said, phone=phone)


@router.post("/twelve-volt")
def keep_twelve_volt(request: Request, fields: Posted) -> Response:
    """Keep what was entered of it."""
    units, car = units_of(request), whole_number(fields.get("car"), 0)
    form, errors = parse(SmallForm, fields, units)
    if form is None:
        return _twelve_volt(request, Filled(fields, errors, status=422), car)
    values = {"fitted_on": form.fitted_on, "kind": form.kind, "tops_up": form.tops_up, "boot": form.boot}
    try:
        undo = batteries.keep_twelve_volt(
            household_of(request), snapshot_of(request).now, car, values, "12 V battery kept", seen_revision=seen(fields)
        )
    except (Stale, Refusal) as problem:
        return _twelve_volt(request, not_kept(fields, SmallForm, problem, units), car)
    return RedirectResponse(f"/parked/twelve-volt?car={car}&undo={undo}", 303)


class WasherForm(BaseModel):
    """The washer's fields; all of them have a usual value."""

    alcohol: str = choice("Concentrate", ALCOHOLS, "As its label says.", "ethanol")
    strength: float = number("Alcohol in it", "percent", 0.05, 1.0, "By volume, for ethanol and methanol.", default=0.6)
    label_pure_c: float = number("Undiluted it freezes at", "temperature", -60, -1, "By the label.", default=-45.0)
    label_mixed_c: float = number("Half and half it freezes at", "temperature", -60, -1, "By the label.", default=-20.0)
    target_c: float = number("It must stand", "temperature", -45, -1, "", default=-20.0)
    tank_l: float = number("The tank holds", "litres", 1, 15, "", default=3.5)
    now_l: float = number("In it now", "litres", 0, 15, "", default=1.5)
    now_c: float = number("That freezes at", "temperature", -45, 0, "Water: {0 °C}.", default=-5.0)


@router.get("/washer")
def washer(request: Request) -> Response:
    """What to mix, and what to add to a weak tank."""
    units, made = units_of(request), _asked(request)
    week = service.lowest_ahead(snapshot_of(request), made.car_id)
    usual = {name: info.default for name, info in WasherForm.model_fields.items()}
    usual |= {
        "target_c": max(-44.0, min(-5.0, round(made.coldest_c))),
        "tank_l": made.owned.twelve_volt.tank_l or usual["tank_l"],
    }
    texts = texts_of(request, WasherForm, usual)
    form, errors = parse(WasherForm, texts, units)
    found: dict[str, object] = {"said": ("Look at the fields below.", ""), "picture": None}
    if form is not None:
        try:
            found = _mixed(form, week, units)
        except Refusal as refusal:
            errors = {refusal.field or "target_c": units.refusal(refusal)}
    return render(
        request, "winter/washer.html", 422 if errors else 200, room="parked", tab="washer", view=made, units=units, errors=errors,
        fields=views(WasherForm, texts, errors, units), cautions=words.WASHER_CAUTIONS, **found,
    )  # fmt: skip


def _mixed(form: WasherForm, week_c: float, units: Units) -> dict[str, object]:
    """The mix and the top-up for what was typed."""
    freezes: Freezes = (
        of_label(form.label_pure_c, form.label_mixed_c)
        if form.alcohol == "label"
        else of_strength(Alcohol(form.alcohol), form.strength)
    )
    share = share_for(freezes, form.target_c)
    top = top_up(freezes, tank_l=form.tank_l, now_l=form.now_l, now_c=form.now_c, target_c=form.target_c)
    target, week = units.text(form.target_c, "temperature", 0), units.text(week_c, "temperature", 0)
    holds = form.now_c <= week_c
    this_week = f"What is in the tank {'stands' if holds else 'does not stand'} this week’s {week}."
    if share is None or top is None:
        lead = f"Not even undiluted does this concentrate stand {target}: take a stronger one."
        return {
            "said": (lead, this_week),
            "picture": Both(lambda phone: washer_drawing.curve(freezes, form.target_c, None, form.now_c, units, phone=phone)),
        }
    mass = (
        f", {units.text(float(by_mass(Alcohol(form.alcohol), form.strength * share)), 'percent')} alcohol by mass"
        if form.alcohol != "label"
        else ""
    )
    lead = f"For {target}: {units.text(share, 'percent')} concentrate, the rest water{mass}."
    parts = words.mix_words((top.drain_l, top.concentrate_l, top.water_l, top.squirts), units)
    picture = Both(lambda phone: washer_drawing.curve(freezes, form.target_c, share, form.now_c, units, phone=phone))
    return {"said": (lead, f"{parts} {this_week}"), "picture": picture}


@router.get("/frozen")
def frozen(request: Request) -> Response:
    """The bad morning: what is frozen, what to do and what not."""
    return render(request, "winter/frozen.html", room="parked", tab="frozen", view=_asked(request), cards=season_words.FROZEN)
