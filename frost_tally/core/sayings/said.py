"""What a saying comes to for one household: whether it holds, what it changes in a year, both sides of a quarrel, and where they turn."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from ..basis import Basis, figure, figures

LITTLE = figure(
    "sayings.little", 10.0, "EUR", Basis.COMMON_PRACTICE, "our judgement: what changes less in a year is not worth a thought"
)
MINUTE = figure(
    "sayings.minute", 0.20, "EUR", Basis.COMMON_PRACTICE, "our judgement: a minute of one’s own, as at a stop to charge"
)
_OURS = "our judgement: standard deviation, as a share, of what "
PRICED = figure("sayings.doubt_priced", 0.1, "", Basis.COMMON_PRACTICE, _OURS + "prices and one’s own days decide")
MODELLED = figure("sayings.doubt_modelled", 0.2, "", Basis.COMMON_PRACTICE, _OURS + "another outlet, garage or stop decides")
ROUGH = figure("sayings.doubt_rough", 0.3, "", Basis.COMMON_PRACTICE, _OURS + "is known from usual cars and days alone")
GUESSED = figure("sayings.doubt_guessed", 0.5, "", Basis.COMMON_PRACTICE, _OURS + "standing and single effects on cells decide")
EITHER_WAY = figure("sayings.doubt_either_way", 0.8, "", Basis.COMMON_PRACTICE, _OURS + "may as well be the other way round")
Z80 = 1.2816
"""Bands hold 80 %."""


class Verdict(StrEnum):
    """A saying holds here, holds up to some place and not beyond it, does not hold here, is not worth a thought, or nobody knows."""

    HOLDS = "holds"
    TURNS = "turns"
    NOT_HERE = "not_here"
    LITTLE = "little"
    NOBODY_KNOWS = "nobody_knows"


@dataclass(frozen=True, kw_only=True)
class Yearly:
    """What following a saying brings in a year, likely and as a band; negative: what it takes. `of` is "money", "health" (share of the
    pack as new) or "minutes".
    """

    of: str
    likely: float
    low: float
    high: float


def about(of: str, likely: float, sigma: float = 0.0) -> Yearly:
    """An amount whose standard deviation is a share of it."""
    half = Z80 * sigma * abs(likely)
    return Yearly(of=of, likely=likely, low=likely - half, high=likely + half)


@dataclass(frozen=True, kw_only=True)
class Side:
    """One side of a quarrel: its key, and its numbers by name."""

    key: str
    numbers: Mapping[str, float]


@dataclass(frozen=True, kw_only=True)
class Turn:
    """Where a saying turns: lines by side along a quantity of the page (`axis`: temperature, distance, percent, count), in the `unit` of a
    quantity too, the value at which they cross or it begins to hold (None: nowhere on the axis), and the household's own place on it.
    """

    axis: str
    at: float | None
    xs: tuple[float, ...]
    lines: Mapping[str, tuple[float, ...]] = field(default_factory=dict)
    unit: str = ""
    own: float | None = None

    @property
    def drawn(self) -> bool:
        """Whether there is anything to draw."""
        return bool(self.lines) or self.at is not None


@dataclass(frozen=True, kw_only=True)
class Logged:
    """What the log of the last year says to it: days driven, of them in frost, and the energy that the saying would have spared on all of
    them and on the frosty ones, kWh in the pack.
    """

    days: int
    frosty: int
    kwh: float
    frosty_kwh: float


@dataclass(frozen=True, kw_only=True)
class Said:
    """What a saying comes to. `numbers` are what its sentence needs, by name; `rests_on` starts the keys of the figures behind it;
    `measured` says that they are the owner's own; `source` where they come from when no figure says so; `act` is the habit that follows it,
    with its value; `best` the side that is the better one here, to which `yearly` belongs then; `at_stake` money a year between the sides
    where neither is advised.
    """

    verdict: Verdict
    room: str
    yearly: tuple[Yearly, ...] = ()
    numbers: Mapping[str, float] = field(default_factory=dict)
    sides: tuple[Side, ...] = ()
    turn: Turn | None = None
    rests_on: tuple[str, ...] = ()
    measured: bool = False
    source: Basis | None = None
    act: tuple[str, float | str] | None = None
    logged: Logged | None = None
    best: str = ""
    at_stake: float = 0.0

    @property
    def basis(self) -> Basis:
        """Where its numbers come from: the weakest of what they rest on, unless they are measured."""
        if self.measured or self.source:
            return self.source or Basis.MEASURED
        found = {each.basis for start in self.rests_on for each in figures(start)}
        weakest = (Basis.FROM_MEMORY, Basis.COMMON_PRACTICE, Basis.PUBLISHED, Basis.ENTERED)
        return next((each for each in weakest if each in found), Basis.ENTERED)


def turn_of(axis: str, xs: Sequence[float], lines: Mapping[str, Sequence[float]], unit: str = "") -> Turn:
    """Two or more lines, and where the first and the last of them cross for the last time; None where one of them is never the greater."""
    first, *_, last = (np.asarray(each, dtype=float) for each in lines.values())
    gap, at = first - last, None
    crossings = np.flatnonzero((gap[:-1] < 0) != (gap[1:] < 0))
    if len(crossings):
        i = int(crossings[-1])
        at = float(xs[i] + gap[i] / (gap[i] - gap[i + 1]) * (xs[i + 1] - xs[i]))
    held = {key: tuple(float(each) for each in line) for key, line in lines.items()}
    return Turn(axis=axis, at=at, xs=tuple(float(each) for each in xs), lines=held, unit=unit)
