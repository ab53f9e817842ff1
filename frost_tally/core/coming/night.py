"""A night of the coming week as it will be: whether the cable goes in and why, the plan, and the day after it."""

from dataclasses import dataclass
from enum import StrEnum

from ..advice.night_inputs import NightInputs
from ..advice.warm_up import Advice
from ..charge.night import NightPlan
from ..drive.certainty import LevelBand
from ..drive.day import Start
from .car_week import Turn
from .evening import Evening
from .nights import Stay

LEVEL_DIGITS = 3
"""Of levels handed on to the next night: a tenth of a per cent."""


class Cable(StrEnum):
    """Whether the cable goes in on a night: in, out, or as you like, for it changes less than a walk with it is worth."""

    IN = "in"
    OUT = "out"
    EITHER = "either"


class Because(StrEnum):
    """Why: a day needs it, it is cheaper, a full charge is due, it was kept, it is the habit; nothing is needed, the cable is the other
    car's, the car is elsewhere.
    """

    NEED = "need"
    CHEAPER = "cheaper"
    FULL = "full"
    KEPT = "kept"
    HABIT = "habit"
    ENOUGH = "enough"
    OTHER = "other"
    AWAY = "away"


@dataclass(frozen=True, kw_only=True)
class Choice:
    """A night's decision: whether, why, what the other way would cost more (money, with wear and the level that is left; negative: less),
    and by how much it would end a day short of its need (0 to 1).
    """

    cable: Cable
    because: Because
    other_costs: float
    other_short_soc: float


@dataclass(frozen=True, kw_only=True, eq=False)
class CarNight:
    """A night and its day as they will be: the stay, its turn of the cable, the inputs (with level, limit and warm-up as decided), the plan
    (of a night without cable too), the advice for the warm-up where it was asked for, and the band of the level at home again.

    `beyond_soc` is what nights elsewhere take after the day before it can charge; `raised` says that the limit is above the habit's for
    this night alone.
    """

    stay: Stay
    turn: Turn
    inputs: NightInputs
    evening: Evening
    plan: NightPlan
    advice: Advice | None
    start: Start
    arrival: LevelBand
    beyond_soc: float
    raised: bool

    @property
    def plugged(self) -> bool:
        """Whether the cable is in."""
        return self.evening.request.plugged

    @property
    def soc(self) -> float:
        """The level in the evening."""
        return self.inputs.soc_now

    @property
    def leaves_soc(self) -> float:
        """The level at departure."""
        return self.plan.soc_departure

    @property
    def home_soc(self) -> float:
        """The likely level at home again, of a tenth of a per cent: so that the nights after it are the same a minute later."""
        return round(min(1.0, max(0.0, self.arrival.likely)), LEVEL_DIGITS)


def need_soc(night: CarNight, reserve: float) -> float:
    """The level at departure whose cautious arrival, less what comes before it can charge, is just the reserve (0 to 1, or above)."""
    return night.leaves_soc - night.arrival.low + night.beyond_soc + reserve


def need_limit(night: CarNight, reserve: float) -> float:
    """The limit that a day needs: the level at departure, and what is lost until then (0 to 1, or above)."""
    return need_soc(night, reserve) + max(0.0, night.plan.highest_soc - night.leaves_soc)
