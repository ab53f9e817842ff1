"""Tables, by what they are about. No logic here: repositories turn rows into core objects."""

from .base import Base, Moment
from .cars import BatteryRow, CarRow, DayRow, DepartureRow, HabitRow, LearntRow, SmallBatteryRow, WayRow
from .contracts import (
    BandRow,
    HeaderRow,
    HouseholdRow,
    OutletRow,
    PendingRow,
    PersonRow,
    PlaceRow,
    PriceRow,
    SeasonRow,
    StateRow,
    TariffRow,
    UndoRow,
    WrittenRow,
)
from .facts import CapacityRow, ChargeRow, DriveRow, EventRow, GuideRow, LeavingRow, MeterRow, ReadingRow, WeatherRow
from .plans import BlockRow, PlanRow, StartCheckRow

__all__ = [
    "BandRow",
    "Base",
    "BatteryRow",
    "BlockRow",
    "CapacityRow",
    "CarRow",
    "ChargeRow",
    "DayRow",
    "DepartureRow",
    "DriveRow",
    "EventRow",
    "GuideRow",
    "HabitRow",
    "HeaderRow",
    "HouseholdRow",
    "LearntRow",
    "LeavingRow",
    "MeterRow",
    "Moment",
    "OutletRow",
    "PendingRow",
    "PersonRow",
    "PlaceRow",
    "PlanRow",
    "PriceRow",
    "ReadingRow",
    "SeasonRow",
    "SmallBatteryRow",
    "StartCheckRow",
    "StateRow",
    "TariffRow",
    "UndoRow",
    "WayRow",
    "WeatherRow",
    "WrittenRow",
]
