"""“Warm the seat, not the air.”"""

from .known import HEAT, Driving, Here
from .said import Said, Verdict


def said(here: Here, driving: Driving) -> Said:
    """A cabin three degrees cooler with the seats on, on every day that heats."""
    if not driving.gains_kwh["cooler"].any():
        return Said(verdict=Verdict.NOT_HERE, room="day", rests_on=("climate.",))
    made = driving.saving(here, "cooler", HEAT, rests_on=("climate.", "remedy.cooler"))
    return Said(**{**vars(made), "act": ("cabin_c", max(14.0, here.owned.habit.cabin_c - 3.0))})
