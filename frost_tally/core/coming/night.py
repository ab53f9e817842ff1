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
    car's.
    """

    NEED = "need"
    CHEAPER = "cheaper"
    FULL = "full"
    KEPT = "kept"
    HABIT = "habit"
    ENOUGH = "enough"
    OTHER = "other"


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

    `raised` says that the limit is above the habit's for this night alone.
    """

    stay: Stay
    turn: Turn
    inputs: NightInputs
    evening: Evening
    plan: NightPlan
    advice: Advice | None
    start: Start
    arrival: LevelBand
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


def need_limit(night: CarNight, reserve: float) -> float:
    """The limit that a day needs so that its cautious arrival is just the reserve: also what is lost until departure (0 to 1, or above)."""
    lost = max(0.0, night.plan.highest_soc - night.plan.soc_departure)
    return night.plan.soc_departure - night.arrival.low + reserve + lost
