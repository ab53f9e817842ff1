"""What a home is made of, as frozen values: places, people, outlets, contracts, and what is known of each car."""

from dataclasses import dataclass, field, replace
from datetime import date, datetime, time
from functools import cached_property
from typing import Annotated
from zoneinfo import ZoneInfo

from .advice.limit import Charges, Plugs
from .basis import Basis, figure
from .charge.control import Control
from .charge.night_clock import HeldHours
from .charge.stop_table import Post
from .charge.supply import Supply
from .charge.tariff import Tariff
from .drive.day import Drive, Park, Road, Trip
from .drive.day_inputs import DayInputs
from .drive.outing import Outing
from .drive.road import load_of
from .fields import Field
from .heat.warm import WarmUpChoice
from .measures import CHOSEN

WINTERS = {
    key: (
        figure(f"weather.january_{key}", january_c, "°C", Basis.COMMON_PRACTICE, f"mean of January where winters are {words}"),
        figure(f"weather.july_{key}", july_c, "°C", Basis.COMMON_PRACTICE, "and that of July"),
    )
    for key, words, january_c, july_c in (
        ("mild", "mild", 3.0, 18.0),
        ("cold", "cold", -4.0, 16.0),
        ("hard", "hard", -13.0, 17.0),
    )
}
"""Means of January and July (°C) by how hard the winters of a place are."""
KNOWN_OR_NOT = ("unknown", "yes", "no")
GUESSED, OWN = "guess", "own"
"""Nobody has said how hard they are; or two means were typed."""


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where cars stand: clock, altitude (m), kind of garage and what it is heated to (°C), mean of January and July (°C), and by what
    those are known: a guess, a word for its winters, or two numbers of its own.
    """

    id: int = 0
    name: Annotated[str, Field(longest=40)] = ""
    zone: Annotated[str, Field(longest=40)] = "UTC"
    altitude_m: Annotated[float, Field("height", -400, 4500, empty=0.0)] = 0.0
    garage: Annotated[str, Field(codes=("outdoor", "unheated", "heated"))] = "outdoor"
    garage_heated_c: Annotated[float, Field("temperature", -5, 30, empty=10.0)] = 10.0
    winters: Annotated[str, Field(codes=(GUESSED, *WINTERS, OWN), empty=OWN)] = GUESSED
    january_c: Annotated[float, Field("temperature", -45, 40, 0.5, empty=-4.0)] = -4.0
    july_c: Annotated[float, Field("temperature", -30, 45, 0.5, empty=16.0)] = 16.0

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
    """Who looks: units and way of writing, money, and how much of it one of the contracts' is worth; without a number (0) nobody chose.
    To `email` letters go once they said so (`mailed`).
    """

    id: int = 0
    name: Annotated[str, Field(longest=30)] = "Everyone"
    distance_unit: Annotated[str, Field(codes=tuple(CHOSEN["distance"]))] = "km"
    temperature_unit: Annotated[str, Field(codes=tuple(CHOSEN["temperature"]))] = "C"
    pressure_unit: Annotated[str, Field(codes=tuple(CHOSEN["pressure"]))] = "kPa"
    weight_unit: Annotated[str, Field(codes=tuple(CHOSEN["weight"]))] = "kg"
    hours: Annotated[str, Field(codes=("24", "12"))] = "24"
    week_start: Annotated[str, Field(codes=("mon", "sun"))] = "mon"
    decimal_mark: Annotated[str, Field(codes=(".", ","))] = "."
    date_order: Annotated[str, Field(codes=("dmy", "mdy", "ymd"), empty="dmy")] = "dmy"
    currency: Annotated[str, Field(longest=3, empty="EUR")] = "EUR"
    per_contract: Annotated[float, Field("ratio", 0.000001, 1_000_000, empty=1.0)] = 1.0
    email: Annotated[str, Field(longest=254, empty="")] = ""
    mailed: Annotated[bool, Field(empty=False)] = False


@dataclass(frozen=True, kw_only=True)
class Outlet:
    """A wall unit or socket: what it may give, the hours in which the house leaves it less, what it would cost to have (0: it is there),
    what its circuit is shared with, what the owner noted of the lights of its cable, and the name of its charge point where that is linked
    to this program ("": it is not).
    """

    id: int
    name: Annotated[str, Field(longest=30)]
    supply: Supply
    held: HeldHours
    place_id: int | None = None
    shared_with: Annotated[str, Field(longest=40, empty="")] = ""
    install_cost: Annotated[float | None, Field("money", 0, 100_000)] = 0.0
    lights: Annotated[str, Field(longest=200, empty="")] = ""
    point: Annotated[str, Field(longest=36, empty="")] = ""


@dataclass(frozen=True, kw_only=True)
class Contract:
    """A tariff of the household: its bands, seasons and dates on home's clock, without dated prices; the region whose holidays it has, who
    publishes its dated prices ("" nobody), and the contract that follows it; `typical`: nobody knew its prices, they are typical ones.
    """

    id: int
    name: str
    tariff: Tariff
    region: str = ""
    feed: str = ""
    typical: bool = False
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
    """How a car is used on ordinary days: limits as levels 0 to 1, local times, km by road there and back, °C of the cabin; `keeps`: each
    evening's plan is kept by itself; `tag` is what a charge point reads of it or of its card ("": nobody knows).
    """

    limit: Annotated[float, Field("percent", 0.3, 1.0)] = 0.8
    reserve: Annotated[float, Field("percent", 0.0, 0.5)] = 0.1
    floor: Annotated[float, Field("percent", 0.0, 0.5)] = 0.2
    warm_up: Annotated[WarmUpChoice, Field()] = WarmUpChoice.CABIN
    depart: Annotated[time, Field()] = time(7)
    plug_in: Annotated[time, Field()] = time(18)
    town_km: Annotated[float, Field("distance", 0, 500)] = 10.0
    country_km: Annotated[float, Field("distance", 0, 800)] = 20.0
    motorway_km: Annotated[float, Field("distance", 0, 1000)] = 30.0
    motorway_kmh: Annotated[float, Field("speed", 50, 160)] = 110.0
    parked_h: Annotated[float, Field("hours", 0, 23)] = 8.0
    people: Annotated[int, Field("count", 1, 9)] = 1
    cabin_c: Annotated[float, Field("temperature", 10, 28, 0.5)] = 20.0
    days_a_week: Annotated[float, Field("count", 1, 7)] = 7.0
    charges: Annotated[Charges, Field(empty=Charges.SHALLOW)] = Charges.SHALLOW
    plugs: Annotated[Plugs, Field(empty=Plugs.EVERY)] = Plugs.EVERY
    keeps: Annotated[bool, Field(empty=False)] = False
    tie_break: Annotated[str, Field(column="school", codes=("late", "early", "cool"), empty="late")] = "late"
    control: Control = field(default_factory=Control)
    tag: Annotated[str, Field(longest=36, empty="")] = ""

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

    new_on: Annotated[date | None, Field()] = None
    warranty_soh: Annotated[float | None, Field("percent", 0.5, 0.95)] = None
    warranty_years: Annotated[float | None, Field("count", 1, 20)] = None
    warranty_km: Annotated[float | None, Field("distance", 10_000, 1_000_000)] = None


@dataclass(frozen=True, kw_only=True)
class TwelveVoltFacts:
    """A car's 12 V battery: when it was fitted, its kind ("lead", "lithium", "unknown"), whether the pack tops it up while the car
    sleeps, whether the boot opens without it ("yes", "no", "unknown"); and the size of its washer tank (L).
    """

    fitted_on: Annotated[date | None, Field()] = None
    kind: Annotated[str, Field(codes=("unknown", "lead", "lithium"), empty="unknown")] = "unknown"
    tops_up: Annotated[str, Field(codes=KNOWN_OR_NOT, empty="unknown")] = "unknown"
    boot: Annotated[str, Field(codes=KNOWN_OR_NOT, empty="unknown")] = "unknown"
    tank_l: Annotated[float | None, Field("litres", 1, 15)] = None


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
