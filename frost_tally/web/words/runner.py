"""Words of the runner's lines: what it decided in a night, and why."""

from ...core.live.lines import Line
from ..units import Units
from .sentence import percent

LINES = {
    "plugged_in": "The cable is in, with {soc}: planned to {to}, for {cost}.",
    "right_car": "The right car is on the cable: planned to {to}, for {cost}.",
    "heard_again": "Heard again, with {soc} by now: planned anew to {to}, for {cost}.",
    "heard": "The point is heard again; no cable is in.",
    "changed": "You changed the night: planned anew from {soc} to {to}, for {cost}.",
    "prices": "Other prices are known by now: planned anew to {to}, for {cost}.",
    "refused": "The point did not take the plan: it charges by itself. It is asked again in ten minutes.",
    "blocked": "Something is wrong with the start, as you noted: nothing flows until that is put right.",
    "fault": "The point has a fault. Unplug the car, look at its lights and its manual.",
    "departure_moved": "You leave earlier: planned anew to {to}, for {cost}.",
    "draws": "It draws {kw}.",
    "pauses": "It pauses: the hours that follow are not in the plan.",
    "less_current": "It draws less than planned: planned anew with what is seen, to {to}, for {cost}.",
    "more_current": "It draws more again: planned anew to {to}, for {cost}.",
    "behind": "The level is behind its plan: planned anew to {to}, for {cost}.",
    "draws_again": "It draws again: planned anew to {to}, for {cost}.",
    "wakes": "It is offered power and draws none: tried to wake it, once.",
    "stalled": "It still draws none, at {soc}; the day needs {need}. Look at the car’s own timer and limit, the plug, the lights.",
    "stops_early": "It stops by itself at {soc}; the day needs {need}, so that is enough.",
    "done": "It is full, at {soc}.",
    "reached": "Its level is reached, at {soc}.",
    "lost": "The point is not heard any more: what stands in it goes on, open after the plan’s last hour.",
    "unplugged": "The cable was pulled, at {soc}: the day needs more.",
    "freed": "The other car is off the cable.",
    "taken": "The cable was pulled, with {soc}: enough for the day.",
    "no_cable": "The cable has to go in now for what the day needs.",
    "wrong_car": "Another car is on the cable.",
    "all_there_is": "Too late for any plan: whatever flows is good.",
    "short": "It does not reach what the day needs: {need}.",
    "left": "You leave, with {soc}.",
}
"""What the runner decided, by its code."""


def line_words(line: Line, units: Units) -> str:
    """A line of the runner."""
    said = {name: percent(line.values[name]) for name in ("soc", "to", "need") if name in line.values}
    if "cost" in line.values:
        said["cost"] = units.money(line.values["cost"])
    if "kw" in line.values:
        said["kw"] = units.text(line.values["kw"], "power")
    return LINES[line.code].format(**said)
