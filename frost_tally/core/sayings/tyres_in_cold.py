"""“Pump the tyres when it gets cold.”"""

from ..drive.tyres import gauge_at
from .known import BASE, Driving, Here
from .said import Said, Verdict


def said(here: Here, driving: Driving) -> Said:
    """What tyres under the placard take as they were read last; nobody knows of tyres that nobody read."""
    placard = here.car.tyres.placard_kpa
    lost = {"lost_kpa": placard - gauge_at(placard, 15.0, -10.0), "placard_kpa": placard}
    read = driving.situation.conditions.tyre_gauge_kpa
    if read is None:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="tyres", numbers=lost, rests_on=("tyres.",))
    made = driving.saving(here, "tyres", BASE, room="tyres", rests_on=("tyres.",))
    return Said(**{**vars(made), "numbers": {**made.numbers, **lost, "gauge_kpa": read}})
