"""What a car's log says of its battery: the course of its levels, ordinary charges and drives by month, its age and its kilometres."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

import numpy as np

from ..basis import Basis, figure
from ..battery.ageing import S_PER_DAY
from ..battery.cold import Chemistry
from ..battery.everyday import Everyday, Ordinary, monthly
from ..battery.life import MONTH_DAYS
from ..battery.own_tests import COUNTER, WALL
from ..battery.trend import DAYS_PER_YEAR, age_of
from ..car import Car
from ..drive.day import Trip
from ..drive.replay import Days, Habit, replay
from ..units import Array, Flags, Ints
from .efficiency import MILD_C
from .facts import FEW

DRIVE, CHARGE, FAST, LEVEL = range(4)
MONTH_S = MONTH_DAYS * S_PER_DAY
USUAL_KM_PER_DAY = figure("log.usual_km", 40.0, "km", Basis.COMMON_PRACTICE, "a day, until the log tells this car’s pace")
LONGEST_BEFORE = timedelta(days=20 * DAYS_PER_YEAR)
LEAST_KM, AIR_C = 0.5, (-45.0, 50.0)
LEAST_DAYS = 30.0
"""From so many days on a log tells a pace."""


@dataclass(frozen=True, eq=False, kw_only=True)
class Sessions:
    """A car's drives, charges and levels in the order of time; arrays of shape (sessions,), not a number for what nobody read.

    Times in s since 1970, levels 0 to 1, kWh at the wall and into or out of the pack, outside °C, km driven; `kind` of `DRIVE`, `CHARGE`,
    `FAST`, `LEVEL`; `read` where nothing of it is assumed.
    """

    begun_s: Array
    ended_s: Array
    soc_start: Array
    soc_end: Array
    wall_kwh: Array
    pack_kwh: Array
    out_c: Array
    km: Array
    kind: Array
    read: Array

    def at(self, rows: Flags | Ints) -> "Sessions":
        """Some of them."""
        return Sessions(**{name: column[rows] for name, column in vars(self).items()})

    @property
    def course(self) -> tuple[Array, Array]:
        """Times and levels that are known, in the order of time."""
        at = np.concatenate([self.begun_s, self.ended_s])
        soc = np.concatenate([self.soc_start, self.soc_end])
        order = np.argsort(at, kind="stable")[: np.count_nonzero(~np.isnan(at))]
        return at[order], soc[order]


def everyday_of(
    sessions: Sessions, car: Car, around: Callable[[Array], Array], trip: Trip, habit: Habit
) -> dict[str, tuple[Everyday, ...]]:
    """What ordinary charges and drives say by month: at the wall only where it was mild, for a cold pack is warmed on the way; on the road
    by what the pack gives at its own temperature, as the model drives it over the usual roads.

    `around` tells the air where the car stood (°C) at times (s since 1970), for what nobody read.
    """
    known = sessions.at((sessions.read > 0) & (sessions.kind <= CHARGE))
    air = np.where(np.isnan(known.out_c), around(known.begun_s), known.out_c)
    counted, drives = ~np.isnan(known.pack_kwh), known.kind == DRIVE
    hours = (known.ended_s - known.begun_s) / 3600.0
    arrived = (known.wall_kwh - car.charger.overhead_kw * hours) * car.charger.efficiency
    share = np.ones(len(air))
    on_road = np.flatnonzero(counted & drives)
    share[on_road] = _given(known.at(on_road), air[on_road], around, car=car, trip=trip, habit=habit)
    rows = {WALL: ~counted & ~drives & (air >= MILD_C), COUNTER: counted}
    kwh = {WALL: arrived, COUNTER: known.pack_kwh / share}
    month = (known.begun_s / MONTH_S).astype(np.int64)
    found = {}
    for kind, which in rows.items():
        ordinary = Ordinary(
            month=month[which], soc_one=known.soc_start[which], soc_other=known.soc_end[which], kwh=kwh[kind][which]
        )
        if of_kind := monthly(ordinary):
            found[kind] = of_kind
    return found


def _given(drives: Sessions, air_c: Array, around: Callable[[Array], Array], *, car: Car, trip: Trip, habit: Habit) -> Array:
    """What the pack gave of its capacity at 25 °C on some drives, by the level that each took of it (`drive.trip`); shape (drives,)."""
    if not len(air_c):
        return np.ones(0)
    days = Days(
        km=np.maximum(np.nan_to_num(drives.km, nan=trip.distance_km), LEAST_KM),
        air_c=np.clip(air_c, *AIR_C),
        soc_used=drives.soc_start - drives.soc_end,
        soak_c=np.clip(around(drives.begun_s), *AIR_C),
    )
    done = replay(car, trip, days, habit)
    return np.asarray(done.energy_kwh / np.maximum(done.soc_used * car.pack.usable_kwh, 1e-9))


@dataclass(frozen=True, kw_only=True)
class Sums:
    """What a log adds up to: kilometres, the first and the last departure (s since 1970), the first reading of the odometer (s, km; None:
    none); kWh at the wall, how much of it fast, how often, what that cost; how many
    charges there are.
    """

    km: float
    first_s: float | None
    last_s: float | None
    clock_s: float | None
    clock_km: float | None
    wall_kwh: float
    fast_kwh: float
    fast_times: int
    fast_cost: float
    times: int

    @property
    def tells_fast(self) -> bool:
        """Whether there are charges enough to tell how much of it was fast."""
        return self.times >= FEW

    @property
    def km_a_day(self) -> float:
        """Kilometres a day: the log's pace, else a usual one."""
        if self.first_s is None or self.last_s is None or self.last_s - self.first_s < LEAST_DAYS * S_PER_DAY:
            return USUAL_KM_PER_DAY
        return max(1.0, self.km / ((self.last_s - self.first_s) / S_PER_DAY))

    def new_on(self, now: datetime, cell: Chemistry, told: tuple[datetime, float] | None = None) -> date:
        """The car's first day by guess: as far before the log as its kilometres need at the log's pace; without an odometer as far as a
        pack needs for the health (0 to 1) that somebody `told` at a time.
        """
        first, before = now.timestamp() if self.first_s is None else self.first_s, 0.0
        if self.clock_s is not None and self.clock_km is not None:
            first, before = self.clock_s, self.clock_km / self.km_a_day
        by_log = (datetime.fromtimestamp(first, UTC) - min(timedelta(days=before), LONGEST_BEFORE)).date()
        if told is None or self.clock_s is not None:
            return by_log
        return min(by_log, (told[0] - timedelta(days=age_of(told[1], cell))).date())

    def odometer_km(self, age_days: float) -> float:
        """About what the odometer shows."""
        if self.clock_km is not None and self.clock_s is not None and self.last_s is not None:
            return self.clock_km + max(0.0, self.last_s - self.clock_s) / S_PER_DAY * self.km_a_day
        return self.km_a_day * age_days
