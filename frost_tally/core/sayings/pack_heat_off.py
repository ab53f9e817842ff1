"""“Switch the pack heating off for short ways.”"""

from .known import COLD, Driving, Here
from .said import Said, Verdict


def said(here: Here, driving: Driving) -> Said:
    """What heating the pack on the way takes; only a car that lets its driver switch it off has the choice."""
    if not driving.gains_kwh["pack_cold"].any():
        return Said(verdict=Verdict.NOT_HERE, room="day", rests_on=("pack.drive_heat",))
    return driving.saving(here, "pack_cold", COLD, rests_on=("pack.drive_heat", "pack.heater"), once=True)
