"""What the log shows of a car: efficiency by outlet, use by temperature beside the model, standby, and how the plans went."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta

import numpy as np

from ..core.drive.replay import Days, replayed
from ..core.home import OfCar, OwnedCar
from ..core.log.efficiency import Efficiency
from ..core.log.idle_intervals import standby
from ..core.units import Array
from ..household.log_facts import facts, last_noted
from ..household.plans import plan_errors
from ..household.snapshot import Snapshot
from .shared.derived import derived
from .shared.measured import measured
from .shared.past import noted_days

DAYS, PLANS = 1000, 400
GRID_C = np.arange(-24.0, 33.0, 4.0)
LATELY = timedelta(days=400)
"""Before the last entry: so much of the log tells what standing takes."""
READS = ("drive", "charge", "reading", "night_plan", "weather")


@dataclass(frozen=True, eq=False, kw_only=True)
class Shows(OfCar):
    """Everything the page shows of a car.

    `air_c` and `wh_per_km` are its noted days, shape (days,); `grid_c` and `model` the model's line for its usual day; `plan_at` (s since
    1970), `plan_error` (level at arrival − planned likely, 0 to 1) and `plan_width` (half the planned band) its plans, the earliest first.
    `standby_soc` is lost in a day of standing, from `standby_days`.
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    outlets: Mapping[int, str]
    efficiency: Mapping[int | None, Efficiency]
    air_c: Array
    wh_per_km: Array
    grid_c: Array
    model: Array
    plan_at: Array
    plan_error: Array
    plan_width: Array
    standby_soc: float | None
    standby_days: float

    @property
    def inside(self) -> float:
        """Share of the plans that came home inside their band, 0 to 1."""
        return float(np.mean(np.abs(self.plan_error) <= self.plan_width)) if len(self.plan_error) else 0.0

    @property
    def typical_error(self) -> float:
        """Half of the plans were off by less, 0 to 1."""
        return float(np.median(np.abs(self.plan_error))) if len(self.plan_error) else 0.0


def shows(snapshot: Snapshot, car_id: int | None = None) -> Shows:
    """What the log shows of a car (the first when None). Raises: NotSetUp without a car."""
    owned = snapshot.home.car(car_id)
    return derived(snapshot, ("shows", owned, snapshot.home), lambda: _shows(snapshot, owned), READS)


def _shows(snapshot: Snapshot, owned: OwnedCar) -> Shows:
    log, days, usable_kwh = snapshot.log, noted_days(snapshot, owned, DAYS), owned.car.pack.usable_kwh
    until = last_noted(log, owned.id) or snapshot.now
    soc_a_day, stood = standby(facts(log, owned.id, until - LATELY, until))
    plans = np.array(plan_errors(log, owned.id, PLANS)).reshape(-1, 3)
    return Shows(
        owned=owned,
        cars=snapshot.home.names,
        outlets={each.id: each.name for each in snapshot.home.outlets},
        efficiency=measured(snapshot, owned),
        air_c=days.air_c,
        wh_per_km=1000 * days.soc_used * usable_kwh / np.maximum(days.km, 0.1),
        grid_c=GRID_C,
        model=_model(owned, days),
        plan_at=plans[:, 0],
        plan_error=plans[:, 1],
        plan_width=plans[:, 2],
        standby_soc=soc_a_day,
        standby_days=stood,
    )


def _model(owned: OwnedCar, days: Days) -> Array:
    """Wh/km of the car's usual kilometres at each temperature of the grid, warmed by habit, in calm dry air."""
    km = np.full(len(GRID_C), float(np.median(days.km)) if len(days.km) else owned.habit.km)
    calm = Days(km=km, air_c=GRID_C, soc_used=km)
    used = replayed(owned.car, owned.habit.trip, calm, owned.driven)
    return np.asarray(1000 * used * owned.car.pack.usable_kwh / km)
