"""A small grammar of charts: two scales, and what stands on them: rows, ticks, bands, lines, rules, dots and marks."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from ...core.units import Array
from .svg import element, line, path, polygon, text

WIDE, NARROW = 1120.0, 356.0
"""How wide a picture is on a desk, and on a phone."""
Values = Iterable[float] | Array
Row = Sequence[float] | Array


@dataclass(frozen=True)
class Scale:
    """From values to places, straight: `low` lies at `first`, `high` at `last`; where it is `held`, what lies beyond stands at the ends."""

    low: float
    high: float
    first: float
    last: float
    held: bool = False

    def __call__(self, value: float) -> float:
        """The place of a value."""
        at = min(max(value, self.low), self.high) if self.held else value
        return self.first + (at - self.low) / (self.high - self.low) * (self.last - self.first)


@dataclass(frozen=True)
class Plot:
    """Two scales; `across` leads from left to right, `up` from foot to top."""

    across: Scale
    up: Scale

    def points(self, xs: Values, ys: Values) -> list[tuple[float, float]]:
        """Where pairs of values stand."""
        return [(self.across(float(x)), self.up(float(y))) for x, y in zip(xs, ys, strict=True)]

    def curve(self, xs: Values, ys: Values, class_: str = "level") -> str:
        """A line through pairs of values."""
        return path(self.points(xs, ys), class_)

    def band(self, xs: Row, lows: Row, highs: Row, class_: str = "fan") -> str:
        """What lies between two lines."""
        return polygon([*self.points(xs, highs), *self.points(xs[::-1], lows[::-1])], class_)

    def rows(self, values: Values, words: Callable[[float], str]) -> list[str]:
        """A faint line across for each value, and what it is at the left."""
        left, right = self.across.first, self.across.last
        places = [(self.up(value), words(value)) for value in values]
        return [part for y, said in places for part in (line(left, y, right, y, "faint"), text(left - 8, y + 5, said, "dim end"))]

    def ticks(self, values: Values, words: Callable[[float], str], every: int = 1, long: float = 5) -> list[str]:
        """A tick below the foot for each value, and what it is below every so many of them."""
        foot, parts = self.up.first, list[str]()
        for i, value in enumerate(values):
            x = self.across(value)
            parts.append(line(x, foot, x, foot + long, "tick"))
            if i % every == 0:
                parts.append(text(x, foot + 15 + long, words(value), "mid dim"))
        return parts

    def rule(self, value: float, class_: str = "limit") -> str:
        """A line across at a value."""
        return line(self.across.first, self.up(value), self.across.last, self.up(value), class_)

    def post(self, value: float, class_: str = "post") -> str:
        """A line from top to foot at a value."""
        return line(self.across(value), self.up.last, self.across(value), self.up.first, class_)

    def base(self) -> str:
        """The foot."""
        return line(self.across.first, self.up.first, self.across.last, self.up.first, "base")

    def dot(self, x: float, y: float, radius: float = 6, class_: str = "now") -> str:
        """A mark at a pair of values."""
        return element("circle", cx=self.across(x), cy=self.up(y), r=radius, class_=class_)


def kind(phone: bool) -> str:
    """The class of a shape."""
    return "ribbon ribbon-upright" if phone else "ribbon ribbon-wide"
