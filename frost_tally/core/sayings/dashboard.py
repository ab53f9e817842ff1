"""“Never trust the guess of the dashboard.”"""

from .known import Driving
from .said import Said, Verdict

NEAR = 0.10


def said(driving: Driving) -> Said:
    """What a dashboard by the rating shows for tomorrow’s level, beside what the day leaves."""
    numbers = {"label_km": driving.rated.label_km, "procedure_km": driving.rated.procedure_km, "range_km": driving.range_km}
    off = driving.rated.label_km / max(driving.range_km, 1.0) - 1.0
    verdict = Verdict.HOLDS if abs(off) > NEAR else Verdict.NOT_HERE
    return Said(verdict=verdict, room="day", numbers={**numbers, "off": off}, rests_on=("rating.",))
