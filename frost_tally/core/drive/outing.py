"""A day of equal trips: short ones stay in town, longer ones reach the country and then the motorway."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import require
from ..units import Array
from .day import Drive, Leg, Park, Road, Trip


@dataclass(frozen=True, kw_only=True)
class Outing:
    """`trips` of `km` each, `parked_h` between them; the roads are entered one after another.

    `town_km` and `country_km` say how far town and country reach; what is beyond is motorway at `motorway_kmh` (km/h), or
    country when that is None. `warm_home_c` warms the cabin from the pack before every later trip.
    """

    km: float
    town_km: float
    country_km: float
    motorway_kmh: float | None
    trips: int = 2
    parked_h: float = 8.0
    warm_home_c: float | None = None

    def checked(self) -> "Outing":
        """The same outing. Raises: OutOfRange with its field."""
        require(self.km, 0.5, 500, "The distance", "km", "km")
        require(self.trips, 1, 12, "The number of trips", "", "trips")
        require(self.parked_h, 0.1, 72, "The time parked", "h", "parked_h")
        return self

    def roads(self, km: Array) -> dict[Road, Array]:
        """Kilometres on each road for trips of some lengths, arrays of the same shape."""
        town = np.minimum(km, self.town_km)
        if self.motorway_kmh is None:
            return {Road.TOWN: town, Road.COUNTRY: km - town}
        country = np.minimum(km - town, self.country_km)
        return {Road.TOWN: town, Road.COUNTRY: country, Road.MOTORWAY: km - town - country}

    def legs_out(self) -> list[Drive]:
        """The legs of the first trip, those without kilometres left out."""
        roads = {road: float(km[0]) for road, km in self.roads(np.array([self.km])).items()}
        return [self._leg(road, km) for road, km in roads.items() if km > 1e-9]

    def trip(self) -> Trip:
        """The day's legs, every second trip the same way back."""
        return self._day([self._leg(leg.road, leg.distance_km) for leg in self.legs_out()])

    def unit_trip(self, home_c: float | None = None) -> Trip:
        """The same day with one kilometre on every road, for cases that stretch them; the cabin warmed to `home_c` before later trips."""
        return replace(self, warm_home_c=home_c)._day([self._leg(road, 1.0) for road in self.roads(np.ones(1))])

    def _leg(self, road: Road, km: float) -> Drive:
        return Drive(road, km, self.motorway_kmh if road is Road.MOTORWAY else None)

    def _day(self, out: Sequence[Drive]) -> Trip:
        legs: list[Leg] = list(out)
        for i in range(1, self.trips):
            legs.append(Park(self.parked_h, self.warm_home_c))
            legs += reversed(out) if i % 2 else out
        return Trip(tuple(legs))
