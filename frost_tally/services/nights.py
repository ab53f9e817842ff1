"""Keeping a plan for tonight or for good, putting it back, and entering what happened beside it."""

from dataclasses import asdict, fields
from datetime import datetime, time

from ..core.drive.certainty import Band, odd
from ..core.errors import Refusal
from ..household.home import Home, Stale, coming_night, household
from ..household.models import CarRow, NightRow
from .evening import PULLED
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
        old = coming_night(session, night.car_id, night.now)
        if old is not None:
            old.withdrawn = True
        session.add(_row(night))
        row = session.get_one(CarRow, night.car_id)
        row.soc_now, row.soc_read_at = night.levers.soc_now, night.now
    return session.number


def _row(night: Tonight) -> NightRow:
    levers = {key: value.isoformat() if isinstance(value, time) else value for key, value in asdict(night.levers).items()}
    differ = [name for name in levers if getattr(night.levers, name) != getattr(night.habits, name)]
    return NightRow(
        car_id=night.car_id,
        kept_at=night.now,
        departure=night.plan.request.departure,
        sentence="",
        km=night.levers.km,
        soc_start=night.levers.soc_now,
        soc_departure=night.plan.soc_departure,
        arrival_low=night.arrival.low,
        arrival_likely=night.arrival.likely,
        arrival_high=night.arrival.high,
        wall_kwh=night.plan.session.wall_kwh + night.plan.warm.wall_kwh,
        cost=night.plan.cost,
        levers={**levers, PULLED: differ},
        start_pack_c=night.plan.warm.pack_c,
        start_cabin_c=night.plan.warm.cabin_c,
    )


def leave(home: Home, car_id: int, now: datetime) -> int:
    """Leave the plan that is kept for the coming night: tonight is as usual again. Returns the undo number, 0 without a plan."""
    with home.deciding("Back to the usual evening") as session:
        kept = coming_night(session, car_id, now)
        if kept is not None:
            kept.withdrawn = True
    return session.number


COLUMNS = {"limit": "habit_limit"}
OUTSIDE = ("out_now_c", "out_low_c")
TONIGHT_ONLY = ("surface",)


def keep_for_good(home: Home, night: Tonight, seen_revision: int) -> int:
    """Make tonight's levers the usual ones of the car, tonight too; returns the number to undo it by. Raises: Stale."""
    pulled = night.levers
    with home.deciding("Kept for good", seen_revision) as session:
        row, house = session.get_one(CarRow, night.car_id), household(session)
        kept = coming_night(session, night.car_id, night.now)
        if kept is not None:
            kept.withdrawn = True
        for name in (each.name for each in fields(pulled) if getattr(pulled, each.name) != getattr(night.habits, each.name)):
            if name == "km":
                factor = pulled.km / night.habits.km
                row.town_km, row.country_km, row.motorway_km = (
                    km * factor for km in (row.town_km, row.country_km, row.motorway_km)
                )
            elif name not in (*OUTSIDE, *TONIGHT_ONLY):
                setattr(row, COLUMNS.get(name, name), getattr(pulled, name))
            elif name in OUTSIDE and home.world.weather is None:
                setattr(house, name, getattr(pulled, name))
    return session.number


class Doubtful(Refusal):
    """Levels that hardly fit the plan: perhaps a slip of the finger, perhaps another day than planned."""


def note(home: Home, night_id: int, departure_soc: float, arrival_soc: float, now: datetime, sure: bool = False) -> int:
    """Enter what happened beside the plan; the arrival is also the level now. Returns the undo number.

    Raises: Refusal with its field; Doubtful for levels far outside the plan's band, unless the owner is `sure`.
    """
    if arrival_soc >= departure_soc:
        raise Refusal("You came home with more than you left with: check the two levels.", "actual_arrival")
    with home.deciding("Noted beside the plan") as session:
        row = session.get(NightRow, night_id)
        if row is None:
            raise Refusal("There is no such plan.")
        planned, used = row.soc_departure - row.arrival_likely, departure_soc - arrival_soc
        band = Band(row.arrival_low, row.arrival_likely, row.arrival_high)
        if not sure and odd(used, planned, band):
            raise Doubtful(
                f"Does this look right? The day took {100 * used:.0f} % of the pack, and {100 * planned:.0f} % were planned. "
                "Correct a level, or note it as it is: one odd day does not move the band.",
                "sure",
            )
        row.actual_departure, row.actual_arrival, row.noted_at = departure_soc, arrival_soc, now
        car = session.get_one(CarRow, row.car_id)
        car.soc_now, car.soc_read_at = arrival_soc, now
    return session.number
