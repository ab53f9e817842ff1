"""A night again in one picture: prices as terrain, the plan in outline, what was drawn filled, levels, faults, the runner's lines."""

from collections.abc import Iterator
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any

from ....core.charge.session import Session
from ....core.live.faults import FaultKind
from ....services.replay import ReplayRoom
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.ribbon import runs
from ...drawing.svg import box, element, ground, hatches, line, picture, text
from ...units import Units
from ...words.hours import hour
from ...words.sentence import percent
from .words import fault_words

HEIGHT, FOOT, TERRAIN, BLOCK, TOP = 338.0, 286.0, 70.0, 26.0, 74.0
LANES = 3


def night(room: ReplayRoom, units: Units, words: str, phone: bool = False) -> str:
    """The picture, for a desk or a phone."""
    drawn = _Night(room, units, phone)
    inner = hatches(drawn.prefix) + "".join(drawn.parts())
    return picture(drawn.width, HEIGHT, words, inner, f"again {kind(phone)}")


class _Night:
    """Parts of the picture; time in hours from its first whole hour."""

    def __init__(self, room: ReplayRoom, units: Units, phone: bool) -> None:
        self.room, self.units, self.phone, self.width = room, units, phone, NARROW if phone else WIDE
        self.prefix = "again-phone" if phone else "again"
        self.plan, self.zone = room.done.evening, room.owned.zone
        self.first = self.plan.start.astimezone(self.zone).replace(minute=0, second=0, microsecond=0)
        self.last_h = self.at(room.done.request.departure) + 0.6
        across = Scale(0.0, self.last_h, 46.0, self.width - 10.0)
        self.plot = Plot(across, Scale(0.0, 1.0, FOOT - BLOCK - 6, TOP))
        self.whole = Plot(across, Scale(0.0, 1.0, FOOT, TOP))

    def at(self, moment: datetime) -> float:
        """Hours from the left edge."""
        return (moment - self.first) / timedelta(hours=1)

    def x(self, moment: datetime) -> float:
        return self.plot.across(self.at(moment))

    def parts(self) -> Iterator[str]:
        yield from self.terrain()
        yield from self.plot.rows((0.2, 0.5, 0.8), percent)
        yield from self.faults()
        yield from self.blocks()
        yield from self.levels()
        yield from self.lines()
        yield self.whole.base()
        hours = range(0, int(self.last_h) + 1)
        yield from self.whole.ticks(hours, self.hour, every=4 if self.phone else 2)
        for moment, class_ in ((self.room.done.request.departure, "limit"), (self.room.done.departure, "post")):
            yield self.whole.post(self.at(moment), class_)

    def hour(self, hours: float) -> str:
        return hour(self.first + timedelta(hours=hours), self.zone, self.units)

    def terrain(self) -> Iterator[str]:
        found = runs(self.plan.prices)
        highest = max((price for _, _, price in found), default=1.0) or 1.0
        for begin, end, price in found:
            high = max(price, 0.0) / highest * TERRAIN
            yield ground(self.x(begin), FOOT - high, self.x(end) - self.x(begin), height=high, prefix=self.prefix)

    def blocks(self) -> Iterator[str]:
        for block in self.plan.blocks:
            yield box(self.x(block.start), FOOT - BLOCK, max(2.0, self.x(block.end) - self.x(block.start)), BLOCK, "as-planned")
        for begin, end in drawn(self.room.done.runner.session):
            a, b = (self.x(self.plan.start + timedelta(seconds=each)) for each in (begin, end))
            yield box(a, FOOT - BLOCK + 5, max(1.5, b - a), BLOCK - 5, "charge")

    def levels(self) -> Iterator[str]:
        for session, class_ in ((self.plan.session, "level ahead"), (self.room.done.runner.session, "level")):
            steps = [step for i, step in enumerate(session.steps) if i % 5 == 0 or i == len(session.steps) - 1]
            moments = [self.plan.start + timedelta(seconds=step.at_s) for step in steps]
            yield self.plot.curve([self.at(each) for each in moments], [step.soc for step in steps], class_)
        yield self.plot.rule(self.room.done.need_soc)
        need = f"the day needs {percent(self.room.done.need_soc)}"
        yield text(self.plot.across.first + 4, self.plot.up(self.room.done.need_soc) - 6, need, "dim")

    def faults(self) -> Iterator[str]:
        left, right = self.plot.across.first, self.plot.across.last
        sky: dict[str, Any] = {
            "data_drop": FaultKind.POWER_CUT.value,
            "data_first": 60 * self.first.hour,
            "data_minutes": round(60 * self.last_h),
        }
        yield element("rect", x=left, y=TOP - 66, width=right - left, height=58, class_="sky", **sky)
        if not self.room.done.faults.each:
            yield text((left + right) / 2, TOP - 34, "press here to drop a fault on the night", "mid dim")
        per_minute = (self.plot.across.last - self.plot.across.first) / (60 * self.last_h)
        for i, fault in enumerate(self.room.done.faults):
            begin, end = (
                min(max(self.x(each), self.plot.across.first), self.plot.across.last) for each in (fault.begin, fault.end)
            )
            y = TOP - 62 + 18 * (i % LANES)
            yield box(begin, y, max(4.0, end - begin), 14, fill=f"{self.prefix}-heat")
            yield line(begin, y + 14, begin, FOOT, "gap")
            words = fault_words(fault, self.units)
            inside = begin - 8 * len(words) < self.plot.across.first  # else left of its handle, off the hatches
            yield text(begin + 16 if inside else begin - 16, y + 11, words, "b" if inside else "b end")
            if i < len(self.room.places):
                grip = box(begin - 12, y - 5, 24, 24, "grip") + box(begin - 3, y - 2, 6, 18)
                yield element(
                    "g", grip, class_="handle", data_handle=f"at_{self.room.places[i]}", data_per=per_minute, data_across=""
                )

    def lines(self) -> Iterator[str]:
        """The numbers of the runner's lines at their times; those that stand in each other's way share a place."""
        before, shown = -99.0, 0
        for i, each in enumerate(self.room.done.runner.lines, 1):
            x = self.x(each.at)
            if x - before < 16:
                continue
            before, shown = x, shown + 1
            yield line(x, FOOT, x, FOOT + 4, "tick")
            yield text(x, HEIGHT - 4, str(i), "mid b ember" if each.tells else "mid b")


def drawn(session: Session) -> Iterator[tuple[float, float]]:
    """The spans in which a session drew power, s from its start."""
    begin: float | None = None
    for before, step in pairwise(session.steps):
        if step.wall_kw > 0 and begin is None:
            begin = before.at_s
        if step.wall_kw <= 0 and begin is not None:
            yield begin, before.at_s
            begin = None
    if begin is not None:
        yield begin, session.steps[-1].at_s
