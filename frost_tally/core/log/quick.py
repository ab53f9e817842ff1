"""A quick entry filled in: from a level and the clock's kilometres to what must have happened since the level before."""

from dataclasses import dataclass

from ..errors import Refusal

LEAST_KM, LEAST_SOC = 0.5, 0.015


@dataclass(frozen=True, kw_only=True)
class Known:
    """What is known before the entry: the level that was known last, the level the night's plan left with (None without a plan), the
    habit's limit, what the model takes for the kilometres (`use_soc`), the level that the outlet can have charged to since
    (`reach_soc`); all 0 to 1, km since the last look at the clock.
    """

    last_soc: float | None
    planned_soc: float | None
    limit: float
    use_soc: float
    km: float
    reach_soc: float = 1.0


@dataclass(frozen=True, kw_only=True)
class Filled:
    """What must have happened: a charge to a level (None: none), then a drive that set off with a level (None: none)."""

    charged_to: float | None
    left_with: float | None


def fill(known: Known, soc: float) -> Filled:
    """Tell a drive and the charge before it from a level read now (0 to 1).

    The drive set off with the planned level; without a plan with the last level or the habit's limit, whichever is nearer to what the
    model takes; if neither can be, with as much as the model needs. A charge that the outlet could not have given since is not told:
    the level before was wrong, or something was not noted. Raises: Refusal for more level than a full pack leaves.
    """
    last = known.last_soc

    def charged(to: float) -> float | None:
        return to if last is not None and last + LEAST_SOC < to <= known.reach_soc + LEAST_SOC else None

    if known.km < LEAST_KM:
        return Filled(charged_to=charged(soc), left_with=None)
    possible = [each for each in _levels(known, soc) if each > soc]
    needed = soc + known.use_soc
    if not possible and needed > 1.0 + LEAST_SOC:
        raise Refusal("So many kilometres do not fit a level so high: check both.", "soc")
    left = min(possible, key=lambda each: abs(each - needed)) if possible else min(1.0, needed)
    return Filled(charged_to=charged(left), left_with=left)


def _levels(known: Known, soc: float) -> list[float]:
    """With what a drive may have set off: as planned, else with the last level, or the habit's limit as far as the outlet reaches."""
    if known.planned_soc is not None:
        return [known.planned_soc]
    return [*([] if known.last_soc is None else [known.last_soc]), min(known.limit, max(known.reach_soc, soc))]
