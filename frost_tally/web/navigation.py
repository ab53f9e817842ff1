"""Where a page stands among the others: each room says so beside its routes, and the rail and the rows of tabs follow."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import groupby
from types import ModuleType


@dataclass(frozen=True, kw_only=True)
class Tab:
    """A page in the row of tabs of a room (`of` "": a room in the rail), by its key; `at` is its place, `rare` folds it up on a phone."""

    of: str
    key: str
    path: str
    words: str
    at: int
    rare: bool = False


def tabs_of(rooms: Iterable[ModuleType]) -> Mapping[str, tuple[Tab, ...]]:
    """The tabs of all rooms, by the room that they are of, in their order."""
    found = sorted((tab for room in rooms for tab in getattr(room, "TABS", ())), key=lambda tab: (tab.of, tab.at))
    return {of: tuple(tabs) for of, tabs in groupby(found, key=lambda tab: tab.of)}
