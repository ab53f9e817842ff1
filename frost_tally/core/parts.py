"""What a home is made of, as frozen values: places, people, outlets, contracts, and what is known of each car."""

from dataclasses import dataclass, replace
from datetime import date, datetime, time
from functools import cached_property
from zoneinfo import ZoneInfo

from .advice.limit import Charges, Plugs
from .charge.control import Control
from .charge.night_clock import HeldHours
from .charge.stop_table import Post
from .charge.supply import Supply
from .charge.tariff import Tariff
from .drive.day import Drive, Park, Road, Trip
from .drive.day_inputs import DayInputs
from .drive.outing import Outing
from .drive.road import load_of
from .heat.warm import WarmUpChoice


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where cars stand: clock, altitude (m), kind of garage and what it is heated to (°C), mean of January and July (°C), and by what
    those are known: a guess, a word for its winters, or two numbers of its own.
    """

    id: int = 0
    name: str = ""
    zone: str = "UTC"
    altitude_m: float = 0.0
    garage: str = "outdoor"
    garage_heated_c: float = 10.0
    january_c: float = -4.0
    july_c: float = 16.0
    winters: str = "guess"

    @property
    def clock(self) -> ZoneInfo:
        """Its local clock."""
        return ZoneInfo(self.zone)

    @property
    def standing(self) -> tuple[str, float]:
        """How a car stands there: the kind of garage, and °C when that is heated."""
        return self.garage, self.garage_heated_c


@dataclass(frozen=True, kw_only=True)
class Person:
    """Who looks: units and way of writing, money, and how much of it one of the contracts' is worth; without a number (0) nobody chose."""

    id: int = 0
    name: str = "Everyone"
    distance_unit: str = "km"
    temperature_unit: str = "C"
    pressure_unit: str = "kPa"
    currency: str = "EUR"
    per_contract: float = 1.0
    weight_unit: str = "kg"
    hours: str = "24"
    week_start: str = "mon"
    decimal_mark: str = "."


@dataclass(frozen=True, kw_only=True)
class Outlet:
    """A wall unit or socket: what it may give, the hours in which the house leaves it less, what it would cost to have (0: it is there),
    what its circuit is shared with, and what the owner noted of the lights of its cable.
    """

    id: int
    name: str
    supply: Supply
    held: HeldHours
    place_id: int | None = None
    shared_with: str = ""
    install_cost: float | None = 0.0
    lights: str = ""


@dataclass(frozen=True, kw_only=True)
class Contract:
    """A tariff of the household: its bands, seasons and dates on home's clock, without dated prices; the region whose holidays it has, who
    publishes its dated prices ("" nobody), and the contract that follows it.
    """

    id: int
    name: str
    tariff: Tariff
    region: str = ""
    feed: str = ""
    following: "Contract | None" = None

    def on_clock(self, zone: str) -> "Contract":
        """The same on the clock of another place."""
        if self.tariff.zone == zone:
            return self
        after = None if self.following is None else self.following.on_clock(zone)
        tariff = replace(self.tariff, zone=zone, following=None if after is None else after.tariff)
        return replace(self, tariff=tariff, following=after)


@dataclass(frozen=True, kw_only=True)
class Habit:
    """How a car is used on ordinary days: limits as levels 0 to 1, local times, km by road there and back, °C of the cabin."""

    limit: float
    reserve: float
    floor: float
    warm_up: WarmUpChoice
    depart: time
    plug_in: time
    town_km: float
    country_km: float
    motorway_km: float
    motorway_kmh: float
    parked_h: float
    people: int
    cabin_c: float
    days_a_week: float
    charges: Charges
    plugs: Plugs
    tie_break: str
    control: Control

    @property
    def km(self) -> float:
        """Kilometres of the usual day."""
        return self.town_km + self.country_km + self.motorway_km

    @property
    def load_kg(self) -> float:
        """What the car carries beside itself and its driver."""
        return load_of(self.people)

    @cached_property
    def trip(self) -> Trip:
        """The usual day: half of each road out, parked, and the same way home."""
        legs = (
            Drive(Road.TOWN, self.town_km / 2),
            Drive(Road.COUNTRY, self.country_km / 2),
            Drive(Road.MOTORWAY, self.motorway_km / 2, self.motorway_kmh),
        )
        out = [leg for leg in legs if leg.distance_km > 0]
        return Trip((*out, Park(self.parked_h), *reversed(out)))

    def outing(self, km: float, *, trips: int, motorway_kmh: float | None = None, parked_h: float | None = None) -> Outing:
        """Equal trips of some km on the usual roads: town as far as it reaches, then country, then motorway."""
        return Outing(
            km=km,
            town_km=self.town_km / 2,
            country_km=self.country_km / 2,
            motorway_kmh=(motorway_kmh or self.motorway_kmh) if self.motorway_km > 0 else None,
            trips=trips,
            parked_h=self.parked_h if parked_h is None else parked_h,
        )


@dataclass(frozen=True)
class Before:
    """How a car was warmed (the cabin to so many °C), and how many people were in it, until its habit was changed: earliest first."""

    until: datetime
    warm_up: WarmUpChoice
    cabin_c: float
    people: int


@dataclass(frozen=True, kw_only=True)
class Learnt:
    """What a car's log taught: its factors, from how many days, and the error on held-back days before and after; that of pack heating from
    so many trips with their kWh.
    """

    base: float
    heat: float
    cold: float
    days: int
    before: float
    after: float
    pack_heat: float = 1.0
    pack_heat_days: int = 0


@dataclass(frozen=True, kw_only=True)
class BatteryFacts:
    """A car's first day, and its battery's warranty: the health it promises (0 to 1), for so many years or km; None: not known."""

    new_on: date | None = None
    warranty_soh: float | None = None
    warranty_years: float | None = None
    warranty_km: float | None = None


@dataclass(frozen=True, kw_only=True)
class TwelveVoltFacts:
    """A car's 12 V battery: when it was fitted, its kind ("lead", "lithium", "unknown"), whether the pack tops it up while the car
    sleeps, whether the boot opens without it ("yes", "no", "unknown"); and the size of its washer tank (L).
    """

    fitted_on: date | None = None
    kind: str = "unknown"
    tops_up: str = "unknown"
    boot: str = "unknown"
    tank_l: float | None = None


@dataclass(frozen=True, kw_only=True)
class KeptDay:
    """A day kept to start from."""

    id: int
    name: str
    inputs: DayInputs

    @property
    def key(self) -> str:
        """What stands for it among the days to choose from."""
        return f"own-{self.id}"


@dataclass(frozen=True, kw_only=True)
class LongWay:
    """A kept long way: km, how many of them are country road, what its motorways allow (km/h; None: as usual), and its posts."""

    id: int
    name: str
    km: float
    country_km: float
    limit_kmh: float | None = None
    posts: tuple[Post, ...] = ()
