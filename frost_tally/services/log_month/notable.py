"""The best and the worst day of a span, and the tally's causes for both."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import lru_cache

import numpy as np

from ...core.battery.cold import usable_fraction
from ...core.car import Car
from ...core.drive.air import pressure_at
from ...core.drive.day import Start, Trip
from ...core.drive.road import Conditions
from ...core.drive.tally import Tally, fair_tally
from ...core.drive.tyres import FLAT_KPA, gauge_at
from ...core.heat.around import parked_c
from ...core.heat.warm import warm_up
from ...core.home import OwnedCar
from ...core.log.anomalies import anomalies
from ...core.log.facts import FEW
from ...core.log.outliers import LEAST_DAY_KM, sound
from ...household.log_facts import Driven, facts
from ...household.snapshot import Snapshot
from ..shared.climate import climate_of
from ..shared.facts import tyres_now

AROUND = timedelta(days=3)
AMPLE_KW = 7.0


@dataclass(frozen=True, kw_only=True)
class NotableDay:
    """A day with what it took: Wh/km, the air, and the tally of its causes."""

    car: str
    kind: str
    number: int
    left_at: datetime
    km: float
    wh_per_km: float
    air_c: float
    tally: Tally | None


def best_and_worst(
    snapshot: Snapshot, driven: Sequence[tuple[OwnedCar, Sequence[Driven]]], since: datetime, until: datetime
) -> tuple[NotableDay | None, NotableDay | None]:
    """The days that took least and most for a kilometre, with their causes; None with too few to compare."""
    notable = [each for owned, days in driven for each in _days(snapshot, owned, days, since, until)]
    if len(notable) < FEW:
        return None, None
    best, worst = (choose(notable, key=lambda each: each[1].wh_per_km) for choose in (min, max))
    made = [replace(day, tally=_causes(snapshot, owned, day)) for owned, day in ([best] if best is worst else [best, worst])]
    return made[0], made[1] if len(made) > 1 else None


def _days(
    snapshot: Snapshot, owned: OwnedCar, driven: Sequence[Driven], since: datetime, until: datetime
) -> list[tuple[OwnedCar, NotableDay]]:
    """The days of a car that can be compared: long enough, and going together with the others."""
    car, around = owned.car, facts(snapshot.log, owned.id, since - AROUND, until + AROUND)
    odd = {d.fact.number for d in anomalies(around, car) if d.fact.kind == "drive"}
    air = climate_of(snapshot, owned.place)
    found = []
    for each in driven:
        if each.left_s < since.timestamp() or each.km < LEAST_DAY_KM or each.number in odd or each.soc_end >= each.soc_start:
            continue
        left = datetime.fromtimestamp(each.left_s, owned.zone)
        wh = 1000 * (each.soc_start - each.soc_end) * car.pack.usable_kwh / each.km
        told = {"car": owned.name, "kind": "drive", "number": each.number, "left_at": left, "km": each.km}
        found.append((owned, NotableDay(**told, wh_per_km=wh, air_c=air.temperature_c(left), tally=None)))  # type: ignore[arg-type]
    keep = sound(np.array([day.wh_per_km for _, day in found]))
    return [each for each, good in zip(found, keep, strict=True) if good]


def _causes(snapshot: Snapshot, owned: OwnedCar, day: NotableDay) -> Tally:
    """The day's causes: driven again in its weather on the car's usual roads, warmed by habit."""
    place, car, habit, driven = owned.place, owned.car, owned.habit, owned.driven
    weather, tyres = climate_of(snapshot, place), tyres_now(snapshot, owned)
    soak = parked_c(weather.temperature_c, day.left_at, *place.standing)
    gauge = max(FLAT_KPA, gauge_at(tyres.kpa, tyres.read_c, day.air_c, pressure_at(place.altitude_m) / 1000.0))
    conditions = driven.conditions(day.air_c, weather.wind_mps(day.left_at.astimezone(UTC)), gauge)
    warm = warm_up(car, driven.choice, cabin_c=soak, pack_c=soak, ambient_c=day.air_c, set_c=habit.cabin_c, wall_kw=AMPLE_KW)
    level = max(0.5, habit.limit * float(usable_fraction(warm.pack_c, car.pack.chemistry)))
    return _tally(car, habit.trip.scaled_to(day.km), conditions, Start(level, warm.pack_c, warm.cabin_c))


@lru_cache(maxsize=64)
def _tally(car: Car, trip: Trip, conditions: Conditions, start: Start) -> Tally:
    """Kept: what is past does not change."""
    return fair_tally(car, trip, conditions, start)
