"""Reasons in words: a line for each code of the core, and for each limit of an outlet. Why: docs/decisions/0028."""

from collections.abc import Callable
from typing import Any

from ...core.charge.supply import Limit
from ...core.why import Why
from ..units import Units

LIMITS: dict[Limit, str] = {
    Limit.BREAKER: "breaker",
    Limit.CODE_RULE: "code rule on the breaker",
    Limit.SHARED: "rest of the shared circuit",
    Limit.LEAD: "lead",
    Limit.SELECTOR: "selector",
    Limit.CAR_SETTING: "car’s own setting",
    Limit.CAR_CURRENT: "car’s AC limit",
    Limit.CAR_POWER: "car’s AC power",
    Limit.HOUSE: "house",
    Limit.SEEN: "current that the car showed",
}
LINKS: dict[Limit, str] = {
    **LIMITS,
    Limit.CODE_RULE: "code rule",
    Limit.SHARED: "shared",
    Limit.CAR_SETTING: "car set to",
    Limit.CAR_CURRENT: "car",
    Limit.CAR_POWER: "car’s power",
}
"""The limits in a word or two, for a picture."""
REASONS: dict[str, str] = {
    "at_the_limit": "already at the limit",
    "no_window": "there is no time between plugging in and departure",
    "all_overhead": "the outlet is too weak: the car’s own overhead eats it all",
    "weak_outlet": "the outlet is too weak for the window: {pack_kw} reach the pack, limited by the {limit}",
    "held_hours": "the house needs its power for too long: the hours it leaves are not enough",
    "pack_too_cold": "the pack is too cold to take charge: it falls to {pack_c}, takes charge from {from_c}, and this car cannot "
    "warm it",
    "cold_takes_hours": "the cold pack, at {pack_c}, has to be warmed to {from_c} first, and that takes {heat_kwh} of what the outlet "
    "gives",
    "too_cold": "too cold for too long: warm people come before range",
    "in_a_coat": "nobody drives {minutes} minutes in a coat",
    "nothing_to_charge": "there is nothing to charge before this departure",
    "heat_from_pack": "its heat comes out of the pack, and from the wall it would not pay",
    "no_pack_heat": "this car does not warm its pack before departure",
    "pack_heat_unknown": "nobody knows yet whether this car warms its pack: watch the regen bars in the first ten minutes",
}


def why_words(reason: Why, units: Units) -> str:
    """A reason in words; "" for none."""
    written: dict[str, Callable[[Any], str]] = {
        "limit": lambda value: LIMITS[Limit(str(value))],
        "pack_kw": lambda value: units.text(value, "power"),
        "heat_kwh": lambda value: units.text(value, "energy"),
        "pack_c": lambda value: units.text(value, "temperature", 0),
        "from_c": lambda value: units.text(value, "temperature", 0),
        "minutes": lambda value: f"{value:.0f}",
    }
    values = {name: written[name](value) for name, value in reason.values}
    return REASONS[reason.code].format(**values) if reason else ""
