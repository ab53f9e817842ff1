"""Room 0, said and true: the trade's rules of thumb, each as one line with what it is worth for this car."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

from fastapi import Request
from fastapi.responses import RedirectResponse, Response

from ....core.errors import Refusal
from ....core.sayings import SAYINGS as KEYS
from ....core.sayings.said import Said, Verdict
from ....services.sayings.room import SayingsRoom, follow, sayings
from ....services.shared.derived import LONG_S
from ...drawing.both import Both
from ...guard import Posted
from ...navigation import Tab
from ...once import Router
from ...page import render, seen, units_of, whole_number
from ...reading import household_of, snapshot_of
from ...units import Units
from . import words
from .picture import turn_drawn, worth_drawn
from .written import written

router = Router()
TABS = (Tab(of="basis", key="sayings", path="/basis/sayings", words="Said and true", at=1, figures={"sayings": "Said and true"}),)
SHOWN = (Verdict.HOLDS, Verdict.TURNS, Verdict.NOT_HERE, Verdict.LITTLE, Verdict.NOBODY_KNOWS)


@dataclass(frozen=True, kw_only=True)
class Line:
    """A saying as it stands on the page."""

    key: str
    title: str
    verdict: str
    code: str
    words: str
    stake: str
    who: str
    yearly: tuple[str, ...]
    heads: tuple[str, ...]
    sides: tuple[tuple[str, tuple[str, ...], bool], ...]
    logged: str
    caution: str
    basis: str
    find: str
    room: tuple[str, str]
    picture: Both | None
    act: str


def line(key: str, said: Said, room: SayingsRoom, units: Units) -> Line:
    """A saying in words."""
    heads = words.columns(said.sides)
    sides = tuple(
        (
            words.side_name(each.key, units),
            tuple(written(each.numbers[name], words.NUMBERS[name][1], units) if name in each.numbers else "" for name in heads),
            each.key == said.best,
        )
        for each in said.sides
    )
    path, name = words.ROOMS[said.room]
    return Line(
        key=key, title=words.SAYINGS[key][0], verdict=words.VERDICTS[said.verdict], code=said.verdict.value,
        words=words.sentence(key, said, units),
        stake=words.stake_words(said, units),
        who="The better side" if said.best else "Following it",
        yearly=tuple(words.yearly_words(each, units) for each in said.yearly if room.here.weight((each,)) >= room.here.per_euro / 2),
        heads=tuple(words.NUMBERS[each][0] for each in heads), sides=sides, logged=words.logged_words(said, units),
        caution=words.CAUTIONS.get(key, ""), basis=said.basis.value, find=said.rests_on[0].rstrip(".") if said.rests_on else "",
        room=(f"{path}?car={room.car_id}", name), act=words.act_words(said, units),
        picture=Both(partial(turn_drawn, said.turn, units)) if said.turn is not None and said.turn.drawn else None,
    )  # fmt: skip


@router.get("/basis/sayings")
def page(request: Request) -> Response:
    """The sayings for a car: at first those that are at hand, the rest as soon as they are worked out."""
    query, units = request.query_params, units_of(request)
    whole, of = "now" in query, query.get("of", "")
    made = sayings(snapshot_of(request), whole_number(query.get("car")), whole, LONG_S if whole else 0.0)
    counts = {each.value: sum(one.verdict is each for one in made.told.values()) for each in SHOWN}
    again = request.url.include_query_params(now=1)
    return render(
        request,
        "sayings/room.html",
        room="basis",
        tab="sayings",
        made=made,
        view={"verdict": words.verdict(made, len(KEYS), units)},
        lines=[line(key, said, made, units) for key, said in made.told.items() if of in ("", said.verdict.value)],
        lacking=[words.SAYINGS[key][0] for key in made.lacking],
        lacking_words=words.LACKING,
        kinds=_kinds(counts),
        of=of,
        picture=Both(lambda phone: worth_drawn(made, units, phone)) if made.told else None,
        go=f"{again.path}?{again.query}",
        ask=f"/basis/sayings/ready?car={made.car_id}",
    )


def _kinds(counts: Mapping[str, int]) -> tuple[tuple[str, str, int], ...]:
    return tuple((each.value, words.VERDICTS[each], counts[each.value]) for each in SHOWN if counts[each.value])


@router.get("/basis/sayings/ready", include_in_schema=False)
def ready(request: Request) -> Response:
    """Whether all of them are worked out: 204, or 202 while some are being."""
    made = sayings(snapshot_of(request), whole_number(request.query_params.get("car")), True, 0.2)
    return Response(status_code=202 if made.waiting else 204, headers={"cache-control": "no-store"})


@router.post("/basis/sayings/follow")
def act(request: Request, fields: Posted) -> Response:
    """Do what a saying advises, as it advises now."""
    snapshot, car = snapshot_of(request), whole_number(fields.get("car"))
    key = fields.get("saying", "")
    if key not in KEYS:
        raise Refusal("There is no such saying.")
    made = sayings(snapshot, car, only=key)
    said = made.told.get(key)
    if said is None or said.act is None:
        raise Refusal("There is nothing to set for this saying.")
    habit, value = said.act
    units = units_of(request)
    done = f"{words.act_words(said, units)}, for {made.owned.name}"
    undo = follow(household_of(request), made.car_id, habit, value, done, seen(fields))
    return RedirectResponse(f"/basis/sayings?car={made.car_id}&undo={undo}#{key}", 303)
