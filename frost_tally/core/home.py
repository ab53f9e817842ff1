"""The home as one frozen value: what a household is, without what happened in it; made once for each revision of its store.

Everything here is read, never written: a what-if is `dataclasses.replace` on it.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from functools import cached_property
from typing import TypeVar
from zoneinfo import ZoneInfo

from .advice.limit import Charges
from .battery.ageing import pack_price
from .battery.cold import Chemistry
from .car import Car
from .charge.control import Control
from .charge.night_clock import HeldHours
from .charge.stop_table import Post
from .charge.supply import Supply
from .charge.tariff import Tariff
from .drive.day import Drive, Park, Road, Trip
from .drive.day_inputs import DayInputs
from .drive.outing import Outing
from .drive.replay import Habit as Driven
from .drive.road import load_of
from .errors import Refusal
from .heat.schedule import Due, ListedDeparture, due_between, next_at
from .heat.warm import WarmUpChoice

AHEAD = timedelta(days=7)
WITHIN = timedelta(days=370)


class NotSetUp(RuntimeError):
    """There is no such car, or it lacks an outlet, a tariff or a place yet: setting up comes first."""


@dataclass(frozen=True, kw_only=True)
class Place:
    """Where cars stand: clock, altitude (m), kind of garage and what it is heated to (°C), mean of January and July (°C)."""

    id: int = 0
    name: str = ""
    zone: str = "UTC"
    altitude_m: float = 0.0
    garage: str = "outdoor"
    garage_heated_c: float = 10.0
    january_c: float = -4.0
    july_c: float = 16.0

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
    install_cost: float = 0.0
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


@dataclass(frozen=True, kw_only=True)
class Learnt:
    """What a car's log taught: its factors, from how many days, and the error on held-back days before and after."""

    base: float
    heat: float
    cold: float
    days: int
    before: float
    after: float


@dataclass(frozen=True, kw_only=True)
class BatteryFacts:
    """A car's first day, and its battery's warranty: the health it promises (0 to 1), for so many years or km; None: not known."""

    new_on: date | None = None
    warranty_soh: float | None = None
    warranty_years: float | None = None
    warranty_km: float | None = None


@dataclass(frozen=True, kw_only=True)
class TwelveVoltFacts:
    """A car's 12 V battery: when it was fitted, whether the pack tops it up while the car sleeps, whether the boot opens without it ("yes",
    "no", "unknown"); and the size of its washer tank (L).
    """

    fitted_on: date | None = None
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
    """A kept long way: km, how many of them are country road, and its posts."""

    id: int
    name: str
    km: float
    country_km: float
    posts: tuple[Post, ...] = ()


@dataclass(frozen=True, kw_only=True)
class OwnedCar:
    """A car of the home: what it is (with what was learnt), how it is used, where it hangs and stands, and when it leaves."""

    id: int
    name: str
    preset: str
    car: Car
    habit: Habit
    place: Place
    outlet: Outlet | None = None
    contract: Contract | None = None
    departures: tuple[ListedDeparture, ...] = ()
    days: tuple[KeptDay, ...] = ()
    learnt: Learnt | None = None
    battery: BatteryFacts = BatteryFacts()
    twelve_volt: TwelveVoltFacts = TwelveVoltFacts()

    @property
    def at(self) -> Outlet:
        """The outlet that it hangs on. Raises: NotSetUp without one."""
        if self.outlet is None:
            raise NotSetUp
        return self.outlet

    @property
    def pays(self) -> Contract:
        """The contract that it charges on. Raises: NotSetUp without one."""
        if self.contract is None:
            raise NotSetUp
        return self.contract

    @property
    def zone(self) -> ZoneInfo:
        """The clock of the place where it stands."""
        return self.place.clock

    @property
    def driven(self) -> Driven:
        """How it is driven every day."""
        return Driven(self.habit.warm_up, self.habit.cabin_c, self.habit.load_kg, self.place.altitude_m)

    def due_between(self, start: datetime, end: datetime) -> list[Due]:
        """All listed departures in a span of time, in order; of two at one moment the first entered."""
        return due_between(self.departures, start, end)

    def next_outing(self, now: datetime) -> tuple[Due, ...]:
        """The listed departures until it is plugged in again, on the clock of `now`: none without any in the coming week."""
        coming = self.due_between(now + timedelta(seconds=1), now + AHEAD)
        here = [Due(each.listed, each.at.astimezone(now.tzinfo)) for each in coming]
        return tuple(each for each in here if each.at < next_at(here[0].at, self.habit.plug_in)) if here else ()

    def next_departure(self, now: datetime) -> datetime | None:
        """When it leaves next by the list; None without any within a year."""
        return min((at for each in self.departures if (at := each.next_after(now, WITHIN)) is not None), default=None)


@dataclass(frozen=True, kw_only=True)
class HouseUse:
    """What the house uses: twelve monthly figures (kWh, none before they are entered), the shape of a day, the share that can be moved."""

    kwh: tuple[float, ...] = ()
    shape: str = "evening"
    shift: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Home:
    """A household: its parts in the order they were entered, without those that were put away; `complete` once it is set up.

    `currency` is the contracts' money, and `per_euro` what one euro is about worth in it, for prices from memory.
    """

    cars: tuple[OwnedCar, ...] = ()
    outlets: tuple[Outlet, ...] = ()
    contracts: tuple[Contract, ...] = ()
    places: tuple[Place, ...] = ()
    people: tuple[Person, ...] = ()
    ways: tuple[LongWay, ...] = ()
    currency: str = "EUR"
    per_euro: float = 1.0
    house: HouseUse = HouseUse()
    complete: bool = False

    @property
    def place(self) -> Place:
        """Home: the place that was entered first; one with the usual numbers before that."""
        return self.places[0] if self.places else Place()

    @property
    def names(self) -> tuple[tuple[int, str], ...]:
        """Numbers and names of the cars."""
        return named(self.cars)

    def pack_price(self, chemistry: Chemistry) -> float:
        """What a new pack costs per kWh, in the contracts' money; from memory."""
        return pack_price(chemistry, self.per_euro)

    def person(self, number: int | None = None) -> Person:
        """Who looks: the person of a number, else the first; one with the usual units before there is any."""
        return _of(self.people, number) or (self.people[0] if self.people else Person())

    def car(self, number: int | None = None) -> OwnedCar:
        """A car, the first when None. Raises: NotSetUp before there is any; Refusal for a number that none has."""
        if not self.cars:
            raise NotSetUp
        found = self.cars[0] if number is None else _of(self.cars, number)
        if found is None:
            there_are = ", ".join(f"{each} {name}" for each, name in self.names)
            raise Refusal(f"There is no car {number}. There are: {there_are}.", "car")
        return found

    def ready_car(self, number: int | None = None) -> OwnedCar:
        """A car whose nights can be planned, the first when None. Raises: NotSetUp while anything is missing, and as `car`."""
        found = self.car(number)
        if not self.complete or found.outlet is None or found.contract is None:
            raise NotSetUp
        return found

    def contract(self, number: int | None) -> Contract | None:
        """A contract by its number."""
        return _of(self.contracts, number)


Part = OwnedCar | Outlet | Contract | Place | Person | LongWay | KeptDay
Found = TypeVar("Found", OwnedCar, Contract, Person)


def named(parts: Sequence[Part]) -> tuple[tuple[int, str], ...]:
    """Numbers and names of some parts."""
    return tuple((each.id, each.name) for each in parts)


def _of(parts: Sequence[Found], number: int | None) -> Found | None:
    return next((each for each in parts if each.id == number), None)
