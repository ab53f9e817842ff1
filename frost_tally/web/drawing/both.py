"""A picture in its two shapes: wide for a desk, upright for a phone; each is drawn when it is shown."""

from collections.abc import Callable
from functools import cached_property

from markupsafe import Markup

SHAPES = ("wide", "upright")


class Both:
    """`draw` gives the picture, lying for False and upright for True."""

    def __init__(self, draw: Callable[[bool], str]) -> None:
        self.draw = draw

    @cached_property
    def wide(self) -> str:
        """For a desk."""
        return self.draw(False)

    @cached_property
    def upright(self) -> str:
        """For a phone."""
        return self.draw(True)

    def shown(self, shape: str = "") -> Markup:
        """The picture as SVG in one shape, or in both for whoever has not said which; the style sheet then hides one."""
        return Markup("".join(getattr(self, each) for each in SHAPES if shape in ("", each)))  # noqa: S704 - our own drawing
