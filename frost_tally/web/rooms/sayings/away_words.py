"""Sentences of the sayings about posts on the way, and a car that stands."""

from collections.abc import Mapping

from ....core.sayings.said import Said, Verdict
from .written import Says, Sentence


def _post(said: Said, n: Says) -> str:
    spared = said.numbers.get("spared")
    money = (
        ""
        if spared is None
        else f" It {'spares' if spared > 0 else 'costs'} {n.units.money(abs(spared), 0)} a year, wear counted."
    )
    if said.numbers.get("even", 0.0) > 0:
        money += f" At {n('even', 'price')} both would cost alike."
    busy = f" In {n('busy', 'count')} weeks once is not enough." if said.numbers["busy"] else ""
    visits = f"{n('visits', 'count')} visits and {n('hours', 'hours')} a year"
    return f"{visits}, {n('coldest_min', 'minutes')} in the coldest week.{busy}{money}"


def _low(said: Said, n: Says) -> str:
    if "kwh" not in n:
        return "Your way has no fast post to tell it by."
    return f"The same {n('kwh', 'energy')} at {n('kw', 'power')}, {n('spared', 'minutes')} sooner."


def _stops(said: Said, n: Says) -> str:
    if "cold" not in n:
        return "Your way is done with one stop or none: there is nothing to choose."
    return (
        f"On {n('km', 'distance')}: {n('cold', 'count')} stops are quickest in frost, {n('warm', 'count')} in summer; one more takes "
        f"{n('one_more', 'minutes')} in frost."
    )


def _beyond(said: Said, n: Says) -> str:
    return f"The last fifth takes {n.units.plain(said.numbers['times'], 1)} times as long as the one before it."


def _lane(said: Said, n: Says) -> str:
    if "best_kmh" not in n:
        return "Too few speeds get there to tell."
    return (
        f"On {n('km', 'distance')} you are there first at {n('best_kmh', 'speed')} in summer, at {n('frost_kmh', 'speed')} "
        f"in frost, stops counted."
    )


def _standing(said: Said, n: Says) -> str:
    return f"A day of it takes {n('a_day', 'share')}, {n('km', 'distance')} of range."


def _small_battery(said: Said, n: Says) -> str:
    if said.verdict is Verdict.NOBODY_KNOWS:
        return "Nobody noted its age or its voltage: two minutes with a meter say it."
    return (
        "It wants to be charged or replaced."
        if said.verdict is Verdict.HOLDS
        else "By its age and readings it is fine this winter."
    )


def _washer(said: Said, n: Says) -> str:
    return (
        f"Half of a usual concentrate freezes at {n('freezes_c', 'temperature')}; the coldest expected here, with wind on the screen, is "
        f"{n('coldest_c', 'temperature')}."
    )


AWAY: Mapping[str, tuple[str, Sentence]] = {
    "weekly_post": ("Forget the socket, once a week at the post will do", _post),
    "low_and_warm": ("Arrive low and warm at the post", _low),
    "fewer_longer": ("In frost fewer and longer stops, or many short ones?", _stops),
    "beyond_eighty": ("At the post leave at 80 %", _beyond),
    "fast_lane": ("Drive fast and charge more, you are there sooner", _lane),
    "watching_cameras": ("Switch the watching cameras off", _standing),
    "app_looks": ("Do not look at the app all the time", _standing),
    "small_battery": ("The small battery dies first in the cold", _small_battery),
    "washer": ("Half water, half concentrate is enough for the washer", _washer),
}
"""Title and sentence of each, by the core’s key."""
