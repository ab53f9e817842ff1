"""“Set the timer once and forget it.”"""

from .known import Here, Timer
from .said import Said, Side, Verdict, about


def said(here: Here, timer: Timer) -> Said:
    """One start for the coming nights beside a start for each: what it costs more, and the nights that end short."""
    made, a_year = timer.made, 365.0 / max(1, timer.nights)
    short = made.once_short - made.nightly_short
    money = about("money", -max(0.0, made.more) * a_year, 0.2)
    numbers = {
        "more": made.more,
        "short": float(short),
        "nights": float(timer.nights),
        "start_min": made.start.hour * 60.0 + made.start.minute,
    }
    sides = (
        Side(key="once", numbers={"money": float((made.once.cost + made.once.wear).sum()), "short": float(made.once_short)}),
        Side(
            key="nightly",
            numbers={"money": float((made.nightly.cost + made.nightly.wear).sum()), "short": float(made.nightly_short)},
        ),
    )
    good = short <= 0 and here.weight((money,)) < here.little
    return Said(
        verdict=Verdict.HOLDS if good else Verdict.NOT_HERE,
        room="timer",
        yearly=(money,),
        sides=sides,
        numbers=numbers,
        rests_on=("wear.",),
    )
