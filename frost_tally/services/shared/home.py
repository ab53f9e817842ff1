"""The home as every room sees it."""

from ...core.home import Home, NotSetUp
from ...household.calendar import holidays_of
from ...household.snapshot import Snapshot
from ...household.state import Stale, Stamp
from ...household.unit_of_work import Household, undoable
from ...household.whole_file import StoreError

__all__ = ["Home", "Household", "NotSetUp", "Snapshot", "Stale", "Stamp", "StoreError", "holidays_of", "undoable"]
