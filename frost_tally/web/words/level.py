"""Words of the level now: what is known of it, and what is asked."""

from ...core.coming.level import Source
from ...services.tonight.room import Tonight
from ..units import Units
from .hours import hour
from .sentence import percent

SINCE = {
    Source.READ: "as it was read",
    Source.STOOD: "as it stands since then",
    Source.NIGHT: "if the night charged it as planned",
    Source.DROVE: "after the nights and drives since then, as they were planned",
}


HAPPENED = {
    "missed": "Noted: that night did not charge",
    "charged": "Noted: that night charged",
    "misread": "The misread level is gone",
}


def doubt_question(night: Tonight) -> str:
    """What is asked of a night that the level read last contradicts; "" where none is."""
    told = night.doubt
    if told is None:
        return ""
    ends = told.ends.astimezone(night.zone)
    expected = f"{round(100 * told.low)}–{percent(told.high)}"
    return f"You read {percent(told.soc)}; after the night to {ends:%A}, {expected} were expected. Did it charge?"


def doubt_answers(night: Tonight) -> dict[str, str]:
    """What may have become of it, by code."""
    told = night.doubt
    if told is None:
        return {}
    if told.soc > told.high:
        return {"charged": "Yes, and more, or less was driven", "misread": "I misread the level"}
    return {"missed": "No, or it stopped early", "charged": "Yes, it was used since", "misread": "I misread the level"}


def other_words(night: Tonight, units: Units) -> str:
    """A level that was read shortly before and disagrees; "" where none does."""
    other, level = night.other_level, night.level
    if other is None or level.at is None or level.read_soc is None:
        return ""
    read = (f"{percent(soc)} at {hour(at, night.zone, units)}" for at, soc in ((level.at, level.read_soc), other))
    return f"Read: {' and '.join(read)}. The later counts."


def level_question(night: Tonight, units: Units) -> str:
    """What is asked of the level before anybody trusts the plan; "" while it is known well enough, or somebody set it."""
    level = night.level
    if not level.asks or night.inputs.soc_now != night.habits.soc_now:
        return ""
    if level.source is Source.NEVER:
        return f"Nobody has read the level yet. Planned as if at the floor, {percent(level.likely)}: what does the car show?"
    at = level.at.astimezone(night.zone) if level.at else night.now
    read = f"Read on {at:%A} at {hour(at, night.zone, units)}: {percent(level.read_soc or 0.0)}"
    if level.source is Source.OLD:
        return f"{read}. That is too long ago; planned from {percent(night.inputs.soc_now)}: what does the car show?"
    low, high = (round(100 * each) for each in (level.low, level.high))
    planned = f"; planned from {percent(night.inputs.soc_now)}" if abs(night.inputs.soc_now - level.likely) > 0.005 else ""
    return (
        f"{read}. By now likely {percent(level.likely)} ({low}–{high}), {SINCE[level.source]}{planned}: what does the car show?"
    )
