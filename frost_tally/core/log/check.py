"""What an entry must be by itself, whoever brings it: a form, a file of a hundred thousand rows, a script."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
import numpy.typing as npt

from ..errors import Refusal
from .kinds import KINDS

LEAST_TEST_SOC = 0.05
Columns = Mapping[str, Any]
"""The values of many entries, or of one: numbers with not a number for what is open, times in seconds, codes as they are."""


@dataclass(frozen=True)
class Rule:
    """Something that cannot be: the column to look at, the words, and of which entries it is true, all at once."""

    field: str
    words: str
    broken: Callable[[Columns], Any]


def _test_went_wrong(values: Columns) -> Any:
    down = values["soc_from"] - values["soc_to"]
    drawn = np.isin(values["how"], ("discharge", "car"))
    return np.where(drawn, down, -down) < LEAST_TEST_SOC


RULES: Mapping[str, tuple[Rule, ...]] = {
    "drive": (
        Rule("home_at", "It ended before it began.", lambda v: v["home_at"] < v["left_at"]),
        Rule(
            "soc_end",
            "You came home with more than you left with: check the two levels.",
            lambda v: v["soc_end"] > v["soc_start"],
        ),
    ),
    "charge": (
        Rule("ended_at", "It ended before it began.", lambda v: v["ended_at"] < v["begun_at"]),
        Rule("soc_end", "It ended with less than it began with: check the two levels.", lambda v: v["soc_end"] < v["soc_start"]),
        Rule("pack_kwh", "More went into the pack than came from the wall.", lambda v: v["pack_kwh"] > v["wall_kwh"]),
    ),
    "capacity_test": (Rule("soc_to", "A discharge goes down, a charge up, and by 5 % at least.", _test_went_wrong),),
}


def check(kind: str, values: Mapping[str, Any]) -> None:
    """Hold the values of an entry against each other (None for what is open). Raises: Refusal with the column that will not do."""
    plain = {name: _plain(values.get(name)) for name in (each.name for each in KINDS[kind].columns)}
    for rule in RULES.get(kind, ()):
        if rule.broken(plain):
            raise Refusal(rule.words, rule.field)


def _plain(value: Any) -> Any:
    if value is None:
        return np.nan
    return value.timestamp() if isinstance(value, datetime) else value


def all_well(kind: str, columns: Columns) -> npt.NDArray[np.bool_]:
    """Of which of many entries no rule is broken; shape (entries,)."""
    count = len(next(iter(columns.values())))
    known = {each.name: columns.get(each.name, np.full(count, np.nan)) for each in KINDS[kind].columns}
    well: npt.NDArray[np.bool_] = np.ones(count, dtype=bool)
    for rule in RULES.get(kind, ()):
        well &= ~np.asarray(rule.broken(known), dtype=bool)
    return well
