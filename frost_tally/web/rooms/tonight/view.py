"""Tonight as its templates get it: words, values of forms and pictures, nothing to work out with."""

from collections.abc import Mapping
from dataclasses import dataclass

from ....core.charge.saved_plan import DrivenPlan, SavedPlan
from ....services.shared.home import Stamp
from ....services.tonight.room import Tonight
from ...drawing import ribbon, stair
from ...drawing.both import Both
from ...tally_table import TallyRow, tally_table
from ...units import Units
from ...words.controls import CONTROL_WORDS, set_words
from ...words.level import doubt_answers, doubt_question, level_question
from ...words.night import kept_words, moved_words, night_title, verdict
from ...words.sentence import Verdict, home_short, percent
from . import ribbon_upright
from .start import started_words
from .words import Fact, beside, day_facts, facts

BESIDE_BAND = {0: "within the band", 1: "above the band", -1: "below the band"}


@dataclass(frozen=True, kw_only=True)
class Ranges:
    """The ends of the levers that slide, in the reader's units; `motorway` is None where nothing is driven there."""

    km: str
    motorway: tuple[str, str] | None
    tyre: tuple[str, str]


@dataclass(frozen=True, kw_only=True)
class TonightView:
    """Everything the templates need."""

    units: Units
    title: str
    air: str
    cars: tuple[tuple[int, str], ...]
    car_id: int
    day: str
    idle: bool
    clock: str
    by_evening: bool
    revision: Stamp
    departure: str
    ranges: Ranges
    verdict: Verdict
    kept: str
    keeps: bool
    by_itself: bool
    moved: str
    doubt: str
    answers: Mapping[str, str]
    away: bool
    settings: tuple[str, ...]
    started: tuple[str, ...]
    blocked: bool
    outlet_id: int
    lights: str
    current: str
    timer: bool
    raises: str
    open: tuple[int, str] | None
    noted: tuple[tuple[str, ...], ...]
    profile: bool
    ribbon: Both
    beside: tuple[tuple[str, str, str], ...]
    stair: Both | None
    leaves_with: str
    level: str
    reserve: str
    tally_rows: tuple[TallyRow, ...]
    facts: tuple[Fact, ...]
    day_facts: tuple[Fact, ...]


def view(night: Tonight, units: Units) -> TonightView:
    """The room as text and pictures."""
    tally, plan, inputs = night.tally, night.plan, night.inputs
    band = stair.range_band(plan.soc_departure, night.arrival, inputs.km, tally) if tally else (0.0, 0.0)
    said = verdict(night, units)
    words = ribbon.describe(night, units, said)
    now, low = (units.text(each, "temperature", 0) for each in (inputs.out_now_c, inputs.out_low_c))
    return TonightView(
        units=units,
        title=night_title(night, units),
        air=f"{now} now, {low} by morning",
        cars=night.cars,
        car_id=night.car_id,
        day=inputs.day,
        idle=night.idle,
        clock=units.clock(night.now),
        by_evening=night.now.hour >= 18,
        revision=night.revision,
        departure=plan.request.departure.isoformat(),
        ranges=_ranges(night, units),
        verdict=said,
        kept=kept_words(night, units),
        keeps=night.owned.habit.keeps,
        by_itself=night.by_itself,
        moved=moved_words(night, units),
        doubt=doubt_question(night),
        answers=doubt_answers(night),
        away=night.state.away is not None,
        settings=tuple(set_words(night, units)),
        started=tuple(started_words(night.started, night.zone, units)),
        blocked=night.started.blocked,
        outlet_id=night.started.outlet.id,
        lights=night.started.outlet.lights,
        current=units.text(night.started.planned.amps, "current"),
        timer=bool(plan.blocks) and CONTROL_WORDS[night.control.how].set_once,
        raises=units.field(night.limit_advice.target_soc, "percent") if night.raises else "",
        open=(night.open.id, _planned(night.open)) if night.open else None,
        noted=tuple(_noted(each, night, units) for each in night.noted),
        profile=bool(plan.blocks) or plan.warm.wall_kwh > 0,
        ribbon=Both(lambda upright: (ribbon_upright.upright if upright else ribbon.wide)(night, units, words)),
        beside=beside(night, units),
        stair=stair.both(tally, band, inputs.km, units) if tally else None,
        level=level_question(night, units),
        leaves_with=percent(tally.from_soc if tally else plan.soc_departure),
        reserve=percent(night.reserve),
        tally_rows=tally_table(tally, units),
        facts=facts(night, units),
        day_facts=day_facts(night, units),
    )


def _ranges(night: Tonight, units: Units) -> Ranges:
    placard = night.car.tyres.placard_kpa
    motorway = (units.field(80, "speed"), units.field(140, "speed")) if night.owned.habit.motorway_km > 0 else None
    tyre = units.field(placard - 80, "pressure"), units.field(placard + 30, "pressure")
    return Ranges(km=units.field(max(400.0, night.inputs.km), "distance"), motorway=motorway, tyre=tyre)


def _planned(plan: SavedPlan) -> str:
    """What a plan that waits for its day was to bring."""
    return f"leave with {percent(plan.soc_departure)}, come home with {home_short(plan.arrival)}"


def _noted(driven: DrivenPlan, night: Tonight, units: Units) -> tuple[str, ...]:
    """A plan beside what was driven on it: departure, left with in fact and by plan, home with in fact and by plan, verdict."""
    plan, leaves = driven.plan, driven.plan.departure.astimezone(night.zone)
    return (
        f"{units.date(leaves, weekday='a')} {units.clock(leaves)}",
        f"{percent(driven.soc_start)}, planned {percent(plan.soc_departure)}",
        f"{percent(driven.soc_end)}, planned {home_short(plan.arrival)}",
        BESIDE_BAND[driven.beside_band],
    )
