"""The week drawn: the nights one under the other on one clock, a ribbon for each car of a cable; prices as terrain, charging as blocks, the
level as a line, the departure as a post.
"""

from datetime import date, datetime, time, timedelta
from functools import cached_property

from ....services.week import Week, WeekNight
from ...drawing.plot import NARROW, WIDE, Scale, kind
from ...drawing.ribbon import runs
from ...drawing.svg import box, element, ground, hatches, line, path, picture, polygon, text
from ...units import Units
from .words import day_line, evening_line, night_words, state_words, week_verdict

HIGH_WIDE, HIGH_NARROW, TERRAIN, BLOCK, LEVEL = 78.0, 124.0, 26.0, 18.0, 30.0
LINE_CHARS = 46


def seven(week: Week, units: Units, phone: bool = False) -> str:
    """The coming nights, from the first plugging in to the last departure of any."""
    drawing = _Seven(week, units, phone)
    rows = "".join(drawing.row(i, night) for i, night in enumerate(drawing.rows))
    width, high = NARROW if phone else WIDE, drawing.high * len(drawing.rows) + 30.0
    return picture(
        width, high, f"The week. {week_verdict(week, units).plain}", hatches(drawing.hatch) + rows + drawing.axis(), kind(phone)
    )


class _Seven:
    """Where things stand: a clock in hours since the evening's midnight, `left` to `right`; its words beside a row, or above."""

    def __init__(self, week: Week, units: Units, phone: bool) -> None:
        self.week, self.units, self.phone = week, units, phone
        self.rows = [each for nights in zip(*week.rows, strict=True) for each in nights]
        self.hatch = "week-phone" if phone else "week"
        self.high = HIGH_NARROW if phone else HIGH_WIDE
        self.left, self.right = (0.0, NARROW) if phone else (228.0, 916.0)
        self.first = min(self.hour(each, each.night.stay.begin) for each in self.rows) // 1 - 1
        self.last = max(self.hour(each, each.night.stay.leaves) for each in self.rows) // 1 + 1
        self.highest = max((slot.price_per_kwh for each in self.rows for slot in each.prices), default=1.0) or 1.0

    def hour(self, night: WeekNight, moment: datetime) -> float:
        """Hours since the evening's midnight, as its clock shows them."""
        local = moment.astimezone(self.week.owned.zone)
        return (local.date() - self._evening(night)).days * 24.0 + local.hour + local.minute / 60 + local.second / 3600

    def _evening(self, night: WeekNight) -> date:
        """The date of a night's evening; one that began after midnight has that of the day before."""
        begin, leaves = night.night.stay.begin, night.night.stay.leaves
        early = begin.date() == leaves.date() and begin.hour < 12
        return begin.date() - timedelta(days=early)

    @cached_property
    def x(self) -> Scale:
        """From hours to places."""
        return Scale(self.first, self.last, self.left, self.right)

    def row(self, i: int, night: WeekNight) -> str:
        top = i * self.high
        base = top + self.high - 16
        charge, home = night_words(night)
        short, plugged = "ember b" if "short" in home else "", night.night.plugged
        first = i % len(self.week.rows) == 0
        whose = f"{night.ahead.now.owned.name}: " if self.week.shared else ""
        parts = [line(0, top, NARROW if self.phone else WIDE, top, "base" if first and self.week.shared else "faint")]
        if self.phone:
            parts += [
                text(0, top + 18, f"{whose}{evening_line(night, self.units)}", "dim"),
                text(0, top + 38, charge, "b" if plugged else ""),
                text(NARROW, top + 38, home, f"end {short}"),
                text(0, top + 57, state_words(night, self.units)[:LINE_CHARS], "dim"),
            ]
        else:
            parts += [
                text(0, top + 22, f"{night.night.stay.begin:%A} night" if first else "", "b"),
                text(0, top + 41, f"{whose}{day_line(night, self.units)}", "dim"),
                text(0, top + 60, state_words(night, self.units), "" if plugged else "dim"),
            ]
            parts += [text(934, top + 26, charge, "b" if plugged else "dim"), text(934, top + 46, home, short)]
        return "".join(parts) + self.ribbon(night, base)

    def ribbon(self, night: WeekNight, base: float) -> str:
        made = night.night
        plan, home = made.plan, made.stay.begin
        begin, leave = self.x(self.hour(night, home)), self.x(self.hour(night, plan.request.departure))
        parts = []
        for start, end, price in runs(night.prices):
            a, b = self.x(self.hour(night, start)), self.x(self.hour(night, end))
            tall = max(price, 0.0) / self.highest * TERRAIN
            parts.append(ground(a, base - tall, b - a, height=tall, prefix=self.hatch))
        if not made.plugged:
            parts.append(path([(begin, self.level(base, made.soc)), (leave, self.level(base, made.leaves_soc))], "level"))
        else:
            for block in plan.blocks:
                a, b = self.x(self.hour(night, block.start)), self.x(self.hour(night, block.end))
                parts.append(element("rect", x=a, y=base - BLOCK, width=max(b - a, 2.0), height=BLOCK, class_="charge"))
            if plan.warm.lead_s > 0:
                a = self.x(self.hour(night, plan.warm_start))
                parts.append(box(a, base - BLOCK, max(leave - a, 2.0), BLOCK, "warm", fill=f"{self.hatch}-heat"))
            edges = [
                plan.start,
                *(at for block in plan.blocks for at in (block.start, block.end)),
                plan.warm_start,
                plan.request.departure,
            ]
            levels = [*(plan.soc_at(at) for at in edges[:-1]), plan.soc_departure]
            parts.append(
                path(
                    [(self.x(self.hour(night, at)), self.level(base, soc)) for at, soc in zip(edges, levels, strict=True)],
                    "level",
                )
            )
        parts.append(line(begin, base, leave, base, "base"))
        if not made.stay.stays:
            parts.append(line(leave, base - BLOCK - LEVEL, leave, base + 4, "post"))
            parts.append(self.flag(night, leave, base - BLOCK - LEVEL))
        return "".join(parts)

    def flag(self, night: WeekNight, x: float, y: float) -> str:
        """The departure's clock on its post; it leads to the form that moves it, and may be dragged along the clock."""
        leaves, due = night.night.stay.leaves, night.night.stay.due
        words, car = self.units.clock(leaves), night.ahead.now.owned.id
        long = 56.0 if len(words) < 6 else 72.0
        x = min(x, self.right - long)
        edge = [(x, y), (x + long, y), (x + long - 7, y + 11), (x + long, y + 22), (x, y + 22)]
        to = f"edit={due[0].listed.id}" if due else f"on={leaves.date()}"
        per = (self.last - self.first) * 60.0 / (self.right - self.left)
        drawn = polygon(edge, "flag") + text(x + 6, y + 16, words, "inv b")
        at = leaves.hour * 60 + leaves.minute
        return element("g", drawn, data_flag=f"/week?car={car}&{to}#entry", data_at=str(at), data_per=f"{per:.3f}")

    def level(self, base: float, soc: float) -> float:
        return base - BLOCK - soc * LEVEL

    def axis(self) -> str:
        y = self.high * len(self.rows) + 14
        hours = [h for h in range(round(self.first) + 1, round(self.last)) if h % 3 == 0 and (not self.phone or h % 6 == 0)]
        midnight = datetime.combine(self._evening(self.rows[0]), time())
        return "".join(text(self.x(h), y, self.units.clock(midnight + timedelta(hours=h)), "mid dim") for h in hours)
