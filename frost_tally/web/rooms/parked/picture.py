"""A stand drawn: the level over its days with its band, what is needed on return, and what each switch saves."""

from datetime import timedelta

from ....core.park.standby import CAUSES
from ....services.parked import ParkedRoom
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import box, hatches, picture, text
from ...units import Units
from ...words.parked import IDLE, SWITCH_WORDS, saving_words


def course(room: ParkedRoom, units: Units, phone: bool = False) -> str:
    """Level by day: the likely line in its band; with the advised things off as a dashed line; what the return needs as a rule."""
    width, high = (NARROW, 280.0) if phone else (WIDE, 300.0)
    left, right, top, foot = 44.0, width - (44 if phone else 96), 14.0, high - 46
    days = len(room.stood.likely) - 1
    most = min(1.04, max(0.2, float(room.stood.high.max()), room.need_soc) + 0.06)

    plot, each_day = Plot(Scale(0.0, days, left, right), y := Scale(0.0, most, foot, top, held=True)), range(days + 1)
    parts = plot.rows([tenth / 10 for tenth in range(0, int(most * 10 + 1e-9) + 1, 2)], lambda level: f"{100 * level:.0f}")
    parts.append(plot.band(each_day, room.stood.low.tolist(), room.stood.high.tolist()))
    if room.advice.off:
        parts.append(plot.curve(each_day, room.advised.likely.tolist(), "level ahead"))
        parts.append(text(right + 6, y(float(room.advised.likely[-1])) + 5, f"{100 * room.advised.likely[-1]:.0f} %", "dim"))
    parts.append(plot.curve(each_day, room.stood.likely.tolist()))
    if not room.inputs.plugged:
        needed = f"needed on return, {units.text(room.need_soc, 'percent')}"
        parts += [plot.rule(room.need_soc), text(left + 6, y(room.need_soc) - 5, needed, "dim")]
    likely, low, high_end = room.stood.end
    parts += [
        plot.base(),
        plot.post(days),
        plot.dot(days, likely, 5),
        text(right + 6, y(likely) - 8, f"{100 * likely:.0f} %", "b"),
    ]
    dates = range(0, days + 1, max(1, round(days / (4 if phone else 10))))
    parts += plot.ticks(dates, lambda day: f"{(at := room.begin + timedelta(days=day)).day} {at:%b}")
    words = (
        f"Level over {days} days, from {100 * room.inputs.soc:.0f} per cent to {100 * likely:.0f} "
        f"({100 * low:.0f} to {100 * high_end:.0f}); "
        f"{100 * room.need_soc:.0f} are needed on return."
    )
    return picture(width, high, words, "".join(parts), kind(phone))


def savings(room: ParkedRoom, units: Units, phone: bool = False) -> str:
    """What takes the level: standing itself, and each thing that is on with what switching it off brings back."""
    rows = [("idle", room.stood.parts["idle"], IDLE, f"{100 * room.stood.parts['idle']:.0f} %")]
    rows += [(each.name, each.soc, SWITCH_WORDS[each.name][0], f"off: {saving_words(each, units)}") for each in room.savings]
    width, row = (NARROW, 54.0) if phone else (WIDE, 34.0)
    name = "slimaway" if phone else "away"
    bar_x, space = (0.0, width - 40) if phone else (230.0, 460.0)
    most = max(0.01, *(size for _, size, _, _ in rows))
    parts = [hatches(name)]
    for i, (key, size, title, said) in enumerate(rows):
        top, long = i * row, max(2.0, size / most * space)
        y = top + (22 if phone else 7)
        parts.append(text(0, top + (15 if phone else 21), title, "b"))
        if key == "idle":
            parts.append(box(bar_x, y, long, 18, "charge"))
        else:
            parts.append(box(bar_x, y, long, 18, "edge", f"{name}-{'heat' if key in ('climate', 'keep_warm') else 'dear'}"))
        parts.append(text(width, top + 15, said, "end") if phone else text(bar_x + long + 10, y + 14, said))
    words = "; ".join(f"{title} {100 * size:.0f} per cent" for _, size, title, _ in rows)
    return picture(width, row * len(rows), f"What takes the level: {words}.", "".join(parts), kind(phone))


assert set(SWITCH_WORDS) < set(CAUSES)  # noqa: S101 - every switch is a cause
