"""“Leave when the sun is up.”"""

from .known import HEAT, Driving, Here
from .said import Said, Verdict


def said(here: Here, driving: Driving) -> Said:
    """Two hours later, in the air of then as tomorrow’s differs from tomorrow’s departure."""
    if not driving.gains_kwh["later"].any():  # tomorrow it is no warmer then
        return Said(verdict=Verdict.NOT_HERE, room="day", rests_on=("remedy.later",))
    return driving.saving(here, "later", HEAT, rests_on=("remedy.later", "climate."))
