"""What a car's own charges measured: its efficiency on each outlet, which replaces the class's number once there are enough."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime
from functools import lru_cache

import numpy as np

from ...core.car import Car
from ...core.home import OwnedCar
from ...core.log.efficiency import Efficiency, measure
from ...household.log_facts import Charged, charges
from ...household.snapshot import Snapshot
from .climate import climate_of
from .derived import derived

LATEST = 400
FIRST, LAST = datetime(1970, 2, 1, tzinfo=UTC), datetime(2099, 12, 1, tzinfo=UTC)


def measured(snapshot: Snapshot, owned: OwnedCar) -> Mapping[int | None, Efficiency]:
    """The efficiency of a car by outlet (None: an outlet that nobody named), from its latest charges at home."""
    air = climate_of(snapshot, owned.place)

    def read() -> Mapping[int | None, Efficiency]:
        by_outlet = dict[int | None, list[Charged]]()
        for each in charges(snapshot.log, owned.id, FIRST, LAST, LATEST):
            if _measures(each):
                by_outlet.setdefault(each.outlet_id, []).append(each)
        found = {}
        for outlet, these in by_outlet.items():
            hours = np.array([((each.ended_s or 0.0) - each.begun_s) / 3600 for each in these])
            begun = [datetime.fromtimestamp(each.begun_s, owned.zone) for each in these]
            out_c = [air.temperature_c(at) if each.out_c is None else each.out_c for at, each in zip(begun, these, strict=True)]
            wall = np.array([each.wall_kwh for each in these], dtype=float)
            added = np.array([(each.soc_end or 0.0) - (each.soc_start or 0.0) for each in these])
            one = measure(
                wall,
                added,
                hours,
                out_c=np.array(out_c),
                usable_kwh=owned.car.pack.usable_kwh,
                overhead_kw=owned.car.charger.overhead_kw,
            )
            if one is not None:
                found[outlet] = one
        return found

    return derived(snapshot, ("efficiency", owned.id, owned.car, air), read, ("charge",))


def _measures(each: Charged) -> bool:
    """Whether a charge measures something: its levels, its energy and its hours were read, at home."""
    known = None not in (each.ended_s, each.soc_start, each.soc_end, each.wall_kwh)
    return known and each.site == "home" and each.read("soc_start", "soc_end", "wall_kwh", "begun_at", "ended_at")


def charging_car(snapshot: Snapshot, owned: OwnedCar) -> Car:
    """The car as it charges on its outlet: with its own efficiency there once that was measured often enough."""
    car = owned.car
    own = measured(snapshot, owned).get(owned.outlet.id if owned.outlet else None)
    return car if own is None or not own.enough else _with_efficiency(car, min(1.0, own.value))


@lru_cache(maxsize=16)
def _with_efficiency(car: Car, efficiency: float) -> Car:
    """One value as long as nothing of it changes, so that what is kept under it is found at once."""
    return replace(car, charger=replace(car.charger, efficiency=efficiency))
