"""The night ribbon: price as terrain, charging as solid blocks, warm-up hatched, level as a line, departure as a post."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from functools import cached_property

from ...core.charge.plan import HeldSpan
from ...core.charge.prices import PriceSlot
from ...services.tonight.room import Tonight
from ..units import Units
from ..words.hours import hour, hour_up
from ..words.sentence import Verdict, percent
from .svg import box, element, ground, hatches, line, path, picture, polygon, text

WIDE, BASE = 1120.0, 276.0
TERRAIN, BLOCK = 78.0, 34.0
LEVEL_AT_20, LEVEL_PER = 158.0, 115.0
HELD = 64.0


@dataclass(frozen=True)
class Frame:
    """The span of time shown, in seconds from its first hour."""

    first: datetime
    last: datetime

    def part(self, moment: datetime) -> float:
        """Place of a time between the edges, 0 to 1."""
        return (moment - self.first) / (self.last - self.first)

    @cached_property
    def hours(self) -> list[datetime]:
        """Whole hours from edge to edge."""
        count = round((self.last - self.first).total_seconds() / 3600)
        return [self.first + timedelta(hours=i) for i in range(count + 1)]


def frame_of(night: Tonight) -> Frame:
    first = _whole_hour(night, night.plan.start - timedelta(minutes=40))
    last = _whole_hour(night, night.plan.request.departure + timedelta(minutes=100))
    return Frame(first, max(last, first + timedelta(hours=3)))


def _whole_hour(night: Tonight, moment: datetime) -> datetime:
    """The local hour that has begun at a time, on UTC."""
    return moment.astimezone(night.zone).replace(minute=0, second=0, microsecond=0).astimezone(UTC)


def runs(prices: Sequence[PriceSlot]) -> list[tuple[datetime, datetime, float]]:
    """Neighbouring price slots of one price as one run."""
    found: list[tuple[datetime, datetime, float]] = []
    for slot in prices:
        if found and found[-1][2] == slot.price_per_kwh:
            found[-1] = (found[-1][0], slot.end, slot.price_per_kwh)
        else:
            found.append((slot.start, slot.end, slot.price_per_kwh))
    return found


def level_points(night: Tonight) -> list[tuple[datetime, float]]:
    """Level over the night, thinned, with the fall of an underfed warm-up at the end."""
    plan = night.plan
    steps = plan.session.steps
    kept = [
        steps[0],
        *(
            b
            for a, b, c in zip(steps, steps[1:], steps[2:], strict=False)
            if (b.wall_kw > 0) != (c.wall_kw > 0) or (b.wall_kw > 0 and abs(b.wall_kw - a.wall_kw) > 0.2)
        ),
        steps[-1],
    ]
    points = [
        (plan.start + timedelta(seconds=step.at_s), step.soc)
        for step in kept
        if step.at_s <= (plan.warm_start - plan.start).total_seconds() + 1
    ]
    departure = plan.request.departure
    return [*points, (plan.warm_start, plan.soc_at(plan.warm_start)), (departure, plan.soc_departure)]


def describe(night: Tonight, units: Units, said: Verdict) -> str:
    """The ribbon in words: what the room says, and what is drawn besides."""
    prices = ", ".join(
        f"{units.text(run[2], 'price', 2, unit=False)} from {hour(run[0], night.zone, units)}" for run in runs(night.plan.prices)
    )
    levels = f"Floor {percent(night.floor)}, limit {percent(night.inputs.limit)}."
    held = [
        f"{hour(each.start, night.zone, units)} to {hour(each.end, night.zone, units)} {held_words(each, units)}"
        for each in night.plan.held
    ]
    return f"Night ribbon. {said.plain} Prices per kWh: {prices}. {levels}{''.join(f' {each}.' for each in held)}"


def held_words(span: HeldSpan, units: Units) -> str:
    """What the house leaves in some hours, for a picture."""
    return f"house: {units.text(span.amps, 'current')} left" if span.amps else "house: nothing left"


def wide(night: Tonight, units: Units, words: str) -> str:
    """The ribbon lying down, for a desk: an SVG of 1120 wide."""
    frame = frame_of(night)
    drawing = _Wide(night, units, frame)
    inner = hatches("night") + "".join(
        (drawing.terrain(), drawing.held(), drawing.blocks(), drawing.levels(), drawing.outside(), drawing.post(), drawing.axis())
    )
    return picture(WIDE, BASE + (58 if drawing.two_rows else 44), words, inner, "ribbon ribbon-wide")


class _Wide:
    """Parts of the lying ribbon."""

    def __init__(self, night: Tonight, units: Units, frame: Frame) -> None:
        self.night, self.units, self.frame = night, units, frame
        self.highest = max([run[2] for run in runs(night.plan.prices)], default=1.0) or 1.0
        self.used: tuple[list[tuple[float, float]], list[tuple[float, float]]] = ([], [])

    @property
    def two_rows(self) -> bool:
        """Whether the times under the base line take two rows."""
        return bool(self.used[1])

    @property
    def per_minute(self) -> float:
        """Width of a minute, for dragging a time."""
        return (WIDE - 16) / (60 * (len(self.frame.hours) - 1))

    def x(self, moment: datetime) -> float:
        return 8 + self.frame.part(moment) * (WIDE - 16)

    def y(self, soc: float) -> float:
        return LEVEL_AT_20 - (soc - 0.2) * LEVEL_PER

    def terrain(self) -> str:
        parts, dearest = [], max(runs(self.night.plan.prices), key=lambda run: run[2], default=None)
        for start, end, price in runs(self.night.plan.prices):
            top = BASE - max(price, 0.0) / self.highest * TERRAIN
            x, wide = self.x(start), self.x(end) - self.x(start)
            parts.append(ground(x, top, wide, height=BASE - top, prefix="night"))
            if wide > 52 or (start, end, price) == dearest:
                parts.append(text(x + 6, top - 7, f"{self.units.text(price, 'price', 2, unit=False)} {self.units.symbol}", "dim"))
        return "".join(parts)

    def blocks(self) -> str:
        night, parts = self.night, []
        for block in night.plan.blocks:
            a, b = self.x(block.start), self.x(block.end)
            parts.append(element("rect", x=a, y=BASE - BLOCK, width=max(b - a, 2.0), height=BLOCK, class_="charge"))
            words = f"{self.units.text(block.wall_kw, 'power')} · {self.units.text(block.wall_kwh, 'energy')}"
            if b - a > 8 * len(words):
                parts.append(text((a + b) / 2, BASE - 12, words, "mid inv b"))
            if b - a > 100:
                parts += [
                    self.tick(a, hour(block.start, night.zone, self.units), "b"),
                    self.tick(b, hour_up(block.end, night.zone, self.units), "b"),
                ]
            else:
                parts.append(
                    self.tick(
                        (a + b) / 2,
                        f"{hour(block.start, night.zone, self.units)}–{hour_up(block.end, night.zone, self.units)}",
                        "b",
                    )
                )
        if night.plan.warm.lead_s > 0:
            a, b = self.x(night.plan.warm_start), self.x(night.plan.request.departure)
            parts.append(element("rect", x=a, y=BASE - BLOCK, width=b - a, height=BLOCK, fill="url(#night-heat)", class_="warm"))
            parts.append(self.tick(a, hour(night.plan.warm_start, night.zone, self.units), "b ember"))
        return "".join(parts)

    def held(self) -> str:
        """Hours in which the house leaves less: a rail under the outside temperature, with a handle at each end."""
        parts = []
        for span in self.night.plan.held:
            a, b = self.x(span.start), self.x(span.end)
            words = held_words(span, self.units) if b - a > 150 else ""
            parts += [box(a, HELD, b - a, BASE - HELD, "held"), line(a, HELD, b, HELD, "held-rail")]
            parts.append(text((a + b) / 2, HELD + 15, words, "mid dim"))
            for x, name in ((a, "held_from"), (b, "held_until")):
                grip = box(x - 12, HELD - 12, 24, 24, "grip") + box(x - 3, HELD - 9, 6, 18)
                parts.append(element("g", grip, class_="handle", data_handle=name, data_per=self.per_minute))
        return "".join(parts)

    def tick(self, x: float, words: str, class_: str) -> str:
        """A time under the base line, one row lower where another stands in its way, none where both rows are taken."""
        half = 4.5 * len(words)
        free = [not any(x - half < right and x + half > left for left, right in row) for row in self.used]
        if not any(free):
            return ""
        lower = not free[0]
        self.used[lower].append((x - half, x + half))
        return text(x, BASE + (35 if lower else 19), words, f"mid {class_}")

    def levels(self) -> str:
        night = self.night
        limit_y, floor_y = self.y(night.inputs.limit), self.y(night.floor)
        points = [(self.x(at), self.y(soc)) for at, soc in level_points(night)]
        x0, y0 = points[0]
        below = night.plan.request.soc > night.inputs.limit - 0.12
        return "".join(
            (
                line(8, limit_y, WIDE - 8, limit_y, "limit"),
                line(8, floor_y, WIDE - 8, floor_y, "rule"),
                text(8, floor_y + 15, f"floor {percent(night.floor)}", "dim"),
                path(points, "level"),
                element("circle", cx=x0, cy=y0, r=5, class_="now"),
                text(
                    max(x0 + 10, 76.0),
                    y0 + (20 if below else -9),
                    f"{percent(night.plan.request.soc)} at {hour(night.plan.start, night.zone, self.units)}",
                    "b",
                ),
                element(
                    "g",
                    element("rect", x=2, y=limit_y - 12, width=64, height=24, rx=3)
                    + text(34, limit_y + 5, percent(night.inputs.limit), "mid inv b"),
                    class_="handle",
                    data_handle="limit",
                    data_per=LEVEL_PER / 100,
                ),
            )
        )

    def outside(self) -> str:
        series = [(at, c) for at, c in self.night.outside if self.frame.first <= at <= self.frame.last]
        low, high = min(c for _, c in series), max(c for _, c in series)
        per = 26 / max(high - low, 6.0)
        points = [(self.x(at), 26 + (high - c) * per) for at, c in series]
        labels = []
        for i in range(1, len(series) - 1, 3):
            x, y = points[i]
            if x < self.x(self.night.plan.request.departure) - 30:
                label = self.units.text(series[i][1], "temperature", 0, unit=False) + "°"
                labels += [element("circle", cx=x, cy=y, r=2.6, class_="rime-fill"), text(x, y - 9, label, "mid rime")]
        return path(points, "outside") + "".join(labels)

    def post(self) -> str:
        x = self.x(self.night.plan.request.departure)
        words = hour(self.night.plan.request.departure, self.night.zone, self.units)
        long = 60 if len(words) < 6 else 76
        flag = polygon([(x, 10), (x + long, 10), (x + long - 9, 21), (x + long, 32), (x, 32)], "flag")
        return element(
            "g",
            line(x, 10, x, BASE + 6, "post") + flag + text(x + 7, 26, words, "inv b"),
            class_="handle",
            data_handle="depart",
            data_per=self.per_minute,
        )

    def axis(self) -> str:
        parts = [line(8, BASE, WIDE - 8, BASE, "base")]
        for at in self.frame.hours:
            parts.append(line(self.x(at), BASE, self.x(at), BASE + 5, "tick"))
            if at.astimezone(self.night.zone).hour % 3 == 2:
                words = hour(at, self.night.zone, self.units)
                parts.append(text(min(max(self.x(at), 24), WIDE - 24), BASE + (52 if self.two_rows else 38), words, "mid dim"))
        now = self.x(self.night.plan.start)
        mark = polygon([(now, BASE), (now - 8, BASE + 14), (now + 8, BASE + 14)], "ink")
        parts.append(element("g", mark, class_="handle", data_handle="plug_in", data_per=self.per_minute))
        return "".join(parts)
