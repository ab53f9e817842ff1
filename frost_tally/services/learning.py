"""Learning a car's own factors from its noted days, kept with the car until it is undone."""

from dataclasses import replace
from datetime import timedelta

import numpy as np

from ..core.car import Factors
from ..core.drive.learn import Days, Learnt, learn
from ..core.errors import Refusal
from ..core.heat.warm import WarmUpChoice
from ..household.home import Home, car_of, cars, household, noted_nights, place_of, trip_of
from ..household.models import CarRow
from ..household.undo import remember
from .car_year import PERSON_KG, climate_of


def learn_from_log(home: Home, car_id: int) -> tuple[Learnt, int]:
    """Fit the car's own factors to its noted days and keep them; returns what was learnt and the number to undo it by.

    Raises: Refusal when there are too few days.
    """
    with home.reading() as session:
        row = next((each for each in cars(session) if each.id == car_id), None)
        if row is None:
            raise Refusal("There is no such car.")
        nights = sorted(noted_nights(session, row.id, 100_000), key=lambda each: each.departure)
        place = place_of(row, session)
        weather = climate_of(household(session), place)
    air = []
    for each in nights:
        typed = each.levers.get("out_low_c")
        outside = [
            weather.temperature_c(each.departure),
            weather.temperature_c(each.departure + timedelta(hours=row.parked_h + 1)),
        ]
        air.append(float(str(typed)) if typed is not None else float(np.mean(outside)))
    used = [(each.actual_departure or 0.0) - (each.actual_arrival or 0.0) for each in nights]
    days = Days(np.array([each.km for each in nights]), np.array(air), np.array(used))
    load = PERSON_KG * (row.people - 1)
    found = learn(
        replace(car_of(row), factors=Factors()),
        trip_of(row),
        days,
        WarmUpChoice(row.warm_up),
        row.cabin_c,
        load,
        place.altitude_m,
    )
    with home.changing() as session:
        undo = remember(session, f"What {row.name} taught", [("car", row.id)])
        kept = session.get_one(CarRow, row.id)
        kept.learnt_base, kept.learnt_heat, kept.learnt_cold = found.factors.base, found.factors.heat, found.factors.cold
        kept.learnt_days, kept.learnt_before, kept.learnt_after = found.days, found.error_before, found.error_after
    return found, undo
