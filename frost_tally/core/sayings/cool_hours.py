"""“Charge in the coolest hours.”"""

from .known import Here, Hours
from .said import Said, Side, Verdict, about


def said(here: Here, hours: Hours) -> Said:
    """The coming night’s charge in its coolest equal hours beside its latest, and a year of such nights."""
    late, cool = hours.late, hours.cool
    spared = late[0] + late[1] - cool[0] - cool[1]
    money = about("money", spared * 365.0 * float(here.driven.mean()), 1.0)
    verdict = Verdict.LITTLE if here.weight((money,)) < here.little else Verdict.HOLDS if spared > 0 else Verdict.NOT_HERE
    sides = tuple(
        Side(key=key, numbers={"money": cost, "wear": wear}) for key, (cost, wear) in (("coolest", cool), ("latest", late))
    )
    return Said(
        verdict=verdict,
        room="tonight",
        yearly=(money,),
        sides=sides,
        numbers={"spared": spared, "air_c": hours.air_c},
        rests_on=("wear.", "night."),
        act=("tie_break", "cool") if verdict is Verdict.HOLDS and here.owned.habit.tie_break != "cool" else None,
    )
