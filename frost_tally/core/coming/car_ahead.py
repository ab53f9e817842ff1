"""The coming nights and days of one car: as they are decided by, and as they will be. Why: docs/decisions/0055."""

from collections.abc import Hashable, Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import cached_property
from typing import Protocol

import numpy as np

from ..advice.limit import Charges, target_as_needed
from ..advice.night_inputs import NightInputs
from ..advice.warm_up import Advice, advise
from ..car import STANDBY_PER_DAY
from ..charge.charger import charger
from ..charge.night import plan
from ..charge.plan import LOWER_SOC, NightPlan
from ..drive.certainty import LevelBand
from ..drive.day import Start
from ..heat.warm import WarmUpChoice
from ..units import Array
from .asked import Asked
from .car_week import CarWeek, Decided, Turn
from .costs import NightCosts, costs_by_value
from .driven import arrivals, standing, start_of, warm_cost, warmed
from .evening import Evening, evening
from .level import Source
from .night import LEVEL_DIGITS, CarNight, Choice, need_limit
from .nights import Stay, hours
from .since import most_soc, there

ROUNDS = 3
"""How often a level is planned anew until the day is covered."""
OF_THE_STAY = ("plug_in", "control", "charges", "held_from", "held_until")
"""Inputs of the shown night that count for the nights at home before it, too."""
SAME_LIMIT, LEVEL_STEP = 0.001, 0.02
"""Limits that are the same; one that is higher than what is needed by less stays."""
DONE_SOC = 0.015
"""A night under way that is so near its limit has reached it."""
GUESSED = WarmUpChoice.CABIN
"""The warm-up that is thought of while it is not known what will be advised."""


class OnCable(Protocol):
    """The cars on a cable, as one of them sees it."""

    @property
    def cars(self) -> "Sequence[CarAhead]":
        """All of them."""

    @property
    def decided(self) -> Decided:
        """What was decided for them."""

    shown: dict[Hashable, object]

    @property
    def saved_by_own_cables(self) -> float:
        """What a cable for each would save in this week, money."""

    def choice(self, car: int, i: int) -> Choice:
        """A night's decision of one of them, by its place."""


class CarAhead:
    """The coming nights and days of one car, on a cable that it may share."""

    def __init__(self, asked: Asked, group: OnCable, place: int) -> None:
        self.asked, self.now, self.group, self.place = asked, asked.now, group, place
        self.nights, self.shown = asked.nights, asked.shown
        self._lived: dict[tuple[int, float, datetime | None], CarNight] = {}

    def inputs_of(self, i: int) -> NightInputs:
        """The inputs of a night before limit and warm-up are decided."""
        if i == self.shown:
            return self.asked.base
        stay = self.nights[i]
        made = self.now.by_habit(self.now.day_of(stay.due), stay.due)
        if i < self.shown:  # the same stay at home: what was set for its end counts from its beginning
            made = replace(made, **{name: getattr(self.asked.base, name) for name in OF_THE_STAY})
        if stay.km:
            made = replace(made, km=stay.km)
        return replace(made, depart=stay.leaves.time(), warm_up=made.warm_up if stay.leaves_home else WarmUpChoice.NOTHING)

    @cached_property
    def evenings(self) -> tuple[Evening, ...]:
        """Each night as it is asked, before it is decided."""
        found = []
        for i in range(len(self.nights)):
            inputs = self.inputs_of(i)
            if self.advised(i):
                inputs = replace(inputs, warm_up=GUESSED)
            found.append(self._evening(i, inputs, self.asked.at))
        return tuple(found)

    def advised(self, i: int) -> bool:
        """Whether the warm-up of a night is the one that is advised."""
        stay = self.nights[i]
        return stay.leaves_home and self.now.takes_advice(stay.due) and (i != self.shown or self.asked.takes("warm_up"))

    @cached_property
    def days(self) -> tuple[tuple[float, float], ...]:
        """What each day takes, likely and at its cautious end (0 to 1; 0 for one at home), from the limit."""
        driven = [
            None if stay.stays else (each.request.car, each.trip, each.conditions, start_of(each), self.now.errors)
            for stay, each in zip(self.nights, self.evenings, strict=True)
        ]
        bands = arrivals([each for each in driven if each])
        return tuple(
            (0.0, 0.0) if each is None else (max(0.0, each[3].soc - bands[each].likely), max(0.0, each[3].soc - bands[each].low))
            for each in driven
        )

    @cached_property
    def week(self) -> CarWeek:
        """The nights as they are decided."""
        now, habit, evenings = self.now, self.now.owned.habit, self.evenings
        likely, cautious = np.array(self.days).T
        wall_kwh, lead_s, *of_pack = warmed(evenings)
        in_soc, out_soc = self._standing(of_pack)
        base = self.asked.base
        return CarWeek(
            soc=self.asked.soc,
            low_soc=self.asked.soc - (0.0 if "soc_now" in self.asked.set_names else max(0.0, now.soc_then - now.then.low)),
            limit=habit.limit if self.asked.takes("limit") else base.limit,
            reserve=habit.reserve,
            floor=habit.floor,
            usable_kwh=now.car.pack.usable_kwh,
            likely_soc=likely,
            cautious_soc=cautious,
            in_soc=in_soc,
            out_soc=out_soc,
            stand_cost=np.stack([standing(each) for each in evenings]),
            warm_cost=np.array([warm_cost(*each) for each in zip(evenings, wall_kwh.tolist(), lead_s.tolist(), strict=True)]),
            costs=self.costs,
            plugs=habit.plugs,
            as_needed=base.charges is Charges.AS_NEEDED,
            full_on=self.asked.full_night,
            fixed=self._fixed(),
            there_soc=self.there_soc,
            beyond_soc=np.array([self._beyond_soc(i) for i in range(len(self.nights))]),
        )

    def _fixed(self) -> dict[int, float | None]:
        """Nights that are decided already: one away is out, one that was kept or set goes to its limit."""
        base = self.asked.base
        away: dict[int, float | None] = {i: None for i, each in enumerate(self.nights) if each.away is not None}
        if self.asked.idle:
            return dict.fromkeys(range(len(self.nights)))
        if not self.asked.takes("limit"):
            return {**away, self.shown: base.limit}
        return away

    def _beyond_soc(self, i: int) -> float:
        """What the nights elsewhere take that follow a day, as long as it cannot charge there, at the cautious end."""
        taken = 0.0
        for j in range(i + 1, len(self.nights)):
            if self.nights[j].away is None or self.there_soc[j] > 0:
                break
            stay = self.nights[j]
            taken += self.days[j][1] + STANDBY_PER_DAY * hours(stay.begin, stay.leaves) / 24.0
        return taken

    @cached_property
    def there_soc(self) -> Array:
        """The most that each night away brings at the place where the car stands (0 to 1; at home 0)."""
        rates, car = self.now.elsewhere, self.now.car
        return np.array([most_soc(there(rates, each), car, each.begin, each.leaves) for each in self.nights])

    @cached_property
    def costs(self) -> tuple[NightCosts, ...]:
        """What charging costs on each night."""
        first, *_ = requests = [each.request for each in self.evenings]
        limit = max(0.1, self.asked.base.limit)
        hung = charger(
            first.car,
            first.rate,
            limit,
            WarmUpChoice.NOTHING,
            first.cabin_c,
            control=first.control,
            held=first.held,
            pack_price=self.now.pack_price,
        )
        late = np.array([each.ambient_c(each.departure.astimezone(UTC)) for each in requests])
        early = np.array([each.ambient_c(each.plug_in.astimezone(UTC)) for each in requests])
        columns = (
            [each.now.timestamp() for each in requests],
            [each.departure.timestamp() for each in requests],
            [each.pack_c for each in requests],
            ((early + late) / 2).tolist(),
            late.tolist(),
        )
        span = requests[0].now - timedelta(hours=1), requests[-1].departure + timedelta(hours=1)
        return costs_by_value(hung, tuple(map(tuple, columns)), self.now.tariff, *span)

    @property
    def nights_to_charge(self) -> tuple[Stay, ...]:
        """The nights on which the cable is its own, or nobody's."""
        others = [each.turns for each in self.group.cars if each is not self]
        free = (i for i, mine in enumerate(self.turns) if mine.span or not any(each[i].span for each in others))
        return tuple(self.nights[i] for i in free)

    @property
    def turns(self) -> tuple[Turn, ...]:
        """What was decided for this car."""
        return self.group.decided.turns[self.place]

    def night(self, i: int) -> CarNight:
        """A night as it will be, with all before it; of one that is under way what is left of it."""
        soc = self.asked.soc
        for before in range(i):
            soc = self._home(before, soc)
        made = self._decided_night(i, soc)
        now = self.now
        if i or self.asked.at == now.now or not now.under_way:
            return made
        key = (i, now.soc, now.now)
        if key not in self._lived:
            stood_s = (now.now.astimezone(UTC) - made.plan.start).total_seconds()
            soc, pack_c = made.plan.session.at(max(0.0, stood_s))  # as the night so far has left it
            # plan and advice of the night stand as long as it goes as it was decided
            so_far = made.plan if now.goes_on or abs(soc - now.soc) < LOWER_SOC else None
            inputs = replace(made.inputs, soc_now=self._charged_there(i, now.soc, now.now))
            rest = self._planned(i, inputs, None, now.now, pack_c, so_far)
            self._lived[key] = replace(rest, advice=made.advice) if so_far else rest
        return self._lived[key]

    def _decided_night(self, i: int, soc: float) -> CarNight:
        """A night from the level that it began with or will begin with."""
        key = (i, soc, None)
        if key not in self._lived:
            self._lived[key] = self._live(i, soc)
        return self._lived[key]

    def _home(self, i: int, soc: float) -> float:
        """The level after a night and its day; of a stay without the cable only what standing takes."""
        stay = self.nights[i]
        if stay.stays and self.turns[i].span is None and stay.away is None:
            stood = STANDBY_PER_DAY * hours(stay.begin, stay.leaves) / 24.0
            return round(max(0.0, soc - stood), LEVEL_DIGITS)
        return (self.night(0) if i == 0 else self._decided_night(i, soc)).home_soc

    @property
    def tonight(self) -> CarNight:
        """The night that is shown."""
        return self.night(self.shown)

    @property
    def next_charge(self) -> int:
        """The number of the next night on which it charges, up to the one that is shown: that one where none before it does."""
        early = (i for i in range(self.shown) if self.turns[i].span is not None and self.night(i).plan.blocks)
        return next(early, self.shown)

    def _standing(self, warmed_kwh: Sequence[Array]) -> tuple[Array, Array]:
        """What standing and the warm-up (kWh of the pack) take until departure, with the cable in and without it."""
        stood = np.array([STANDBY_PER_DAY * hours(e.request.now, e.request.departure) / 24.0 for e in self.evenings])
        of_wall, of_pack = (each / self.now.car.pack.usable_kwh for each in warmed_kwh)
        return stood + of_wall, stood + of_pack

    def _live(self, i: int, soc: float) -> CarNight:
        """A night from the level that it begins with: its warm-up decided once, then its limit by what its day needs."""
        stay, turn = self.nights[i], self.turns[i]
        inputs = self._inputs_decided(i, soc)
        advice = self._advice(i, inputs) if self.advised(i) else None
        if advice is not None:
            inputs = replace(inputs, warm_up=advice.best.choice)
        made = self._planned(i, inputs, advice, self.asked.at)
        if turn.target_soc is None or stay.stays or not self._free(i):
            return made
        least = self._least(i, inputs)
        for _ in range(ROUNDS):
            target = self._covering(need_limit(made, self.now.owned.habit.reserve), least, inputs)
            if -LEVEL_STEP < target - made.inputs.limit < SAME_LIMIT:
                break
            inputs = replace(inputs, limit=target)
            advice = None if advice is None else replace(self._advice(i, inputs), best=advice.best)
            made = self._planned(i, inputs, advice, self.asked.at)
        return made

    def _free(self, i: int) -> bool:
        """Whether the limit of a night is left to be decided."""
        return (i != self.shown or self.asked.takes("limit")) and not self.asked.idle

    def _inputs_decided(self, i: int, soc: float) -> NightInputs:
        """The inputs of a night with the level that it begins with and the limit to begin from."""
        inputs, turn, idle = self.inputs_of(i), self.turns[i], self.asked.idle and i == self.shown
        limit = inputs.limit
        if self._free(i) and turn.target_soc is not None and (inputs.charges is Charges.AS_NEEDED or self.asked.full_night == i):
            limit = turn.target_soc
        typed = i == self.shown and "soc_now" in self.asked.set_names
        return replace(
            inputs,
            soc_now=self.asked.base.soc_now if typed else self._charged_there(i, soc, self.nights[i].begin),
            limit=max(0.1, limit),
            warm_up=WarmUpChoice.NOTHING if idle else inputs.warm_up,
        )

    def _charged_there(self, i: int, soc: float, since: datetime) -> float:
        """A level (0 to 1) at some time of a night with what the car charges until its end where it stands; at home that is the plan's."""
        stay = self.nights[i]
        more = most_soc(there(self.now.elsewhere, stay), self.now.car, since, stay.leaves)
        return max(soc, min(self.now.owned.habit.limit, soc + more))

    def _least(self, i: int, inputs: NightInputs) -> float:
        """The level that a night goes to at least: by habit the limit, as needed what the days after the next one ask for, too."""
        turn, floor = self.turns[i], self.now.owned.habit.floor
        if inputs.charges is not Charges.AS_NEEDED or self.asked.full_night == i:
            return inputs.limit
        more = turn.target_soc is not None and turn.target_soc > self._needed(i) + LOWER_SOC
        return turn.target_soc if more and turn.target_soc is not None else floor

    def _covering(self, need_soc: float, least: float, inputs: NightInputs) -> float:
        """The limit that covers a need: at least so much, in whole per cents."""
        if inputs.charges is not Charges.AS_NEEDED and need_soc <= least:
            return least
        return max(least, target_as_needed(need_soc, self.now.owned.habit.floor))

    def _needed(self, i: int) -> float:
        """What the day after a night needs, as it was decided by."""
        week = self.week
        return target_as_needed(float(week.needs_soc[i] + week.in_soc[i]) - 1e-6, week.floor)

    def _advice(self, i: int, inputs: NightInputs) -> Advice:
        """What is advised for the warm-up of a night, at the level that it is charged to without one."""
        owned = self.now.owned
        nothing = replace(inputs, warm_up=WarmUpChoice.NOTHING)
        plain = self._evening(i, nothing, self.asked.at)
        asked = self.turned(plain, self.turns[i])
        return advise(
            asked.request,
            asked.outing,
            asked.conditions,
            need_soc=owned.habit.floor,
            outdoors=owned.place.garage == "outdoor",
            trip=asked.trip,
        )

    def _evening(self, i: int, inputs: NightInputs, at: datetime) -> Evening:
        """A night as it is asked, planned from a moment on."""
        stay, shown = self.nights[i], i == self.shown
        weather = self.asked.weather if i <= self.shown else None
        return evening(
            self.now,
            inputs,
            stay.leaves,
            stay.due,
            first=shown,
            at=at,
            weather=weather,
            drives=1 if stay.km else None,
            lead_days=i + 1.0,
        )

    def turned(self, made: Evening, turn: Turn) -> Evening:
        """The evening with the cable in as it was decided."""
        request = made.request
        if turn.span is None:
            return replace(made, request=replace(request, plug_in=request.departure))
        if request.plug_in >= request.departure:  # something is wrong with the start
            return made
        begin, end = (datetime.fromtimestamp(each, request.departure.tzinfo) for each in (turn.span.begin_s, turn.span.end_s))
        plug_in = max(request.plug_in, begin)
        return replace(made, request=replace(request, now=plug_in, plug_in=plug_in, unplug=None if turn.span.wall else end))

    def _planned(
        self,
        i: int,
        inputs: NightInputs,
        advice: Advice | None,
        at: datetime,
        pack_c: float | None = None,
        so_far: NightPlan | None = None,
    ) -> CarNight:
        """A night with its inputs, planned from a moment on, and its day driven; `so_far` is the plan that it has gone by until then."""
        stay, turn = self.nights[i], self.turns[i]
        made = self.turned(self._evening(i, inputs, at), turn)
        if pack_c is not None:
            made = replace(made, request=replace(made.request, pack_c=pack_c))
        if i == 0 and self.now.level.source is Source.NIGHT and 0.0 < made.request.target_soc - made.request.soc < DONE_SOC:
            # the night under way is done as far as anybody knows: what stood since is not worth another start
            made, advice = replace(made, request=replace(made.request, target_soc=made.request.soc)), None
        left = so_far and so_far.rest(made.request)
        night = left or (plan(made.request) if advice is None else advice.option(inputs.warm_up).plan)
        start = Start.after(night.soc_departure, night.warm.pack_c, night.warm.cabin_c)
        if stay.stays and not (self.asked.idle and i == self.shown):
            arrival = LevelBand(start.soc, start.soc, start.soc)
        else:
            driven = made.request.car, made.trip, made.conditions, start, self.now.errors
            arrival = arrivals([driven])[driven]
        raised = inputs.limit > self.now.owned.habit.limit + LOWER_SOC and inputs.charges is not Charges.AS_NEEDED
        return CarNight(
            stay=stay,
            turn=turn,
            inputs=inputs,
            evening=made,
            plan=night,
            advice=advice,
            start=start,
            arrival=arrival,
            beyond_soc=self._beyond_soc(i),
            raised=raised,
        )

    def choice(self, i: int) -> Choice:
        """Whether the cable goes in on a night, why, and what the other way would change."""
        return self.group.choice(self.place, i)
