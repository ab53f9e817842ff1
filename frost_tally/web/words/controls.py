"""How a night is carried out, in words: by hand, by a timer, linked; and what its owner sets or does for it.

One entry for each of `core.charge.control.KINDS`, under its key.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from ...core.charge.control import How
from ...core.charge.plan import LOWER_SOC
from ...services.tonight.room import Tonight
from ..units import Units
from .hours import hour
from .sentence import percent


@dataclass(frozen=True)
class ControlWords:
    """How a control is called, and what to set for a night that draws (its blocks' local begin and end, whether the house stops it, and the
    line for the limit, when that is another); None where there is nothing to set. `set_once`: it can be set and left for a season. `alone`:
    how a night goes by it where no runner watches.
    """

    name: str
    alone: str
    settings: Callable[[Tonight, Units, datetime, datetime, bool, list[str]], list[str]] | None = None
    set_once: bool = False


def set_words(night: Tonight, units: Units) -> list[str]:
    """What to set for this night, as short lines: only what changes since the last one. Nothing where it is linked, or nobody leaves."""
    plan, words = night.plan, CONTROL_WORDS[night.control.how]
    if night.idle or words.settings is None:
        return []
    last = night.nights.last
    same_limit = last is not None and abs(last.limit - night.night.inputs.limit) < LOWER_SOC
    lines = [] if same_limit else [f"Car: limit {percent(night.night.inputs.limit)}."]
    if not plan.blocks:
        return [*lines, "Nothing to start tonight."] if lines else []
    begin, end = plan.blocks[0].start.astimezone(night.zone), plan.blocks[-1].end.astimezone(night.zone)
    stops = any(not each.amps and abs(each.start - end) < timedelta(minutes=1) for each in plan.held)
    return words.settings(night, units, begin, end, stops, lines)


def _by_hand(night: Tonight, units: Units, begin: datetime, end: datetime, stops: bool, lines: list[str]) -> list[str]:
    pull = [f"Pull it at {hour(end, night.zone, units)}: the house needs its power then."] if stops else []
    return [*pull, *lines]


def _by_timer(night: Tonight, units: Units, begin: datetime, end: datetime, stops: bool, lines: list[str]) -> list[str]:
    last, lines = night.nights.last, list(lines)
    was = last.starts.astimezone(night.zone) if last and last.starts else None
    if was is None or (was.hour, was.minute) != (begin.hour, begin.minute):
        lines.insert(0, f"Timer: start {units.clock(begin)}.")
    if stops:
        lines.insert(1, f"Timer: end {hour(end, night.zone, units)}, for the house needs its power then.")
    if last is not None:
        since = f"{last.departure.astimezone(night.zone):%A}"
        lines.append(f"{'Nothing else' if lines else 'Nothing'} changed since {since}’s night.")
    return lines


CONTROL_WORDS = {
    How.HAND: ControlWords("by hand", "By hand", _by_hand),
    How.TIMER: ControlWords("by a timer", "By its timer", _by_timer, set_once=True),
    How.LINKED: ControlWords("linked to this plan", "With nobody who watches"),
}
