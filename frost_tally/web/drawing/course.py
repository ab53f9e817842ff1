"""A night's course in one picture: prices as terrain, the plan in outline, what was drawn filled, levels, faults, the runner's lines."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from itertools import pairwise
from typing import Any
from zoneinfo import ZoneInfo

from ...core.charge.night import NightPlan
from ...core.charge.prices import PriceSlot
from ...core.charge.session import Session
from ...core.live.faults import FaultKind
from ...core.live.lines import Line
from ..units import Units
from ..words.hours import hour
from ..words.sentence import percent
from .plot import NARROW, WIDE, Plot, Scale, kind
from .ribbon import runs
from .svg import box, element, ground, hatches, line, picture, text

HEIGHT, FOOT, TERRAIN, BLOCK, TOP = 338.0, 286.0, 70.0, 26.0, 74.0
LANES = 3


@dataclass(frozen=True)
class Trouble:
    """A fault on the picture: from, until, its words, and the name of the field that its handle moves ("": it has none)."""

    begin: datetime
    end: datetime
    words: str
    handle: str = ""


@dataclass(frozen=True, kw_only=True)
class Course:
    """A night to draw: from when on, the departure as planned and as it was; what was drawn since `begun`; the level that is needed;
    `drops`: faults can be dropped on it; `now` is where what was ends and what is planned begins (None: all of it was).
    """

    begun: datetime
    departure: datetime
    leaves: datetime
    zone: ZoneInfo
    prices: Sequence[PriceSlot]
    plan: NightPlan
    drawn: Session
    need_soc: float
    lines: Sequence[Line]
    troubles: Sequence[Trouble] = ()
    drops: bool = False
    now: datetime | None = None
    prefix: str = field(default="again")


def course(made: Course, units: Units, words: str, phone: bool = False) -> str:
    """The picture, for a desk or a phone."""
    drawn = _Course(made, units, phone)
    inner = hatches(drawn.prefix) + element("g", "".join(drawn.parts()), transform=f"translate(0 {-drawn.cut:g})")
    return picture(drawn.width, HEIGHT - drawn.cut, words, inner, f"again {kind(phone)}")


class _Course:
    """Parts of the picture; time in hours from its first whole hour."""

    def __init__(self, made: Course, units: Units, phone: bool) -> None:
        self.made, self.units, self.phone, self.width = made, units, phone, NARROW if phone else WIDE
        self.prefix = f"{made.prefix}-phone" if phone else made.prefix
        self.first = made.begun.astimezone(made.zone).replace(minute=0, second=0, microsecond=0)
        self.last_h = self.at(made.departure) + 0.6
        across = Scale(0.0, self.last_h, 46.0, self.width - 10.0)
        self.plot = Plot(across, Scale(0.0, 1.0, FOOT - BLOCK - 6, TOP))
        self.whole = Plot(across, Scale(0.0, 1.0, FOOT, TOP))
        self.cut = 0.0 if made.drops or made.troubles else TOP - 20.0

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
        posts = [(self.made.departure, "limit"), (self.made.leaves, "post")]
        for moment, class_ in [*posts, *([(self.made.now, "gap")] if self.made.now is not None else [])]:
            yield self.whole.post(self.at(moment), class_)

    def hour(self, hours: float) -> str:
        return hour(self.first + timedelta(hours=hours), self.made.zone, self.units)

    def terrain(self) -> Iterator[str]:
        found = runs(tuple(self.made.prices))
        highest = max((price for _, _, price in found), default=1.0) or 1.0
        for begin, end, price in found:
            high = max(price, 0.0) / highest * TERRAIN
            yield ground(self.x(begin), FOOT - high, self.x(end) - self.x(begin), height=high, prefix=self.prefix)

    def blocks(self) -> Iterator[str]:
        for block in self.made.plan.blocks:
            yield box(self.x(block.start), FOOT - BLOCK, max(2.0, self.x(block.end) - self.x(block.start)), BLOCK, "as-planned")
        for begin, end in drawn(self.made.drawn):
            a, b = (self.x(self.made.begun + timedelta(seconds=each)) for each in (begin, end))
            yield box(a, FOOT - BLOCK + 5, max(1.5, b - a), BLOCK - 5, "charge")

    def levels(self) -> Iterator[str]:
        made, left = self.made, self.plot.across.first
        for begun, session, class_ in ((made.plan.start, made.plan.session, "level ahead"), (made.begun, made.drawn, "level")):
            steps = [step for i, step in enumerate(session.steps) if i % 5 == 0 or i == len(session.steps) - 1]
            if len(steps) > 1:
                moments = [begun + timedelta(seconds=step.at_s) for step in steps]
                yield self.plot.curve([self.at(each) for each in moments], [step.soc for step in steps], class_)
        yield self.plot.rule(made.need_soc)
        yield text(left + 4, self.plot.up(made.need_soc) - 6, f"the day needs {percent(made.need_soc)}", "dim")

    def faults(self) -> Iterator[str]:
        left, right = self.plot.across.first, self.plot.across.last
        if self.made.drops:
            sky: dict[str, Any] = {
                "data_drop": FaultKind.POWER_CUT.value,
                "data_first": 60 * self.first.hour,
                "data_minutes": round(60 * self.last_h),
            }
            yield element("rect", x=left, y=TOP - 66, width=right - left, height=58, class_="sky", **sky)
            if not self.made.troubles:
                yield text((left + right) / 2, TOP - 34, "press here to drop a fault on the night", "mid dim")
        per_minute = (right - left) / (60 * self.last_h)
        for i, trouble in enumerate(self.made.troubles):
            begin, end = (min(max(self.x(each), left), right) for each in (trouble.begin, trouble.end))
            y = TOP - 62 + 18 * (i % LANES)
            yield box(begin, y, max(4.0, end - begin), 14, fill=f"{self.prefix}-heat")
            yield line(begin, y + 14, begin, FOOT, "gap")
            inside = begin - 8 * len(trouble.words) < left  # else left of its handle, off the hatches
            yield text(begin + 16 if inside else begin - 16, y + 11, trouble.words, "b" if inside else "b end")
            if trouble.handle:
                grip = box(begin - 12, y - 5, 24, 24, "grip") + box(begin - 3, y - 2, 6, 18)
                yield element("g", grip, class_="handle", data_handle=trouble.handle, data_per=per_minute, data_across="")

    def lines(self) -> Iterator[str]:
        """The numbers of the runner's lines at their times; of those that stand in each other's way the first, or what was told."""
        shown: list[tuple[float, int, bool]] = []
        for i, each in enumerate(self.made.lines, 1):
            x = self.x(each.at)
            if x < self.plot.across.first:
                continue
            if not shown or x - shown[-1][0] >= 16:
                shown.append((x, i, each.tells))
            elif each.tells and not shown[-1][2]:
                shown[-1] = (x, i, True)
        for x, i, tells in shown:
            yield line(x, FOOT, x, FOOT + 4, "tick")
            yield text(x, HEIGHT - 4, str(i), "mid b ember" if tells else "mid b")


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
