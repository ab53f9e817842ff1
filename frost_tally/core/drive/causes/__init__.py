"""The causes of the tally, in the order of its steps. A new one is a class in a file here, a line here, and its words."""

from .air import ColdAir, OnTheCar, Speed, Wind
from .base import MILD_C, Cause, Kind, TalliedDay
from .pack import Age, Climate, ColdPack, LostRegen, PackHeat, Standing
from .road import ColdTyres, Friction, Hills, Load, OwnDays, Pressure, Style, WetRoad

__all__ = ["CAUSES", "MILD_C", "Cause", "Kind", "TalliedDay"]

CAUSES: dict[str, Cause] = {
    cause.key: cause
    for cause in (
        ColdAir(),
        ColdTyres(),
        Pressure(),
        WetRoad(),
        Speed(),
        Load(),
        OnTheCar(),
        Wind(),
        Hills(),
        OwnDays(),
        Style(),
        Friction(),
        Age(),
        ColdPack(),
        LostRegen(),
        Climate(),
        PackHeat(),
        Standing(),
    )
}
