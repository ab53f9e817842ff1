"""The home as every room sees it."""

from typing import Protocol
from zoneinfo import ZoneInfo

from ..core.home import Home, NotSetUp, OwnedCar
from ..household.calendar import holidays_of
from ..household.snapshot import Snapshot
from ..household.state import Stale, Stamp
from ..household.unit_of_work import Household, undoable

__all__ = ["Home", "Household", "NotSetUp", "OfCar", "Snapshot", "Stale", "Stamp", "holidays_of", "undoable"]


class _Owned(Protocol):
    @property
    def owned(self) -> OwnedCar:
        """The car that it is about."""


class OfCar:
    """What is about one car (`owned`) of the home."""

    @property
    def car_id(self: _Owned) -> int:
        """The car's number."""
        return self.owned.id

    @property
    def zone(self: _Owned) -> ZoneInfo:
        """The clock of the place where it stands."""
        return self.owned.zone
