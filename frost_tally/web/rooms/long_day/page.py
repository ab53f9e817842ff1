"""Room 2, its long day: where to stop on the way, how many stops and how fast, the ways with their posts, and what a stop gave."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import RedirectResponse, Response
from pydantic import BaseModel

from ....core.advice.long_way import Goal
from ....core.charge.fast import curve_kw
from ....core.errors import Refusal
from ....formats import values
from ....formats.posts import read_posts, read_waypoints, write_posts
from ....services.long_day import room as service
from ....services.long_day import ways as kept_ways
from ...drawing.both import Both
from ...forms import choice, number, parse, text, views
from ...guard import Posted, PostedNow, Upload
from ...levers import Asked, LeverRoom, Made
from ...once import Router
from ...page import render, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from ...words.sentence import Part, Verdict
from . import picture as drawing
from .words import GOALS, long_verdict, side_words, stop_rows

router = Router()
COUNTRY_KM = 40.0
YES_NO = {"yes": "yes", "no": "no"}
MAIN = ("km", "motorway_kmh", "out_c", "leave_soc", "end_soc")
SHOWN_LEVELS = (0.05, 0.2, 0.4, 0.6, 0.8, 0.95)


class LongForm(BaseModel):
    """The levers at the edge, in SI; a missing one stays as usual."""

    km: float | None = number("The way", "distance", 20, 2000, "One way, or the whole day.", default=None)
    motorway_kmh: float | None = number("Motorway", "speed", 50, 160, "Your steady speed there.", default=None)
    limit_kmh: float | None = number("The roads allow", "speed", 60, 160, "On motorways; the sign decides.", default=None)
    out_c: float | None = number("Outside", "temperature", -35, 45, "Mean of the day.", default=None, step=0.5)
    leave_soc: float | None = number("Leaving with", "percent", 0.05, 1.0, "", default=None)
    end_soc: float | None = number("At the end", "percent", 0.0, 1.0, "At least so much, likely.", default=None)
    country_km: float | None = number("Country road", "distance", 0, 1000, "Of the way.", default=None)
    goal: Goal | None = choice("Wanted", GOALS, "", None)
    every_km: float | None = number("A post about every", "distance", 5, 500, "When none are listed.", default=None)
    post_kw: float | None = number("Of a power of", "power", 3, 500, "", default=None)
    price: float | None = number("And a price of", "price", 0, 20, "", default=None, step=0.01)
    stop_min: float | None = number("A stop costs besides", "minutes", 0, 60, "Turn off, plug, pay.", default=None)
    warms: bool | None = choice("Warm the pack on the way", YES_NO, "The car must know the post.", None)
    alone: bool | None = choice("Alone at shared posts", YES_NO, "Then they give all they can.", None)
    meal_km: float | None = number("A meal after", "distance", 0, 2000, "", default=None)
    meal_min: float | None = number("Of so long", "minutes", 0, 600, "0 for none.", default=None)
    from_km: float | None = number("You are at", "distance", 0, 2000, "Planned from here, with the level above.", default=None)


class WayForm(BaseModel):
    """A way that is kept."""

    name: str = text("Name of the way", 40, "To the coast …")
    km: float = number("Its length", "distance", 20, 2000, "One way.")
    country_km: float = number("Country road", "distance", 0, 1000, "Of it.", default=COUNTRY_KM)
    limit_kmh: float | None = number(
        "Its motorways allow", "speed", 60, 160, "Empty: what is usual in your country.", default=None
    )


class StopForm(BaseModel):
    """What a stop gave."""

    soc_from: float = number("Arrived with", "percent", 0.0, 1.0, "")
    soc_to: float = number("Left with", "percent", 0.0, 1.0, "")
    minutes: float = number("Stood", "minutes", 1, 600, "")
    kw: float = number("Post", "power", 3, 500, "")


@dataclass(frozen=True, kw_only=True)
class LongView:
    """Everything the templates need."""

    made: service.LongRoom
    units: Units
    verdict: Verdict
    saw: Both
    rows: list[tuple[str, ...]]
    curve: str
    query: str


@dataclass(frozen=True, kw_only=True)
class SideView:
    """The pictures side by side."""

    side: service.SideBySide
    made: service.LongRoom
    query: str
    units: Units
    verdict: Verdict
    counts: Both
    speeds: Both
    gives: Both


def _query(room: service.LongRoom, units: Units) -> str:
    """The car and the way, for an address; its numbers are in the units of whoever looks."""
    return urlencode({"car": room.car_id, **({"way": room.way_id} if room.way_id else {}), "shown_in": units.code})


def view(made: service.LongRoom, units: Units) -> LongView:
    """The plan as text and picture."""
    car = made.made.request.car
    curve = "; ".join(f"{100 * level:.0f} {float(curve_kw(car, level)):.0f}" for level in SHOWN_LEVELS)
    return LongView(
        made=made,
        units=units,
        verdict=long_verdict(made, units),
        saw=Both(lambda phone: drawing.saw(made, units, phone)),
        rows=stop_rows(made.made, made, units),
        curve=curve,
        query=_query(made, units),
    )


def side_view(side: service.SideBySide, units: Units) -> SideView:
    """The comparisons as text and pictures."""
    said = side_words(side, units)
    return SideView(
        side=side,
        made=side.room,
        query=_query(side.room, units),
        units=units,
        verdict=Verdict((Part(said[0]),), (Part(" ".join(said[1:])),), ()),
        counts=Both(lambda phone: drawing.counts(side, phone)),
        speeds=Both(lambda phone: drawing.speeds(side, units, phone)),
        gives=Both(lambda phone: drawing.gives(side, phone)),
    )


def _closed(texts: Mapping[str, str]) -> tuple[float, ...]:
    """The marks (km) of posts that do not work, as the address has them."""
    found = []
    for each in texts.get("without", "").split(",")[:20]:
        try:
            found.append(values.number(each))
        except ValueError:
            continue
    return tuple(found)


def _compute(asked: Asked, override: Callable[[service.LongInputs], service.LongInputs]) -> service.LongRoom:
    return service.long_day(asked.snapshot, asked.car, override, whole_number(asked.texts.get("way")), _closed(asked.texts))


def _side(asked: Asked, override: Callable[[service.LongInputs], service.LongInputs]) -> service.SideBySide:
    way, closed = whole_number(asked.texts.get("way")), _closed(asked.texts)
    return service.side_by_side(asked.snapshot, asked.car, override, way, closed, asked.wait_s)


def _context(made: Made[service.LongRoom], request: Request) -> Mapping[str, object]:
    return {"main": MAIN, "without": made.asked.texts.get("without", ""), "message": ""}


ROOM = LeverRoom(
    name="day", path="/day/long", templates="long_day", form=LongForm, compute=_compute, view=view, context=_context,
    fields={"posts": "every_km", "reserve": "leave_soc"},
)  # fmt: skip
SIDE = LeverRoom(
    name="day", path="/day/long/side", templates="long_day/side", form=LongForm, compute=_side, view=side_view,
    context=lambda made, request: {"main": MAIN, "without": made.asked.texts.get("without", ""), "message": ""},
    fields={"posts": "every_km", "reserve": "leave_soc"},
    wait=("The long day side by side", "Planning it with other stops, speeds and weather …"),
)  # fmt: skip
ROOM.mount(router)
SIDE.mount(router)


@router.get("/day/long/way")
def way(request: Request) -> Response:
    """A way and its posts, to be changed; a new one without a number."""
    return _way_page(request, whole_number(request.query_params.get("way")), {}, errors={}, status=200)


def _way_page(
    request: Request,
    number_: int | None,
    typed: Mapping[str, str],
    *,
    errors: Mapping[str, str],
    status: int,
    posts: str | None = None,
) -> Response:
    units = units_of(request)
    kept = next((each for each in snapshot_of(request).home.ways if each.id == number_), None)
    known = {"country_km": COUNTRY_KM} if kept is None else {"name": kept.name, "km": kept.km, "country_km": kept.country_km}
    limit = kept.limit_kmh if kept is not None else None
    lines = write_posts(kept.posts, units.of("distance").read(1.0)) if kept is not None else ""
    texts = {name: units.field(value, "distance") if isinstance(value, float) else str(value) for name, value in known.items()}
    texts["limit_kmh"] = "" if limit is None else units.field(limit, "speed")
    fields = views(WayForm, {**texts, **typed}, errors, units)
    return render(
        request, "long_day/way.html", status, room="day", fields=fields, way_id=kept.id if kept else "", units=units,
        posts=typed.get("posts", posts if posts is not None else lines), posts_error=errors.get("posts", ""),
        car=request.query_params.get("car", typed.get("car", "")),
    )  # fmt: skip


@router.post("/day/long/way")
def keep_way(request: Request, sent: Upload) -> Response:
    """Keep a way with its posts, as lines or from a file of lines or waypoints."""
    units = units_of(request)
    fields, number_, mark_km = sent.fields, whole_number(sent.fields.get("way")), units.of("distance").read(1.0)
    try:
        if sent.content:
            if sent.content.lstrip()[:1] == b"<":
                km, posts = read_waypoints(sent.content)
                fields = {**fields, "km": units.field(round(km, 1), "distance"), "posts": write_posts(posts, mark_km)}
            else:
                fields = {**fields, "posts": write_posts(read_posts(sent.content, mark_km), mark_km)}
            return _way_page(request, number_, fields, errors={}, status=200)
    except Refusal as refusal:
        return _way_page(request, number_, fields, errors={"posts": refusal.message}, status=422)
    form, errors = parse(WayForm, fields, units)
    try:
        posts = read_posts(fields.get("posts", "").encode(), mark_km)
    except Refusal as refusal:
        errors["posts"] = refusal.message
    if form is None or errors:
        return _way_page(request, number_, fields, errors=errors, status=422)
    try:
        kept, undo = kept_ways.keep_way(
            household_of(request),
            number_,
            form.name,
            form.km,
            form.country_km,
            posts=posts,
            seen_revision=seen(fields),
            limit_kmh=form.limit_kmh,
        )
    except Refusal as refusal:
        return _way_page(request, number_, fields, errors={refusal.field or "posts": units.refusal(refusal)}, status=422)
    return RedirectResponse(f"/day/long?{urlencode({'way': kept, 'car': fields.get('car', ''), 'undo': undo})}", 303)


@router.post("/day/long/note")
def note(request: Request, fields: PostedNow) -> Response:
    """Note what a stop gave."""
    units = units_of(request)
    car = whole_number(fields.get("car"), 0)
    back = {"car": str(car), **({"way": fields["way"]} if fields.get("way") else {})}
    form, errors = parse(StopForm, fields, units)
    try:
        if form is None:
            raise Refusal(next(iter(errors.values())), "soc_to")
        place = values.words(fields.get("place", "") or "on the way", 40)
        undo = kept_ways.note_stop(
            household_of(request), car, snapshot_of(request).now, soc_from=form.soc_from, soc_to=form.soc_to,
            minutes=form.minutes, kw=form.kw, place=place, seen_revision=seen(fields),
        )  # fmt: skip
    except (Refusal, ValueError) as problem:
        message = units.refusal(problem) if isinstance(problem, Refusal) else "The name of the post has what no name has."
        return ROOM.page(request, ROOM.made(request, back), 422, message=message)
    return RedirectResponse(f"/day/long?{urlencode({**back, 'undo': undo})}", 303)


@router.post("/day/long/curve")
def curve(request: Request, fields: Posted) -> Response:
    """Keep the car's own curve: levels and kW in pairs, nothing for the usual one."""
    units = units_of(request)
    car = whole_number(fields.get("car"), 0)
    try:
        pairs = [each.split() for each in fields.get("points", "").replace(",", ".").split(";") if each.strip()]
        points = [(values.number(level) / 100.0, values.number(kw)) for level, kw in pairs]
        undo = kept_ways.keep_curve(household_of(request), car, points, seen(fields))
    except (Refusal, ValueError) as problem:
        message = (
            units.refusal(problem) if isinstance(problem, Refusal) else "A curve is pairs of level and kW: 10 100; 50 80; 80 40."
        )
        return ROOM.page(request, ROOM.made(request, {"car": str(car)}), 422, message=message)
    return RedirectResponse(f"/day/long?car={car}&undo={undo}", 303)
