"""Where a page stands among the others: each room says so beside its routes, and the rail and the rows of tabs follow."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from itertools import groupby
from types import ModuleType


@dataclass(frozen=True, kw_only=True)
class Tab:
    """A page in the row of tabs of a room (`of` "": a room in the rail), by its key; `at` is its place, `rare` folds it up on a phone,
    where the others have a `sign`: the path of a drawing of 20 by 20.

    `figures` names the parts of the core, by the start of their figures' keys, whose numbers it shows more than any other page.
    """

    of: str
    key: str
    path: str
    words: str
    at: int
    rare: bool = False
    sign: str = ""
    figures: Mapping[str, str] = field(default_factory=dict)


def tabs_of(rooms: Iterable[ModuleType]) -> Mapping[str, tuple[Tab, ...]]:
    """The tabs of all rooms, by the room that they are of, in their order."""
    found = sorted((tab for room in rooms for tab in getattr(room, "TABS", ())), key=lambda tab: (tab.of, tab.at))
    return {of: tuple(tabs) for of, tabs in groupby(found, key=lambda tab: tab.of)}


def figures_of(tabs: Mapping[str, tuple[Tab, ...]]) -> Mapping[str, Mapping[str, str]]:
    """The names of the parts whose figures each room of the rail and its tabs show, by the room's name, in the rail's order."""
    found = {
        room.words: dict(pair for tab in (room, *tabs.get(room.key, ())) for pair in tab.figures.items()) for room in tabs[""]
    }
    return {words: parts for words, parts in found.items() if parts}
