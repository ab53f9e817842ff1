"""The why of a day: the tally's steps as lines, with their reasons and the figures they rest on."""

from dataclasses import dataclass

from ..core.basis import Figure, figures
from ..core.drive.tally import Tally
from .units import Units
from .words.causes import cause_why, cause_words


@dataclass(frozen=True, kw_only=True)
class TallyRow:
    """One line of the why: cause, kilometres, share, energy, money, reason and the figures it rests on."""

    label: str
    km: str
    share: str
    kwh: str
    cost: str
    why: str
    figures: tuple[Figure, ...]


def tally_table(tally: Tally | None, units: Units) -> tuple[TallyRow, ...]:
    """The tally's steps as lines with their reasons and figures."""
    known = {each.key: each for each in figures()}
    return tuple(
        TallyRow(
            label=cause_words(step.cause, units),
            km=units.text(-step.lost_km, "distance", 1, unit=False),
            share=units.text(-step.share, "percent", 1, unit=False),
            kwh=units.text(step.extra_kwh, "energy", 2, unit=False),
            cost=units.text(step.extra_cost, "money", unit=False),
            why=cause_why(step.cause, units),
            figures=tuple(known[key] for key in step.cause.figures if key in known),
        )
        for step in (tally.steps if tally else ())
    )
