"""When to plug in on the evening of a plan: by a time where an hour is at stake, else before bed.

Basis: common practice; who is told a minute without need stops listening.
"""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum

from .control import Control
from .plan import LOWER_SOC, NightPlan

SOON = timedelta(minutes=5)
LATER_DAY = timedelta(hours=18)


class Plug(StrEnum):
    """What to do with the cable: leave it out, as one likes, in now, at the time that the car comes, before a time, before bed."""

    LEAVE = "leave"
    EITHER = "either"
    NOW = "now"
    AT = "at"
    BEFORE = "before"
    BED = "bed"


@dataclass(frozen=True, kw_only=True)
class PlugIn:
    """What to do and by when, local; what an hour later costs more (money, 0: nothing to tell of) and by how much it ends lower (0 to 1);
    `on` is the day on which the car comes, when that is a later one (None: tonight).
    """

    plug: Plug
    by: datetime
    more: float = 0.0
    lower_soc: float = 0.0
    on: date | None = None


def plug_in(plan: NightPlan, control: Control, now: datetime, *, needed: bool, coin: float) -> PlugIn:
    """When to plug in for a plan, on the clock of `now`.

    Args: whether the night is `needed` for the days ahead; the smallest amount that its reader's money shows, in the tariff's.
    """
    zone = now.tzinfo
    first = next((each.start for each in plan.blocks), plan.warm_start).astimezone(zone)
    if not plan.blocks and plan.warm.lead_s <= 0:
        return PlugIn(plug=Plug.EITHER if needed else Plug.LEAVE, by=first)
    comes, bed = plan.start.astimezone(zone), control.bedtime(first)
    by_hand = control.kind.by_plug and bool(plan.blocks)
    more, lower = (0.0, 0.0) if by_hand else _at_stake(plan, coin)
    staked = lower > 0 or more > 0

    def at(plug: Plug, by: datetime) -> PlugIn:
        return PlugIn(plug=plug, by=by, more=more, lower_soc=lower, on=comes.date() if comes - now > LATER_DAY else None)

    if first - now < SOON:
        return at(Plug.NOW, first)
    if by_hand:  # plugging in is the start: neither sooner nor later
        return at(Plug.AT, first)
    if staked and first - comes < SOON:  # it begins as soon as the car is usually there
        return at(Plug.AT, comes)
    late_enough = max(now, comes) < bed < plan.latest_plug_in.astimezone(zone)
    return at(Plug.BED, bed) if late_enough and not (staked and first <= bed) else at(Plug.BEFORE, first)


def _at_stake(plan: NightPlan, coin: float) -> tuple[float, float]:
    """What an hour later costs: money where the level is the same, or level (0 to 1); what nobody would notice is nothing."""
    more, lower = plan.an_hour_late
    if lower > LOWER_SOC:
        return 0.0, lower
    return (more if more > max(plan.no_matter, coin) else 0.0), 0.0
