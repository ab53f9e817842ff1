"""“Lights and wipers cost range.”"""

from .known import Driving, Here
from .said import Said
from .small_things import small


def said(here: Here, driving: Driving) -> Said:
    """What it takes of these days."""
    return small(here, driving, ("lights", "wipers"))
