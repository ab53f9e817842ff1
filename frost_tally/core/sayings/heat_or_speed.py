"""“Turn the heating off”, or “drive a little slower”: which gives more, and in what air."""

from .known import Driving, Here
from .said import Said, Side, Verdict, turn_of


def said(here: Here, driving: Driving) -> Said:
    """The heating off against five and ten km/h less, over the temperature of the air; nobody saves range by freezing before that."""
    off, five, ten = (driving.gains_kwh[key] for key in ("heat_off", "slower_5", "slower_10"))
    if not off.any() or not ten.any():
        return Said(verdict=Verdict.NOT_HERE, room="day", rests_on=("climate.", "road."))
    cold = driving.airs_c <= 20.0
    per_100 = 100.0 / driving.km
    lines = {key: line[cold] * per_100 for key, line in (("heat_off", off), ("slower_5", five), ("slower_10", ten))}
    turn = turn_of("temperature", driving.airs_c[cold].tolist(), {key: line.tolist() for key, line in lines.items()}, "energy")
    sides = tuple(
        Side(key=key, numbers={"kwh": (kwh := float(driving.by_day(here, key).sum()) * here.a_year), "money": kwh * here.price})
        for key in lines
    )
    verdict = Verdict.TURNS if turn.at is not None else Verdict.HOLDS if ten[0] > off[0] else Verdict.NOT_HERE
    return Said(
        verdict=verdict,
        room="day",
        at_stake=abs(sides[0].numbers["money"] - sides[-1].numbers["money"]),
        sides=sides,
        turn=turn,
        rests_on=("climate.", "road."),
        measured=here.car.factors.days > 0,
    )
