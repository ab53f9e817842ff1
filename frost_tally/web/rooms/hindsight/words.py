"""Words of the nights that are over: what they cost, and what their cheapest hours would have."""

from ....core.live.hindsight import Hindsight
from ....services.hindsight import HindsightRoom
from ...units import Units
from ...words.hours import hour
from ...words.sentence import Part, Verdict, percent

BECAUSE = {"": "as good as its cheapest", "hours": "other hours", "control": "hours that only a link can draw"}
"""The decision that made the difference, by its code."""


def verdict(room: HindsightRoom, units: Units) -> Verdict:
    """What the nights cost, and what would have been less."""
    count = len(room.nights)
    if not count:
        none = (Part("No night of the last "), Part(f"{room.inputs.days} days", "strong"), Part(" was noted with its levels."))
        return Verdict(
            none, (Part("Note a charge with the levels before and after, and it stands here beside its cheapest hours."),)
        )
    lead: tuple[Part, ...] = (
        Part(f"{count} {'night' if count == 1 else 'nights'} of {room.owned.name} cost "), Part(units.money(room.was), "strong"),
        Part("; in their cheapest hours "), Part(units.money(room.was - room.hours - room.control), "strong"), Part("."),
    )  # fmt: skip
    parts = []
    if units.pays(room.hours):
        parts.append(f"Other hours by the same control would have spared {units.money(room.hours)}")
    if units.pays(room.control):
        link = "a link that draws any hours" if parts else "A link that draws any hours would have spared"
        parts.append(f"{link} {units.money(room.control)}{' more' if parts else ''}")
    then = "; ".join(parts) + "." if parts else "Nothing to speak of could have been spared."
    return Verdict(lead, (Part(then),), (last_words(room.nights[0], room, units),))


def last_words(night: Hindsight, room: HindsightRoom, units: Units) -> str:
    """The last night in a sentence."""
    begun = hour(night.begun, room.owned.zone, units)
    was = f"The last one began at {begun} and cost {units.money(night.was)}"
    if not night.because:
        return f"{was}: {BECAUSE['']}."
    better = night.own if night.because == "hours" else night.linked
    starts = f", from {hour(better.blocks[0].start, room.owned.zone, units)}" if better.blocks else ""
    spent = units.money(night.best_own if night.because == "hours" else night.best)
    return f"{was}; {BECAUSE[night.because]}{starts} would have cost {spent}."


def rows(room: HindsightRoom, units: Units) -> tuple[tuple[str, ...], ...]:
    """Each night: the day that it was left on, for an address and in words; from when to which level; its bill and those that it could have
    had; and what made the difference.
    """
    zone = room.owned.zone
    left = [each.departure.astimezone(zone) for each in room.nights]
    return tuple(
        (
            f"{day:%Y-%m-%d}", units.date(day, weekday="a"), f"{hour(each.begun, zone, units)} to {percent(each.soc)}",
            units.money(each.was), units.money(each.best_own), units.money(each.best), BECAUSE[each.because],
        )
        for day, each in zip(left, room.nights, strict=True)
    )  # fmt: skip
