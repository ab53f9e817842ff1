"""Keeping a plan for tonight or for good, putting it back, and entering what happened beside it."""

from collections.abc import Sequence
from dataclasses import asdict, fields
from datetime import datetime, time

from sqlalchemy import select

from ..core.charge.night import NightPlan
from ..core.drive.certainty import LevelBand, odd
from ..core.errors import Refusal
from ..formats.charging_profile import Drawn, NightProfile
from ..household.facts import level_read, tyres_read
from ..household.home import Home, Stale
from ..household.models import BlockRow, DepartureRow, DriveRow, HabitRow, PlanRow, StartCheckRow
from ..household.parts import household
from ..household.plans import coming_plan
from .day_levers import OF_THE_DAY
from .night_levers import LISTED, USUAL
from .tonight import Tonight


def keep(home: Home, night: Tonight, seen_revision: int, departure: datetime) -> int:
    """Keep the plan for the coming night, in place of one kept before: it is tonight from then on. Returns its undo number.

    Raises: Stale when the household moved on, Refusal when the departure that was shown has passed.
    """
    if departure <= night.now:
        raise Refusal("That departure has passed. Look at the new plan, then keep it.", "depart")
    if departure != night.plan.request.departure:
        raise Stale("The night has moved on since this page was opened.")
    with home.deciding("Kept for tonight", seen_revision) as session:
        old = coming_plan(session, night.car_id, night.now)
        if old is not None:
            old.withdrawn = True
        session.add(_row(night))
        if night.levers.soc_now != night.habits.soc_now:
            session.add(level_read(night.car_id, home.world.clock.now(), night.levers.soc_now))
    return session.number


def _row(night: Tonight) -> PlanRow:
    plan = night.plan
    levers = {key: value.isoformat() if isinstance(value, time) else value for key, value in asdict(night.levers).items()}
    return PlanRow(
        car_id=night.car_id,
        kept_at=night.now,
        plug_in=plan.request.plug_in,
        departure=plan.request.departure,
        km=night.levers.km,
        limit=night.levers.limit,
        soc_start=night.levers.soc_now,
        soc_departure=plan.soc_departure,
        arrival_low=night.arrival.low,
        arrival_likely=night.arrival.likely,
        arrival_high=night.arrival.high,
        wall_kwh=plan.session.wall_kwh + plan.warm.wall_kwh,
        cost=plan.cost,
        levers=levers,
        pulled=[name for name in _pulled(night) if name != "soc_now"],  # the level is a reading of its own
        start_pack_c=plan.warm.pack_c,
        start_cabin_c=plan.warm.cabin_c,
        blocks=_blocks(plan),
    )


def _pulled(night: Tonight) -> list[str]:
    """The levers that are not as usual."""
    return [each.name for each in fields(night.levers) if getattr(night.levers, each.name) != getattr(night.habits, each.name)]


def _blocks(plan: NightPlan) -> list[BlockRow]:
    """The stretches of drawing: charging, then the warm-up from the wall."""
    found = [("charge", each.start, each.end, each.wall_kwh, each.cost) for each in plan.blocks]
    if plan.warm.wall_kwh > 0:
        found.append(("warm_up", plan.warm_start, plan.request.departure, plan.warm.wall_kwh, plan.warm_cost))
    return [
        BlockRow(kind=kind, begin=begin, end=end, kw=kwh / ((end - begin).total_seconds() / 3600), price_per_kwh=cost / kwh)
        for kind, begin, end, kwh, cost in found
        if end > begin and kwh > 0
    ]


def note_start(
    home: Home, car_id: int, now: datetime, troubles: Sequence[str], amps: float | None, seen_revision: int | None
) -> int:
    """Note what was seen when the cable went in; returns the undo number. Raises: Stale."""
    words = "Noted: something is wrong with the start" if troubles else "Noted: the charge began"
    with home.deciding(words, seen_revision) as session:
        session.add(StartCheckRow(car_id=car_id, at=now, amps=amps, troubles=list(troubles)))
    return session.number


def profile(home: Home, night: Tonight) -> NightProfile:
    """The plan as what a charge point would be told: amperes in its blocks and in the warm-up. Raises: Refusal without any."""
    plan = night.plan
    with home.reading() as session:
        outlet = session.get_one(HabitRow, night.car_id).outlet
        phases = min(outlet.phases if outlet else 1, night.car.charger.phases)
    amps_per_kw = night.rate.amps / night.rate.wall_kw
    spans = [(each.start, each.end, amps_per_kw * each.wall_kw) for each in plan.blocks]
    if plan.warm.wall_kwh > 0:
        spans.append((plan.warm_start, plan.request.departure, night.rate.amps))
    if not spans:
        raise Refusal("Nothing is drawn on this night, so there is no profile.")
    drawn = [Drawn(begin=begin, end=end, amps=amps) for begin, end, amps in spans if end > begin]
    return NightProfile(begin=plan.start, end=plan.request.departure, phases=phases, drawn=drawn)


def leave(home: Home, car_id: int, now: datetime) -> int:
    """Leave the plan that is kept for the coming night: tonight is as usual again. Returns the undo number."""
    with home.deciding("Back to the usual evening") as session:
        kept = coming_plan(session, car_id, now)
        if kept is not None:
            kept.withdrawn = True
    return session.number


OUTSIDE = ("out_now_c", "out_low_c")
HELD = ("held_from", "held_until")


def keep_for_good(home: Home, night: Tonight, seen_revision: int) -> int:
    """Make tonight's levers the usual ones of the car, tonight too; returns the number to undo it by. Raises: Stale."""
    levers = night.levers
    with home.deciding("Kept for good", seen_revision) as session:
        row, house = session.get_one(HabitRow, night.car_id), household(session)
        kept = coming_plan(session, night.car_id, night.now)
        if kept is not None:
            kept.withdrawn = True
        listed = [session.get_one(DepartureRow, each.row.id) for each in night.due] if levers.day == LISTED else []
        for name in _pulled(night):
            value = getattr(levers, name)
            if name == "km" and listed:
                for departure in listed:
                    departure.km *= value / night.usual.km
            elif name == "km" and levers.day == USUAL:
                factor = value / row.km
                row.town_km, row.country_km, row.motorway_km = (
                    km * factor for km in (row.town_km, row.country_km, row.motorway_km)
                )
            elif name == "depart" and night.due:
                session.get_one(DepartureRow, night.due[0].row.id).at = value
            elif name in OF_THE_DAY and levers.day not in (USUAL, LISTED):
                continue  # a kept day is changed in its own room
            elif name == "soc_now":
                session.add(level_read(night.car_id, home.world.clock.now(), value))
            elif name == "tyre_kpa":
                session.add(tyres_read(night.car_id, home.world.clock.now(), value, night.tyre_read_c))
            elif name in HELD and row.outlet is not None:
                setattr(row.outlet, name, value)
            elif name in OUTSIDE:
                setattr(house, name, value if home.world.weather is None else getattr(house, name))
            elif name != "km" and hasattr(HabitRow, name):
                setattr(row, name, value)
    return session.number


class Doubtful(Refusal):
    """Levels that hardly fit the plan: perhaps a slip of the finger, perhaps another day than planned."""


def note(
    home: Home,
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
    with home.deciding("Noted beside the plan", seen_revision) as session:
        plan = session.get(PlanRow, plan_id)
        if plan is None:
            raise Refusal("There is no such plan.")
        planned, used = plan.soc_departure - plan.arrival_likely, departure_soc - arrival_soc
        band = LevelBand(plan.arrival_low, plan.arrival_likely, plan.arrival_high)
        if not sure and odd(used, planned, band):
            raise Doubtful(
                f"Does this look right? The day took {100 * used:.0f} % of the pack, and {100 * planned:.0f} % were planned. "
                "Correct a level, or note it as it is: one odd day does not move the band.",
                "sure",
            )
        drive = session.scalars(select(DriveRow).where(DriveRow.plan_id == plan_id)).first() or DriveRow(plan_id=plan_id)
        drive.car_id, drive.left_at, drive.km, drive.noted_at = plan.car_id, plan.departure, plan.km, now
        drive.soc_start, drive.soc_end = departure_soc, arrival_soc
        drive.start_pack_c, drive.start_cabin_c = plan.start_pack_c, plan.start_cabin_c
        drive.assumed = ["left_at", "km", "start_pack_c", "start_cabin_c"]
        typed = [float(str(plan.levers[name])) for name in OUTSIDE if name in plan.levers]
        if home.world.weather is None and len(typed) == len(OUTSIDE):
            drive.typed_at, drive.typed_now_c, drive.typed_low_c = plan.kept_at, *typed
        session.add(drive)
    return session.number
