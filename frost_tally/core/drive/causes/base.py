"""A cause of the tally: whether a day has it, and the same day without it."""

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from enum import StrEnum

from ...basis import Basis, figure
from ...car import Car
from ...units import Array
from ..day import Scenarios, Start, Trip
from ..road import Conditions

MILD_C = figure("tally.mild_temperature", 20.0, "°C", Basis.COMMON_PRACTICE, "a mild, dry, calm day, climate off")
SAME = 1e-9


class Kind(StrEnum):
    """What takes: the cold, heat that is made, or the road and the car."""

    COLD = "cold"
    HEAT = "heat"
    ROAD = "road"


@dataclass(frozen=True)
class TalliedDay:
    """The day that is tallied; `standby_soc` is what standing took before departure (0 to 1)."""

    car: Car
    trip: Trip
    conditions: Conditions
    start: Start
    standby_soc: float = 0.0

    @property
    def coldest_c(self) -> float:
        """The coldest that the pack gets, °C."""
        return min(self.start.pack_c, self.conditions.ambient_c)


class Cause(ABC):
    """One cause. `figures` are the numbers that it rests on, `turned_figures` those when it works the other way round, if others."""

    key: str
    kind: Kind = Kind.ROAD
    figures: tuple[str, ...] = ()
    turned_figures: tuple[str, ...] = ()

    @abstractmethod
    def differs(self, day: TalliedDay) -> bool:
        """Whether the day has it, against the mild day."""

    @abstractmethod
    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        """The cases in which it counts where `on` is 1 and is left out where it is 0."""

    def absent(self, cases: Scenarios) -> Scenarios:
        """The cases of a day that has it not."""
        return cases

    def turned(self, day: TalliedDay) -> bool:
        """Whether it works the other way round: warm instead of cold, cooling instead of heating."""
        return False

    def amount(self, day: TalliedDay) -> float | None:
        """Tomorrow's number, where its name needs one."""
        return None


class Switch(Cause):
    """A cause that the day's model switches by the cases' field of its key."""

    def counts(self, day: TalliedDay, cases: Scenarios, on: Array) -> Scenarios:
        changed: dict[str, Array] = {self.key: on}
        return replace(cases, **changed)

    def absent(self, cases: Scenarios) -> Scenarios:
        changed: dict[str, float] = {self.key: 0.0}
        return replace(cases, **changed)
