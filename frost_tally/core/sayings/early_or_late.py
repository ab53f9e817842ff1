"""“Charge as late as possible”, or “at once, who knows about the grid”."""

from .known import BASE, Here, Starts
from .said import Said, Side, about


def said(here: Here, starts: Starts) -> Said:
    """The year as it is planned beside the same nights begun when the cable goes in: money and wear; a power cut is in neither."""
    both = {"as_planned": starts.planned, "at_once": starts.at_once}
    planned, at_once = (money + wear for money, wear, _ in both.values())
    money = about("money", abs(at_once - planned), here.car.factors.sigma[BASE])
    return Said(
        verdict=here.judged(money),
        room="week",
        yearly=(money,),
        sides=tuple(Side(key=key, numbers={"money": cost, "wear": wear}) for key, (cost, wear, _) in both.items()),
        numbers={"more": at_once - planned, "wear": starts.at_once[1] - starts.planned[1]},
        rests_on=("wear.", "night."),
        best="as_planned" if at_once > planned else "at_once",
        act=None if here.owned.habit.tie_break == "late" else ("tie_break", "late"),
    )
