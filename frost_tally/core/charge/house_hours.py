"""Hours in which the house leaves less, on many nights at once: when they are, and what they leave of a start.

Why: docs/decisions/0045.
"""

from collections.abc import Sequence
from datetime import UTC, datetime

import numpy as np

from ..units import Array, Flags, Ints
from .courses import Nights
from .night_clock import HeldHours
from .sessions import Drawn
from .supply import ChargeRate

SAME_S = 1e-3
Span = tuple[Array, Array]


class HouseHours:
    """A supply on a row of nights; times are s after plugging in, shape (nights,) unless said.

    `rates`: what it gives, and where the house leaves some of it also that; `spans`: each night's first, second, … of the hours in which
    the house leaves less, from and until (inf for none); `closed`: those of them in which it leaves nothing.
    """

    def __init__(self, rate: ChargeRate, held: HeldHours, nights: Nights, zone: str, one_start: bool) -> None:
        here = rate.held_to(held.amps)
        self.rates = [rate, *([here] if here is not None and here is not rate else [])]
        self.one_start = one_start
        self.spans: Sequence[Span] = [] if here is rate else _spans(held, nights, zone)
        self.closed = self.spans if here is None else []

    def open_at(self, night: Ints, at_s: Array) -> Flags:
        """Whether anything may be drawn at times of some nights: shape (nights, times)."""
        closed = np.zeros(at_s.shape, dtype=bool)
        for begin, end in self.closed:
            closed |= (begin[night, None] <= at_s + SAME_S) & (at_s + SAME_S < end[night, None])
        return np.asarray(~closed)

    def until(self, night: Ints, begin_s: Array, end_s: Array) -> Array:
        """How long one start of each of some nights may draw: a control that has only the one is through where the house closes."""
        closes = [np.where(begin[night] > begin_s, begin[night], np.inf) for begin, _ in self.closed if self.one_start]
        return np.asarray(np.minimum.reduce([end_s, *closes]))

    def drawn(self, night: Ints, begin_s: Array, until_s: Array) -> list[Drawn]:
        """One start of each of some nights as spans: cut where the house leaves less, without those in which it leaves nothing."""
        less = -1 if len(self.rates) == 1 else 1
        cuts, which = [begin_s], list[int]()
        for begin, end in self.spans:
            cuts += [np.clip(begin[night], begin_s, until_s), np.clip(end[night], begin_s, until_s)]
            which += [0, less]
        pairs = zip(cuts, [*cuts[1:], until_s], [*which, 0], strict=True)
        return [(a, b, np.where(b > a, rate, -1)) for a, b, rate in pairs]


def _spans(held: HeldHours, nights: Nights, zone: str) -> list[Span]:
    spans = [
        held.spans(datetime.fromtimestamp(float(begin), UTC), float(stay), zone)
        for begin, stay in zip(nights.plug_in_s, nights.stay_s, strict=True)
    ]
    most = max(map(len, spans), default=0)
    table = np.full((len(spans), most, 2), np.inf)
    for night, each in enumerate(spans):
        table[night, : len(each)] = np.reshape(each, (-1, 2))
    return [(table[:, i, 0], table[:, i, 1]) for i in range(most)]
