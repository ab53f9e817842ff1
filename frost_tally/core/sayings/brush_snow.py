"""“Brush the whole car, not only the glass.”"""

from .known import Driving, Here
from .said import Said, Verdict, about


def said(here: Here, driving: Driving) -> Said:
    """What snow left on the car takes on the frosty days, a third of which begin with it: common practice; the law asks first."""
    days = float(here.frosty.sum()) * here.a_year / 3.0
    town, fast = driving.town_wh.get("snow", 0.0), driving.motorway_wh.get("snow", 0.0)
    if days < 1:
        return Said(verdict=Verdict.NOT_HERE, room="habits", rests_on=("extras.snow",))
    km = float(here.km[here.frosty].mean())
    money = about("money", days * km * (town + fast) / 2000.0 * here.price, 0.3)
    numbers = {"days": days, "town_wh": town, "motorway_wh": fast}
    return Said(verdict=here.judged(money), room="habits", yearly=(money,), numbers=numbers, rests_on=("extras.snow",))
