"""A quick entry filled in: from a level and the clock's kilometres to what must have happened since the level before."""

from dataclasses import dataclass

from ..errors import Refusal

LEAST_KM, LEAST_SOC = 0.5, 0.015


@dataclass(frozen=True, kw_only=True)
class Known:
    """What is known before the entry: the level that was known last, the level the night's plan left with (None without a plan), the
    habit's limit, what the model takes for the kilometres (`use_soc`); all 0 to 1, km since the last look at the clock.
    """

    last_soc: float | None
    planned_soc: float | None
    limit: float
    use_soc: float
    km: float


@dataclass(frozen=True, kw_only=True)
class Filled:
    """What must have happened: a charge to a level (None: none), then a drive that set off with a level (None: none)."""

    charged_to: float | None
    left_with: float | None


def fill(known: Known, soc: float) -> Filled:
    """Tell a drive and the charge before it from a level read now (0 to 1).

    The drive set off with the planned level; without a plan with the last level or the habit's limit, whichever is nearer to what the
    model takes; if neither can be, with as much as the model needs. Raises: Refusal for more level than a full pack leaves.
    """
    last = known.last_soc
    if known.km < LEAST_KM:
        return Filled(charged_to=soc if last is not None and soc > last + LEAST_SOC else None, left_with=None)
    candidates = [each for each in (known.planned_soc,) if each is not None] or [
        each for each in (last, known.limit) if each is not None
    ]
    possible = [each for each in candidates if each > soc]
    needed = soc + known.use_soc
    if not possible and needed > 1.0 + LEAST_SOC:
        raise Refusal("So many kilometres do not fit a level so high: check both.", "soc")
    left = min(possible, key=lambda each: abs(each - needed)) if possible else min(1.0, needed)
    return Filled(charged_to=left if last is not None and left > last + LEAST_SOC else None, left_with=left)
