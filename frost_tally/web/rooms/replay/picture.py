"""A night again as its picture: the runner's course, with the faults that can be moved."""

from ....services.replay import ReplayRoom
from ...drawing.course import Course, Trouble, course
from ...units import Units
from .words import fault_words


def night(room: ReplayRoom, units: Units, words: str, phone: bool = False) -> str:
    """The picture, for a desk or a phone."""
    done, handles = room.done, [f"at_{each}" for each in room.places]
    troubles = [
        Trouble(each.begin, each.end, fault_words(each, units), handles[i] if i < len(handles) else "")
        for i, each in enumerate(done.faults)
    ]
    made = Course(
        begun=done.evening.start, departure=done.request.departure, leaves=done.departure, zone=room.owned.zone,
        prices=done.evening.prices, plan=done.evening, drawn=done.runner.session, need_soc=done.need_soc, lines=done.runner.lines,
        troubles=troubles, drops=True,
    )  # fmt: skip
    return course(made, units, words, phone)
