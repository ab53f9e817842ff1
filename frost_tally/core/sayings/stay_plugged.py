"""“Leave it plugged in”, or “only to charge”."""

from ..advice.limit import Plugs
from .known import Here, Standing, Week
from .said import GUESSED, Said, Side, about

WEEKS = 365.0 / 7.0


def said(here: Here, standing: Standing, week: Week) -> Said:
    """What standing takes either way, and the coming nights on which the cable would cost something."""
    more = sum(week.other_costs)
    money = about("money", more * WEEKS, GUESSED)
    return Said(
        verdict=here.judged(money),
        room="week",
        yearly=(money,),
        sides=(
            Side(key="always", numbers={"nights": float(week.nights), "money": money.likely}),
            Side(key="to_charge", numbers={"nights": float(week.plugged), "money": 0.0}),
        ),
        numbers={
            "a_day": standing.idle * here.car.pack.usable_kwh,
            "nights": float(week.nights),
            "in": float(week.plugged),
            "out": float(week.out),
            "either": float(week.either),
            "more": more,
        },
        rests_on=("parked.idle", "week."),
        measured=standing.measured,
        best="to_charge" if more > 0 else "",
        act=("plugs", Plugs.PAYS.value) if more > 0 and here.owned.habit.plugs is Plugs.EVERY else None,
    )
