"""Whether a plan that was kept still says what the night would be now."""

from datetime import datetime, timedelta

from ..charge.night import NightPlan
from ..charge.saved_plan import SavedPlan
from .night import CarNight

MOVED_SOC = 0.02
"""A level at home again that differs by more, and hours that begin or end so much later, are another plan (common practice)."""
MOVED = timedelta(minutes=15)
KEPT_WITHIN = timedelta(hours=6)
"""So long before it begins at most a night's plan is kept by itself (our judgement): docs/decisions/0070."""


def of_this_evening(plan: NightPlan, now: datetime) -> bool:
    """Whether a night is so near that its plan may be kept by itself."""
    return plan.start - now < KEPT_WITHIN


def has_moved(kept: SavedPlan, night: CarNight) -> bool:
    """Whether weather, level or departure have moved so far that the night, planned now as it was kept, says something else."""
    plan = night.plan
    if abs(plan.request.departure - kept.departure) > timedelta(minutes=1):
        return True
    if abs(night.arrival.likely - kept.arrival_likely) > MOVED_SOC or abs(night.arrival.low - kept.arrival_low) > MOVED_SOC:
        return True
    if kept.starts is None or not plan.blocks:
        return kept.starts is None and bool(plan.blocks)
    begun = kept.starts < plan.start  # from then on the plan is what is left of it
    return abs(plan.blocks[-1].end - kept.charging[-1].end) > MOVED or (
        not begun and abs(plan.blocks[0].start - kept.starts) > MOVED
    )
