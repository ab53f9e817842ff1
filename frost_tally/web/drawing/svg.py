"""Small SVG words shared by the pictures: elements, text, hatches. Colours come from classes in the style sheet."""

from collections.abc import Iterable
from functools import cache, lru_cache
from html import escape


def element(name: str, inner: str = "", **attributes: object) -> str:
    """One element; `class_` and names with underscores become class and dashed names."""
    written = " ".join(
        [f'{_dashed(key)}="{_escaped(value) if isinstance(value, str) else _short(value)}"' for key, value in attributes.items()]
    )
    return f"<{name} {written}>{inner}</{name}>" if inner else f"<{name} {written}/>"


def text(x: float, y: float, words: str, class_: str = "") -> str:
    """A text; classes: b bold, mid and end anchors, dim, rime, ember, inv."""
    return element("text", _escaped(words), x=x, y=y, class_=f"t {class_}".strip())


def line(x1: float, y1: float, x2: float, y2: float, class_: str) -> str:
    """A straight line."""
    return element("line", x1=x1, y1=y1, x2=x2, y2=y2, class_=class_)


def path(points: Iterable[tuple[float, float]], class_: str) -> str:
    """An open line through points."""
    return element("path", d="M" + " L".join([f"{x:.1f},{y:.1f}" for x, y in points]), class_=class_)


def polygon(points: Iterable[tuple[float, float]], class_: str) -> str:
    """A closed shape."""
    return element("polygon", points=" ".join([f"{x:.1f},{y:.1f}" for x, y in points]), class_=class_)


@cache
def hatches(prefix: str) -> str:
    """The three fills: dots for the price terrain, ember strokes for heat, rime strokes for cold. Ids get a prefix."""
    dots = element("circle", cx=1.4, cy=1.4, r=1, class_="dot")
    return (
        "<defs>"
        + "".join(
            (
                element("pattern", dots, id=f"{prefix}-dear", width=6, height=6, patternUnits="userSpaceOnUse"),
                _strokes(f"{prefix}-heat", 45, "heat"),
                _strokes(f"{prefix}-cold", -45, "cold"),
            )
        )
        + "</defs>"
    )


def box(x: float, y: float, width: float, height: float, class_: str = "", fill: str = "") -> str:
    """A rectangle, with a class or the name of a hatch."""
    fills = {"fill": f"url(#{fill})"} if fill else {}
    return element("rect", x=x, y=y, width=width, height=height, **({"class_": class_} if class_ else {}), **fills)


def ground(x: float, y: float, width: float, *, height: float, prefix: str, class_: str = "terrain") -> str:
    """A piece of terrain: its tint and its dots."""
    return box(x, y, width, height, class_) + box(x, y, width, height, fill=f"{prefix}-dear")


def picture(width: float, height: float, label: str, inner: str, class_: str) -> str:
    """The svg itself, with its words for people who do not see it."""
    return (
        f'<svg viewBox="0 0 {_short(width)} {_short(height)}" role="img" class="{class_}" aria-label="{escape(label)}">'
        f"{inner}</svg>"
    )


def torn(x: float, width: float, top: float, bottom: float, class_: str) -> str:
    """A column cut off below: its foot is a zigzag, so nobody reads its height as a length from zero."""
    step = width / 6
    foot = [(x + width - i * step, bottom - (8 if i % 2 else 0)) for i in range(7)]
    return polygon([(x, top), (x + width, top), *foot], class_)


def _strokes(name: str, angle: int, class_: str) -> str:
    inner = element("rect", width=7, height=7, class_=f"{class_}-ground") + element(
        "line", x1=0, y1=0, x2=0, y2=7, class_=f"{class_}-stroke"
    )
    return element(
        "pattern", inner, id=name, width=7, height=7, patternUnits="userSpaceOnUse", patternTransform=f"rotate({angle})"
    )


@cache
def _dashed(key: str) -> str:
    return key.rstrip("_").replace("_", "-")


@lru_cache(maxsize=2048)
def _escaped(words: str) -> str:
    """Classes and labels come again in every picture."""
    return escape(words)


def _short(value: object) -> str:
    return f"{value:.1f}".removesuffix(".0") if isinstance(value, float) else str(value)
