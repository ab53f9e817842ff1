"""Keeping a plan, taking it back, and entering what happened beside it."""

from dataclasses import asdict
from datetime import datetime, time

from ..core.drive.certainty import Band, odd
from ..core.errors import Refusal
from ..household.home import Home, Stale, coming_night, household
from ..household.models import CarRow, ChangeRow, NightRow
from .tonight import Tonight


def keep(home: Home, night: Tonight, sentence: str, seen_revision: int, departure: datetime) -> int:
    """Keep the plan for the coming night, in place of one kept before; returns its number.

    Raises: Stale when the household moved on, Refusal when the departure that was shown has passed.
    """
    if departure <= night.now:
        raise Refusal("That departure has passed. Look at the new plan, then keep it.", "depart")
    if departure != night.plan.request.departure:
        raise Stale("The night has moved on since this page was opened.")
    with home.changing(seen_revision) as session:
        kept, old = _row(night, sentence), coming_night(session, night.car_id, night.now)
        if old is not None:
            old.withdrawn, kept.replaces_id = True, old.id
        session.add(kept)
        row = session.get_one(CarRow, night.car_id)
        row.soc_now, row.soc_read_at = night.levers.soc_now, night.now
        session.flush()
        return kept.id


def _row(night: Tonight, sentence: str) -> NightRow:
    levers = {key: value.isoformat() if isinstance(value, time) else value for key, value in asdict(night.levers).items()}
    return NightRow(
        car_id=night.car_id,
        kept_at=night.now,
        departure=night.plan.request.departure,
        sentence=sentence,
        km=night.levers.km,
        soc_start=night.levers.soc_now,
        soc_departure=night.plan.soc_departure,
        arrival_low=night.arrival.low,
        arrival_likely=night.arrival.likely,
        arrival_high=night.arrival.high,
        wall_kwh=night.plan.session.wall_kwh + night.plan.warm.wall_kwh,
        cost=night.plan.cost,
        levers=levers,
        start_pack_c=night.plan.warm.pack_c,
        start_cabin_c=night.plan.warm.cabin_c,
    )


USUAL = (
    "town_km",
    "country_km",
    "motorway_km",
    "habit_limit",
    "motorway_kmh",
    "tyre_kpa",
    "cabin_c",
    "people",
    "warm_up",
    "soc_now",
)
USUAL_TIMES = ("depart", "plug_in")
USUAL_OUTSIDE = ("out_now_c", "out_low_c")


def keep_for_good(home: Home, night: Tonight, seen_revision: int) -> int:
    """Make tonight's levers the usual ones of the car; returns the number to undo it by. Raises: Stale."""
    pulled = night.levers
    with home.changing(seen_revision) as session:
        row, house = session.get_one(CarRow, night.car_id), household(session)
        before = {name: getattr(row, name) for name in USUAL} | {name: getattr(row, name).isoformat() for name in USUAL_TIMES}
        before |= {name: getattr(house, name) for name in USUAL_OUTSIDE}
        change = ChangeRow(car_id=row.id, made_at=night.now, before=before)
        session.add(change)
        factor = pulled.km / (row.town_km + row.country_km + row.motorway_km)
        row.town_km, row.country_km, row.motorway_km = (km * factor for km in (row.town_km, row.country_km, row.motorway_km))
        row.habit_limit, row.depart, row.plug_in, row.motorway_kmh = (
            pulled.limit,
            pulled.depart,
            pulled.plug_in,
            pulled.motorway_kmh,
        )
        row.tyre_kpa, row.cabin_c, row.people, row.warm_up = pulled.tyre_kpa, pulled.cabin_c, pulled.people, pulled.warm_up.value
        row.soc_now = pulled.soc_now
        if house.weather == "typed":
            house.out_now_c, house.out_low_c = pulled.out_now_c, pulled.out_low_c
        session.flush()
        return change.id


def put_back(home: Home, change_id: int) -> None:
    """Undo `keep_for_good`: the usual levers are what they were before. Raises: Refusal when there is no such change."""
    with home.changing() as session:
        change = session.get(ChangeRow, change_id)
        if change is None:
            raise Refusal("There is no such change.")
        row, house = session.get_one(CarRow, change.car_id), household(session)
        for name, value in change.before.items():
            owner = house if name in USUAL_OUTSIDE else row
            setattr(owner, name, time.fromisoformat(str(value)) if name in USUAL_TIMES else value)
        session.delete(change)


def withdraw(home: Home, night_id: int) -> None:
    """Take a kept plan back; one that it replaced holds again. Raises: Refusal when there is no such plan."""
    with home.changing() as session:
        row = session.get(NightRow, night_id)
        if row is None or row.withdrawn:
            raise Refusal("There is no such plan.")
        row.withdrawn = True
        if row.replaces_id is not None:
            session.get_one(NightRow, row.replaces_id).withdrawn = False


class Doubtful(Refusal):
    """Levels that hardly fit the plan: perhaps a slip of the finger, perhaps another day than planned."""


def note(home: Home, night_id: int, departure_soc: float, arrival_soc: float, now: datetime, sure: bool = False) -> None:
    """Enter what happened beside the plan; the arrival is also the level now.

    Raises: Refusal with its field; Doubtful for levels far outside the plan's band, unless the owner is `sure`.
    """
    if arrival_soc >= departure_soc:
        raise Refusal("You came home with more than you left with: check the two levels.", "actual_arrival")
    with home.changing() as session:
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


def forget_note(home: Home, night_id: int) -> None:
    """Undo `note`: the plan stays, the facts go."""
    with home.changing() as session:
        row = session.get(NightRow, night_id)
        if row is not None:
            row.actual_departure = row.actual_arrival = row.noted_at = None
