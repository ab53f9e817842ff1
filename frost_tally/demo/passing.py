"""What happens in the demo while its clock is moved on: the night as it was planned, and the drive, noted as its history has them."""

from contextlib import suppress
from datetime import datetime, timedelta

import numpy as np

from ..core.errors import Refusal
from ..core.home import NotSetUp
from ..household.models import ChargeRow, DriveRow
from ..household.unit_of_work import Household
from ..services.tonight.room import Tonight, tonight

DAY_SCATTER = 0.03
SEED = 77


def pass_by(household: Household, since: datetime, until: datetime) -> None:
    """Note what the meter and the cars saw between two times. What came of a plan that the owner kept is
    theirs to note."""
    made = []
    with household.reading(since) as snapshot:
        for owned in snapshot.home.cars:
            with suppress(Refusal, NotSetUp):  # a car that cannot be planned for stays as it is
                made.append(tonight(snapshot, owned.id))
    with household.recording() as session:
        for night in (each for each in made if each.kept is None):
            session.add_all([*_charges(night, until), *_drives(household, night, until)])


def _charges(night: Tonight, until: datetime) -> list[ChargeRow]:
    """The night's charge, once it is over."""
    plan = night.plan
    if night.state.plugged:  # its charge point counts it
        return []
    if not plan.blocks or plan.blocks[-1].end > until:
        return []
    charge = ChargeRow(
        car_id=night.car_id,
        begun_at=plan.blocks[0].start,
        ended_at=plan.blocks[-1].end,
        soc_start=round(night.inputs.soc_now, 2),
        soc_end=round(plan.session.steps[-1].soc, 2),
        wall_kwh=round(plan.session.wall_kwh, 2),
        cost=round(plan.cost - plan.warm_cost, 2),
        site="home",
        outlet_id=night.owned.at.id,
        source="meter",
    )
    return [charge]


def _drives(household: Household, night: Tonight, until: datetime) -> list[DriveRow]:
    """The drive that began in between, with the scatter of a day; none where the car tells that it stayed."""
    departure, link = night.plan.request.departure, household.world.car_link
    stayed = link is not None and night.due and link.left_at(night.car.name, departure) is None
    if departure > until or night.idle or stayed:
        return []
    draw = np.random.default_rng([SEED, night.car_id, departure.toordinal()])
    leaves = night.plan.soc_departure
    used = (leaves - night.arrival.likely) * float(draw.normal(1.0, DAY_SCATTER))
    drive = DriveRow(
        car_id=night.car_id,
        left_at=departure,
        noted_at=max(departure + timedelta(minutes=1), until),
        km=round(night.trip.distance_km, 1),
        soc_start=round(leaves, 2),
        soc_end=round(min(leaves - 0.01, max(0.01, leaves - used)), 2),
        assumed=["left_at", "km"],
        source="car",
    )
    return [drive]
