"""“Brush the whole car, not only the glass.”"""

from ..basis import Basis, figure
from .known import Driving, Here
from .said import ROUGH, Said, Verdict, about

SNOWY = figure(
    "sayings.snowy", 1 / 3, "", Basis.COMMON_PRACTICE, "our judgement: of the frosty mornings begin with snow on the car"
)


def said(here: Here, driving: Driving) -> Said:
    """What snow left on the car takes on the frosty days that begin with it; the law asks first."""
    days = float(here.frosty.sum()) * here.a_year * SNOWY
    town, fast = driving.town_wh.get("snow", 0.0), driving.motorway_wh.get("snow", 0.0)
    if days < 1:
        return Said(verdict=Verdict.NOT_HERE, room="habits", rests_on=("extras.snow", "sayings.snowy"))
    km = float(here.km[here.frosty].mean())
    money = about("money", days * km * (town + fast) / 2000.0 * here.price, ROUGH)
    numbers = {"days": days, "town_wh": town, "motorway_wh": fast}
    return Said(
        verdict=here.judged(money), room="habits", yearly=(money,), numbers=numbers, rests_on=("extras.snow", "sayings.snowy")
    )
