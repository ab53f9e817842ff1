"""The nights that are over, each against its cheapest hours; from the log, for owners by hand, by timer and linked."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta

from ..core.errors import require
from ..core.home import OfCar, OwnedCar
from ..core.live.hindsight import Hindsight, hindsight
from ..household.snapshot import Snapshot
from .shared.derived import LONG_S, derived_later
from .shared.past_nights import past_nights

MONTH, MOST = 30, 370
READS = ("drive", "charge", "price", "weather")


@dataclass(frozen=True, kw_only=True)
class HindsightInputs:
    """What can be set: so many days back."""

    days: int = MONTH


@dataclass(frozen=True, kw_only=True)
class HindsightRoom(OfCar):
    """A car's nights that are over, the latest first, each against its cheapest hours."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    inputs: HindsightInputs
    defaults: HindsightInputs
    currency: str
    nights: tuple[Hindsight, ...]

    @property
    def was(self) -> float:
        """What they cost, money."""
        return sum(each.was for each in self.nights)

    @property
    def hours(self) -> float:
        """What other hours would have spared, money."""
        return sum(each.hours for each in self.nights)

    @property
    def control(self) -> float:
        """What any hours would have spared beside that, money."""
        return sum(each.control for each in self.nights)


def hindsight_room(
    snapshot: Snapshot,
    car_id: int | None = None,
    override: Callable[[HindsightInputs], HindsightInputs] = lambda defaults: defaults,
    wait_s: float = LONG_S,
) -> HindsightRoom:
    """The page for a car (the first when None). Raises: NotSetUp, OutOfRange with its field, NotYet."""
    owned = snapshot.home.ready_car(car_id)
    defaults = HindsightInputs()
    inputs = override(defaults)
    require(inputs.days, 1, MOST, "The days back", "", "days")
    until = snapshot.now.replace(minute=0, second=0, microsecond=0)

    def work(reading: Snapshot) -> tuple[Hindsight, ...]:
        found = past_nights(reading, owned, until - timedelta(days=inputs.days), until)
        return tuple(reversed([hindsight(each.request, each.spans) for each in found]))

    nights = derived_later(snapshot, ("hindsight", owned, inputs, until.date()), work, wait_s, READS)
    return HindsightRoom(
        owned=owned, cars=snapshot.home.names, inputs=inputs, defaults=defaults, currency=snapshot.home.currency, nights=nights
    )
