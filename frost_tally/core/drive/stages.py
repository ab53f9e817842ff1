"""A way cut into stages: what it takes from each of its marks to every later one, by the pack's temperature on leaving."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from ..car import HEATER_TO_PACK, MOVING_W_PER_K, Car
from ..heat.lumped import relax
from ..units import S_PER_H, Array
from .day import Drive, Start, Trip
from .road import Conditions
from .trip import cases, run

WARM_MIN, WARM_UP_TO_C = 30.0, 35.0
"""How long a pack is warmed on the way to a post at most (min), and up to which temperature (°C)."""


@dataclass(frozen=True, eq=False)
class Stages:
    """From mark i to mark j for each leaving temperature: level used (0 to 1, likely), hours, pack on arrival (°C); shape
    (marks, marks, temperatures), inf or as left where j does not come after i or lies too far. `warm_…`: level and kelvin that warming
    on the way adds.
    """

    used: Array
    hours: Array
    end_c: Array
    warm_used: Array
    warm_k: Array


def between(way: Trip, from_km: float, marks_km: Sequence[float]) -> Trip:
    """The drives of a way from a mark on, cut at later marks, up to the last of them."""
    legs, at, last = list[Drive](), 0.0, marks_km[-1]
    for leg in way.drives:
        begin, end = max(at, from_km), min(at + leg.distance_km, last)
        edges = [begin, *sorted({km for km in marks_km if begin < km < end}), end]
        legs += [replace(leg, distance_km=b - a) for a, b in pairwise(edges) if b - a > 1e-9]
        at += leg.distance_km
    return Trip(tuple(legs))


@lru_cache(maxsize=32)
def stages(
    car: Car,
    way: Trip,
    conditions: Conditions,
    cabin_c: float,
    marks_km: tuple[float, ...],
    *,
    leaving_c: tuple[float, ...],
    most_soc: float = 1.0,
) -> Stages:
    """Drive from every mark (km, in order, the first at 0) with every temperature; a stage that takes more than `most_soc` is left out.

    The first mark is left with a cabin at `cabin_c`, the others with a warm one; the latest are kept.
    Raises: OutOfRange for a way without kilometres.
    """
    count, states = len(marks_km), len(leaving_c)
    shape = (count, count, states)
    used, hours, end_c = np.full(shape, np.inf), np.full(shape, np.inf), np.broadcast_to(np.array(leaving_c), shape).copy()
    trip = between(way, 0.0, marks_km)
    at = np.concatenate([[0.0], np.cumsum([each.distance_km for each in trip.drives])])
    legs = np.array([int(np.argmin(np.abs(at - km))) for km in marks_km])  # so many legs lie before each mark
    set_c = cabin_c if conditions.cabin_set_c is None else conditions.cabin_set_c
    lanes = replace(
        cases(car, conditions, Start(1.0, 0.0, 0.0)),
        pack_c=np.tile(leaving_c, count),
        cabin_c=np.repeat([cabin_c] + [set_c] * (count - 1), states),
    )
    ends = run(car, trip, conditions, lanes, sets_out=np.repeat(legs, states)).ends if trip.legs else ()
    for j in range(1, count):
        if legs[j] == 0:
            used[:j, j], hours[:j, j] = 0.0, 0.0
            continue
        end = ends[legs[j] - 1]
        used[:j, j], hours[:j, j], end_c[:j, j] = (
            each.reshape(count, states)[:j] for each in (end.soc_used, end.hours, end.pack_c)
        )
    used[used > most_soc] = np.inf
    heater_w, capacity = 1000.0 * HEATER_TO_PACK * car.pack.heater_kw, car.pack.capacity_j_per_k
    span_s = np.minimum(60.0 * WARM_MIN, np.where(np.isfinite(hours), hours, 0.0) * S_PER_H)
    gain = np.asarray(relax(0.0, 0.0, heater_w, conductance=MOVING_W_PER_K, capacity=capacity, seconds=span_s))
    room = np.clip(WARM_UP_TO_C - end_c, 0.0, None)
    share = np.minimum(1.0, room / np.maximum(gain, 1e-9))
    warm_used = share * car.pack.heater_kw * span_s / S_PER_H / car.pack.usable_kwh
    return Stages(used, hours, end_c, warm_used, np.minimum(gain, room))
