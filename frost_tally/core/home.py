"""The home as one frozen value: what a household is, without what happened in it; made once for each revision of its store.

Everything here is read, never written: a what-if is `dataclasses.replace` on it. Why: docs/decisions/0052.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime, timedelta
from functools import cached_property
from typing import Protocol, TypeVar
from zoneinfo import ZoneInfo

from .battery.ageing import pack_price
from .battery.cold import Chemistry
from .car import Car
from .drive.replay import Habit as Driven
from .drive.road import load_of
from .errors import Missing
from .heat.own_minutes import WarmNote
from .heat.schedule import Due, ListedDeparture, due_between
from .parts import BatteryFacts, Before, Contract, Habit, KeptDay, Learnt, LongWay, Outlet, Person, Place, TwelveVoltFacts

WITHIN = timedelta(days=370)


class NotSetUp(RuntimeError):
    """There is no such car, or it lacks an outlet, a tariff or a place yet: setting up comes first."""


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
    warm_notes: tuple[WarmNote, ...] = ()
    before: tuple[Before, ...] = ()
    health_told: tuple[datetime, float] | None = None
    battery: BatteryFacts = field(default_factory=BatteryFacts)
    twelve_volt: TwelveVoltFacts = field(default_factory=TwelveVoltFacts)

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        """Worked out once: it is in the key of most that is kept, and has a hundred values."""
        return hash(tuple(getattr(self, each.name) for each in fields(self)))

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

    def driven_before(self, moment: datetime) -> Driven | None:
        """How it was driven every day at a moment, when its habit was another; None where it is as now."""
        return next(
            (
                Driven(each.warm_up, each.cabin_c, load_of(each.people), self.place.altitude_m)
                for each in self.before
                if moment < each.until
            ),
            None,
        )

    @property
    def by_list(self) -> bool:
        """Whether it leaves by its list alone. A single departure leaves the usual days as they are, but for the one that it falls on:
        somebody who enters one trip to a cabin still drives to work (docs/decisions/0058).
        """
        return any(each.schedule.days for each in self.departures)

    def due_between(self, start: datetime, end: datetime) -> list[Due]:
        """All listed departures in a span of time, in order; of two at one moment the first entered."""
        return due_between(self.departures, start, end)

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

    `currency` is the contracts' money, and `per_euro` what one euro is about worth in it, for prices from memory; `aside` how many values
    could not be, and wait for somebody to look at them.
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
    aside: int = 0
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
            raise Missing(f"There is no car {number}. There are: {there_are}.", "car")
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


class _Owned(Protocol):
    @property
    def owned(self) -> OwnedCar:
        """The car that it is about."""


class OfCar:
    """What is about one car (`owned`) of the home."""

    @property
    def car_id(self: _Owned) -> int:
        """The car's number."""
        return self.owned.id

    @property
    def zone(self: _Owned) -> ZoneInfo:
        """The clock of the place where it stands."""
        return self.owned.zone
