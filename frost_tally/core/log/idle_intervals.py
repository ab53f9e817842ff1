"""Standing: what the level did between one entry and the next of a car, and what a day of it takes."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from ..basis import Basis, figure
from .facts import Fact

CLIMB_SOC = figure("log.climb", 0.03, "", Basis.COMMON_PRACTICE, "a display climbs so far by itself as the pack warms")
DRAIN_SOC_PER_DAY = figure(
    "log.drain", 0.03, "1/d", Basis.COMMON_PRACTICE, "a parked car with its watch cameras on loses so much"
)
DRAIN_LEAST_SOC = figure(
    "log.drain_least", 0.06, "", Basis.COMMON_PRACTICE, "of level lost without a drive, before anybody is asked"
)
LEAST_STAND_H = figure("log.least_stand", 6.0, "h", Basis.COMMON_PRACTICE, "of standing, before its level says anything of a day")
DAY_S = 86_400.0


@dataclass(frozen=True, kw_only=True)
class IdleInterval:
    """A car between two entries: the level when it was left and when it was seen again (0 to 1), and for how many days it stood."""

    before: Fact
    after: Fact
    was: float
    now: float
    days: float

    @property
    def rose(self) -> bool:
        """Whether the level rose by more than a display does by itself."""
        return self.now > self.was + CLIMB_SOC

    @property
    def fell(self) -> bool:
        """Whether it fell by more than standing takes."""
        return self.now < self.was - max(DRAIN_LEAST_SOC, DRAIN_SOC_PER_DAY * self.days)


def idle_intervals(facts: Sequence[Fact]) -> Iterator[IdleInterval]:
    """Every standing between neighbours whose levels are known; `facts` in the order of time.

    A charge whose first level nobody read says nothing of the standing before it.
    """
    known = [(each, _either(each.soc_start, each.soc_end), _either(each.soc_end, each.soc_start)) for each in facts]
    levelled = [(each, first, last) for each, first, last in known if first is not None and last is not None]
    for (before, _, was), (after, now, _) in pairwise(levelled):
        if after.kind != "charge" or after.soc_start is not None:
            days = max(0.0, after.begun_s - before.ended_s) / DAY_S
            yield IdleInterval(before=before, after=after, was=was, now=now, days=days)


def _either(one: float | None, other: float | None) -> float | None:
    return other if one is None else one


def standby(facts: Sequence[Fact]) -> tuple[float | None, float]:
    """Level (0 to 1) that a day of standing takes, and from how many days; None without any.

    All that was lost over all the time, from standings of some hours that go together: rises of a display count against falls, so that
    reading whole per cents does not add up to a loss.
    Source: a ratio of sums, which rounding to whole per cents does not bias.
    """
    known = [each for each in idle_intervals(facts) if each.days * 24 >= LEAST_STAND_H and not each.rose and not each.fell]
    days = sum(each.days for each in known)
    return (max(0.0, sum(each.was - each.now for each in known) / days) if days else None), days
