"""“Open the windows”, or “turn on the cooling”: which takes less on a hot day."""

from .known import Driving, Here
from .said import Said, Side, Verdict

HOT_C = 24.0


def said(here: Here, driving: Driving) -> Said:
    """The front windows open in town and on the motorway, against the cooling by itself."""
    hot = int((here.driven & (here.air_c > HOT_C)).sum())
    small = {each.key: each for each in driving.habits.small}
    cooling_wh = small["cooling"].km / driving.km * 1000.0 * float(driving.used_kwh.min()) / driving.km
    town, fast = driving.town_wh.get("windows", 0.0), driving.motorway_wh.get("windows", 0.0)
    sides = (
        Side(key="open_in_town", numbers={"wh": town}),
        Side(key="open_on_motorway", numbers={"wh": fast}),
        Side(key="cooling", numbers={"wh": cooling_wh}),
    )
    verdict = Verdict.TURNS if town < cooling_wh < fast else Verdict.NOT_HERE if fast < cooling_wh else Verdict.HOLDS
    return Said(
        verdict=verdict if hot else Verdict.NOT_HERE,
        room="habits",
        sides=sides,
        numbers={"days": hot * here.a_year},
        rests_on=("extras.window", "small.cooling"),
    )
