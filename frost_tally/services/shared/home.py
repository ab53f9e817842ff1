"""The home as every room sees it."""

from ...core.home import Home, NotSetUp
from ...household.calendar import holidays_of
from ...household.snapshot import Snapshot
from ...household.state import Stale, Stamp
from ...household.undo import Repeated, Sending, acting, sending
from ...household.unit_of_work import Decided, Household, decisions, undoable
from ...household.whole_file import StoreError

__all__ = [
    "Decided",
    "Home",
    "Household",
    "NotSetUp",
    "Repeated",
    "Sending",
    "Snapshot",
    "Stale",
    "Stamp",
    "StoreError",
    "acting",
    "decisions",
    "holidays_of",
    "sending",
    "undoable",
]
