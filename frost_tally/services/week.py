"""The week: the coming nights of a car and of those that share its cable, as they were decided, and what a second cable would change."""

from dataclasses import dataclass
from functools import cached_property

from ..core.charge.plan import LOWER_SOC
from ..core.charge.prices import SERIES_BAND, PriceSlot
from ..core.coming.car_ahead import CarAhead, OnCable
from ..core.coming.night import CarNight, Choice, need_soc
from ..core.home import OfCar, OwnedCar
from ..household.snapshot import Snapshot
from .shared.coming import ahead_of, shown

WEEKS = 52


@dataclass(frozen=True, kw_only=True, eq=False)
class WeekNight:
    """A night of a car's week: how it will be, and whether the cable goes in; the prices until departure, of nights at home."""

    ahead: CarAhead
    number: int
    night: CarNight
    choice: Choice
    prices: tuple[PriceSlot, ...]

    @property
    def km(self) -> float:
        """Of the day after it; 0 for one at home."""
        return 0.0 if self.night.stay.stays else self.night.inputs.km

    @property
    def names(self) -> tuple[str, ...]:
        """What is listed for the day after."""
        return tuple(dict.fromkeys(each.listed.name for each in self.night.stay.due))

    @property
    def needs_soc(self) -> float:
        """What the day after needs at departure at its cautious end, 0 for one at home."""
        return 0.0 if self.km <= 0 else need_soc(self.night, self.ahead.now.owned.habit.reserve)

    @property
    def short_soc(self) -> float:
        """What is missing to it, 0 or more."""
        return max(0.0, self.needs_soc - self.night.leaves_soc)

    @property
    def dated(self) -> bool:
        """Whether all its prices are dated ones."""
        return all(slot.band == SERIES_BAND for slot in self.prices)


@dataclass(frozen=True, kw_only=True, eq=False)
class Week(OfCar):
    """The week of a car, with those of the cars that share its cable beside it."""

    ahead: CarAhead
    cars: tuple[tuple[int, str], ...]
    rows: tuple[tuple[WeekNight, ...], ...]

    @property
    def owned(self) -> OwnedCar:
        """The car."""
        return self.ahead.now.owned

    @property
    def group(self) -> OnCable:
        """The cars on its cable."""
        return self.ahead.group

    @property
    def nights(self) -> tuple[WeekNight, ...]:
        """The car's own nights."""
        return self.rows[self.ahead.place]

    @property
    def shared(self) -> bool:
        """Whether other cars hang on its cable."""
        return len(self.group.cars) > 1

    @property
    def cost(self) -> float:
        """What the car's nights cost, money."""
        return sum(each.night.plan.cost for each in self.nights if each.night.plugged)

    @property
    def plugged(self) -> tuple[WeekNight, ...]:
        """The nights on which its cable goes in."""
        return tuple(each for each in self.nights if each.night.plugged)

    @property
    def short(self) -> tuple[WeekNight, ...]:
        """Nights of any of the cars whose day is short on its cautious side."""
        return tuple(each for row in self.rows for each in row if each.short_soc > LOWER_SOC)

    @cached_property
    def saved_a_year(self) -> float:
        """What a cable for each car would save in a year of weeks like this one, money, the swaps spared counted."""
        return WEEKS * self.group.saved_by_own_cables if self.shared else 0.0


def week(snapshot: Snapshot, car_id: int | None = None) -> Week:
    """The coming week of a car (the first when None). Raises: NotSetUp."""
    ahead = ahead_of(snapshot, car_id)

    def work() -> Week:
        rows = tuple(tuple(_night(each, i) for i in range(len(each.nights))) for each in ahead.group.cars)
        return Week(ahead=ahead, cars=snapshot.home.names, rows=rows)

    return shown(ahead, "week", work)


def _night(ahead: CarAhead, i: int) -> WeekNight:
    night = ahead.night(i)
    request = night.evening.request
    home = ahead.evenings[i].request.plug_in
    elsewhere = night.stay.away is not None
    prices = () if elsewhere else tuple(request.tariff.prices(min(home, request.departure), request.departure))
    return WeekNight(ahead=ahead, number=i, night=night, choice=ahead.choice(i), prices=prices)
