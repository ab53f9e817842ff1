"""Words of the timer that is set once: its start, what it costs beside a start for each night, and on how many nights it falls short."""

from ....services.timer import TimerRoom
from ...units import Units
from ...words.sentence import Part, Verdict, percent


def timer_verdict(room: TimerRoom, units: Units) -> Verdict:
    """The start, and what setting it once costs."""
    made, inputs = room.made, room.inputs
    lead = (
        Part("Set the timer once: start "), Part(f"{made.start:%H:%M}", "strong"),
        Part(f" for all {inputs.nights} nights, limit "), Part(percent(inputs.limit), "strong"), Part("."),
    )  # fmt: skip
    more = max(0.0, made.more)
    costs = f"costs {units.money(more)} more than" if units.pays(more) else "costs the same as"
    until = units.date(room.last, month="B")
    then = (Part("Until the night of "), Part(until, "strong"), Part(f" that {costs} a start for each night."))
    return Verdict(lead, then, tuple(_short(room)))


def _short(room: TimerRoom) -> list[str]:
    """On how many nights the limit is out of reach, with one start and with its own."""
    once, nightly = room.made.once_short, room.made.nightly_short
    limit = percent(room.inputs.limit)
    if once <= nightly:
        return [f"On {_nights(nightly)} {limit} is out of reach whatever the start."] if nightly else []
    words = f"On {_nights(once)} it ends under {limit}"
    return [f"{words}; with a start for each night on {_nights(nightly) if nightly else 'none'}."]


def _nights(count: int) -> str:
    return f"{count} night{'' if count == 1 else 's'}"


def timer_rows(room: TimerRoom, units: Units) -> tuple[tuple[str, str, str], ...]:
    """Both ways in numbers: what, once, each night."""
    once, nightly = room.made.once, room.made.nightly
    return (
        ("Money", units.money(float(once.cost.sum())), units.money(float(nightly.cost.sum()))),
        ("Wear", units.money(float(once.wear.sum())), units.money(float(nightly.wear.sum()))),
        ("From the wall", units.text(float(once.wall_kwh.sum()), "energy"), units.text(float(nightly.wall_kwh.sum()), "energy")),
        ("Nights under the limit", str(room.made.once_short), str(room.made.nightly_short)),
    )
