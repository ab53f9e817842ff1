"""Words of a night again: its faults, the runner's lines, and what came of it."""

from ....core.live.faults import Fault, FaultKind
from ....core.live.replay import Course
from ....services.replay import Figures, ReplayRoom
from ...units import Units
from ...words.controls import CONTROL_WORDS
from ...words.hours import hour
from ...words.sentence import Part, Verdict, percent

FAULTS = {
    "": "nothing",
    FaultKind.LATE.value: "the cable goes in late, at",
    FaultKind.UNPLUGGED.value: "the cable is out from",
    FaultKind.WRONG_CAR.value: "another car on the cable from",
    FaultKind.POWER_CUT.value: "no power from",
    FaultKind.NOT_HEARD.value: "the point is not heard from",
    FaultKind.SERVER_DOWN.value: "this program stands still from",
    FaultKind.ASLEEP.value: "the car sleeps from",
    FaultKind.REFUSES.value: "the car refuses from",
    FaultKind.LESS_CURRENT.value: "less current from",
    FaultKind.OWN_LIMIT.value: "the car stops by itself",
    FaultKind.EARLIER.value: "you leave earlier, at",
}
SHORT = {
    FaultKind.LATE: "cable late", FaultKind.UNPLUGGED: "cable out", FaultKind.WRONG_CAR: "another car", FaultKind.POWER_CUT: "no power",
    FaultKind.NOT_HEARD: "not heard", FaultKind.SERVER_DOWN: "program down", FaultKind.ASLEEP: "asleep", FaultKind.REFUSES: "refuses",
    FaultKind.LESS_CURRENT: "less current", FaultKind.OWN_LIMIT: "own limit", FaultKind.EARLIER: "leaves earlier",
}  # fmt: skip
"""A fault in two words, for the picture."""


def fault_words(fault: Fault, units: Units) -> str:
    """A fault, for the picture and the list."""
    if fault.kind is FaultKind.LESS_CURRENT:
        return f"{SHORT[fault.kind]}: {units.text(fault.amps, 'current')}"
    if fault.kind is FaultKind.OWN_LIMIT:
        return f"{SHORT[fault.kind]}: {percent(fault.soc)}"
    return SHORT[fault.kind]


def verdict(room: ReplayRoom, units: Units) -> Verdict:
    """What the runner made of the night, beside nobody and beside who knew all."""
    done = room.done
    lead = (
        Part("Watched over, "), Part(room.owned.name), Part(" leaves with "), Part(percent(done.runner.soc), "strong"),
        Part(f" for {units.money(done.runner.cost)}."),
    )  # fmt: skip
    same = abs(done.alone.soc - done.runner.soc) < 0.005 and not units.pays(abs(done.alone.cost - done.runner.cost))
    who = CONTROL_WORDS[room.owned.habit.control.how].alone
    alone = f"{who} it comes out the same." if same else f"{who}: {_course(done.alone, units)}."
    knew = (
        ""
        if done.hindsight is None
        else f" Who knew all would have paid {units.money(done.best_cost)} for {percent(done.best_soc)}."
    )
    return Verdict(lead, (Part(alone + knew),), (*_was(room, units), *_notes(room)))


def _was(room: ReplayRoom, units: Units) -> list[str]:
    if room.past is None:
        return []
    left = room.past.departure.astimezone(room.owned.zone)
    was = f"{percent(room.past.soc)} for {units.money(room.past.was)}, from {hour(room.past.begun, room.owned.zone, units)}"
    return [f"The night before you left on {units.date(left, weekday='a')}; as it was charged: {was}."]


def _course(course: Course, units: Units) -> str:
    return f"{percent(course.soc)} for {units.money(course.cost)}"


def _notes(room: ReplayRoom) -> list[str]:
    done = room.done
    if not done.short:
        return []
    need = f"The day needs {percent(done.need_soc)}."
    if not done.feasible:
        return [f"{need} With these faults nobody could have reached it: {percent(done.best_soc)} was the most."]
    told = "it was told in time" if done.runner.told else "nobody was told"
    return [f"{need} Who knew of the faults before could have reached it; {told}."]


def rows(room: ReplayRoom, units: Units) -> tuple[tuple[str, str, str, str], ...]:
    """Three ways in numbers: the level that it leaves with, the bill, the energy at the wall."""
    done = room.done
    found = [
        ("Watched over", done.runner.soc, done.runner.cost, done.runner.session.wall_kwh),
        (CONTROL_WORDS[room.owned.habit.control.how].alone, done.alone.soc, done.alone.cost, done.alone.session.wall_kwh),
    ]
    if done.hindsight is not None:
        found.append(("Knowing all", done.best_soc, done.best_cost, done.hindsight.session.wall_kwh))
    return tuple((name, percent(soc), units.money(cost), units.text(kwh, "energy")) for name, soc, cost, kwh in found)


def figures_words(found: Figures, units: Units) -> str:
    """Many nights in a few sentences."""
    median, most, without = (
        f"{round(100 * each, 1) + 0.0:.1f} %" for each in (found.above_median, found.above_most, found.above_most_without)
    )
    above = f"{median} in the median, {most} at most"
    return (
        f"{found.nights} nights, {found.with_faults} with faults. With less than the day needs: {found.short} with the runner, "
        f"{found.short_alone} with nobody who watches; {found.short_needlessly} of the first could have been met by who knew all, "
        f"{found.silent} in silence. Above who knew all, at the same levels: {above}; {without} at most "
        f"without faults. In all {units.money(found.cost)} for {units.money(found.best_cost)}."
    )
