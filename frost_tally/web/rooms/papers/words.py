"""Sentences of the cable's reach."""

from typing import Protocol

from ....core.charge.reach import Way
from ...units import Units
from ...words.sentence import Part, Verdict

NOT_LONGER = (
    "If it does not reach: park the other way round, move the post, or have a longer lead that the car’s and the unit’s makers approve. "
    "Never an extension lead, never a lead that hangs tight, lies under a wheel or across a footpath."
)


class Leads(Protocol):
    """A lead and the ways it has to go."""

    @property
    def lead_m(self) -> float:
        """Its length."""

    @property
    def first(self) -> tuple[Way, Way]:
        """Nose in and tail in."""

    @property
    def second(self) -> tuple[Way, Way] | None:
        """The same for a second car."""


def verdict(made: Leads, units: Units) -> Verdict:
    """Which way in, and whether it reaches."""
    nose, tail = made.first
    best = min(made.first, key=lambda way: way.needed_m)
    reaches = [way for way in made.first if way.needed_m <= made.lead_m]
    how = "nose in" if best.nose_in else "tail in"
    lead: tuple[Part, ...]
    if len(reaches) == 2:
        lead = (Part("It reaches "), Part("either way round", "strong"), Part("."))
    elif reaches:
        lead = (Part("Park "), Part(how, "strong"), Part(": only so it reaches."))
    else:
        more = units.text(best.needed_m - made.lead_m, "length", 1)
        lead = (Part("It does not reach", "strong"), Part(f": {how} it lacks {more}."))
    then = f"Nose in it needs {units.text(nose.needed_m, 'length', 1)}, tail in {units.text(tail.needed_m, 'length', 1)}."
    notes = [] if reaches else [NOT_LONGER]
    if made.second is not None:
        other = min(made.second, key=lambda way: way.needed_m)
        way = "nose in" if other.nose_in else "tail in"
        does = "reaches too" if other.needed_m <= made.lead_m else "does not reach"
        then += f" The second car {does}: {units.text(other.needed_m, 'length', 1)}, {way}."
        if other.needed_m > made.lead_m and reaches:
            notes.append(NOT_LONGER)
    return Verdict(lead, (Part(then),), tuple(notes))
