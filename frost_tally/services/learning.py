"""Learning a car's own factors from its noted days, kept with the car until it is undone."""

from ..core.drive.learn import Learnt, learn
from ..core.errors import Refusal
from ..household.home import Home
from ..household.models import LearntRow
from ..household.parts import car_of, cars, place_of, trip_of
from .past import LEARNT_FROM, habit_of, noted_days


def learn_from_log(home: Home, car_id: int) -> tuple[Learnt, int]:
    """Fit the car's own factors to its noted days and keep them; returns what was learnt and the number to undo it by.

    Raises: Refusal when there are too few days.
    """
    with home.reading() as session:
        row = next((each for each in cars(session) if each.id == car_id), None)
        if row is None:
            raise Refusal("There is no such car.")
        place = place_of(row, session)
        days = noted_days(session, row, LEARNT_FROM)
    habit = habit_of(row.habit, place.altitude_m)
    found = learn(car_of(row), trip_of(row.habit), days, habit.choice, habit.cabin_c, habit.load_kg, habit.altitude_m)
    with home.deciding(f"Learnt from what {row.name} did, and used from now on") as session:
        kept = session.get(LearntRow, row.id) or LearntRow(car_id=row.id)
        kept.base, kept.heat, kept.cold = found.factors.base, found.factors.heat, found.factors.cold
        kept.base_sigma, kept.heat_sigma, kept.cold_sigma = found.sigma
        kept.day_sigma, kept.days = found.factors.day_sigma, found.days
        kept.before, kept.after = found.error_before, found.error_after
        session.add(kept)
    return found, session.number
