"""Keeping a plan for tonight or for good, putting it back, and entering what happened beside it. Why: docs/decisions/0070."""

from collections.abc import Sequence
from dataclasses import asdict, fields
from datetime import datetime, time
from enum import StrEnum

from ...core.advice.night_inputs import LISTED, USUAL, NightInputs
from ...core.charge.night import NightPlan
from ...core.charge.saved_plan import CHARGE, WARM_UP, SavedBlock, SavedPlan
from ...core.coming.level import Tells
from ...core.coming.weather import TypedNight
from ...core.drive.certainty import odd
from ...core.drive.day_inputs import OF_THE_DAY
from ...core.errors import Refusal
from ...core.parts import Habit
from ...formats.charging_profile import Drawn, NightProfile
from ...household import parts, plans
from ...household.departures import change_departure, warm_by_habit
from ...household.facts import known_by, level_read, note_level, note_tyres
from ...household.log import remove_entry
from ...household.state import Stale
from ...household.unit_of_work import Household
from ..shared.now import doubted_night, told_by
from .room import Tonight


def keep(household: Household, night: Tonight, seen_revision: int, departure: datetime) -> int:
    """Keep the plan for the coming night, in place of one kept before: it is tonight from then on. Returns its undo number.

    Raises: Stale when the household moved on, Refusal when the departure that was shown has passed.
    """
    _same_night(night, departure)
    with household.deciding("Kept for tonight", seen_revision) as session:
        plans.save_plan(session, _saved(night))
        if night.inputs.soc_now != night.habits.soc_now:
            note_level(session, night.car_id, household.world.clock.now(), night.inputs.soc_now)
    return session.number


def keep_evenings(household: Household, night: Tonight, seen_revision: int, departure: datetime) -> int:
    """Keep the plan for the coming night, and from now on each evening's by itself. Returns the undo number. Raises as `keep`."""
    _same_night(night, departure)
    with household.deciding("Kept for tonight, and each evening from now on", seen_revision) as session:
        parts.write_habit(session, night.car_id, keeps=True)
        plans.save_plan(session, _saved(night))
    return session.number


def _same_night(night: Tonight, departure: datetime) -> None:
    """Raises: Refusal when the departure that a page showed has passed, Stale when the night is another by now."""
    if departure <= night.now:
        raise Refusal("That departure has passed. Look at the new plan, then keep it.", "depart")
    if departure != night.plan.request.departure:
        raise Stale("The night has moved on since this page was opened.")


def _saved(night: Tonight) -> SavedPlan:
    plan, it, inputs = night.plan, night.night, asdict(night.night.inputs)
    return SavedPlan(
        car_id=night.car_id,
        kept_at=night.now,
        plug_in=plan.request.plug_in,
        departure=plan.request.departure,
        km=0.0 if it.stay.stays else it.inputs.km,
        limit=it.inputs.limit,
        soc_start=it.soc,
        soc_departure=plan.soc_departure,
        arrival_low=it.arrival.low,
        arrival_likely=it.arrival.likely,
        arrival_high=it.arrival.high,
        wall_kwh=plan.session.wall_kwh + plan.warm.wall_kwh,
        cost=plan.cost,
        inputs={key: value.isoformat() if isinstance(value, time) else value for key, value in inputs.items()},
        overrides=tuple(name for name in _overrides(night) if name != "soc_now"),  # the level is a reading of its own
        start_pack_c=plan.warm.pack_c,
        start_cabin_c=plan.warm.cabin_c,
        blocks=tuple(_blocks(plan)),
    )


def _overrides(night: Tonight) -> list[str]:
    """The inputs that are not as usual."""
    return [each.name for each in fields(NightInputs) if getattr(night.inputs, each.name) != getattr(night.habits, each.name)]


def _blocks(plan: NightPlan) -> list[SavedBlock]:
    """The stretches of drawing: charging, then the warm-up from the wall."""
    found = [(CHARGE, each.start, each.end, each.wall_kwh, each.cost) for each in plan.blocks]
    if plan.warm.wall_kwh > 0:
        found.append((WARM_UP, plan.warm_start, plan.request.departure, plan.warm.wall_kwh, plan.warm_cost))
    return [
        SavedBlock(kind, begin, end, kwh / ((end - begin).total_seconds() / 3600), cost / kwh)
        for kind, begin, end, kwh, cost in found
        if end > begin and kwh > 0
    ]


def note_start(
    household: Household, car_id: int, now: datetime, *, troubles: Sequence[str], amps: float | None, seen_revision: int | None
) -> int:
    """Note what was seen when the cable went in; returns the undo number. Raises: Stale."""
    words = "Noted: something is wrong with the start" if troubles else "Noted: the charge began"
    with household.deciding(words, seen_revision) as session:
        plans.note_start_check(session, car_id, now, troubles, amps)
    return session.number


def note_level_now(household: Household, car_id: int, now: datetime, soc: float, seen_revision: int | None) -> int:
    """Note the level (0 to 1) that the car shows, and that the night before charged where it shows that; returns the undo number.

    Raises: Stale.
    """
    with household.deciding("Level noted", seen_revision) as session:
        state = household.as_decided(session, now)
        night = told_by(state, state.home.car(car_id), now, soc)
        note_level(session, car_id, now, soc)
        if night is not None and night.tells is Tells.CHARGED:
            plans.note_night(session, car_id, night, now, charged=True, told=False)
    return session.number


class Happened(StrEnum):
    """What became of a night whose level contradicts it: it did not charge, it did, the level was misread."""

    MISSED = "missed"
    CHARGED = "charged"
    MISREAD = "misread"


def tell_night(
    household: Household, car_id: int, now: datetime, *, happened: Happened, words: str, seen_revision: int | None
) -> int:
    """Note what became of the night that the level read last contradicts: a misread level goes. Returns the undo number.

    Raises: Refusal when nothing contradicts any more; Stale.
    """
    with household.deciding(words, seen_revision) as session:
        state = household.as_decided(session, now)
        night, read = doubted_night(state, state.home.car(car_id)), level_read(session, car_id)
        if night is None or read is None:
            raise Refusal("Nothing is in doubt about that night any more.")
        if happened is Happened.MISREAD:
            remove_entry(session, "level", read[2])
        else:
            plans.note_night(session, car_id, night, now, charged=happened is Happened.CHARGED, told=True)
    return session.number


def profile(night: Tonight) -> NightProfile:
    """The plan as what a charge point would be told: amperes in its blocks and in the warm-up. Raises: Refusal without any."""
    plan, drawn = night.plan, night.plan.drawn_a(night.rate)
    if not drawn:
        raise Refusal("Nothing is drawn on this night, so there is no profile.")
    phases = min(night.owned.at.supply.phases, night.car.charger.phases)
    spans = [Drawn(begin=begin, end=end, amps=amps) for begin, end, amps in drawn]
    return NightProfile(begin=plan.start, end=plan.request.departure, phases=phases, drawn=spans)


def leave(household: Household, night: Tonight, seen_revision: int, departure: datetime) -> int:
    """Leave the plan that is kept for the coming night: tonight is as usual again. Returns the undo number. Raises as `keep`."""
    _same_night(night, departure)
    with household.deciding("Back to the usual evening", seen_revision) as session:
        plans.withdraw_plan(session, night.car_id, night.now)
    return session.number


OUTSIDE = ("out_now_c", "out_low_c")
HELD = ("held_from", "held_until")
OF_THE_HABIT = {each.name for each in fields(Habit)} | {"control"}


def keep_for_good(household: Household, night: Tonight, seen_revision: int, departure: datetime) -> int:
    """Make tonight's inputs the usual ones of the car, tonight too; returns the number to undo it by. Raises as `keep`."""
    _same_night(night, departure)
    inputs, habit, car_id, at = night.inputs, night.owned.habit, night.car_id, household.world.clock.now()
    with household.deciding("Kept for good", seen_revision) as session:
        plans.withdraw_plan(session, car_id, night.now)
        for name in _overrides(night):
            value = getattr(inputs, name)
            if name == "km" and inputs.day == LISTED:
                for due in night.due:
                    change_departure(session, due.listed.id, km=due.listed.km * value / night.defaults.km)
            elif name == "km" and inputs.day == USUAL:
                roads = ("town_km", "country_km", "motorway_km")
                parts.write_habit(session, car_id, **{road: getattr(habit, road) * value / habit.km for road in roads})
            elif name == "depart" and night.due:
                change_departure(session, night.due[0].listed.id, at=value)
            elif name in OF_THE_DAY and inputs.day not in (USUAL, LISTED):
                continue  # a kept day is changed in its own room
            elif name == "soc_now":
                note_level(session, car_id, at, value)
            elif name == "tyre_kpa":
                note_tyres(session, car_id, at, value, night.tyre_read_c)
            elif name in HELD:
                parts.write_held_hours(session, car_id, **{name: value})
            elif name in OUTSIDE and household.world.weather is None:
                parts.write_outside(session, at, inputs.out_now_c, inputs.out_low_c)
            elif name != "km" and name in OF_THE_HABIT:
                parts.write_habit(session, car_id, **{name: value})
                if name == "warm_up":
                    warm_by_habit(session, car_id)
    return session.number


class Doubtful(Refusal):
    """Levels that hardly fit the plan: perhaps a slip of the finger, perhaps another day than planned."""


def note(
    household: Household,
    plan_id: int,
    departure_soc: float,
    arrival_soc: float,
    now: datetime,
    *,
    sure: bool = False,
    seen_revision: int | None = None,
) -> int:
    """Enter what happened beside the plan; the arrival is also the level now. Returns the undo number.

    Raises: Refusal with its field; Doubtful for levels far outside the plan's band, unless the owner is `sure`; Stale.
    """
    if arrival_soc >= departure_soc:
        raise Refusal("You came home with more than you left with: check the two levels.", "actual_arrival")
    with household.deciding("Noted beside the plan", seen_revision) as session:
        plan = plans.plan_of(session, plan_id)
        planned, used = plan.soc_departure - plan.arrival_likely, departure_soc - arrival_soc
        if not sure and odd(used, planned, plan.arrival):
            raise Doubtful(
                f"Does this look right? The day took {100 * used:.0f} % of the pack, and {100 * planned:.0f} % were planned. "
                "Correct a level, or note it as it is: one odd day does not move the band.",
                "sure",
            )
        typed = None if household.world.weather is not None else _typed_of(plan, household.as_decided(session, now).typed)
        plans.note_drive(session, plan, (departure_soc, arrival_soc), now, typed)
    return session.number


def _typed_of(plan: SavedPlan, known: TypedNight | None) -> TypedNight | None:
    """The temperatures that a plan went by: those set for it, else what was typed by then; none where it went by the normal of the place.

    Not the plan's own two of now and the next morning: after six o'clock that is another morning, when what was typed has faded.
    """
    if known is not None and known.now < known_by(plan.kept_at) and not set(plan.overrides) & set(OUTSIDE):
        return known
    own = [float(str(plan.inputs[name])) for name in OUTSIDE if name in plan.inputs]
    told = len(own) == len(OUTSIDE) and (known is not None or set(plan.overrides) & set(OUTSIDE))
    return TypedNight(plan.kept_at, own[0], own[1]) if told else None
