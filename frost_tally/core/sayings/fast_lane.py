"""“Drive fast and charge more, you are there sooner.”"""

from .known import LongWay
from .said import Said, Turn, Verdict


def said(long: LongWay) -> Said:
    """Door to door by motorway speed, stops included, in frost and in summer: where faster is no longer sooner."""
    known = [(kmh, cold, warm) for kmh, cold, warm in long.speeds if cold is not None and warm is not None]
    warm_only = [(kmh, warm) for kmh, _, warm in long.speeds if warm is not None]
    if len(warm_only) < 2:
        return Said(verdict=Verdict.NOBODY_KNOWS, room="long", rests_on=("fast.", "long_day."))
    best = min(warm_only, key=lambda each: (each[1], each[0]))
    cold_best = min(known, key=lambda each: (each[1], each[0]))[0] if known else best[0]
    lines = {"frost": tuple(each[1] for each in known), "summer": tuple(each[2] for each in known)}
    turn = (
        Turn(axis="speed", at=best[0], xs=tuple(each[0] for each in known), lines=lines, unit="minutes")
        if len(known) > 1
        else None
    )
    fastest = warm_only[-1][0]
    verdict = Verdict.HOLDS if best[0] >= fastest else Verdict.TURNS
    return Said(
        verdict=verdict,
        room="long",
        numbers={"best_kmh": best[0], "frost_kmh": cold_best, "km": long.km},
        turn=turn,
        rests_on=("fast.", "long_day."),
    )
