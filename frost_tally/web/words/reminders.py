"""Words of a reminder: a line that says what to do, and below it what Tonight says."""

from ...core.live.reminders import Kind
from ...services.tonight.reminding import Due
from ...world import Letter
from ..units import Units
from .night import verdict

KINDS = {Kind.PLUG_IN: "plug it in", Kind.LEVEL: "read its level", Kind.SHORT: "it may not be enough today"}
"""What a reminder is of."""


def letter(due: Due, units: Units, to: str) -> Letter:
    """A reminder as somebody gets it."""
    night, said = due.night, verdict(due.night, units)
    text = "\n\n".join(
        [said.plain, *said.notes, "You said yes to these letters in the Garage, People and units; there is the no as well."]
    )
    return Letter(
        to=to, subject=f"{night.owned.name}: {KINDS[due.reminder.kind]}", text=text.replace("\u00a0", " ").replace("\u2060", "")
    )
