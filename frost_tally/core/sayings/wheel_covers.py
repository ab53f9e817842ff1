"""“Leave the covers on the wheels.”"""

from .known import Driving, Here
from .on_the_car import left_on
from .said import Said


def said(here: Here, driving: Driving) -> Said:
    """What a year with it would take, by what town and motorway take of it."""
    return left_on(here, driving, "covers")
