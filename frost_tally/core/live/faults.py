"""What can go wrong in a night, where and when; drawn from a seed for made-up nights."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from random import Random


class FaultKind(StrEnum):
    """A fault of the night."""

    LATE = "late"
    UNPLUGGED = "unplugged"
    WRONG_CAR = "wrong_car"
    POWER_CUT = "power_cut"
    NOT_HEARD = "not_heard"
    SERVER_DOWN = "server_down"
    ASLEEP = "asleep"
    REFUSES = "refuses"
    LESS_CURRENT = "less_current"
    OWN_LIMIT = "own_limit"
    EARLIER = "earlier"


AWAY = frozenset((FaultKind.LATE, FaultKind.UNPLUGGED, FaultKind.WRONG_CAR))
"""Our car is not on the cable."""
UNHEARD = frozenset((FaultKind.POWER_CUT, FaultKind.NOT_HEARD, FaultKind.SERVER_DOWN))
"""Point and runner do not hear each other."""


@dataclass(frozen=True, kw_only=True)
class Fault:
    """A fault from `begin` to `end` (aware). `amps` are what LESS_CURRENT leaves; `soc` is where OWN_LIMIT stops (0 to 1).

    LATE begins with the night. ASLEEP ends at a waking; a car that REFUSES cannot be woken. EARLIER is told at `begin`: the car
    leaves at `end`.
    """

    kind: FaultKind
    begin: datetime
    end: datetime
    amps: float = 0.0
    soc: float = 1.0

    def at(self, moment: datetime) -> bool:
        """Whether it is so at a moment."""
        return self.begin <= moment < self.end


@dataclass(frozen=True)
class Faults:
    """The faults of one night."""

    each: tuple[Fault, ...] = ()

    def __iter__(self) -> Iterator[Fault]:
        return iter(self.each)

    def of(self, kinds: Iterable[FaultKind]) -> tuple[Fault, ...]:
        """Those of some kinds."""
        return tuple(fault for fault in self.each if fault.kind in kinds)

    def any_at(self, moment: datetime, *kinds: FaultKind) -> bool:
        """Whether one of some kinds is so at a moment."""
        return any(fault.kind in kinds and fault.at(moment) for fault in self.each)

    def departure(self, planned: datetime) -> datetime:
        """When the car really leaves."""
        return min([planned, *(fault.end for fault in self.of((FaultKind.EARLIER,)))])

    def limit(self, limit: float) -> float:
        """Where the car stops, 0 to 1."""
        return min([limit, *(fault.soc for fault in self.of((FaultKind.OWN_LIMIT,)))])


def drawn(draw: Random, start: datetime, departure: datetime, *, most: int = 3) -> Faults:
    """Faults of a made-up night between plugging in and leaving: none in two of five nights, else one to `most`, of different kinds."""
    if draw.random() < 0.4:
        return Faults()
    kinds = draw.sample(list(FaultKind), draw.randint(1, most))
    return Faults(tuple(one(kind, draw, start, departure) for kind in kinds))


def one(kind: FaultKind, draw: Random, start: datetime, departure: datetime) -> Fault:
    """A fault of a kind somewhere in a night."""
    length = departure - start
    begin = start + draw.uniform(0.0, 0.85) * length
    end = min(departure, begin + timedelta(minutes=draw.uniform(3, 240)))
    match kind:
        case FaultKind.LATE:
            return Fault(kind=kind, begin=start, end=start + draw.uniform(0.05, 0.6) * length)
        case FaultKind.OWN_LIMIT:
            return Fault(kind=kind, begin=start, end=departure, soc=draw.choice((0.5, 0.6, 0.7, 0.8)))
        case FaultKind.LESS_CURRENT:
            return Fault(
                kind=kind, begin=begin, end=departure if draw.random() < 0.5 else end, amps=draw.choice((6.0, 8.0, 10.0, 13.0))
            )
        case FaultKind.EARLIER:
            return Fault(kind=kind, begin=begin, end=begin + draw.uniform(0.3, 0.9) * (departure - begin))
    return Fault(kind=kind, begin=begin, end=end)
