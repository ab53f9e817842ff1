"""What can be set of a day: its trips, conditions and extras, and the days to start from."""

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace

from ..errors import Refusal
from .air import USUAL_HUMIDITY
from .day import Drive, Leg, Park, Road, Trip
from .extras import Extras
from .road import Surface

MOST_TRIPS = 12


@dataclass(frozen=True)
class OneTrip:
    """A trip: kilometres by road, and the hours parked after it."""

    town: float = 0.0
    country: float = 0.0
    motorway: float = 0.0
    parked: float = 1.0

    @property
    def km(self) -> float:
        """Its kilometres."""
        return self.town + self.country + self.motorway

    def scaled(self, factor: float) -> "OneTrip":
        """The same roads over other distances."""
        return replace(self, town=self.town * factor, country=self.country * factor, motorway=self.motorway * factor)


NO_TRIPS = (OneTrip(),) * MOST_TRIPS


@dataclass(frozen=True, kw_only=True)
class DayInputs:
    """What can be set: the trips, as many as a day has (those without kilometres are left out), °C, m/s, kPa, kg; levels 0 to 1."""

    trips: tuple[OneTrip, ...]
    leave_soc: float
    motorway_kmh: float
    town_kmh: float = 0.0
    climb_m: float = 0.0
    out_c: float
    wind_mps: float
    tyre_kpa: float
    people: int
    luggage_kg: float = 0.0
    cabin_c: float
    seats: float = 0.0
    climate: bool = True
    surface: Surface = Surface.DRY
    style: float = 1.0
    roof_box: bool = False
    rear_carrier: bool = False
    covers_off: bool = False
    snow: bool = False
    windows: bool = False
    humidity: float = USUAL_HUMIDITY
    pack_heat: bool = True
    friction_share: float = 0.0
    jam_min: float = 0.0
    jam_km: float = 3.0
    jam_at_km: float = 0.0

    def trip(self) -> Trip:
        """The day's legs, parked time between the trips, a jam where there is one. Raises: Refusal with its field."""
        legs: list[Leg] = []
        for i, one in enumerate(self.trips):
            out = [
                Drive(Road.TOWN, one.town, self.town_kmh or None),
                Drive(Road.COUNTRY, one.country),
                Drive(Road.MOTORWAY, one.motorway, self.motorway_kmh),
            ]
            driven = [leg for leg in out if leg.distance_km > 0]
            if not driven:
                continue
            if legs:
                legs.append(Park(self.trips[i - 1].parked))
            legs += reversed(driven) if i % 2 else driven
        if not legs:
            raise Refusal("A day needs at least one leg: enter some kilometres.", "town_1")
        trip = Trip(tuple(legs), self.climb_m)
        return trip.with_jam(self.jam_at_km, self.jam_km, self.jam_min / 60.0) if self.jam_min > 0 else trip

    def flat(self) -> dict[str, object]:
        """Every input under one name, those of the trips numbered: town_1, parked_1, …"""
        found: dict[str, object] = {each.name: getattr(self, each.name) for each in fields(self) if each.name != "trips"}
        for i, one in enumerate(self.trips, 1):
            found |= {f"{each.name}_{i}": getattr(one, each.name) for each in fields(one)}
        return found

    def overridden(self, values: Mapping[str, object]) -> "DayInputs":
        """With some inputs set, by their names in `flat`."""
        own, trips = dict(values), list(self.trips)
        for name in list(own):
            road, _, number = name.rpartition("_")
            if number.isdigit():
                trips[int(number) - 1] = replace(trips[int(number) - 1], **{road: own.pop(name)})  # type: ignore[arg-type]
        return replace(self, trips=tuple(trips), **own)  # type: ignore[arg-type]

    @property
    def extras(self) -> Extras:
        """What is on the car."""
        return Extras(self.roof_box, self.rear_carrier, self.covers_off, self.snow, self.windows)


PRESETS: dict[str, tuple[tuple[OneTrip, ...], float]] = {
    "usual": ((), 0.0),
    "errand": ((OneTrip(town=3.0, parked=0.5), OneTrip(town=3.0)), 0.0),
    "jam": ((OneTrip(town=5.0),), 6.7),
    "long": ((OneTrip(town=5.0, motorway=150.0, parked=6.0), OneTrip(town=5.0, motorway=150.0)), 0.0),
}
"""Days to start from: trips, and the town's traffic (km/h, 0 as the schedule has it)."""
OF_THE_DAY = {
    "motorway_kmh",
    "town_kmh",
    "climb_m",
    "people",
    "luggage_kg",
    "style",
    "roof_box",
    "rear_carrier",
    "covers_off",
    "windows",
    "jam_min",
    "jam_km",
    "jam_at_km",
}
"""What belongs to a day besides its trips, and not to its weather."""


def kept_day(values: Mapping[str, object], motorway_kmh: float, people: int) -> DayInputs:
    """A kept day from its values; speed and people are the car's usual ones where it has none. Its weather is nobody's."""
    nobody = DayInputs(
        trips=NO_TRIPS,
        leave_soc=1.0,
        motorway_kmh=motorway_kmh,
        out_c=0.0,
        wind_mps=0.0,
        tyre_kpa=0.0,
        people=people,
        cabin_c=20.0,
    )
    names = kept_values(nobody)
    return nobody.overridden({name: value for name, value in values.items() if name in names})


def kept_values(inputs: DayInputs) -> dict[str, object]:
    """What is kept of a day: its trips, and what else belongs to it."""
    return {name: value for name, value in inputs.flat().items() if name in OF_THE_DAY or name[-1].isdigit()}


def preset_day(usual: DayInputs, key: str) -> DayInputs:
    """A day to start from, everything but its kilometres as usual."""
    trips, town_kmh = PRESETS.get(key, PRESETS["usual"])
    return replace(usual, trips=(*trips, *NO_TRIPS[len(trips) :]), town_kmh=town_kmh) if trips else usual
