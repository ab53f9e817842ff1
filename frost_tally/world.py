"""The world outside the home: what time it is, the weather, prices, and what the devices tell; one object, built once."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any, Protocol, runtime_checkable

from .core.charge.prices import Series
from .core.coming.weather import Weather as Weather


class Clock(Protocol):
    """What time it is."""

    def now(self) -> datetime:
        """The present moment, aware."""
        ...


@runtime_checkable
class StandingClock(Clock, Protocol):
    """A clock that stands still until somebody sets it."""

    def set(self, moment: datetime) -> None:
        """Set it to a moment (aware)."""


class PriceFeed(Protocol):
    """Somebody who publishes prices."""

    def known_until(self, now: datetime) -> datetime:
        """The end of what is published at a time, on the clock of `now`."""

    def prices(self, start: datetime, end: datetime) -> Series:
        """Prices from start to end, tax included, on the clock of `start`."""


class CarLink(Protocol):
    """What a car tells of a departure."""

    def left_at(self, car: str, due: datetime) -> datetime | None:
        """When it drove off, within hours of a departure that was due; None when it stayed."""


class WheelSensors(Protocol):
    """Cars that know their tyres."""

    def read(self, car: str, placard_kpa: float, now: datetime, tyre_c: float) -> Mapping[str, float]:
        """Gauge pressure of each wheel, kPa."""


class Passing(Protocol):
    """What happens at home while a clock that stands still is moved on."""

    def __call__(self, household: Any, since: datetime, until: datetime) -> None:
        """Note it in the household (a `household.unit_of_work.Household`) as facts."""


@dataclass(frozen=True, kw_only=True)
class Letter:
    """An e-mail: one address, a subject of one line, plain text."""

    to: str
    subject: str
    text: str


class Mail(Protocol):
    """Somebody who sends letters."""

    def send(self, letter: Letter) -> None:
        """Hand it over. Raises: Refusal with what went wrong."""


class LetterBox(Protocol):
    """Where letters that were sent can be looked at."""

    def letters(self) -> tuple[Letter, ...]:
        """What came, the latest first."""


class PointStandIn(Protocol):
    """A simulated charge point that somebody can do something to."""

    @property
    def acts(self) -> Sequence[str]:
        """What can be done to it now, by its codes."""

    def act(self, what: str, car_id: int) -> None:
        """Do it, with a car of this number. Raises: Refusal."""

    def pull(self) -> None:
        """Pull its cable, if one is in."""

    def let_pass(self, until: datetime) -> None:
        """Let the clock go on until a moment (aware), a minute in a moment."""


class MachineClock:
    """The clock of this machine."""

    def now(self) -> datetime:
        return datetime.now(UTC)


@dataclass(frozen=True, kw_only=True)
class World:
    """Everything outside; None for what this home has not: then its owner types it."""

    clock: Clock = field(default_factory=MachineClock)
    weather: Weather | None = None
    prices: PriceFeed | None = None
    car_link: CarLink | None = None
    wheel_sensors: WheelSensors | None = None
    passing: Passing | None = None
    mail: Mail | None = None
    letter_box: LetterBox | None = None
    point: PointStandIn | None = None
