"""The demo's world: the invented village's weather and prices, a car that reports, sensors, and a clock that stands still.

Why: docs/decisions/0008.
"""

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import Engine, select, update

from ..household.models import PresentRow
from ..standins.car_link import SeededCar
from ..standins.price_feed import SeededFeed
from ..standins.weather import SeededYear
from ..standins.wheel_sensors import SeededSensors
from ..world import World

LEAKING = {"Dray": "RL"}
_CLOCK = select(PresentRow.clock)


@dataclass(frozen=True)
class StoredClock:
    """Stands still until it is set; kept in the store, so that the demo goes on where it was left."""

    engine: Engine

    def now(self) -> datetime:
        with self.engine.connect() as connection:
            return connection.scalar(_CLOCK) or datetime.now(UTC)

    def set(self, moment: datetime) -> None:
        with self.engine.begin() as connection:
            connection.execute(update(PresentRow).values(clock=moment))


def demo_world(engine: Engine) -> World:
    """Everything simulated, from fixed seeds; one of the van's wheels leaks."""
    return World(
        clock=StoredClock(engine),
        weather=SeededYear(),
        prices=SeededFeed(),
        car_link=SeededCar(),
        wheel_sensors=SeededSensors(leaking=LEAKING),
    )
