"""Words of a reminder: a line that says what to do, and below it what Tonight says."""

from ...core.live.reminders import Kind
from ...services.tonight.reminding import Due
from ...world import Letter
from ..units import Units
from .night import verdict
from .runner import line_words

KINDS = {
    Kind.PLUG_IN: "plug it in", Kind.LEVEL: "read its level", Kind.SHORT: "it may not be enough today", Kind.STALLED: "it does not charge",
    Kind.UNPLUGGED: "the cable was pulled", Kind.WRONG_CAR: "another car is on the cable", Kind.LOST: "the charge point is not heard",
    Kind.REFUSED: "the charge point did not take the plan", Kind.FAULT: "the charge point has a fault",
}  # fmt: skip
"""What a reminder is of."""


def letter(due: Due, units: Units, to: str) -> Letter:
    """A reminder as somebody gets it."""
    night, said = due.night, verdict(due.night, units)
    why = [line_words(due.line, units)] if due.line else []
    consent = "You said yes to these letters in the Garage, People and units; there is the no as well."
    text = "\n\n".join([*why, said.plain, *said.notes, consent])
    return Letter(
        to=to, subject=f"{night.owned.name}: {KINDS[due.reminder.kind]}", text=text.replace("\u00a0", " ").replace("\u2060", "")
    )
