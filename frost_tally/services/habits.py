"""What matters where: each lever in town and on the motorway, the driver's part, and what does not matter."""

from dataclasses import dataclass

from ..core.advice.remedies import Remedy, Situation, remedies
from ..core.drive.day import Drive, Park, Road, Trip
from ..core.drive.habits import Habits, habits
from ..core.drive.rating import Rated, dashboard_km
from ..household.snapshot import Snapshot
from .day.room import Day, day
from .shared.derived import in_this_minute

COMPARED_KM, MOTORWAY_KMH, PARKED_H = 60.0, 110.0, 8.0


@dataclass(frozen=True, kw_only=True)
class Effects:
    """The day; the same distance all in town and all on the motorway with what each change gives on it (Wh/km); the driver's part."""

    day: Day
    km: float
    motorway_kmh: float
    town_wh: dict[str, float]
    motorway_wh: dict[str, float]
    habits: Habits
    full: Rated

    @property
    def keys(self) -> tuple[str, ...]:
        """The changes, the one that gives most anywhere first."""
        every = dict.fromkeys((*self.town_wh, *self.motorway_wh))  # no set: changes that give the same keep their order
        return tuple(sorted(every, key=lambda key: -max(self.town_wh.get(key, 0.0), self.motorway_wh.get(key, 0.0))))


def effects(snapshot: Snapshot, car_id: int | None = None) -> Effects:
    """The page for a car (the first when None), for the day that Tonight plans for. Raises: NotSetUp."""

    def work() -> Effects:
        made = day(snapshot, car_id)
        town_wh, motorway_wh, speed = on_roads(made.situation)
        return Effects(
            day=made,
            km=COMPARED_KM,
            motorway_kmh=speed,
            town_wh=town_wh,
            motorway_wh=motorway_wh,
            habits=habits(made.night.car, made.trip, made.conditions, made.start),
            full=dashboard_km(made.night.car, 1.0),
        )

    return in_this_minute(snapshot, ("effects", car_id), work)


def on_roads(situation: Situation) -> tuple[dict[str, float], dict[str, float], float]:
    """What each change gives on a day all in town and on one all on the motorway (Wh/km), and the speed there (km/h)."""
    speed = max(situation.trip.motorway_kmh, default=MOTORWAY_KMH)
    half = COMPARED_KM / 2
    town, fast = (Trip((leg, Park(PARKED_H), leg)) for leg in (Drive(Road.TOWN, half), Drive(Road.MOTORWAY, half, speed)))
    capacity = situation.car.pack.usable_kwh

    def wh_per_km(trip: Trip) -> dict[str, float]:
        found: tuple[Remedy, ...] = remedies(situation.on(trip), 0.0)
        return {each.key: 1000 * each.gain_soc * capacity / COMPARED_KM for each in found if each.key not in ("limit", "later")}

    return wh_per_km(town), wh_per_km(fast), speed
