"""The sayings drawn: what each changes in a year as a bar from one line, and where one turns as its lines over an axis."""

from ....core.sayings.said import Turn, Verdict
from ....services.sayings.room import SayingsRoom
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import box, line, picture, text
from ...units import Units
from .words import SAYINGS, VERDICTS, side_name, stake_words
from .written import written

MOST, LINE = 12, 46
MOSTLY = 0.4
COUNT = (Verdict.HOLDS, Verdict.TURNS)
CLASSES = ("level", "outside", "level ahead")
AXES = {
    "temperature": "air",
    "distance": "one way",
    "percent": "level",
    "count": "stops",
    "speed": "motorway",
    "price": "price at the post",
}


def worth_drawn(made: SayingsRoom, units: Units, phone: bool = False) -> str:
    """The sayings that hold or turn here and change the most in a year, the most on top: a bar as long as its money."""
    weighed = [(key, said, made.here.weight(said.yearly)) for key, said in made.told.items() if said.verdict in COUNT]
    shown = [each for each in weighed if each[2] >= made.here.little][:MOST]
    width, row, left = (NARROW, 44.0, 0.0) if phone else (WIDE, 30.0, 480.0)
    most = max((weight for *_, weight in shown), default=1.0)
    parts, told = list[str](), list[str]()
    for i, (key, said, weight) in enumerate(shown):
        top, long = i * row + (22.0 if phone else 8.0), max(2.0, weight / most * (width - left - 130))
        title, money = SAYINGS[key][0], stake_words(said, units)
        parts += [
            text(0, i * row + (16 if phone else 21), _cut(title) if phone else title, "" if phone else "b"),
            box(left, top, long, 16, "charge"),
            text(left + long + 8, top + 13, money, "b"),
        ]
        told.append(f"{title}: {VERDICTS[said.verdict].lower()}, {money}")
    if not phone:
        parts.append(line(left, 0, left, row * len(shown), "base"))
    return picture(width, row * len(shown) + 4, f"What each changes in a year: {'; '.join(told)}", "".join(parts), kind(phone))


def _cut(title: str) -> str:
    """A title in a phone's line."""
    return title if len(title) <= LINE else f"{title[: LINE - 1].rsplit(' ', 1)[0]} …"


def turn_drawn(turn: Turn, units: Units, phone: bool = False) -> str:
    """The sides of a saying over the quantity at which it turns, with the place marked."""
    high = 190.0 if turn.lines else 84.0
    width = NARROW if phone else 560.0
    values = [value for each in turn.lines.values() for value in each]
    low, top = min(values, default=0.0), max(values, default=1.0)
    low = low if low > MOSTLY * top else min(0.0, low)  # lines that lie close together fill the height
    foot, left = high - 44, 24.0
    plot = Plot(Scale(turn.xs[0], turn.xs[-1], left, width - 120), Scale(low, max(top, low + 1e-9), foot, 22))
    parts = [plot.base(), *plot.ticks(_ticks(turn), lambda value: _axis(turn, value, units))]
    parts += [plot.curve(turn.xs, line_, class_) for line_, class_ in zip(turn.lines.values(), CLASSES, strict=False)]
    floor = foot + 5
    for key, line_ in sorted(
        turn.lines.items(), key=lambda each: each[1][-1]
    ):  # names from the lowest line up, none over another
        at = min(plot.up(line_[-1]) + 5, floor)
        floor = at - 16
        parts.append(text(width - 114, at, side_name(key, units)))
    if turn.at is not None and turn.xs[0] <= turn.at <= turn.xs[-1]:
        parts += [plot.post(turn.at), text(plot.across(turn.at) + 4, 14, _axis(turn, turn.at, units), "b")]
    if turn.own is not None:
        parts += [plot.dot(turn.own, low), text(plot.across(turn.own) - 10, foot - 8, "yours", "end")]
    parts.append(text(left, high - 4, AXES[turn.axis], "mid dim"))
    said_of = "; ".join(
        f"{side_name(key, units)} from {_value(turn, line_[0], units)} to {_value(turn, line_[-1], units)}"
        for key, line_ in turn.lines.items()
    )
    turns = "" if turn.at is None else f"; it turns at {_axis(turn, turn.at, units)}"
    ends_of = f"from {_axis(turn, turn.xs[0], units)} to {_axis(turn, turn.xs[-1], units)}"
    return picture(width, high, f"{AXES[turn.axis]} {ends_of}: {said_of}{turns}", "".join(parts), kind(phone))


def _ticks(turn: Turn) -> tuple[float, ...]:
    """Five at most of the values, or even ones between."""
    if turn.axis in ("count", "percent", "speed"):
        return turn.xs[:: max(1, -(-len(turn.xs) // 5))]
    span = turn.xs[-1] - turn.xs[0]
    return tuple(turn.xs[0] + span * i / 4 for i in range(5))


def _axis(turn: Turn, value: float, units: Units) -> str:
    return units.text(value, turn.axis, 2 if turn.axis == "price" else 0)


def _value(turn: Turn, value: float, units: Units) -> str:
    return written(value, {"percent": "share"}.get(turn.unit, turn.unit), units)
