"""What lies ahead of the cars of a home: for each night whether the cable goes in, for which car, to which level, the plan, the day after.

One function makes it, from what is true now; every room reads it. A what-if is the same function with other inputs for the coming night.
"""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from functools import cached_property, lru_cache

import numpy as np

from ..advice.limit import Charges, Plugs, full_night, target_as_needed
from ..advice.night_inputs import USUAL, NightInputs
from ..advice.warm_up import Advice, advise
from ..battery.ageing import wear_cost
from ..battery.cold import Chemistry
from ..car import STANDBY_PER_DAY
from ..charge.charger import Charger, charger
from ..charge.courses import Nights
from ..charge.night import plan
from ..charge.plan import LOWER_SOC
from ..charge.prices import PriceCells
from ..charge.tariff import Tariff
from ..drive.certainty import LevelBand
from ..drive.day import Start
from ..heat.warm import WarmUpChoice
from ..units import Array
from .costs import NightCosts, night_costs
from .decide import LEVELS, PLUG_WORTH, SWAP_WORTH, CarWeek, Decided, Turn, decide, otherwise
from .driven import arrivals, start_of, warm_cost, warm_ups
from .evening import Evening, evening
from .level import Source
from .night import LEVEL_DIGITS, Because, Cable, CarNight, Choice, need_limit
from .nights import NIGHTS, Stay, hours
from .now import Now
from .weather import Weather

ROUNDS, SWAPS_EVERY = 3, timedelta(hours=2)
"""How often a level is planned anew until the day is covered; between the swaps that are weighed."""
OUTSIDE = ("out_now_c", "out_low_c")
OF_THE_STAY = ("plug_in", "control", "charges", "held_from", "held_until")
SAME_LIMIT, LEVEL_STEP = 0.001, 0.02
"""Limits that are the same; one that is higher than what is needed by less stays."""
DONE_SOC = 0.015
"""A night under way that is so near its limit has reached it."""
GUESSED = WarmUpChoice.CABIN
"""The warm-up that is thought of while it is not known what will be advised."""


@dataclass(frozen=True, kw_only=True, eq=False)
class Asked:
    """A car whose week is asked for: what is true of it; the inputs of the night that it shows, where somebody set some, with the names of
    those that were set; `at_home`: nobody leaves unless somebody sets a departure.
    """

    now: Now
    inputs: NightInputs | None = None
    set_names: frozenset[str] = frozenset()
    day: str = ""

    @cached_property
    def base(self) -> NightInputs:
        """The inputs of the night that is shown, before limit and warm-up are decided."""
        return self.inputs or self.now.defaults_on(self.day)

    @cached_property
    def idle(self) -> bool:
        """Whether nobody leaves, as nothing is listed for days and nobody set a departure."""
        now = self.now
        return now.idle and now.kept is None and not self.day and self.base.depart == now.defaults.depart

    @cached_property
    def leaves(self) -> datetime:
        """The departure of the night that is shown."""
        return self.now.departure(self.base.depart)

    @cached_property
    def shown(self) -> int:
        """The number of the night that is shown: the one that ends with that departure."""
        begins = [each.begin for each in self.now.nights]
        return max((i for i, begin in enumerate(begins) if begin < self.leaves), default=0)

    @cached_property
    def nights(self) -> tuple[Stay, ...]:
        """The stays, the one that is shown as it was set."""
        found = list(self.now.nights)
        for i in range(self.shown):  # a departure that was put off to a later day leaves the days before it at home
            if found[i].due == self.now.due:
                found[i] = replace(found[i], due=(), stays=True)
        here = found[self.shown]
        listed = here.due or (self.now.due if self.base.day not in (USUAL, *self.now.days) else ())
        found[self.shown] = replace(here, leaves=self.leaves, due=listed or self.now.due, stays=self.idle)
        return tuple(found)

    @cached_property
    def key(self) -> Hashable:
        """All that the week is made from, by value: not the minute, where no night has begun in it."""
        now, typed = self.now, self.weather is not self.now.outside
        inputs = replace(self.base, soc_now=self.soc, out_now_c=0.0, out_low_c=0.0)
        kept = None if now.kept is None else (now.kept.id, now.kept.kept_at)
        return (
            now.owned, now.tariff, now.per_euro, now.pack_price, now.outside, kept, now.soc_then, now.then.low,
            self.at if now.under_way else None, now.tyres, now.errors, now.car, now.started, self.nights, self.full_night, inputs,
            self.set_names, self.day, self.idle, self.weather if typed else None,
        )  # fmt: skip

    @cached_property
    def weather(self) -> Weather:
        """The weather until the departure of the shown night: as it was set, or kept, else as far as it is known."""
        now = self.now
        if self.set_names & set(OUTSIDE):
            return now.typed(self.base, now.now)
        if now.kept is not None and set(now.kept.overrides) & set(OUTSIDE):
            return now.typed(self.base, now.kept.kept_at.astimezone(now.now.tzinfo))
        return now.outside

    @property
    def soc(self) -> float:
        """The level that the week is decided by: as it was set, else as the first night began."""
        return self.base.soc_now if "soc_now" in self.set_names else self.now.soc_then

    @property
    def at(self) -> datetime:
        """The moment that it is decided from: a night under way as it began, unless somebody set a level."""
        under_way = self.now.under_way and "soc_now" not in self.set_names
        return self.now.nights[0].begin if under_way else self.now.now

    @cached_property
    def full_night(self) -> int | None:
        """The night of a full charge, where the chemistry wants one and the limit is lower."""
        now = self.now
        full, lfp = now.full_at, now.car.pack.chemistry is Chemistry.LFP
        if full is None or not lfp or self.base.charges is Charges.AS_NEEDED or not self.takes("limit"):
            return None
        km = [0.0 if each.stays else self.base.km if i == self.shown else now.by_habit(now.day_of(each.due), each.due).km
              for i, each in enumerate(self.nights)]  # fmt: skip
        return full_night((now.now - full).total_seconds() / 86_400.0, km)

    def takes(self, name: str) -> bool:
        """Whether an input of the shown night is left to be decided: neither set nor kept."""
        return name not in self.set_names and self.now.kept is None


class CarAhead:
    """The coming nights and days of one car, on a cable that it may share."""

    def __init__(self, asked: Asked, group: "Group", place: int) -> None:
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
        return replace(made, depart=stay.leaves.time(), warm_up=WarmUpChoice.NOTHING if stay.stays else made.warm_up)

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
        return not stay.stays and self.now.takes_advice(stay.due) and (i != self.shown or self.asked.takes("warm_up"))

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
        likely, cautious = (np.array(each) for each in zip(*self.days, strict=True))
        warmed = [warm_ups(each) for each in evenings]
        stood = np.array([STANDBY_PER_DAY * hours(e.request.now, e.request.departure) / 24.0 for e in evenings])
        capacity = now.car.pack.usable_kwh
        base = self.asked.base
        return CarWeek(
            soc=self.asked.soc,
            low_soc=self.asked.soc - max(0.0, now.soc_then - now.then.low) if self.asked.takes("soc_now") else self.asked.soc,
            limit=habit.limit if self.asked.takes("limit") else base.limit,
            reserve=habit.reserve,
            floor=habit.floor,
            usable_kwh=capacity,
            likely_soc=likely,
            cautious_soc=cautious,
            in_soc=stood + np.array([wall.pack_kwh for wall, _ in warmed]) / capacity,
            out_soc=stood + np.array([own.pack_kwh for _, own in warmed]) / capacity,
            stand_cost=np.stack([_standing(now, each) for each in evenings]),
            warm_cost=np.array(
                [warm_cost(each, wall.wall_kwh, wall.lead_s) for each, (wall, _) in zip(evenings, warmed, strict=True)]
            ),
            costs=self.costs,
            plugs=habit.plugs,
            as_needed=base.charges is Charges.AS_NEEDED,
            full_on=self.asked.full_night,
            fixed=self._fixed(),
        )

    def _fixed(self) -> dict[int, float | None]:
        """Nights that are decided already: one that nobody leaves after is out, one that was kept or set goes to its limit."""
        base = self.asked.base
        if self.asked.idle:
            return dict.fromkeys(range(len(self.nights)))
        if not self.asked.takes("limit"):
            return {self.shown: base.limit}
        return {}

    @cached_property
    def costs(self) -> tuple[NightCosts, ...]:
        """What charging costs on each night."""
        first, *_ = requests = [each.request for each in self.evenings]
        limit = max(0.1, self.asked.base.limit)
        hung = charger(
            first.car, first.rate, limit, WarmUpChoice.NOTHING, first.cabin_c, first.control, first.held, self.now.pack_price
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
        return _costs(hung, tuple(map(tuple, columns)), self.now.tariff, *span)

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
            pack_c = made.plan.session.at(max(0.0, stood_s))[1]  # as the night so far has left it
            self._lived[key] = self._planned(i, replace(made.inputs, soc_now=now.soc), None, now.now, pack_c)
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
        if stay.stays and self.turns[i].span is None:
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
            lower = target < made.inputs.limit
            if abs(target - made.inputs.limit) < SAME_LIMIT or (lower and made.inputs.limit - target < LEVEL_STEP):
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
            soc_now=self.asked.base.soc_now if typed else soc,
            limit=max(0.1, limit),
            warm_up=WarmUpChoice.NOTHING if idle else inputs.warm_up,
        )

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
        return evening(self.now, inputs, stay.leaves, stay.due, first=shown, at=at, weather=weather)

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

    def _planned(self, i: int, inputs: NightInputs, advice: Advice | None, at: datetime, pack_c: float | None = None) -> CarNight:
        """A night with its inputs, planned from a moment on, and its day driven."""
        stay, turn = self.nights[i], self.turns[i]
        made = self.turned(self._evening(i, inputs, at), turn)
        if pack_c is not None:
            made = replace(made, request=replace(made.request, pack_c=pack_c))
        if i == 0 and self.now.level.source is Source.NIGHT and 0.0 < made.request.target_soc - made.request.soc < DONE_SOC:
            # the night under way is done as far as anybody knows: what stood since is not worth another start
            made, advice = replace(made, request=replace(made.request, target_soc=made.request.soc)), None
        night = plan(made.request) if advice is None else advice.option(inputs.warm_up).plan
        start = Start(night.soc_departure, night.warm.pack_c, night.warm.cabin_c)
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
            raised=raised,
        )

    def choice(self, i: int) -> Choice:
        """Whether the cable goes in on a night, why, and what the other way would change."""
        return self.group.choice(self.place, i)


class Group:
    """Cars that share a cable, or one alone: what is decided for them together."""

    def __init__(self, asked: Sequence[Asked]) -> None:
        self.cars = tuple(CarAhead(each, self, i) for i, each in enumerate(asked))
        self.per_euro = asked[0].now.per_euro
        self._choices: dict[tuple[int, int], Choice] = {}
        self.shown: dict[Hashable, object] = {}
        """What rooms made of it in this minute, by their own keys."""

    @property
    def worths(self) -> tuple[float, float]:
        """What a walk and a swap are worth, in the contract's money."""
        return PLUG_WORTH * self.per_euro, SWAP_WORTH * self.per_euro

    @cached_property
    def cuts_s(self) -> list[tuple[float, ...]]:
        """By night the times at which the cable may go over: on each hour while somebody is awake, and at the last quarter hour of it."""
        return [tuple(self._cuts(i)) if len(self.cars) == 2 else () for i in range(NIGHTS)]

    def _cuts(self, i: int) -> list[float]:
        stays = [each.nights[i] for each in self.cars]
        begin, end = max(each.begin for each in stays), min(each.leaves for each in stays)
        controls = [each.now.owned.habit.control for each in self.cars]
        bed = min(each.bedtime(begin) for each in controls)
        bed = bed.replace(minute=bed.minute // 15 * 15, second=0, microsecond=0)
        found, at = set[float](), begin
        while at <= min(bed, end):
            if all(each.awake(at.time()) for each in controls):
                found.add(at.timestamp())
            at += SWAPS_EVERY
        if begin < bed < end:
            found.add(bed.timestamp())
        return sorted(found)

    @cached_property
    def decided(self) -> Decided:
        """The best of all ways."""
        return decide([each.week for each in self.cars], self.cuts_s, worths=self.worths)

    @cached_property
    def saved_by_own_cables(self) -> float:
        """What a cable for each would save in this week, money with wear and swaps; where somebody is short with one, all the same."""
        alone = sum((decide([each.week], worths=self.worths).net for each in self.cars), 0.0)
        return self.decided.net + self.worths[1] * self.decided.swaps - alone

    def choice(self, car: int, i: int) -> Choice:
        """See `CarAhead.choice`."""
        if (car, i) not in self._choices:
            self._choices[car, i] = self._choice(car, i)
        return self._choices[car, i]

    def _choice(self, car: int, i: int) -> Choice:
        week, turn, ahead = self.cars[car].week, self.cars[car].turns[i], self.cars[car]
        plugged, walk = turn.span is not None, PLUG_WORTH * self.per_euro
        if i in week.fixed:
            return Choice(
                cable=Cable.IN if plugged else Cable.EITHER, because=Because.KEPT if plugged else Because.ENOUGH, other_costs=0.0,
                other_short_soc=0.0,
            )  # fmt: skip
        weeks = [each.week for each in self.cars]
        as_it_is, other = otherwise(self.decided, weeks, car, i, cuts_s=self.cuts_s, worths=self.worths)
        inside, out = (as_it_is, other) if plugged else (other, as_it_is)
        more = out.net - inside.net
        short = max(0.0, out.missing_soc - inside.missing_soc)
        either = abs(more) <= walk and short < LOWER_SOC and week.full_on != i
        if plugged:
            because = (
                Because.FULL
                if week.full_on == i
                else Because.NEED
                if short >= LOWER_SOC
                else Because.CHEAPER
                if more > walk
                else Because.HABIT
            )
            return Choice(cable=Cable.EITHER if either else Cable.IN, because=because, other_costs=more, other_short_soc=short)
        taken = any(turn.span is not None for each in self.cars if each is not ahead for turn in (each.turns[i],))
        because = Because.OTHER if taken and (more > walk or short >= LOWER_SOC or week.plugs is Plugs.EVERY) else Because.ENOUGH
        return Choice(
            cable=Cable.EITHER if either and not taken else Cable.OUT, because=because, other_costs=-more, other_short_soc=0.0
        )


@lru_cache(maxsize=12)
def _kept(key: Hashable) -> list[Group]:
    """Where what was worked out of some values is kept."""
    return []


def ahead(asked: Sequence[Asked]) -> Group:
    """What lies ahead of cars that share a cable, or of one alone; what was asked for lately, of equal values, is not worked out again."""
    kept = _kept(tuple(each.key for each in asked))
    if kept and all(new.now is old.now for new, old in zip(asked, kept[0].cars, strict=True)):
        return kept[0]
    made = Group(asked)
    for before in kept:
        for new, old in zip(made.cars, before.cars, strict=True):
            vars(new).update({name: value for name, value in vars(old).items() if name not in ("asked", "now", "group")})
        vars(made).update({name: value for name, value in vars(before).items() if name not in ("cars", "shown")})
    kept[:] = [made]
    return made


def _standing(now: Now, made: Evening) -> Array:
    """What a day at home wears of the pack at each of `LEVELS`, money: in the air of the morning."""
    ask = made.request
    air_c = ask.ambient_c(ask.departure.astimezone(UTC))
    pack = ask.car.pack
    return wear_cost(pack.chemistry, pack.usable_kwh, now.pack_price, held_days=1.0, held_c=air_c, held_soc=LEVELS)


@lru_cache(maxsize=32)
def _costs(
    hung: Charger, columns: tuple[tuple[float, ...], ...], tariff: Tariff, begin: datetime, end: datetime
) -> tuple[NightCosts, ...]:
    """The costs of nights by value: plugging in and departure (s), pack, air and morning air (°C) of each."""
    plug_in_s, departure_s, pack_c, air_c, morning_c = (np.array(each) for each in columns)
    nights = Nights(
        plug_in_s=plug_in_s,
        departure_s=departure_s,
        use_kwh=np.zeros(len(pack_c)),
        pack_c=pack_c,
        air_c=air_c,
        morning_c=morning_c,
    )
    return night_costs(hung, nights, _cells(tariff, begin, end))


@lru_cache(maxsize=16)
def _cells(tariff: Tariff, begin: datetime, end: datetime) -> PriceCells:
    return tariff.cells(begin, end)
