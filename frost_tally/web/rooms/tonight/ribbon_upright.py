"""The night ribbon standing, for a phone: time runs down, price to the left, level to the right."""

from datetime import datetime

from ....services.tonight.room import Tonight
from ...drawing.ribbon import Frame, frame_of, level_points, runs
from ...drawing.svg import box, element, ground, hatches, line, path, picture, polygon, text
from ...units import Units
from ...words.hours import hour
from ...words.sentence import percent

NARROW, ROW, LEVEL_WIDE = 356.0, 28.0, 136.0
LEAST = 210.0
"""Height of a short window: what stands at its edges must not lie on one another."""


def upright(night: Tonight, units: Units, words: str) -> str:
    """The ribbon standing, for a phone: time runs down, price to the left, level to the right."""
    frame = frame_of(night)
    drawing = _Upright(night, units, frame)
    height = 34 + drawing.row * (len(frame.hours) - 1) + 12
    inner = hatches("phone") + "".join(
        (drawing.head(), drawing.hours(), drawing.terrain(), drawing.held(), drawing.blocks(), drawing.levels(), drawing.post())
    )
    return picture(NARROW, height, words, inner, "ribbon ribbon-upright")


class _Upright:
    """Parts of the standing ribbon: hours 0–44, price 48–138, level 176–326, outside temperature at the right edge."""

    def __init__(self, night: Tonight, units: Units, frame: Frame) -> None:
        self.night, self.units, self.frame = night, units, frame
        self.row = max(ROW, LEAST / (len(frame.hours) - 1))
        self.highest = max([run[2] for run in runs(night.plan.prices)], default=1.0) or 1.0

    @property
    def handle(self) -> dict[str, object]:
        """How a handle is dragged for a time: so much height a minute."""
        return {"class_": "handle", "data_per": self.row / 60}

    def y(self, moment: datetime) -> float:
        return 34 + self.frame.part(moment) * self.row * (len(self.frame.hours) - 1)

    def x(self, soc: float) -> float:
        return 176 + soc * LEVEL_WIDE

    def head(self) -> str:
        limit = self.night.inputs.limit
        x = min(self.x(limit), 280.0)
        grip = box(x - 26, 0, 52, 22, "grip-limit") + text(x, 15, percent(limit), "mid inv b")
        return "".join(
            (
                text(48, 14, f"{self.units.symbol} per kWh", "dim"),
                element("g", grip, class_="handle", data_handle="limit", data_per=LEVEL_WIDE / 100),
                text(min(self.x(self.night.floor), x - 44), 14, percent(self.night.floor), "mid dim"),
                text(NARROW, 14, "outside", "end rime"),
            )
        )

    def hours(self) -> str:
        parts = []
        for i, at in enumerate(self.frame.hours):
            parts.append(line(44, self.y(at), NARROW, self.y(at), "faint"))
            if i % 2 == 1 or self.row > 1.5 * ROW:
                if abs(self.y(at) - self.y(self.night.plan.request.departure)) > 20:  # else the flag is there
                    parts.append(text(0, self.y(at) + 5, self.units.full_hour(at.astimezone(self.night.zone).hour, ":00"), "dim"))
                reading = next((c for when, c in self.night.outside if when == at), None)
                if reading is not None:
                    parts.append(
                        text(NARROW, self.y(at) + 5, self.units.text(reading, "temperature", 0, unit=False) + "°", "end rime")
                    )
        return "".join(parts)

    def terrain(self) -> str:
        parts = []
        for start, end, price in runs(self.night.plan.prices):
            y, wide, high = self.y(start), max(price, 0.0) / self.highest * 90, self.y(end) - self.y(start)
            parts.append(ground(48, y, wide, height=high, prefix="phone"))
            if high > 24:
                parts.append(text(52 + wide, y + 17, self.units.text(price, "price", 2, unit=False), "dim"))
        return "".join(parts)

    def held(self) -> str:
        """Hours in which the house leaves less: a rail beside the prices, with a handle at each end."""
        parts = []
        for span in self.night.plan.held:
            a, b = self.y(span.start), self.y(span.end)
            parts += [box(48, a, 112, b - a, "held"), line(154, a, 154, b, "held-rail")]
            for y, name in ((a, "held_from"), (b, "held_until")):
                grip = box(142, y - 12, 24, 24, "grip") + box(145, y - 3, 18, 6)
                parts.append(element("g", grip, data_handle=name, **self.handle))
        return "".join(parts)

    def blocks(self) -> str:
        night, parts = self.night, []
        for block in night.plan.blocks:
            a, b = self.y(block.start), self.y(block.end)
            parts.append(element("rect", x=48, y=a, width=34, height=max(b - a, 2.0), class_="charge"))
            if b - a > 20:
                parts.append(text(88, (a + b) / 2 + 5, self.units.text(block.wall_kwh, "energy"), "b"))
        if night.plan.warm.lead_s > 0:
            a, b = self.y(night.plan.warm_start), self.y(night.plan.request.departure)
            parts.append(element("rect", x=48, y=a, width=34, height=b - a, fill="url(#phone-heat)", class_="warm"))
        return "".join(parts)

    def levels(self) -> str:
        night = self.night
        top, bottom = 22, self.y(night.plan.request.departure)
        points = [(self.x(soc), self.y(at)) for at, soc in level_points(night)]
        return "".join(
            (
                line(self.x(night.inputs.limit), top, self.x(night.inputs.limit), bottom, "limit"),
                line(self.x(night.floor), top, self.x(night.floor), bottom, "rule"),
                path(points, "level"),
                element("circle", cx=points[0][0], cy=points[0][1], r=5, class_="now"),
                text(points[0][0] + 9, points[0][1] - 6, percent(night.plan.request.soc), "b"),
            )
        )

    def post(self) -> str:
        y = self.y(self.night.plan.request.departure)
        words = hour(self.night.plan.request.departure, self.night.zone, self.units)
        long = 50 if len(words) < 6 else 68
        flag = polygon([(0, y - 12), (long - 8, y - 12), (long, y), (long - 8, y + 12), (0, y + 12)], "flag")
        post = line(0, y, NARROW - 30, y, "post") + flag + text(3, y + 5, words, "inv b")
        now = self.y(self.night.plan.start)
        mark = box(22, now - 12, 26, 24, "grip") + polygon([(44, now), (30, now - 8), (30, now + 8)], "ink")
        return element("g", post, data_handle="depart", **self.handle) + element("g", mark, data_handle="plug_in", **self.handle)
