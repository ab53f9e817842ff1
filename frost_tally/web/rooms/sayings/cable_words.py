"""Sentences of the sayings about hours, tariffs, outlets and plugging in."""

from collections.abc import Mapping
from datetime import time

from ....core.sayings.said import Said, Verdict
from .written import Says, Sentence


def _slow(said: Said, n: Says) -> str:
    if len(said.sides) < 2:
        return "You have one outlet: put another on the bench, and both are told."
    less = said.numbers["wear"]
    worn = f"{n.units.money(abs(less))} {'less' if less > 0 else 'more'}"
    return f"The weakest loses {n('kwh', 'energy')} more a year, for the car is awake as long as it charges; it wears the pack by {worn}."


def _cheap(said: Said, n: Says) -> str:
    return f"Starting by hand costs {n('spared', 'money')} more a year than drawing the cheapest hours."


def _cool_hours(said: Said, n: Says) -> str:
    spared = said.numbers["spared"]
    much = f"{n.units.money(abs(spared))} {'less' if spared >= 0 else 'more'}"
    return (
        f"The coming night goes down to {n('air_c', 'temperature')}. In its coolest equal hours the charge would cost "
        f"{much} than in its latest, "
        "wear and the heat that frost asks for counted. It is a rule for hot places."
    )


def _tariff(said: Said, n: Says) -> str:
    if len(said.sides) < 2:
        return "You have entered one tariff: enter another, and both are told."
    if said.verdict is Verdict.NOT_HERE:
        return "Of the tariffs that you entered yours is the cheapest, or as good as it, cars and house together."
    return f"The cheapest of yours would cost {n('spared', 'money')} less, cars and house together."


def _timer(said: Said, n: Says) -> str:
    minutes = round(said.numbers["start_min"])
    start = n.units.clock(time(minutes // 60, minutes % 60))
    short = f", and {n('short', 'count')} of them end short that need not" if said.numbers["short"] > 0 else ""
    return f"{start} costs {n('more', 'money')} more than a start for each of the next {n('nights', 'count')} nights{short}."


def _unit(said: Said, n: Says) -> str:
    if len(said.sides) < 2:
        return "You have one outlet: put an offered one on the bench, and both are told."
    pays = f" It would pay for itself in {n('years', 'count')} years." if "years" in n else ""
    return f"After a frosty day the weakest needs {n('weak_h', 'hours')}, the strongest {n('strong_h', 'hours')}.{pays}"


def _plugged(said: Said, n: Says) -> str:
    return (
        f"Standing takes {n('a_day', 'energy')} a day, in or out. Of the next {n('nights', 'count')} nights the cable goes in on "
        f"{n('in', 'count')}, on {n('out', 'count')} it stays out, and {n('either', 'count')} are as you like. In on every one would cost "
        f"{n('more', 'money')} more in such a week, wear and level counted."
    )


def _late(said: Said, n: Says) -> str:
    return (
        f"At once would cost {n('more', 'money')} more a year, {n('wear', 'money')} of it wear. A power cut is in "
        f"neither: a plan that ends half an "
        "hour early is the answer to that."
    )


CABLE: Mapping[str, tuple[str, Sentence]] = {
    "slow_is_kind": ("Slow charging is kind, or is it waste?", _slow),
    "cheap_hours": ("Charge in the cheap hours", _cheap),
    "cool_hours": ("Charge in the coolest hours", _cool_hours),
    "best_tariff": ("Look for another tariff", _tariff),
    "timer_once": ("Set the timer once and forget it", _timer),
    "wall_unit": ("You need a wall unit", _unit),
    "stay_plugged": ("Leave it plugged in, or only to charge?", _plugged),
    "early_or_late": ("Charge late, or at once for fear of a power cut?", _late),
}
"""Title and sentence of each, by the core’s key."""
