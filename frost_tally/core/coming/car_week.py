"""A car's coming nights as they are decided, and what was decided."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..advice.limit import Plugs, target_as_needed
from ..units import Array
from .costs import NightCosts

LEVELS = np.linspace(0.0, 1.0, 21)
"""At which standing is told."""


@dataclass(frozen=True, kw_only=True)
class Span:
    """The cable in a car during a part of a night (s since 1970); `wall`: still in when it leaves."""

    begin_s: float
    end_s: float
    wall: bool


@dataclass(frozen=True, kw_only=True, eq=False)
class CarWeek:
    """A car's coming nights as they are decided; arrays of shape (nights,), levels 0 to 1, money.

    `likely_soc` and `cautious_soc` are what the day after each night takes (0: it stays), `in_soc` and `out_soc` what standing and warm-up
    take with the cable and without, `warm_cost` the warm-up from the wall,
    `stand_cost` a day at home at each of `LEVELS` (shape (nights, levels)). `fixed` has the levels of nights that are decided already (a
    kept plan, a limit that was set; None: out); `full_on` is the night of a full charge. `low_soc` is the cautious end of `soc`;
    `there_soc` the most that a night elsewhere brings up to the limit (0: nothing, or at home), `beyond_soc` what comes after each day
    before it can charge: the nights and drives elsewhere.
    """

    soc: float
    low_soc: float
    limit: float
    reserve: float
    floor: float
    usable_kwh: float
    likely_soc: Array
    cautious_soc: Array
    in_soc: Array
    out_soc: Array
    warm_cost: Array
    stand_cost: Array
    there_soc: Array
    costs: Sequence[NightCosts]
    plugs: Plugs = Plugs.EVERY
    as_needed: bool = False
    full_on: int | None = None
    fixed: Mapping[int, float | None] = field(default_factory=dict)
    beyond_soc: Array | float = 0.0

    @property
    def count(self) -> int:
        """Nights."""
        return len(self.costs)

    @cached_property
    def needs_soc(self) -> Array:
        """What each day needs at departure at its cautious end, 0 for a day at home."""
        return np.where(self.cautious_soc > 0, self.cautious_soc + self.beyond_soc + self.reserve, 0.0)

    def every(self, night: int) -> bool:
        """Whether the cable goes in by habit on a night: before a day at home it can wait for the next."""
        return self.plugs is Plugs.EVERY and self.needs_soc[night] > 0

    def targets(self, night: int, most: int) -> tuple[float, ...]:
        """Levels that may be charged to on a night: by habit, what the day needs when that is more; as needed, what the next days need."""
        if (fixed := self.fixed.get(night)) is not None:
            return (fixed,)
        if self.full_on == night:
            return (1.0,)
        need = target_as_needed(self.needs_soc[night] + self.in_soc[night] - 1e-6, 0.1)
        if not self.as_needed:
            return (max(self.limit, need),)
        ahead = np.cumsum(self.cautious_soc[night:] + self.in_soc[night:]) + self.reserve
        highest = max(self.limit, need, self.floor)
        found = [target_as_needed(min(float(each), highest), max(self.floor, need)) for each in ahead]
        return tuple(dict.fromkeys(found))[:most]

    @cached_property
    def worth(self) -> float:
        """What the level is worth at the end, money for all of it: at the cheapest of the hours that the week has."""
        added = np.array([min(0.2, self.limit)])
        per = [
            float(money[0] / added_[0])
            for each in self.costs
            for added_, money in [each.charged(added, 0.0, np.inf)]
            if added_[0] > 0.01
        ]
        return max(0.0, min(per, default=0.0))


@dataclass(frozen=True, kw_only=True)
class Turn:
    """A night of a car as it was decided: when the cable is in (None: not at all), the level that it charges to, the level at departure and
    at home again, and what is missing on the cautious side (0 to 1).
    """

    span: Span | None
    target_soc: float | None
    leaves_soc: float
    home_soc: float
    short_soc: float


@dataclass(frozen=True, kw_only=True)
class Decided:
    """What was decided for each car, by night; the money of the week with wear less the level that is left at the end, what is missing in
    all, who has the cable last on each night (a car's place, `NOBODY`) and how often it goes over.
    """

    turns: tuple[tuple[Turn, ...], ...]
    net: float
    missing_soc: float
    holders: tuple[int, ...]
    swaps: int
