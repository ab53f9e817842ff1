"""Learning a car's own factors from its noted days, kept with the car until it is undone."""

from ...core.drive.learn import Learnt, learn
from ...household.parts import write_learnt
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.past import LEARNT_FROM, noted_days


def learn_from_log(household: Household, snapshot: Snapshot, car_id: int) -> tuple[Learnt, int]:
    """Fit the car's own factors to its noted days and keep them; returns what was learnt and the number to undo it by.

    Raises: Refusal when there are too few days.
    """
    owned = snapshot.home.car(car_id)
    days, driven = noted_days(snapshot, owned, LEARNT_FROM), owned.driven
    found = learn(
        owned.car, owned.habit.trip, days, driven.choice, driven.cabin_c, load_kg=driven.load_kg, altitude_m=driven.altitude_m
    )
    with household.deciding(f"Learnt from what {owned.name} did, and used from now on") as session:
        write_learnt(session, owned.id, found)
    return found, session.number
