"""Where a number comes from.

Every constant of the core is declared through `figure`, which keeps its origin beside its value, so that a page can
answer "why this number?" without a second list to maintain.
"""

from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache


class Basis(StrEnum):
    """The kinds of origin a number can have; MEASURED wins over all others where the owner has measured."""

    PUBLISHED = "published"
    COMMON_PRACTICE = "common practice"
    FROM_MEMORY = "from memory"
    MEASURED = "measured"
    ENTERED = "entered"


@dataclass(frozen=True)
class Figure:
    """One number with its unit, its basis and its source; `key` is its stable name, such as `air.lapse`."""

    key: str
    value: float
    unit: str
    basis: Basis
    source: str


_FIGURES: dict[str, Figure] = {}


def figure(key: str, value: float, unit: str, basis: Basis, source: str) -> float:
    """Declare a constant of the core and return its value.

    Raises: ValueError when the key is taken by another figure.
    """
    new = Figure(key, value, unit, basis, source)
    if _FIGURES.setdefault(key, new) != new:
        raise ValueError(f"{key} is declared twice")
    return value


def figures(prefix: str = "") -> tuple[Figure, ...]:
    """All declared figures whose key starts with `prefix`, by key."""
    return _by_key(prefix, len(_FIGURES))


@lru_cache(maxsize=256)
def _by_key(prefix: str, _declared: int) -> tuple[Figure, ...]:
    """See `figures`, as long as no more are declared: pages ask for two hundred prefixes."""
    return tuple(_FIGURES[key] for key in sorted(_FIGURES) if key.startswith(prefix))
