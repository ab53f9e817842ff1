"""What lies ahead of the cars of a home: for each night whether the cable goes in, for which car, to which level, the plan, the day after.

One function makes it, from what is true now; every room reads it. A what-if is the same function with other inputs for the coming night.
Why: docs/decisions/0054.
"""

from collections.abc import Hashable, Sequence
from datetime import datetime, timedelta
from functools import cached_property, lru_cache

from ..advice.limit import Plugs
from ..charge.plan import LOWER_SOC
from .asked import Asked
from .car_ahead import CarAhead
from .car_week import Decided
from .decide import PLUG_WORTH, SWAP_WORTH, decide, otherwise
from .night import Because, Cable, Choice
from .nights import NIGHTS

SWAPS_EVERY = timedelta(hours=2)
"""Between the swaps of a cable that are weighed."""


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
        found, at = set[float](), _quarter_hour(begin)
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
        ahead, walk = self.cars[car], PLUG_WORTH * self.per_euro
        week, plugged = ahead.week, ahead.turns[i].span is not None
        if ahead.nights[i].away is not None:
            return Choice(cable=Cable.OUT, because=Because.AWAY, other_costs=0.0, other_short_soc=0.0)
        if i in week.fixed:
            cable, because = (Cable.IN, Because.KEPT) if plugged else (Cable.EITHER, Because.ENOUGH)
            return Choice(cable=cable, because=because, other_costs=0.0, other_short_soc=0.0)
        more, short = self._without(car, i, plugged)
        needed = short >= LOWER_SOC
        either = abs(more) <= walk and not needed and week.full_on != i
        if plugged:
            because = _why_in(week.full_on == i, short, more > walk)
            return Choice(cable=Cable.EITHER if either else Cable.IN, because=because, other_costs=more, other_short_soc=short)
        cable, because = Cable.EITHER if either else Cable.OUT, Because.ENOUGH
        if self._taken(car, i):
            cable = Cable.OUT
            because = Because.OTHER if needed or more > walk or week.plugs is Plugs.EVERY else Because.ENOUGH
        return Choice(cable=cable, because=because, other_costs=-more, other_short_soc=0.0)

    def _taken(self, car: int, i: int) -> bool:
        """Whether another car has the cable on a night."""
        return any(each.turns[i].span is not None for j, each in enumerate(self.cars) if j != car)

    def _without(self, car: int, i: int, plugged: bool) -> tuple[float, float]:
        """What a night without the cable costs a car more than one with it, and what then is missing (0 to 1)."""
        weeks = [each.week for each in self.cars]
        as_it_is, other = otherwise(self.decided, weeks, car, i, cuts_s=self.cuts_s, worths=self.worths)
        inside, out = (as_it_is, other) if plugged else (other, as_it_is)
        return out.net - inside.net, max(0.0, out.missing_soc - inside.missing_soc)


def _why_in(full: bool, short_soc: float, cheaper: bool) -> Because:
    """Why the cable goes in: for a full charge, a day that is short without it, the money, or the habit alone."""
    if full:
        return Because.FULL
    if short_soc >= LOWER_SOC:
        return Because.NEED
    return Because.CHEAPER if cheaper else Because.HABIT


def _quarter_hour(moment: datetime) -> datetime:
    """The next quarter hour, or the one that it is."""
    whole = moment.replace(minute=moment.minute // 15 * 15, second=0, microsecond=0)
    return whole if whole == moment else whole + timedelta(minutes=15)


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
            _hand_on(old, new, ("asked", "now", "group"))
        _hand_on(before, made, ("cars", "shown"))
    kept[:] = [made]
    return made


def _hand_on(old: object, new: object, but: Sequence[str]) -> None:
    """What was worked out of equal values is not worked out again."""
    vars(new).update({name: value for name, value in vars(old).items() if name not in but})
