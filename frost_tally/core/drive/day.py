"""What a day is made of: legs and trips, the state at the start, the cases of one pass and their outcome. Why: docs/decisions/0006."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property

import numpy as np

from ..errors import require
from ..heat.climate import CabinStep
from ..heat.lumped import Held
from ..units import Array, Number

REACHABLE = 1e-9


class Road(StrEnum):
    """Kind of road."""

    TOWN = "town"
    COUNTRY = "country"
    MOTORWAY = "motorway"


@dataclass(frozen=True)
class Drive:
    """A stretch of road: kilometres, and the speed on it (km/h; on a motorway the steady one), the road's usual one when None."""

    road: Road
    distance_km: float
    speed_kmh: float | None = None


@dataclass(frozen=True)
class Park:
    """Standing for `hours`; `warm_to_c` warms the cabin from the pack at the end (°C)."""

    hours: float
    warm_to_c: float | None = None


@dataclass(frozen=True)
class Charge:
    """Standing for `hours` while up to `pack_kw` go into the pack, as much of it as its cold allows, until it holds `to_soc`."""

    hours: float
    pack_kw: float
    to_soc: float = 1.0


Leg = Drive | Park | Charge


@dataclass(frozen=True)
class Trip:
    """Legs in the order they come, as many as there are; `climb_m` is the total ascent, with as much descent."""

    legs: tuple[Leg, ...]
    climb_m: float = 0.0

    @property
    def drives(self) -> tuple[Drive, ...]:
        """The legs that are driven."""
        return tuple(leg for leg in self.legs if isinstance(leg, Drive))

    @property
    def distance_km(self) -> float:
        """Total distance, km."""
        return sum(leg.distance_km for leg in self.drives)

    @property
    def motorway_kmh(self) -> tuple[float, ...]:
        """The speeds of its motorways, km/h, those without kilometres or a speed left out."""
        return tuple(leg.speed_kmh for leg in self.drives if leg.road is Road.MOTORWAY and leg.speed_kmh and leg.distance_km > 0)

    def scaled_to(self, distance_km: float) -> "Trip":
        """The same mix of roads over another distance. Raises: OutOfRange outside 0.1 to 2000 km."""
        require(distance_km, 0.1, 2000, "The distance", "km", "km")
        factor = distance_km / self.distance_km
        return self._with(lambda leg: replace(leg, distance_km=leg.distance_km * factor))

    def at_motorway_speed(self, speed_kmh: float) -> "Trip":
        """The same trip with another motorway speed (40 to 200 km/h)."""
        require(speed_kmh, 40, 200, "Motorway speed", "km/h", "motorway_kmh")
        return self._with(lambda leg: replace(leg, speed_kmh=speed_kmh) if leg.road is Road.MOTORWAY else leg)

    def with_jam(self, at_km: float, km: float, hours: float) -> "Trip":
        """The same way with a jam on it: from `at_km` of the day on, `km` of whatever road it is take so many hours, as town traffic does.

        A jam that reaches past the end of a trip stops there. Raises: OutOfRange for one that lies beyond the day, or is faster
        than free traffic.
        """
        require(km, 0.1, 100, "The jam", "km", "jam_km")
        require(at_km, 0, max(0.0, self.distance_km - 0.1), "The place of the jam", "km", "jam_at_km")
        require(60 * hours, 60 * km / 60, 600, f"A jam of {km:g} km", "min", "jam_min")
        legs, gone, left = list[Leg](), 0.0, km
        for leg in self.legs:
            if not isinstance(leg, Drive):
                legs.append(leg)
                left = left if left == km else 0.0
                continue
            free = min(max(at_km - gone, 0.0), leg.distance_km)
            slow = min(leg.distance_km - free, left)
            rest = leg.distance_km - free - slow
            parts = (replace(leg, distance_km=free), Drive(Road.TOWN, slow, km / hours), replace(leg, distance_km=rest))
            legs += [each for each in parts if each.distance_km > 1e-9]
            gone, left = gone + leg.distance_km, left - slow
        return replace(self, legs=tuple(legs))

    def _with(self, change: Callable[[Drive], Drive]) -> "Trip":
        return replace(self, legs=tuple(change(leg) if isinstance(leg, Drive) else leg for leg in self.legs))


@dataclass(frozen=True)
class Start:
    """State at the first departure: level (0 to 1), pack and cabin temperature (°C)."""

    soc: float
    pack_c: float
    cabin_c: float

    @classmethod
    def after(cls, soc: float, pack_c: float, cabin_c: float) -> "Start":
        """The state that a night leaves, to what nobody could tell apart (a tenth of a degree): so that the day that follows is the same a
        minute later.
        """
        return cls(round(soc, 7), round(pack_c, 1), round(cabin_c, 1))


@dataclass(frozen=True, kw_only=True)
class Scenarios:
    """Inputs of one pass; every field a float or an array of shape (cases,).

    The switches are 1 for "counts" and 0 for "as on a mild day": `cold_pack` (usable share and resistance),
    `regen_limit`, `climate_on`, `pack_heat`, `standby`. `motorway` multiplies motorway speeds; `…_stretch`
    the kilometres of a road (but not those of `ends`).
    `heater` is the share of the cabin heater that is on, `cooler_k` how much less the cabin is set to, `seats` what is warmed besides
    the conditions' seats,
    `own` multiplies all energy from the pack, `friction` is the share of the braking that is left to friction brakes.
    `warmed_again` 0 where the legs' warm-ups from the pack are left out.
    """

    capacity_kwh: Number
    soc: Number
    pack_c: Number
    cabin_c: Number
    ambient_c: Number
    mass_kg: Number
    rolling: Number
    density: Number
    drag_area_m2: Number
    headwind_mps: Number
    wind_mps: Number
    style: Number
    climb: Number = 1.0
    motorway: Number = 1.0
    cold_pack: Number = 1.0
    regen_limit: Number = 1.0
    climate_on: Number = 1.0
    pack_heat: Number = 1.0
    standby: Number = 1.0
    efficiency: Number = 1.0
    cabin_loss: Number = 1.0
    withheld: Number = 1.0
    heater: Number = 1.0
    cooler_k: Number = 0.0
    seats: Number = 0.0
    warmed_again: Number = 1.0
    town_stretch: Number = 1.0
    country_stretch: Number = 1.0
    motorway_stretch: Number = 1.0
    own: Number = 1.0
    friction: Number = 0.0

    @cached_property
    def count(self) -> int:
        """Number of cases."""
        return int(np.broadcast(*(np.asarray(getattr(self, name)) for name in self.__dataclass_fields__)).size)


@dataclass(frozen=True, kw_only=True)
class LegEnd:
    """The state after a leg: km and hours since the first departure, the level used less what was charged, temperatures (°C), the
    level charged so far; arrays of shape (cases,); and how many thermal steps the drives took so far.
    """

    leg: Leg
    km: float
    hours: Array
    soc_used: Array
    pack_c: Array
    cabin_c: Array
    charged_soc: Array
    steps: int


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What each case used: arrays of shape (cases,).

    `soc_used` (0 to 1, can pass 1; less what was charged on the way), energies in kWh from the pack:
    `wheels` (pushing, drivetrain loss included, less what braking returned), `auxiliary`, `cabin`, `pack_heat`,
    `resistance`; end temperatures in °C; `hours` driven;
    `stored_j` and the heats `heat_in_j`, `leaked_j` of the pack close its energy balance (`stood_j` leaked while it stood, `held` are
    the steps of the drives, `cabin` those of a cabin with its climate on); `ends` has a state for every leg.
    `worn_kwh` is the energy through the pack, drawn and braked back, what goes in weighted by cold (`battery.ageing`): a brake's
    rate is its power over the capacity, so that its mean is that of the power's square.
    """

    distance_km: float
    soc_used: Array
    parts_kwh: Mapping[str, Array]
    end_pack_c: Array
    end_cabin_c: Array
    hours: Array
    stored_j: Array
    heat_in_j: Array
    stood_j: Array
    held: tuple[Held, ...] = ()
    cabin: tuple[CabinStep, ...] = ()
    ends: tuple[LegEnd, ...] = ()
    worn_kwh: Array = field(default_factory=lambda: np.zeros(1))

    @property
    def leaked_j(self) -> Array:
        """Heat of the pack that leaked to the air, J."""
        return np.asarray(self.stood_j + sum(step.leaked_j for step in self.held))

    @property
    def energy_kwh(self) -> Array:
        """Energy from the pack, kWh."""
        return np.asarray(np.sum(list(self.parts_kwh.values()), axis=0))

    def range_km(self, from_soc: Number, to_soc: Number) -> Array:
        """Distance from one level down to another at this day's mean use, km."""
        used = np.maximum(self.soc_used, REACHABLE)
        return np.asarray(self.distance_km * (np.asarray(from_soc) - to_soc) / used)
