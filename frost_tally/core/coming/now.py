"""What is true of a car at this moment, and what is usual: all that the coming week is made from."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, time, timedelta
from functools import cached_property

from ..advice.night_inputs import LISTED, USUAL, NightInputs, overrides_of
from ..car import Car
from ..charge.saved_plan import SavedPlan
from ..charge.start_check import NotedStart
from ..charge.supply import ChargeRate
from ..charge.tariff import Tariff
from ..drive.certainty import OwnDays
from ..drive.day import Trip
from ..drive.day_inputs import DayInputs
from ..drive.outing import Outing
from ..drive.tyre_log import TyreAlarm, TyreReading
from ..heat.schedule import ADVISED, BY_HABIT, Due, ListedDeparture, next_at
from ..heat.warm import WarmUpChoice
from ..home import OwnedCar
from .level import Level, Source
from .nights import Stay, spoken_of
from .weather import Fading, TypedNight, Weather

MORNING = time(6)
STAYS = 0.05
"""A day of fewer km is one at home."""


@dataclass(frozen=True, kw_only=True)
class Away:
    """A drive that is under way as far as anybody knows: about when the car is home, its kilometres, and what it takes of the level;
    `staying` when it stays elsewhere: the departure, with `home_at` as it sets off for home.
    """

    home_at: datetime
    km: float
    used_soc: float
    staying: ListedDeparture | None = None

    def spare_km(self, low_soc: float, reserve: float) -> float:
        """Kilometres of an errand on top that keep the reserve at the cautious end."""
        return max(0.0, (low_soc - reserve) * self.km / max(self.used_soc, 1e-6))


@dataclass(frozen=True, kw_only=True, eq=False)
class Now:
    """What is true of a car, on the clock of its place.

    `outside` is the weather as far as it is known. A forecast of tomorrow misses by `miss_k` (one standard deviation, K), and so much of
    a miss is in `errors` already: `counted_k`. `nights` are the coming stays at home, the first as it began; `level` is that of now,
    `then` the one when that stay began. `due` are the listed departures of the next outing in the coming week. `pack_price` is
    that of a new pack per kWh, `per_euro` what a euro is worth in the contract's money. `car` charges with the efficiency that its outlet
    was measured to have, and drives as its latest days went against the model (`errors`). `elsewhere` are the best outlets of other
    places. `full_at` is when it was charged full last,
    `away` the drive that is under way as far as anybody knows (None: it is at home), `kept` the plan that is kept for a departure to come;
    `plugged` whether it is on its outlet's cable, where a charge point tells (None: nobody knows).
    """

    owned: OwnedCar
    tariff: Tariff
    per_euro: float
    pack_price: float
    now: datetime
    outside: Weather
    miss_k: float
    counted_k: float
    due: tuple[Due, ...]
    kept: SavedPlan | None
    nights: tuple[Stay, ...]
    level: Level
    then: Level
    tyres: TyreReading
    alarms: tuple[TyreAlarm, ...]
    errors: OwnDays
    car: Car
    started: NotedStart | None
    full_at: datetime | None
    elsewhere: Mapping[int, ChargeRate]
    away: Away | None
    plugged: bool | None = None

    @property
    def idle(self) -> bool:
        """Whether it leaves by its list alone, and nothing of that is near."""
        return not self.due and self.owned.by_list

    @property
    def soc(self) -> float:
        """The level that is planned from, 0 to 1: a start that cannot correct itself counts on the cautious end alone."""
        return self.level.likely if self.goes_on else self._planned(self.level)

    @property
    def soc_then(self) -> float:
        """The same when the night that is under way began, by which it was decided; that of now where none is."""
        return self._planned(self.then)

    def _planned(self, level: Level) -> float:
        return level.low if self.owned.habit.control.kind.one_start else level.likely

    @property
    def goes_on(self) -> bool:
        """Whether a night is under way as it was kept, and nobody has read a level in it: a kept plan stands until its departure."""
        of_it = self.kept is not None and self.kept.departure <= self.nights[0].begin + timedelta(days=1)
        return of_it and self.under_way and self.level.source is Source.NIGHT

    @property
    def under_way(self) -> bool:
        """Whether the first night has begun."""
        return self.nights[0].begin < self.now

    @cached_property
    def days(self) -> Mapping[str, tuple[str, DayInputs]]:
        """The kept days by key, each with its name."""
        return {each.key: (each.name, each.inputs) for each in self.owned.days}

    @property
    def leaves(self) -> datetime:
        """When the car leaves next, by its list or on its usual days; where nobody leaves, when it usually would."""
        return self.nights[spoken_of(self.nights)].leaves

    @property
    def listed(self) -> datetime | None:
        """The next listed departure of the coming week."""
        return self.due[0].at if self.due else None

    @cached_property
    def habits(self) -> NightInputs:
        """The inputs by habit: the usual evening, the weather as it is, and the departures that are listed, if any."""
        return self.by_habit(self.day_of(self.due))

    def day_of(self, due: Sequence[Due]) -> str:
        """What the kilometres of some departures are of: the kept day that the first names, else the list; without any, the usual day."""
        own = f"own-{due[0].listed.day_id}" if due else ""
        return own if own in self.days else (LISTED if due else USUAL)

    def by_habit(self, day: str, due: Sequence[Due] | None = None, soc: float | None = None) -> NightInputs:
        """The inputs by habit for another day, or for other departures than the next, from another level than that of now."""
        habit, held, due = self.owned.habit, self.owned.at.held, self.due if due is None else due
        own = self.days[day][1] if day in self.days else None
        km = own.trip().distance_km if own else (sum(each.listed.day_km for each in due) if day == LISTED else habit.km)
        return NightInputs(
            day=day,
            soc_now=self.soc if soc is None else soc,
            limit=habit.limit,
            depart=due[0].at.time() if due else habit.depart,
            plug_in=habit.plug_in,
            km=km,
            motorway_kmh=own.motorway_kmh if own else habit.motorway_kmh,
            tyre_kpa=self.tyres.kpa,
            cabin_c=habit.cabin_c,
            out_now_c=round(self.outside.temperature_c(self.now), 1),
            out_low_c=round(self.outside.temperature_c(next_at(self.now, MORNING)), 1),
            people=own.people if own else habit.people,
            warm_up=self.asked_warm_up(due),
            held_from=held.begin,
            held_until=held.until,
            control=habit.control.how,
            charges=habit.charges,
        )

    def asked_warm_up(self, due: Sequence[Due]) -> WarmUpChoice:
        """The warm-up that some departures ask for: that of the first that names one, else by habit."""
        own = (each.listed.warm_up for each in due)
        return WarmUpChoice(next((each for each in own if each not in (ADVISED, BY_HABIT)), self.owned.habit.warm_up))

    def takes_advice(self, due: Sequence[Due]) -> bool:
        """Whether the warm-up of some departures is the one that is advised on their day."""
        return bool(due) and all(each.listed.warm_up == ADVISED for each in due)

    @cached_property
    def defaults(self) -> NightInputs:
        """The inputs before anybody sets one: by habit, or those of the plan that is kept for the coming night."""
        return self.defaults_on("")

    def defaults_on(self, day: str) -> NightInputs:
        """The same for a day that somebody chose (a kept one, LISTED or USUAL); "" for the one that is planned."""
        overrides = overrides_of(self.kept) if self.kept else {}
        planned = str(overrides.get("day", self.habits.day))
        if day not in (*self.days, USUAL, *((LISTED,) if self.due else ())):
            day = planned
        if day not in (*self.days, USUAL, LISTED):  # put away since
            day = self.habits.day
        if day != planned:
            overrides = {name: value for name, value in overrides.items() if name not in ("km", "motorway_kmh", "people")}
        return replace(self.by_habit(day), **{**overrides, "day": day})  # type: ignore[arg-type]

    def outing(self, inputs: NightInputs, due: Sequence[Due], drives: int | None = None) -> Outing:
        """The trips of a day that is no kept one: out and home for each departure, on the car's roads, or so many drives."""
        trips = drives or (sum(each.listed.drives for each in due) if inputs.day == LISTED and due else 2)
        return self.owned.habit.outing(inputs.km / trips, trips=trips, motorway_kmh=inputs.motorway_kmh)

    def trip(self, inputs: NightInputs, due: Sequence[Due], drives: int | None = None) -> Trip:
        """The day with some inputs."""
        if inputs.day in self.days:
            return self.days[inputs.day][1].trip().scaled_to(inputs.km).at_motorway_speed(inputs.motorway_kmh)
        return self.outing(inputs, due, drives).trip()

    def typed(self, inputs: NightInputs, at: datetime) -> Weather:
        """The weather when its temperatures were set at a moment: they count until the car leaves."""
        typed = TypedNight(at, inputs.out_now_c, inputs.out_low_c)
        return Fading(typed, self.departure(inputs.depart), self.outside)

    def departure(self, depart: time) -> datetime:
        """When the car leaves: as it usually does, at another time of that day when that is near, else the next time the clock shows it."""
        if depart == self.habits.depart:
            return self.leaves
        same_day = datetime.combine(self.leaves.date(), depart, self.owned.zone)
        near = timedelta() < same_day - self.now < timedelta(days=1.5)
        return same_day if near else next_at(self.now, depart)
