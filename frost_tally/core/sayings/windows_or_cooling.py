"""“Open the windows”, or “turn on the cooling”: which takes less on a hot day."""

from ..basis import Basis, figure
from .known import Driving, Here
from .said import ROUGH, Said, Side, Verdict, about

HOT_C = figure("sayings.hot", 24.0, "°C", Basis.COMMON_PRACTICE, "our judgement: from here on people open a window")


def said(here: Here, driving: Driving) -> Said:
    """The front windows open in town and on the motorway, against the cooling by itself, on the driven days that are hot."""
    hot = here.driven & (here.air_c > HOT_C)
    small = {each.key: each for each in driving.habits.small}
    cooling = small["cooling"].km / driving.km * 1000.0 * float(driving.used_kwh.min()) / driving.km
    town, fast = driving.town_wh.get("windows", 0.0), driving.motorway_wh.get("windows", 0.0)
    best = "cooling" if cooling < town else "open_on_motorway" if fast < cooling else ""
    kwh = float(here.km[hot].sum()) * here.a_year * abs(cooling - (town + fast) / 2) / 1000.0
    return Said(
        verdict=Verdict.NOT_HERE if not hot.any() else Verdict.HOLDS if best else Verdict.TURNS,
        room="habits",
        yearly=(about("money", kwh * here.price, ROUGH),),
        sides=(
            Side(key="open_in_town", numbers={"wh": town}),
            Side(key="open_on_motorway", numbers={"wh": fast}),
            Side(key="cooling", numbers={"wh": cooling}),
        ),
        numbers={"days": float(hot.sum()) * here.a_year},
        rests_on=("extras.window", "small.cooling", "sayings.hot"),
        best=best,
    )
