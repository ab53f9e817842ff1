"""How much a day's verdict rests on each number that the owner entered."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

from ..basis import Basis, figure
from ..car import SPANS, Car
from .batch import Driving, Pass, in_one_batch
from .day import Start, Trip
from .road import Conditions
from .trip import cases

MORE = figure("why.more", 0.10, "", Basis.COMMON_PRACTICE, "a number is tried a tenth larger")
WARMER_K = figure("why.warmer", 3.0, "K", Basis.COMMON_PRACTICE, "a temperature is tried so much higher")
HEATING = ("pack_heater_kw", "cabin_heater_kw", "drive_heat_to_c", "drive_heat_from_c", "drive_heat_kw")
NOT_ON_THE_ROAD = ("ac_limit_a", "ac_limit_kw", "most_kw", "placard_kpa", *HEATING)
"""A car's numbers that are of the cable or of the heaters; pressure is tried as it was read."""
HELD_BY_CASES = ("soh", "mass_kg", "drag_area_m2", "friction_share", "rolling_coefficient")
"""A car's numbers that count on the road through its cases alone."""


@dataclass(frozen=True)
class DayAsEntered:
    """What a day's arrival is computed from."""

    car: Car
    trip: Trip
    conditions: Conditions
    start: Start

    def left(self, in_car: Car) -> Driving[float]:
        """Level when it is over, 0 to 1; `in_car` is the car but for what its cases hold, so that days in the same car are one pass."""
        done = yield Pass(in_car, self.trip, self.conditions, cases(self.car, self.conditions, self.start))
        return self.start.soc - float(done.soc_used[0])


def _of_car(column: str) -> Callable[[DayAsEntered], DayAsEntered]:
    def change(day: DayAsEntered) -> DayAsEntered:
        value = float(str(day.car.values()[column]))
        return replace(day, car=day.car.with_values({column: min(value * (1 + MORE), SPANS[column].high)}))

    return change


def _speed(day: DayAsEntered) -> DayAsEntered:
    speeds = day.trip.motorway_kmh
    return replace(day, trip=day.trip.at_motorway_speed(speeds[0] * (1 + MORE))) if speeds else day


def _at(change: Callable[[Conditions], Conditions]) -> Callable[[DayAsEntered], DayAsEntered]:
    return lambda day: replace(day, conditions=change(day.conditions))


CHANGES: Mapping[str, Callable[[DayAsEntered], DayAsEntered]] = {
    **{column: _of_car(column) for column in SPANS if column not in NOT_ON_THE_ROAD},
    "km": lambda day: replace(day, trip=day.trip.scaled_to(day.trip.distance_km * (1 + MORE))),
    "motorway_kmh": _speed,
    "tyre_kpa": _at(lambda at: replace(at, tyre_gauge_kpa=(at.tyre_gauge_kpa or 0.0) * (1 + MORE))),
    "load_kg": _at(lambda at: replace(at, load_kg=at.load_kg * (1 + MORE))),
    "ambient_c": _at(lambda at: replace(at, ambient_c=at.ambient_c + WARMER_K)),
    "cabin_c": _at(lambda at: replace(at, cabin_set_c=(at.cabin_set_c or 0.0) + WARMER_K)),
    "leave_soc": lambda day: replace(day, start=replace(day.start, soc=min(1.0, day.start.soc * (1 + MORE)))),
}
"""Each number by its name, and the same day with it a tenth larger, or a temperature a little higher."""


def what_moves(day: DayAsEntered) -> tuple[tuple[str, float], ...]:
    """What each number changes at the end of a day (level, 0 to 1, negative for less), the most first; what changes nothing is left out.

    Numbers that hold each other, such as the tyres' pressure before anybody read one, are changed by themselves.
    """
    unread = (("tyre_kpa", day.conditions.tyre_gauge_kpa), ("cabin_c", day.conditions.cabin_set_c))
    days = {"": day} | {name: change(day) for name, change in CHANGES.items() if (name, None) not in unread}
    left = in_one_batch(*(each.left(day.car if name in HELD_BY_CASES else each.car) for name, each in days.items()))
    found = [(name, each - left[0]) for name, each in zip(days, left, strict=True)]
    return tuple(sorted((each for each in found if abs(each[1]) > 5e-4), key=lambda each: -abs(each[1])))
