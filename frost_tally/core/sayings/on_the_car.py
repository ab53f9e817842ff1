"""What stands in the air all year, by the roads that a car drives."""

from ..drive.day import Road
from .known import BASE, Driving, Here
from .said import Said, about


def left_on(here: Here, driving: Driving, key: str) -> Said:
    """What something on the car takes in a year of these days: town and motorway as the room has them, country roads between the two."""
    town, fast = driving.town_wh.get(key, 0.0), driving.motorway_wh.get(key, 0.0)
    wh = {Road.TOWN: town, Road.COUNTRY: (town + fast) / 2, Road.MOTORWAY: fast}
    trip = driving.situation.trip
    per_km = sum(wh[leg.road] * leg.distance_km for leg in trip.drives) / trip.distance_km / 1000.0
    kwh = here.km * per_km
    money = about("money", float(kwh.sum()) * here.a_year * here.price, here.car.factors.sigma[BASE])
    return Said(
        verdict=here.judged(money),
        room="habits",
        yearly=(money,),
        rests_on=("extras.",),
        logged=driving.logged(here, kwh),
        numbers={"town_wh": town, "motorway_wh": fast, "kwh": float(kwh.sum()) * here.a_year},
    )
