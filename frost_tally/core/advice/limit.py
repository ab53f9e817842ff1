"""How full tonight: by the owner's habit, what tomorrow needs at its cautious end, and what a chemistry wants now and then."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import ceil

from ..basis import Basis, figure
from ..battery.cold import Chemistry

FULL_EVERY_DAYS = figure(
    "night.full_every", 7.0, "d", Basis.COMMON_PRACTICE, "an LFP pack’s display stays honest with a full charge about weekly"
)
FULL_AT_LAST_DAYS = figure("night.full_at_last", 10.0, "d", Basis.COMMON_PRACTICE, "then it is not put off for a longer day")
CHARGED_FULL, WHOLE = 0.995, 0.005


class Charges(StrEnum):
    """How full by habit: to the limit every time, or only as much as the day needs."""

    SHALLOW = "shallow"
    AS_NEEDED = "as_needed"


class Plugs(StrEnum):
    """When the cable goes in by habit: every night, when it pays for the walk, or only when a day asks for it."""

    EVERY = "every"
    PAYS = "pays"
    MUST = "must"


class Need(StrEnum):
    """What the coming day asks of the limit."""

    ENOUGH = "enough"
    RAISE = "raise"
    TOO_FAR = "too_far"
    SKIP = "skip"
    FULL = "full"


@dataclass(frozen=True, kw_only=True)
class LimitAdvice:
    """What is advised: the target for this night (0 to 1), what the day needs (may be above 1), and what is missing at 100 %."""

    need: Need
    target_soc: float
    need_soc: float

    @property
    def short_soc(self) -> float:
        """What even a full pack lacks for the cautious end, 0 or more."""
        return max(0.0, self.need_soc - 1.0)


def full_night(days_since_full: float, km: Sequence[float]) -> int | None:
    """On which of the coming nights an LFP pack is charged full: before the longest day once a week has passed, before it is put off too
    long; None while it was full not long ago.
    """
    due = [i for i in range(len(km)) if FULL_EVERY_DAYS <= days_since_full + i <= max(FULL_AT_LAST_DAYS, days_since_full)]
    return max(due, key=lambda i: (km[i], -i), default=None)


def target_as_needed(need_soc: float, floor: float) -> float:
    """The level that a habit of charging only as needed asks for: the need, at least the floor, in whole per cents upwards, 1 at most."""
    return min(1.0, ceil(100 * max(need_soc, floor) - 1e-6) / 100)


def advise_limit(
    *,
    need_soc: float,
    limit: float,
    soc_now: float,
    as_needed: bool,
    floor: float,
    chemistry: Chemistry,
    days_since_full: float | None = None,
    longest_ahead: bool = False,
) -> LimitAdvice:
    """Judge a night. Levels 0 to 1; `need_soc` is what the day needs at departure at its cautious end with the reserve (may
    be above 1); `days_since_full` since the last full charge (None: not known), `longest_ahead` whether no longer day is
    listed in the coming week.
    """
    if need_soc > 1.0 + WHOLE:
        return LimitAdvice(need=Need.TOO_FAR, target_soc=1.0, need_soc=need_soc)
    target = target_as_needed(need_soc, floor)
    if as_needed and soc_now >= target:
        return LimitAdvice(need=Need.SKIP, target_soc=soc_now, need_soc=need_soc)
    if as_needed:
        return LimitAdvice(need=Need.ENOUGH, target_soc=target, need_soc=need_soc)
    if need_soc > limit + WHOLE:
        return LimitAdvice(need=Need.RAISE, target_soc=target, need_soc=need_soc)
    if chemistry is Chemistry.LFP and limit < CHARGED_FULL and _full_due(days_since_full, longest_ahead):
        return LimitAdvice(need=Need.FULL, target_soc=1.0, need_soc=need_soc)
    return LimitAdvice(need=Need.ENOUGH, target_soc=limit, need_soc=need_soc)


def _full_due(days_since_full: float | None, longest_ahead: bool) -> bool:
    """Whether a full charge is due: before the longest day of the week, at last without one."""
    if days_since_full is None:
        return False
    return days_since_full >= FULL_AT_LAST_DAYS or (longest_ahead and days_since_full >= FULL_EVERY_DAYS)
