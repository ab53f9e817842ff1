"""The level of a car now, carried on from when it was read: through nights that may not have charged, drives, and standing still.

Why: docs/decisions/0056.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum
from functools import cached_property

import numpy as np

from ..basis import Basis, figure
from ..car import STANDBY_PER_DAY
from ..probability import normal_below
from ..units import Array

STILL = timedelta(hours=2)
"""A car that stands has the level that was read so lately."""
CARRIED = timedelta(days=7)
OLD = timedelta(days=1)
WIDE_SOC, ASK_ABOVE = 0.10, 0.10
MISSED_LINKED = figure("level.missed_linked", 0.01, "", Basis.COMMON_PRACTICE, "of nights that a link carries out do not charge")
MISSED_KEPT = figure("level.missed_kept", 0.05, "", Basis.COMMON_PRACTICE, "of nights with a kept plan do not charge")
MISSED_HABIT = figure("level.missed_habit", 0.15, "", Basis.COMMON_PRACTICE, "of nights by habit do not charge")
LEARNT_FROM = figure("level.missed_nights", 25.0, "", Basis.COMMON_PRACTICE, "so many nights of this home weigh as much as that")
TELLS_SOC, NEAR_SOC = 0.05, 0.03
"""A night that was to bring less tells nothing; a level so near to what was expected is as expected (0 to 1)."""
MISSED_SHARE = 0.4
"""A night that brought less than this share of what was planned is a miss."""
DOUBTED_FOR, CORRECTED = timedelta(hours=14), timedelta(minutes=10)
"""How long a level that contradicts its night asks what happened; a level that is typed so soon after another corrects it."""
READ_SIGMA, REACHED_SIGMA, STANDS_SIGMA = 0.003, 0.008, 0.5
"""How far a display, a plan that was carried out, and what a standing car takes (a share) are off, one standard deviation."""
GRID, MOST = np.linspace(-0.25, 1.05, 1301), 32
LOW, HIGH = 0.1, 0.9


class Source(StrEnum):
    """Where a level comes from: read, carried on through standing, a night or a drive; too old, or never read."""

    READ = "read"
    STOOD = "stood"
    NIGHT = "night"
    DROVE = "drove"
    OLD = "old"
    NEVER = "never"


@dataclass(frozen=True, kw_only=True)
class Charged:
    """A night since the level was read: where it ends when it was charged as planned (0 to 1), the most that it adds, the chance that it
    was not charged at all; when it ends, and whether a plan was kept for it. `against`: the cable was to stay out, or was another car's.
    """

    to_soc: float
    most_soc: float
    missed: float
    ends: datetime | None = None
    kept: bool = False
    against: bool = False

    @property
    def otherwise(self) -> float:
        """The chance that it went otherwise than it was to go."""
        return 1 - self.missed if self.against else self.missed


@dataclass(frozen=True, kw_only=True)
class Drove:
    """A drive since: what it likely took (0 to 1), and its standard deviation."""

    soc: float
    sigma: float


@dataclass(frozen=True, kw_only=True)
class Stood:
    """Time that it stood since, days."""

    days: float


Event = Charged | Drove | Stood


class Tells(StrEnum):
    """What a level that was read tells of the night before: nothing, that it charged, that it did not; that neither fits."""

    NOTHING = "nothing"
    CHARGED = "charged"
    MISSED = "missed"
    NEITHER = "neither"


@dataclass(frozen=True, kw_only=True)
class NightTold:
    """What the last level that was read tells of the night before it: when that ended, whether a plan was kept for it, the level read
    (0 to 1) and the band that was expected with the night charged.
    """

    tells: Tells
    ends: datetime
    kept: bool
    soc: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class Level:
    """The level now with its 10–50–90 % (0 to 1), when it was read (None: never), where it comes from, and the chance that a night since
    then went otherwise than it was to go. `read_soc` is what was read.
    """

    low: float
    likely: float
    high: float
    at: datetime | None
    source: Source
    missed: float = 0.0
    read_soc: float | None = None
    age: timedelta = timedelta()

    @property
    def wide(self) -> bool:
        """Whether the band is too wide to plan with."""
        return self.high - self.low > WIDE_SOC

    @cached_property
    def asks(self) -> bool:
        """Whether the level is to be read before anybody trusts the plan."""
        unknown = self.source in (Source.NEVER, Source.OLD)
        return unknown or self.wide or self.missed > ASK_ABOVE or self.age > OLD


def missed(prior: float, nights: int, misses: int) -> float:
    """The chance that a night does not charge: a prior, learnt from nights of this home (Beta–binomial mean, textbook).

    Source: the mean of a beta distribution after binomial trials.
    """
    return (prior * LEARNT_FROM + misses) / (LEARNT_FROM + nights)


def was_missed(began_soc: float, planned_soc: float, left_soc: float) -> bool:
    """Whether a night did not charge: the level (0 to 1) that it began with, the one planned, and the one that the car left with."""
    return left_soc < began_soc + MISSED_SHARE * (planned_soc - began_soc)


def disagree(before_soc: float, soc: float, added_soc: float) -> bool:
    """Whether two levels (0 to 1) read shortly after each other disagree, where at most `added_soc` can have been charged between."""
    return soc - before_soc > NEAR_SOC + added_soc or before_soc - soc > NEAR_SOC


def level_of(read: tuple[datetime, float] | None, now: datetime, events: Sequence[Event], floor: float) -> Level:
    """The level at a moment, from when it was read and what happened since, in order.

    A mixture of normal levels: each night splits it by the chance of a miss, each drive moves and widens it. Never read, or read longer ago
    than a week, it is planned as if at the `floor`.
    """
    if read is None:
        return Level(low=floor, likely=floor, high=floor, at=None, source=Source.NEVER)
    at, soc = read
    known = Level(low=soc, likely=soc, high=soc, at=at, source=Source.READ, read_soc=soc, age=now - at)
    moved = [each for each in events if not isinstance(each, Stood)]
    if not moved and known.age < STILL:
        return known
    if known.age > CARRIED:
        return replace(known, low=min(soc, floor), likely=min(soc, floor), source=Source.OLD)
    parts, lost = np.array([[1.0, soc, READ_SIGMA**2]]), 0.0
    for each in events:
        parts = _after(parts, each)
        lost = 1 - (1 - lost) * (1 - each.otherwise) if isinstance(each, Charged) else lost
    low, likely, high = _ends(parts)
    source = {Charged: Source.NIGHT, Drove: Source.DROVE}.get(type(moved[-1]) if moved else Stood, Source.STOOD)
    return replace(known, low=low, likely=likely, high=high, source=source, missed=lost)


def _ends(parts: Array) -> tuple[float, float, float]:
    """The cautious end, the likely level and the other end of a mixture (weight, mean, variance)."""
    ends = _quantiles(parts, (LOW, 0.5, HIGH))
    half = parts[parts[:, 0] >= 0.5 - 1e-9, 1]
    if len(half):  # between two levels that are both likely lies one that is neither
        ends[1] = float(half.min())
    low, likely, high = np.round(np.clip(np.sort(ends), 0.0, 1.0), 3).tolist()
    return low, likely, high


def night_told(before: tuple[datetime, float], at: datetime, events: Sequence[Event], soc: float) -> NightTold | None:
    """What a level (0 to 1) that was read at a moment tells of the last night since the one read `before`; None without a night."""
    nights = [each for each in events if isinstance(each, Charged)]
    if not nights or nights[-1].against or (ends := nights[-1].ends) is None:
        return None

    def expected(missed: float) -> Level:
        """With the last night charged or not, those before it as they likely were."""
        given = [
            replace(each, missed=missed if each is nights[-1] else float(each.against)) if isinstance(each, Charged) else each
            for each in events
        ]
        return level_of(before, at, given, soc)

    charged, missed = expected(0.0), expected(1.0)
    tells = _tells(charged, missed, soc)
    return NightTold(tells=tells, ends=ends, kept=nights[-1].kept, soc=soc, low=charged.low, high=charged.high)


def _tells(charged: Level, missed: Level, soc: float) -> Tells:
    """Which of two levels a read one (0 to 1) is: that of a night that charged, of one that did not, or neither."""
    off, off_missed = (max(each.low - soc, soc - each.high, 0.0) for each in (charged, missed))
    if charged.likely - missed.likely < TELLS_SOC:
        return Tells.NOTHING
    if min(off, off_missed) > NEAR_SOC:
        return Tells.NEITHER
    return Tells.CHARGED if off < off_missed or abs(soc - charged.likely) < abs(soc - missed.likely) else Tells.MISSED


def _after(parts: Array, event: Event) -> Array:
    """The mixture (weight, mean, variance) after an event."""
    weight, mean, variance = parts.T
    if isinstance(event, Drove):
        return np.column_stack([weight, np.maximum(mean - event.soc, 0.0), variance + event.sigma**2])
    if isinstance(event, Stood):
        loss = STANDBY_PER_DAY * event.days
        return np.column_stack([weight, np.maximum(mean - loss, 0.0), variance + (STANDS_SIGMA * loss) ** 2])
    full = mean + event.most_soc >= event.to_soc
    reached = np.maximum(mean, np.minimum(event.to_soc, mean + event.most_soc))
    spread = np.where(full & (mean < event.to_soc), REACHED_SIGMA**2, variance)
    charged = np.column_stack([weight * (1 - event.missed), reached, spread])
    both = np.concatenate([charged, np.column_stack([weight * event.missed, mean, variance])])
    return _merged(both[both[:, 0] > 0])


def _merged(parts: Array) -> Array:
    """Parts of one whole per cent as one, the heaviest of them kept."""
    found: dict[int, Array] = {}
    for weight, mean, variance in parts:
        key = round(100 * float(mean))
        have = found.get(key, np.zeros(3))
        both = have[0] + weight
        middle = (have[0] * have[1] + weight * mean) / max(both, 1e-12)
        spread = (have[0] * (have[2] + (have[1] - middle) ** 2) + weight * (variance + (mean - middle) ** 2)) / max(both, 1e-12)
        found[key] = np.array([both, middle, spread])
    most = sorted(found.values(), key=lambda each: -each[0])[:MOST]
    kept = np.array(most)
    kept[:, 0] /= kept[:, 0].sum()
    return kept


def _quantiles(parts: Array, shares: Sequence[float]) -> list[float]:
    """Levels below which the mixture lies with some chances."""
    weight, mean, variance = parts.T
    below = (weight[:, None] * normal_below((GRID[None] - mean[:, None]) / np.sqrt(variance)[:, None])).sum(axis=0)
    return [float(np.interp(share, below, GRID)) for share in shares]
